"""The tree as it stands after picks: mass against the pieces, length and wind of a bare spar by hand, the plan of what
is left.
"""

import copy
import json
import math
from dataclasses import replace
from unittest import TestCase

from treecore.errors import BadDocument, CoreError
from treecore.felling.plan import evaluate
from treecore.formats.plan_document import evaluate_document, load, tree_of, tree_plan
from treecore.takedown.left import left_after
from treecore.takedown.members import members_of
from treecore.takedown.pieces import Cut, left_over, takedown
from treecore.tests.scenes import PLAN, TREE
from treecore.tests.sound_plans import CHERRY, PINE
from treecore.tree.weigh import weigh

CHERRY_TREE = tree_of(CHERRY["trees"][0])[0]
CUTS = [Cut(p["member"], p["at_m"]) for p in CHERRY["trees"][0]["takedown"]["picks"]]
PULL = {"tie_m": 7.0, "azimuth_deg": 200.0, "distance_m": 30.0, "anchor_m": 0.5, "force_N": 1500.0,
        "tackle": {"strength_N": 62e3, "owned_m": 60.0, "knot": "bowline", "gear_N": 20e3, "rating_N": 30e3,
        "by": "winch"}}  # fmt: skip
FELLED = {
    "lay_deg": 200.0,
    "depth_m": 0.09,
    "opening_deg": 60.0,
    "hinge_m": 0.04,
    "rise_m": 0.03,
    "wind_m_s": 1.0,
    "bar_m": 0.5,
    "pull": PULL,
}


class Bodies(TestCase):
    def test_mass_is_what_the_pieces_leave(self):
        members = members_of(CHERRY_TREE)
        for count in range(1, len(CUTS) + 1):
            left = weigh(left_after(CHERRY_TREE, CUTS[:count])).mass.estimate.value
            pieces = left_over(members, takedown(members, CUTS[:count])[-1].after)
            self.assertAlmostEqual(left, pieces, delta=0.02 * pieces)

    def test_assumed_limbs_and_a_top_as_well(self):
        spruce = replace(TREE, lean=0.1)
        members = members_of(spruce)
        some = [Cut(name, 0.05) for name in members.names[1:6]] + [Cut("", 20.0)]
        left = left_after(spruce, some)
        pieces = left_over(members, takedown(members, some)[-1].after)
        self.assertAlmostEqual(weigh(left).mass.estimate.value, pieces, delta=0.02 * pieces)
        self.assertEqual((left.stands.value, left.stands.low), (20.0, 20.0))
        self.assertLess(left.half_crown.value, spruce.half_crown.value + 1e-9)

    def test_a_bare_spar_is_a_frustum_in_the_wind(self):
        bare = left_after(CHERRY_TREE, [*[Cut(limb.name, 0.02) for limb in CHERRY_TREE.limbs], Cut("", 8.0)])
        self.assertEqual(bare.limbs, ())
        body = weigh(bare)
        steps = [8.0 * (i + 0.5) / 4000 for i in range(4000)]
        area = sum(bare.stem.diameter_at(z) for z in steps) * 8.0 / 4000
        self.assertAlmostEqual(body.wind_area.estimate.value, area, delta=0.01 * area)
        volume = sum(math.pi / 4 * bare.stem.diameter_at(z) ** 2 for z in steps) * 8.0 / 4000
        self.assertAlmostEqual(
            body.mass.estimate.value,
            volume * bare.kind.density.value * bare.condition.density.value,
            delta=0.01 * body.mass.estimate.value,
        )
        self.assertAlmostEqual(bare.half_crown.value, bare.diameter.value / 2)

    def test_too_little_is_refused(self):
        with self.assertRaises(CoreError) as caught:
            left_after(CHERRY_TREE, [*CUTS, Cut("", 0.5)])
        self.assertEqual(caught.exception.field, "after_picks")
        self.assertEqual(left_after(CHERRY_TREE, [*CUTS, Cut("", 0.61)]).stands.value, 0.61)


