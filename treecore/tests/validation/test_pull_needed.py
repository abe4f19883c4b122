"""The pull a felling needs, and systems laid out at one press: their balances worked out again with what was found."""

import math
from dataclasses import replace
from unittest import TestCase

from scipy.optimize import brentq

from treecore.errors import NotSolvable
from treecore.felling.plan import evaluate
from treecore.felling.pull_needed import needed_pull
from treecore.felling.wedges import Wedges
from treecore.formats.pull_start import End, Puller, RopeOf, guy_laid_out, pull_laid_out
from treecore.rigging.pulling import effort_of
from treecore.rigging.readymade import NAMES
from treecore.tests.scenes import PLAN, mirrored
from treecore.tests.validation.test_line_places import DOUBLED

BARE = replace(PLAN, wedges=Wedges())
OAK = End("Gate oak", (46.0, 3.0), 0.55)
BEHIND = End("Back lime", (-20.0, 8.0), 0.6)
ROPE = RopeOf("Blue line", 90.0, 62e3)


def left(plan):
    return evaluate(plan).estimates["margin"].low


class Needed(TestCase):
    def test_the_least_favourable_end_just_goes_over(self):
        force = brentq(lambda f: left(replace(BARE, pull=replace(PLAN.pull, force=f))), 1.0, 20e3, xtol=0.01)
        needs = needed_pull(PLAN)
        self.assertAlmostEqual(needs.on_tree, force, delta=0.5)
        self.assertEqual((needs.given, needs.enough, needs.chosen), (5000.0, True, True))
        self.assertFalse(needed_pull(replace(PLAN, pull=replace(PLAN.pull, force=0.97 * force))).enough)
        self.assertAlmostEqual(needed_pull(mirrored(PLAN)).on_tree, force, delta=0.5)

    def test_a_system_by_the_share_its_hands_give(self):
        plan = replace(BARE, pull=None, system=DOUBLED)
        share = brentq(lambda t: left(replace(plan, system=replace(DOUBLED, takes=t))), 0.05, 1.0)
        needs = needed_pull(plan)
        self.assertAlmostEqual(needs.at_hands, 9000.0 * share, delta=1.0)
        # Off the stem it leads to the fixed end, 40 m east and 3 north; the tie leans by less than half a metre.
        self.assertAlmostEqual(needs.distance, math.hypot(40.0, 3.0), delta=0.5)
        # The moving block on the stem: the tree gets close to twice what the winch gives.
        self.assertGreater(needs.on_tree, 1.7 * needs.at_hands)
        weak = replace(
            plan,
            system=replace(
                DOUBLED, parts=tuple(replace(p, force=900.0) if p.role == "hand" else p for p in DOUBLED.parts)
            ),
        )
        self.assertAlmostEqual(needed_pull(weak).at_hands, needs.at_hands, delta=0.01 * needs.at_hands)
        self.assertFalse(needed_pull(weak).enough)

    def test_none_is_needed_where_it_leans_with_the_lay_and_none_helps_across(self):
        ahead = replace(PLAN, tree=replace(PLAN.tree, lean=math.radians(9.0), lean_azimuth=PLAN.lay), pull=None)
        self.assertEqual(needed_pull(ahead).on_tree, 0.0)
        backward = replace(PLAN, lay=math.radians(268.0), tree=replace(PLAN.tree, lean_azimuth=math.radians(88.0)))
        self.assertEqual(needed_pull(backward).on_tree, math.inf)


