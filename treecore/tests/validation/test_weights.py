"""What pieces weigh, against slices; what a weighed piece tells of the next, by the rule of Bayes worked out on a
grid.
"""

import json
import math
import os
import unittest.mock
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np

import treecore
from treecore import compiled
from treecore.compiled import cache_folder
from treecore.errors import CoreError
from treecore.estimate import Estimate, Kind, joint_moves, reach
from treecore.formats.plan_document import evaluate_document, load
from treecore.formats.takedown_entry import takedown_json
from treecore.rigging.rope import stiffness_of
from treecore.site import Site
from treecore.takedown.members import members_of, wood_inputs
from treecore.takedown.pieces import Cut, take, takedown, whole
from treecore.takedown.weights import Weighing
from treecore.tests.scenes import TREE
from treecore.tests.validation.test_takedown import OAK
from treecore.tree.ladder import piece as ladder_piece


class Pieces(TestCase):
    def test_a_length_of_bare_stem_is_the_ladders(self):
        members = members_of(OAK)
        for low, high in ((16.0, 19.5), (18.0, OAK.stem.top)):
            start = whole(members)._replace(ends=(high, *(-1.0 for _ in members.names[1:])))
            got, there = take(members, start, Cut("", low)).piece, ladder_piece(OAK, low, high)
            for one, two in ((got.mass, there.mass), (got.balance, there.cg)):
                shift = low if one is got.balance else 0.0
                for end in ("value", "low", "high"):
                    self.assertAlmostEqual(getattr(one, end) + shift, getattr(two, end), places=6)

    def test_inertia_of_a_limb_against_slices(self):
        # “High” alone: axis, side wood and leaves laid out along it in 400,000 slices.
        members = members_of(OAK)
        row = members.rows["High"]
        s = (np.arange(400000) + 0.5) / 400000
        density = members.axis[row] * 2.6 * (1 - s) ** 1.6 + members.side[row] * (0.68 / 0.32) * s ** (0.68 / 0.32 - 1)
        density = density + members.leaves[row] * (0.76 / 0.24) * s ** (0.76 / 0.24 - 1)
        kept = s >= 0.25
        mass = density[kept].sum() / 400000
        middle = (density * s)[kept].sum() / 400000 / mass
        inertia = (density * (s - middle) ** 2)[kept].sum() / 400000 * 16.0
        got = take(members, whole(members), Cut("High", 1.0)).piece
        self.assertAlmostEqual(got.mass.value / mass, 1.0, places=4)
        self.assertAlmostEqual(got.balance.value, 4.0 * middle - 1.0, places=3)
        self.assertAlmostEqual(got.inertia / inertia, 1.0, places=3)

    def test_inertia_of_a_stem_that_tapers_to_its_tip(self):
        # Area falls as (H − z)^2p: a tip of 9 m by slices; a rod of the same length would have twice as much.
        members = members_of(OAK)
        got = take(members, whole(members), Cut("", 18.0)).piece
        z = 18.0 + 9.0 * (np.arange(200000) + 0.5) / 200000
        area = (27.0 - z) ** (2 * OAK.group.taper.value)
        middle = (area * z).sum() / area.sum()
        self.assertAlmostEqual(
            got.inertia / (got.mass.value * ((area * (z - middle) ** 2).sum() / area.sum())), 1.0, places=3
        )
        self.assertLess(got.inertia, 0.7 * got.mass.value * 81.0 / 12.0)

    def test_a_tip_that_may_not_be_there_at_all(self):
        # 27 m judged by eye may be 20: above 22 m there may be nothing.
        eye = replace(OAK, height=Estimate(27.0, 20.25, 33.75, Kind.ESTIMATED))
        members = members_of(eye)
        got = take(members, whole(members), Cut("", 22.0)).piece
        self.assertEqual(got.mass.low, 0.0)
        self.assertGreater(got.mass.high, 2.0 * got.mass.value)
        ends = (
            got.balance.low,
            got.balance.value,
            got.balance.high,
            got.inertia,
            *got.cg,
            *(v for r in got.joint.rows for v in r),
        )
        self.assertTrue(all(math.isfinite(v) for v in ends), ends)
        self.assertGreater(got.balance.low, 0.0)


