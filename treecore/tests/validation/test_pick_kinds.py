"""A pick is free, on a line, or on a hook: each says what it has, and is held only against what can happen to it."""

import math
from dataclasses import replace
from unittest import TestCase

from treecore.errors import NotSolvable
from treecore.findings import Seen
from treecore.rigging.friction import devices
from treecore.site import Site, Target
from treecore.takedown.limits import pick_limits
from treecore.takedown.members import members_of
from treecore.takedown.pick import Pick
from treecore.takedown.pick_result import FreePick, HeldPick, HookPick
from treecore.tests.validation.test_takedown import OAK, PICK, TODAY, worked
from treecore.verdict import Verdict

ON_LINE = {"tie_past", "hand", "runs_away", "anchor_bends", "clears", "rope_through", "tag", "second_tie", "chain"}


class Kinds(TestCase):
    def test_each_method_makes_one_kind(self):
        for method, kind in (("butt", HeldPick), ("balance", HeldPick), ("free", FreePick), ("toss", FreePick)):
            with self.subTest(method=method):
                self.assertIs(type(worked(replace(PICK, method=method, slack=0.0))[0]), kind)
        crane, limits = worked(Pick(name="1", method="crane", capacity=5000.0))
        self.assertIs(type(crane), HookPick)
        self.assertIn("hook", {x.key for x in limits})

    def test_nothing_of_a_line_holds_a_free_piece(self):
        _, free = worked(Pick(name="1", method="free"))
        _, on_line = worked()
        self.assertEqual({x.key for x in free} & ON_LINE, set())
        self.assertGreaterEqual({x.key for x in on_line} & ON_LINE, {"hand", "anchor_bends", "chain"})

    def test_a_line_needs_a_point(self):
        with self.assertRaises(NotSolvable) as caught:
            Pick(name="1", method="butt")
        self.assertEqual(caught.exception.field, "rigging_point")
        with self.assertRaises(NotSolvable):
            _ = Pick(name="1", method="free").on


class People(TestCase):
    """A crowd under the piece: over, and near where somebody said that the ground is kept empty, but only then."""

    CROWD = Target(name="Lane", kind="people", outline=((-9.0, -9.0), (9.0, -9.0), (9.0, 9.0), (-9.0, 9.0)))

    def verdict(self, *seen):
        site = Site(targets=(self.CROWD,))
        w, _ = worked(site=site)
        limits = pick_limits(members_of(OAK), w, site, TODAY, seen)
        return {x.verdict for x in limits if x.key == "under_piece" and x.about.name == "Lane"}

    def test_only_an_answer_to_people_keeps_them_out(self):
        self.assertEqual(self.verdict(), {Verdict.OVER})
        self.assertEqual(self.verdict(Seen(hazard="people", response="Gate shut, guard at it")), {Verdict.NEAR})
        self.assertEqual(self.verdict(Seen(hazard="people", response="  ")), {Verdict.OVER})
        self.assertEqual(self.verdict(Seen(hazard="wind", response="Waited until noon")), {Verdict.OVER})


class Caught(TestCase):
    """Meant to run, but held by its wraps: the hand's limit says so; locked off on purpose it does not."""

    def why(self, **more):
        _, limits = worked(replace(PICK, **more))
        return [x.about.why for x in limits if x.key == "hand"], {x.key for x in limits}

    def test_wraps_that_hold_what_was_to_run(self):
        said, keys = self.why(held="run", run=3.0, wraps=4.0)
        self.assertEqual(said, ["held"])
        self.assertIn("stops_dead", keys)
        for more in ({"held": "lock", "wraps": 4.0}, {"held": "run", "run": 3.0, "wraps": 1.0}):
            with self.subTest(**more):
                said, keys = self.why(**more)
                self.assertEqual(said, [""])
                self.assertNotIn("stops_dead", keys)

    def test_the_hand_holds_what_comes_down_to_it(self):
        """Locked, on purpose or by its wraps: the peak's share; let run: its weight's share; both over the drum."""
        for more, peak in (
            ({"held": "lock", "wraps": 4.0}, True),
            ({"held": "run", "run": 3.0, "wraps": 4.0}, True),
            ({"held": "run", "run": 3.0, "wraps": 1.0}, False),
        ):
            w, _ = worked(replace(PICK, **more))
            comes = w.forces.control_leg.value if peak else w.piece.mass.value * 9.80665 * w.forces.tension_ratio
            drum = devices()["bollard"]
            turns = more["wraps"] + drum.base.value
            with self.subTest(**more):
                held = comes * math.exp(-2.0 * math.pi * drum.friction.value * turns)
                self.assertAlmostEqual(w.forces.hand.value / held, 1.0, places=9)

    def test_a_slack_line_lifts_nothing_early(self):
        self.assertNotIn("lifted_early", {x.key for x in worked(replace(PICK, pretension=0.0))[1]})
        tight = next(x for x in worked(replace(PICK, pretension=300.0, slack=0.0))[1] if x.key == "lifted_early")
        self.assertIs(tight.verdict, Verdict.WITHIN)


class Uncertain(TestCase):
    """How near a piece passes carries what is not known of its balance, tie, slack and length."""

    def test_a_gap_has_an_interval_round_it(self):
        shed = Target(
            name="Shed", kind="building", outline=((6.0, 3.0), (8.0, 3.0), (8.0, 6.0), (6.0, 6.0)), height=9.0
        )
        w, _ = worked(site=Site(targets=(shed,)))
        found = next(p for p in w.passes if p.name == "Shed")
        self.assertLess(found.low, found.gap)
        self.assertGreater(found.high, found.gap)
        # A limb said to be 12 % longer at most, 5.7 m of it swinging: the gap moves by less than a metre.
        self.assertLess(found.gap - found.low, 1.0)
        self.assertLess(found.high - found.gap, 1.0)