class LaidOut(TestCase):
    def test_every_design_pulls_what_is_needed_and_a_little_over(self):
        for design in NAMES:
            for puller in (
                Puller("winch", "Winch"),
                Puller("people", "Hands"),
                Puller("vehicle", "Truck", (30.0, -20.0)),
            ):
                with self.subTest(design=design, puller=puller.kind):
                    made = pull_laid_out(PLAN, design, [OAK, BEHIND], "Gate oak", puller, ROPE)
                    plan = replace(PLAN, pull=None, system=made)
                    needs = needed_pull(plan)
                    hand = next(p for p in made.parts if p.role == "hand")
                    # Twelve on the rope, or wheels that slip, are the most there is; the plan then says over.
                    slips = puller.kind == "vehicle" and effort_of(hand).low < hand.force
                    most = slips or (puller.kind == "people" and hand.people == 12)
                    self.assertTrue(needs.enough or most)
                    if puller.kind == "winch":
                        self.assertLess(needs.given, 1.2 * needs.on_tree + 500.0)
                    self.assertEqual((made.ropes[0].name, made.ropes[0].owned), ("Blue line", 90.0))
                    self.assertEqual(hand.name, puller.name)
                    if puller.place:
                        self.assertEqual((hand.x, hand.y), puller.place)

    def test_the_anchor_is_the_one_named_else_the_nearest_ahead_out_of_reach(self):
        near, off = End("Near pear", (20.0, 2.0), 0.3), End("Far ash", (60.0, 8.0), 0.4)
        made = pull_laid_out(PLAN, "redirect", [near, off, OAK, BEHIND], "", Puller("winch", "Winch"), None)
        block = next(p for p in made.parts if p.role != "hand")
        self.assertEqual((block.x, block.y, block.trunk), (46.0, 3.0, 0.55))
        self.assertIsNone(made.ropes[0].owned)
        alone = pull_laid_out(PLAN, "redirect", [BEHIND], "", Puller("winch", "Winch"), None)
        block = next(p for p in alone.parts if p.role != "hand")
        # Nothing named ahead: one and a half heights out along the lay of 83 degrees.
        self.assertAlmostEqual(block.x, 1.5 * 27.0 * math.sin(math.radians(83.0)), places=2)
        with self.assertRaises(NotSolvable):
            pull_laid_out(PLAN, "redirect", [OAK], "Somebody's elm", Puller("winch", "Winch"), None)
        with self.assertRaises(NotSolvable):
            pull_laid_out(PLAN, "redirect", [BEHIND], "Back lime", Puller("winch", "Winch"), None)

    def test_a_guy_stands_at_its_anchor_and_may_carry_what_rope_and_anchor_do(self):
        guy = guy_laid_out(PLAN, End("Corner ash", (-6.0, 24.0), 0.48), ROPE, tended=True)
        self.assertAlmostEqual(guy.distance, math.hypot(6.0, 24.0))
        self.assertAlmostEqual(guy.azimuth, math.tau - math.atan2(6.0, 24.0))
        self.assertAlmostEqual(guy.limit, min(guy.tackle.rope_allowed.value, guy.tackle.anchor_allowed.value))
        self.assertEqual((guy.tie, guy.tended, guy.tackle.owned), (13.5, True, 90.0))
        bare = guy_laid_out(PLAN, End("Post", (-12.0, 20.0)), None, tended=False)
        self.assertEqual((bare.tackle.owned, bare.limit), (None, 10e3))

    def test_a_guy_is_refused_where_its_anchor_can_not_hold_the_side(self):
        # Straight ahead, behind, and on the side the tree weighs to; seen in a mirror the sides change over.
        heavy = replace(PLAN, tree=replace(PLAN.tree, lean=math.radians(5.0), lean_azimuth=(PLAN.lay + 1.6) % math.tau))
        light = replace(heavy, tree=replace(heavy.tree, lean_azimuth=(PLAN.lay - 1.6) % math.tau))

        def end(off):
            return End("Post", (30.0 * math.sin(PLAN.lay + off), 30.0 * math.cos(PLAN.lay + off)))

        for plan, right in ((heavy, -1.4), (light, 1.4)):
            self.assertAlmostEqual(guy_laid_out(plan, end(right), None, False).distance, 30.0, places=6)
            for off in (0.0, 0.4, math.pi, -right):
                with self.assertRaisesRegex(NotSolvable, "no anchor on this side"):
                    guy_laid_out(plan, end(off), None, False)