class Weighed(TestCase):
    CUTS = (Cut("Bough", 3.4), Cut("Bough", 0.3), Cut("High", 0.3), Cut("", 20.0))

    def test_it_is_measured_there_and_moves_the_rest_by_bayes(self):
        members = members_of(OAK)
        plain = takedown(members, self.CUTS)
        there = 1.4 * plain[0].piece.mass.value
        got = takedown(members, self.CUTS, {1: Weighing(mass=there, balance=1.1)})
        piece = got[0].piece
        self.assertEqual((piece.mass.value, piece.balance.value, piece.mass.kind), (there, 1.1, Kind.MEASURED))
        self.assertAlmostEqual(piece.cg[2], piece.butt[2] + 1.1 * piece.way[2], delta=0.35)
        # On a grid of the common factor: normal prior, normal reading of common and own error together.
        half = (plain[0].piece.mass.high - plain[0].piece.mass.low) / 2 / plain[0].piece.mass.value
        density, crown = (wood_inputs(OAK)[name] for name in ("density", "crown_scale"))
        shared = math.hypot(
            (density.high - density.low) / 2 / density.value, (crown.high - crown.low) / 2 / crown.value
        )
        common, scale = min(0.8 * half, shared) / 2, 0.05 / 2
        own = math.sqrt((half / 2) ** 2 - common**2 + scale**2)
        f = np.linspace(-4 * common, 4 * common, 40001)
        weight = np.exp(-0.5 * (f / common) ** 2 - 0.5 * ((0.4 - f) / own) ** 2)
        mean = (f * weight).sum() / weight.sum()
        spread = math.sqrt(((f - mean) ** 2 * weight).sum() / weight.sum())
        self.assertAlmostEqual(got[1].piece.mass.value / plain[1].piece.mass.value, 1.0 + mean, delta=2e-3)
        self.assertAlmostEqual(got[0].corrected.limbs_left, spread / common, delta=2e-3)
        before, after = (s[1].piece.mass for s in (plain, got))
        self.assertLess((after.high - after.low) / after.value, (before.high - before.low) / before.value)

    def test_a_tip_off_by_its_height_hardly_moves_the_density(self):
        eye = replace(OAK, height=Estimate(27.0, 20.25, 33.75, Kind.ESTIMATED))
        members = members_of(eye)
        cuts = (Cut("", 22.0), Cut("", 18.0))
        plain = takedown(members, cuts)
        got = takedown(members, cuts, {1: Weighing(mass=3.0 * plain[0].piece.mass.value)})
        self.assertTrue(1.0 < got[1].piece.mass.value / plain[1].piece.mass.value < 1.35)

    def test_moves_of_a_weighed_piece_reach_its_own_ends(self):
        members = members_of(OAK)
        plain = takedown(members, self.CUTS)[0].piece.mass.value
        for read in ({"mass": plain}, {"balance": 1.2}, {"mass": plain, "balance": 1.2}, None):
            piece = takedown(members, self.CUTS, {1: Weighing(**read)} if read else {})[0].piece
            half = piece.joint.rows[0][0]
            self.assertAlmostEqual(piece.mass.value - half * piece.joint.down, piece.mass.low, places=9)
            self.assertAlmostEqual(piece.mass.value + half * piece.joint.up, piece.mass.high, places=9)
            if read:
                self.assertEqual(piece.joint.rows[0][1:], (0.0, 0.0))
                self.assertAlmostEqual(piece.joint.rows[1][1], (piece.balance.high - piece.balance.low) / 2, places=12)

    def test_a_weight_beyond_belief_moves_the_rest_no_further_than_they_may_be_off(self):
        members = members_of(OAK)
        plain = takedown(members, self.CUTS)
        first = plain[0].piece.mass
        density, crown = (wood_inputs(OAK)[name] for name in ("density", "crown_scale"))
        shared = math.hypot(
            (density.high - density.low) / 2 / density.value, (crown.high - crown.low) / 2 / crown.value
        )
        most = min(0.8 * (first.high - first.low) / 2 / first.value, shared)
        for times_heavier, ratio in ((7.0, 1.0 + most), (0.1, None)):
            got = takedown(members, self.CUTS, {1: Weighing(mass=times_heavier * first.value)})
            moved = got[1].piece.mass.value / plain[1].piece.mass.value
            self.assertGreater(moved, 1.0 - most - 1e-9)
            if ratio:
                self.assertAlmostEqual(moved, ratio, places=6)

    def test_a_limb_tells_nothing_of_stem_wood_and_the_other_way_round(self):
        members = members_of(OAK)
        plain = takedown(members, self.CUTS)
        limb = takedown(members, self.CUTS, {1: Weighing(mass=1.4 * plain[0].piece.mass.value)})
        self.assertEqual(limb[3].piece.mass, plain[3].piece.mass)
        stem = takedown(
            members, (Cut("", 20.0), Cut("Bough", 0.3)), {1: Weighing(mass=0.7 * plain[3].piece.mass.value)}
        )
        self.assertAlmostEqual(
            stem[1].piece.mass.value, takedown(members, (Cut("Bough", 0.3),))[0].piece.mass.value, places=9
        )
        self.assertLess(stem[0].corrected.stem, 1.0)

    def test_a_balance_alone_moves_no_weights(self):
        members = members_of(OAK)
        got, plain = takedown(members, self.CUTS, {1: Weighing(balance=0.9)}), takedown(members, self.CUTS)
        self.assertEqual(got[0].piece.mass.value, plain[0].piece.mass.value)
        self.assertEqual(got[1].piece.mass, plain[1].piece.mass)
        for bad in ({}, {"mass": 0.2}, {"mass": 90e3}, {"balance": -0.1}):
            with self.assertRaises(CoreError):
                Weighing(**bad)
        with self.assertRaises(CoreError) as caught:
            takedown(members, self.CUTS, {1: Weighing(balance=40.0)})
        self.assertIn("balance", str(caught.exception))


