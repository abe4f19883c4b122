"""The felling's entry in a document: every choice arrives in the core, a system goes out as it came in, wrong words
are refused.
"""

import json
import math
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

import treecore
from treecore.errors import CoreError
from treecore.estimate import Kind, plus_minus
from treecore.felling.evaluate import thinning, to_open
from treecore.felling.footprint import footprint
from treecore.felling.handles import STEPS, drag, nudge
from treecore.felling.hinge import hinge_wood, holding_shape
from treecore.felling.plan import evaluate
from treecore.felling.suggest import suggest_pattern
from treecore.formats.felling_entry import felling_of, log_of, system_entry, system_of
from treecore.formats.plan_document import evaluate_document, load
from treecore.rigging.line import Guy
from treecore.rigging.readymade import NAMES, ready_made
from treecore.rigging.tackle import Tackle
from treecore.tests.scenes import CUTS, PLAN, PULL, SITE, TREE
from treecore.tree.stem import Cavity

DEMO = Path(treecore.__file__).parent.parent / "demo" / "kestrel_lane.json"
ENTRY = {
    "lay_deg": 83, "stump_m": 0.35, "along_m": 0.82, "across_m": 0.78, "depth_m": 0.17, "opening_deg": 70,
    "hinge_m": 0.07,
    "rise_m": 0.03, "taper_m": -0.02, "bypass_m": 0.01, "bypass_side": "right", "back_slope_deg": 2, "bar_m": 0.6,
    "first_school": "level", "pattern_school": "halves", "nicks": True, "position_school": "standing",
    "escape_side": "left",
    "wedges": {"count": 2, "stacked": 2, "rise_m": 0.02, "tip_m": 0.004, "kind": "steel", "place_deg": -20},
    "guy": {"tie_m": 11, "azimuth_deg": 350, "distance_m": 17, "anchor_m": 0.4, "limit_N": 9000, "tended": True,
    "taut": True,
        "tackle": {"strength_N": 40000, "owned_m": 30, "knot": "timber", "gear_N": 15000, "trunk_m": 0.5,
        "sling_m": 0.4, "design_school": "7"}},
}  # fmt: skip


class Entries(TestCase):
    def test_every_choice_arrives(self):
        plan = felling_of(ENTRY, TREE, SITE)
        self.assertEqual((plan.cuts.taper, plan.cuts.bypass, plan.cuts.bypass_side), (-0.02, 0.01, "right"))
        self.assertAlmostEqual(math.degrees(plan.cuts.slope), 2.0, places=12)
        self.assertEqual(
            (plan.saw.bar, plan.saw.first, plan.saw.pattern, plan.saw.nicks, plan.saw.position),
            (0.6, "level", "halves", True, "standing"),
        )
        self.assertEqual((plan.wedges.stacked, plan.wedges.tip, plan.escape), (2, 0.004, "left"))
        self.assertEqual((plan.guy.tie, plan.guy.limit, plan.guy.tended, plan.guy.taut), (11.0, 9000.0, True, True))
        self.assertEqual(
            plan.guy.tackle,
            Tackle(strength=40e3, owned=30.0, knot="timber", gear=15e3, trunk=0.5, sling=0.4, design="7"),
        )
        self.assertEqual((plan.wedges.kind, plan.wedges.reach), ("steel", 0.04))
        self.assertAlmostEqual(math.degrees(plan.wedges.place), -20.0, places=12)
        self.assertEqual((plan.wind, plan.wind_from), (None, None))  # nobody gave one
        calm = felling_of(ENTRY | {"wind_m_s": 0, "wind_from_deg": 0}, TREE, SITE)
        self.assertEqual((calm.wind, calm.wind_from), (0.0, 0.0))

    def test_systems_go_out_as_they_came_in(self):
        for kind in NAMES:
            system = ready_made(kind, (1.0, -2.0), (39.0, 11.0), 12.5)
            again = json.loads(json.dumps(system_entry(system)))
            self.assertEqual(system_of(again), system)

    def test_a_line_beside_a_system_waits(self):
        system = system_entry(ready_made("three", (0.0, 0.0), (44.0, 5.0), 12.0))
        both = ENTRY | {"system": system, "pull": {"tie_m": 9, "azimuth_deg": 80, "distance_m": 30, "force_N": 4000}}
        plan = felling_of(both, TREE, SITE)
        self.assertIsNone(plan.pull)
        self.assertEqual({line.tie for line in plan.lines}, {12.0})
        with self.assertRaises(CoreError):
            replace(plan, pull=PULL)

    def test_wrong_words_and_sizes_are_refused_by_name(self):
        for change, field in (
            ({"pattern_school": "sideways"}, "pattern_school"),
            ({"bar_m": 9.0}, "bar"),
            ({"taper_m": 0.2}, "taper"),
            ({"guy": ENTRY["guy"] | {"tie_m": 40}}, "guy_tie"),
            ({"wedges": {"tip_m": 0.2}}, "wedge_tip"),
            ({"escape_side": "up"}, "escape"),
        ):
            with self.subTest(field=field), self.assertRaises(CoreError) as caught:
                felling_of(ENTRY | change, TREE, SITE)
            self.assertEqual(caught.exception.field, field)

    def test_the_schema_refuses_unknown_keys(self):
        for old, new in (
            ('"bar_m"', '"bar_cm"'),
            ('"kind": "winch"', '"kid": "winch"'),
            ('"lean_side"', '"leanside"'),
            ('"cuts_m"', '"cuts"'),
        ):
            with self.subTest(new=new), self.assertRaises(CoreError):
                load(DEMO.read_text().replace(old, new, 1))

    def test_the_command_tells_pull_footprint_and_fall(self):
        felling = evaluate_document(load(DEMO.read_text()))["trees"][0]["felling"]
        self.assertAlmostEqual(felling["pulling"]["purchase_ideal"], 1.0, delta=0.02)
        self.assertGreaterEqual(felling["footprint"]["samples"], 10_000)
        self.assertEqual(len(felling["footprint"]["chances"]), 11)
        self.assertGreater(felling["fall"]["breaks"]["value"], felling["figures"]["closing"]["value"])

    def test_a_log_takes_its_ends_from_the_stem(self):
        log, cuts = log_of({"from_m": 0.5, "to_m": 9.5, "supports_m": [1, 6], "cuts_m": [3]}, TREE)
        self.assertAlmostEqual(log.butt, TREE.stem.diameter_at(0.5), places=12)
        self.assertAlmostEqual(log.tip, TREE.stem.diameter_at(9.5), places=12)
        self.assertEqual(cuts, (3.0,))
        for row in ({"from_m": 5, "to_m": 2}, {"from_m": 1, "to_m": 80}):
            with self.assertRaises(CoreError):
                log_of(row | {"supports_m": [1, 2]}, TREE)