class Spars(TestCase):
    BASE = {"name": "Spar", "species": "quercus_robur", "spread_m": 1.0, "lean_deg": 2.0, "lean_azimuth_deg": 40.0,
            "diameter_kind": "measured", "height_kind": "measured"}  # fmt: skip

    def spar(self, foot, length, top):
        return tree_of(self.BASE | {"diameter_m": foot, "height_m": length, "spar_top_m": top})[0]

    def test_it_weighs_a_frustum_from_one_and_a_half_diameters_on(self):
        for foot, length, top in (
            (0.6, 0.9, 0.5),
            (0.5, 6.0, 0.32),
            (0.4, 3.0, 0.4),
            (0.8, 1.3, 0.7),
            (0.31, 9.0, 0.1),
        ):
            with self.subTest(foot=foot, length=length):
                tree = self.spar(foot, length, top)
                frustum = math.pi * length / 12 * (foot**2 + foot * top + top**2)
                mass = weigh(tree).mass.estimate
                self.assertAlmostEqual(mass.value, frustum * tree.kind.density.value, delta=0.01 * mass.value)
                self.assertEqual(tree.stands.value, length)
                self.assertTrue(mass.low < mass.value < mass.high)

    def test_it_is_felled_and_a_shorter_one_is_refused(self):
        felling = {
            "lay_deg": 40.0,
            "stump_m": 0.3,
            "depth_m": 0.12,
            "opening_deg": 60.0,
            "hinge_m": 0.05,
            "rise_m": 0.03,
            "wind_m_s": 0.0,
            "bar_m": 0.6,
        }
        entry = self.BASE | {"diameter_m": 0.5, "height_m": 6.0, "spar_top_m": 0.32, "felling": felling}
        out = evaluate(tree_plan({}, entry).felling)
        self.assertAlmostEqual(out.estimates["length"].value, 5.7, places=9)
        with self.assertRaises(CoreError) as caught:
            self.spar(0.6, 0.89, 0.5)
        self.assertEqual(caught.exception.field, "height")
        with self.assertRaises(CoreError) as caught:
            self.spar(0.6, 3.0, 0.61)
        self.assertEqual(caught.exception.field, "spar_top")


class Plans(TestCase):
    def plan(self, count, **more):
        document = copy.deepcopy(CHERRY)
        document["trees"][0]["felling"] = FELLED | {"after_picks": count} | more
        return document

    def test_the_plan_is_of_what_is_left(self):
        document = self.plan(7)
        plan = tree_plan(document["site"], document["trees"][0]).felling
        self.assertEqual(plan.tree.stands.value, 8.0)
        short, whole = evaluate(plan), evaluate(replace(plan, tree=CHERRY_TREE))
        self.assertAlmostEqual(short.estimates["length"].value, 8.0 - plan.cuts.stump, places=9)
        self.assertAlmostEqual(short.ground.reach, 8.0 - plan.cuts.stump, places=9)
        for name in ("mass", "cg_height", "wind_with", "length"):
            self.assertLess(short.estimates[name].value, whole.estimates[name].value, name)
        out = evaluate_document(load(json.dumps(document)))["trees"][0]["felling"]
        self.assertEqual(
            out["figures"]["mass"]["value"] if "figures" in out else out["mass"]["value"], short.estimates["mass"].value
        )

    def test_more_picks_than_there_are_and_a_tie_that_is_gone_are_refused(self):
        for document, words in (
            (self.plan(99), "can't be felled after 99"),
            (self.plan(7, pull=PULL | {"tie_m": 9.0}), "pull_tie"),
        ):
            with self.assertRaises(BadDocument) as caught:
                evaluate_document(load(json.dumps(document)))
            self.assertIn(words, str(caught.exception))

    def test_a_document_without_the_entry_reads_as_before(self):
        whole = tree_plan(PINE["site"], PINE["trees"][0]).felling
        self.assertFalse(whole.tree.left)
        self.assertIs(whole.tree.stands, whole.tree.height)
        self.assertEqual(evaluate(PLAN).estimates["length"].value, TREE.height.value - PLAN.cuts.stump)