class Moves(TestCase):
    def test_joint_moves_are_normal_and_even(self):
        inputs = {
            "a": Estimate(2.0, 1.0, 4.0, Kind.ASSUMED),
            "b": Estimate(5.0, 5.0, 5.0, Kind.ASSUMED),
            "c": Estimate(0.0, -1.0, 1.0, Kind.ASSUMED),
        }
        x, count = joint_moves(inputs, 256)
        self.assertEqual((count, x["b"], x["a"][0], x["c"][0]), (257, 5.0, 2.0, 0.0))
        self.assertAlmostEqual(float(np.std(x["c"][1:])), 0.5, delta=0.01)
        self.assertAlmostEqual(float(np.quantile(x["a"][1:], 0.975)), 4.0, delta=0.1)
        self.assertAlmostEqual(float(np.quantile(x["a"][1:], 0.025)), 1.0, delta=0.05)
        self.assertLess(abs(float(np.corrcoef(x["a"][1:], x["c"][1:])[0, 1])), 0.15)
        self.assertEqual(reach(np.array([3.0, 1.0, 7.0])), Estimate(3.0, 1.0, 7.0, Kind.ESTIMATED))

    def test_how_stiff_a_rope_is_and_how_that_is_known(self):
        for made, thick, stated, value, known in (
            ("double_braid", 0.014, None, 350e3, "table"),
            ("double_braid", 0.0125, None, 282.5e3, "interpolated"),
            ("three_strand", 0.024, None, 330e3 * 1.44, "extended"),
            ("kernmantle", 0.013, 61e3, 61e3, "stated"),
            ("", 0.013, None, 350e3, "unknown"),
        ):
            got = stiffness_of(made, thick, stated)
            self.assertAlmostEqual(got.axial_stiffness.value, value, delta=1.0)
            self.assertEqual(got.known, known)
        with self.assertRaises(CoreError):
            stiffness_of("string", 0.013, None)