class Advice(TestCase):
    def test_patterns_follow_the_tree(self):
        forward = replace(TREE, species="fraxinus_excelsior", lean=math.radians(12.0), lean_azimuth=PLAN.lay)
        across = replace(TREE, lean=math.radians(4.0), lean_azimuth=(PLAN.lay + math.pi / 2) % math.tau)
        upright = replace(TREE, lean=0.0)
        thin = replace(CUTS, along=0.3, across=0.3, depth=0.06, hinge=0.03)
        for plan, pattern in (
            (replace(PLAN, tree=forward), "bore"),
            (replace(PLAN, tree=across), "lean_side"),
            (replace(PLAN, tree=upright), "straight"),
            (replace(PLAN, tree=upright, saw=replace(PLAN.saw, bar=0.5)), "halves"),
            (
                replace(
                    PLAN,
                    cuts=thin,
                    tree=replace(TREE, lean=math.radians(0.8), lean_azimuth=(PLAN.lay + math.pi) % math.tau),
                ),
                "middle",
            ),
        ):
            p = evaluate(plan).point
            self.assertEqual(suggest_pattern(plan, p.side_moment, p.split_straight)[0], pattern)

    def test_what_opens_a_shut_window_opens_it(self):
        weak = replace(
            PLAN,
            pull=replace(PULL, azimuth=PLAN.lay, force=500.0),
            wedges=replace(PLAN.wedges, count=0),
            tree=replace(TREE, lean=math.radians(7.0), lean_azimuth=(PLAN.lay + math.radians(120)) % math.tau),
        )
        need = to_open(evaluate(weak))
        self.assertIsNotNone(need)
        lever = evaluate(weak).point.pull_along / 500.0
        stronger = replace(weak, pull=replace(weak.pull, force=500.0 + 1.001 * need.along / lever))
        p = evaluate(stronger).point
        self.assertAlmostEqual(p.thick / p.thin, 1.0, delta=0.01)
        self.assertIsNone(to_open(evaluate(PLAN)))

    def test_nothing_comes_off_a_hinge_that_only_just_holds(self):
        loaded = replace(
            PLAN,
            tree=replace(TREE, lean=math.radians(9.0), lean_azimuth=(PLAN.lay + math.pi / 2) % math.tau),
            cuts=replace(CUTS, hinge=0.03),
        )
        for row in thinning(evaluate(loaded)):
            self.assertEqual(row.least, row.now)
            self.assertTrue(row.why)

    def test_a_hollow_stump_leaves_less_hinge(self):
        hollow = replace(PLAN, tree=replace(TREE, cavities=(Cavity(low=0.0, high=1.0, across=0.56),)))
        sound, less = evaluate(PLAN).point, evaluate(hollow).point
        self.assertGreater(less.thin, sound.thin)
        self.assertLess(less.hinge_moment, sound.hinge_moment)
        self.assertEqual(hollow.cavity, 0.56)


class Handles(TestCase):
    def test_a_drag_is_measured_from_where_the_tree_stands(self):
        site = replace(PLAN.site, tree_x=-6.0, tree_y=11.0)
        guy = Guy(tie=12.0, azimuth=1.0, distance=9.0)
        plan = replace(PLAN, site=site, guy=guy)
        x, y = -6.0 + 20.0 * math.sin(0.5), 11.0 + 20.0 * math.cos(0.5)
        self.assertAlmostEqual(drag("lay", x, y, plan)["lay"], 0.5, delta=0.01)
        for handle, names in (("anchor", ("pull_azimuth", "pull_distance")), ("guy", ("guy_azimuth", "guy_distance"))):
            got = drag(handle, x, y, plan)
            self.assertAlmostEqual(got[names[0]], 0.5, delta=0.01)
            self.assertAlmostEqual(got[names[1]], 20.0, delta=0.06)
        self.assertEqual(drag("nothing", x, y, plan), {})

    def test_the_ends_of_the_hinge_move_apart(self):
        # One key to the right thins that end by a step: the mean by half of it, the taper by all, to either sign.
        for handle, sign in (("left_end", -1.0), ("right_end", 1.0)):
            got = nudge(handle, 1, 0, PLAN)
            self.assertAlmostEqual(got["hinge"], CUTS.hinge - STEPS["hinge"] / 2.0, places=12)
            self.assertAlmostEqual(got["taper"], sign * STEPS["hinge"], places=12)

    def test_arrow_keys_move_by_one_step(self):
        plan = replace(PLAN, guy=Guy(tie=12.0, azimuth=1.0, distance=9.0))
        for handle, (dx, dy), name, sign in (
            ("depth", (1, 0), "depth", -1),
            ("hinge", (1, 0), "hinge", -1),
            ("rise", (0, 1), "rise", 1),
            ("stump", (0, 1), "stump", 1),
            ("opening", (0, 1), "opening", 1),
            ("lay", (1, 0), "lay", 1),
            ("guy", (0, 1), "guy_distance", 1),
            ("anchor", (0, 1), "pull_distance", 1),
        ):
            before = {"lay": plan.lay, "guy_distance": 9.0, "pull_distance": 44.0}.get(name, getattr(CUTS, name, None))
            step = nudge(handle, dx, dy, plan)[name] - before
            self.assertAlmostEqual(step, sign * STEPS[handle if handle != "guy" else "anchor"], places=12, msg=handle)


class Properties(TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.floats(-0.13, 0.13), st.sampled_from((-1.0, 1.0)))
    def test_a_taper_never_holds_less_than_its_thinner_end_all_along(self, taper, side):
        wood = hinge_wood(replace(CUTS, taper=taper))
        thinner = min(wood.left, wood.right)
        self.assertGreaterEqual(wood.mean * holding_shape(wood, side, wood.length), thinner - 1e-9)
        self.assertLessEqual(holding_shape(wood, side, wood.length), 1.11)

    @settings(max_examples=12, deadline=None)
    @given(st.floats(0.0, 359.0), st.floats(0.0, 6.0))
    def test_chances_are_shares_and_grow_with_what_is_uncertain(self, lay, lean):
        tree = replace(TREE, lean=math.radians(lean))
        plan = replace(PLAN, lay=math.radians(lay), tree=tree)
        for chance in footprint(plan, 0.0, 2000).chances:
            self.assertTrue(0.0 <= chance.share <= 1.0)
        longer = replace(plan, tree=replace(tree, height=plus_minus(27.0, 4.0, Kind.ESTIMATED)))
        tips = [max(math.hypot(x, y) for x, y in footprint(p, 0.0, 2000).tips) for p in (plan, longer)]
        self.assertGreater(tips[1], tips[0])