class Printed(TestCase):
    def test_every_limit_and_every_force_of_a_pick_is_printed(self):
        entry = {
            "picks": [
                {
                    "member": "Bough",
                    "at_m": 0.3,
                    "tie_m": 0.6,
                    "held": "run",
                    "wraps": 1.0,
                    "weighed_kg": 90.0,
                    "point": {"member": "", "at_m": 13.0},
                    "redirect": {"member": "", "at_m": 5.0},
                    "device_at": [3.0, 0.0, 1.0],
                },
                {"member": "High", "at_m": 0.3, "method": "free"},
                {"member": "Twig", "at_m": 0.3},
                {"member": "Bough", "at_m": 0.1, "point": {"member": ""}},
            ]
        }
        first, second, third, nowhere = takedown_json(entry, OAK, Site(), {})["picks"]
        self.assertIn("how high", nowhere["refused"])
        self.assertIn("no limb", third["refused"])
        keys = {row["key"] for row in first["limits"]}
        self.assertLessEqual({"tie_past", "anchor_bends", "anchor_twists", "root_plate", "hand", "chain"}, keys)
        for row in first["limits"] + second["limits"]:
            self.assertEqual(set(row), {"key", "class", "verdict", "demand", "allowed", "unit", "least", "about"})
        self.assertLessEqual({"static", "field", "elastic", "let_run", "motion", "lever"}, set(first["peaks"]))
        for name in ("control_leg", "hand", "on_redirect", "wood", "redirect_wood", "motion", "stiffness_N_m", "chain"):
            self.assertIn(name, first)
        self.assertEqual(second["corrected"]["pieces_weighed"], 1)
        self.assertEqual(first["ruling"], max(first["limits"], key=lambda r: r["key"] == first["ruling"]["key"]))
        json.dumps([first, second, third], allow_nan=False)

    def test_a_felling_prints_what_it_is_judged_by(self):
        demo = load((Path(treecore.__file__).parent.parent / "demo/kestrel_lane.json").read_text(encoding="utf-8"))
        felling = evaluate_document(demo)["trees"][0]["felling"]
        self.assertLessEqual({"mass", "thin", "thick", "needed", "available"}, set(felling["figures"]))
        self.assertLessEqual({"tip_margin", "commit_margin", "stem_mass"}, set(felling["besides"]))
        self.assertGreater(len(felling["limits"]), 12)
        # The winch's pull goes through the oak: what the block there carries is two legs by the cosine of half their
        # angle.
        legs = {(leg["from"], leg["to"]): leg for leg in felling["pulling"]["legs"]}
        (block,) = [p["force"]["value"] for p in felling["pulling"]["parts"] if p["part"] == "Pull oak"]
        pulls = [leg["at_load"]["value"] for leg in legs.values()]
        self.assertTrue(max(pulls) <= block <= sum(pulls), (block, pulls))


class Compiled(TestCase):
    def test_what_is_kept_is_kept_for_these_loops_alone(self):
        # A file's kept code holds that of others it calls: every loop counts for the folder it is kept in.
        root = Path(compiled.__file__).parent
        rooms = {p.relative_to(root).parts[0] for p in root.rglob("*.py") if "\n@compiled\n" in p.read_text()}
        self.assertLessEqual(rooms - {"tests"}, set(compiled.LOOPS))

    def test_it_runs_where_nothing_can_be_kept(self):
        with TemporaryDirectory() as there, unittest.mock.patch.dict(os.environ, {"CANTREL_VAR": there}):
            folder = cache_folder()
            self.assertEqual(folder.parent, Path(there) / "compiled")
            self.assertTrue(folder.is_dir())
            blocked = Path(there) / "a file"
            blocked.write_text("")
            with unittest.mock.patch.dict(os.environ, {"CANTREL_VAR": str(blocked)}):
                self.assertIsNone(cache_folder())


class Uneven(TestCase):
    def test_a_leaning_tree_is_weighed_as_it_stands(self):
        lean = replace(TREE, lean=math.radians(7.0), lean_azimuth=1.1)
        one = take(members_of(lean), whole(members_of(lean)), Cut("", 12.0)).piece
        two = take(members_of(replace(lean, lean=0.0)), whole(members_of(lean)), Cut("", 12.0)).piece
        self.assertAlmostEqual(one.mass.value, two.mass.value, places=6)
        self.assertGreater(math.hypot(*one.cg[:2]), math.hypot(*two.cg[:2]))
