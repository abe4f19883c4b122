"""Footprint against exact integrals, butt and hinge at the end of the fall, logs against beam formulas, ways of
felling.
"""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from treecore.errors import CoreError
from treecore.estimate import Estimate, Kind, exactly, plus_minus
from treecore.features import Feature
from treecore.felling.bucking import Log, balance, bending, buck, mass_between
from treecore.felling.fall import Turning, broken_after, butt_jump, fall, marched
from treecore.felling.footprint import drawn, footprint
from treecore.felling.plan import evaluate
from treecore.felling.wedges import Wedges
from treecore.hazards import Answer, Finding, differ, gates, hazards, together
from treecore.method import Scene, options
from treecore.schools import constant
from treecore.site import Site, Target
from treecore.tests.scenes import CUTS, PLAN, TREE, mirrored
from treecore.verdict import Verdict
from treecore.workzone import open_lays

# A bare spar without lean, lopsidedness or wind: only aim and hinge scatter turn it.
SPAR = replace(
    TREE, spread=exactly(0.35), lean=0.0, lean_kind=Kind.MEASURED, height=exactly(20.0), diameter=exactly(0.35),
    crown_base=19.0, crown_east=0.0, crown_north=0.0, replaced=frozenset(range(40)),
)  # fmt: skip


def below(x, sigma):
    """Share of a normal distribution below x."""
    return 0.5 * (1.0 + math.erf(x / sigma / math.sqrt(2.0)))


def spot(name, along, across, size=0.01):
    """A small target on a lay of north."""
    h = size / 2
    return Target(
        name=name,
        kind="other",
        outline=((across - h, along - h), (across + h, along - h), (across + h, along + h), (across - h, along + h)),
    )


class Samples(TestCase):
    def test_split_normal_keeps_its_interval(self):
        got = drawn(Estimate(10.0, 8.0, 16.0, Kind.ESTIMATED), np.array([-2.0, 0.0, 2.0]))
        self.assertEqual(got.tolist(), [8.0, 10.0, 16.0])

    def test_chance_against_the_exact_integral(self):
        # A stick of half width w touches a point at distance d, bearing b off the lay, where |d·sin(δ − b)| ≤ w.
        posts = tuple(
            spot(f"post {i}", d * math.cos(b), d * math.sin(b))
            for i, (d, b) in enumerate(((12.0, 0.03), (17.0, -0.05), (8.0, 0.0), (18.0, 0.09)))
        )
        plan = replace(
            PLAN,
            tree=SPAR,
            lay=0.0,
            site=Site(targets=posts),
            wind=0.0,
            pull=None,
            wedges=Wedges(count=3),
            cuts=replace(CUTS, along=0.38, across=0.38, depth=0.08, hinge=0.04, stump=0.3),
        )
        got = {c.target.name: c for c in footprint(plan, 0.0, 200_000).chances}
        sigma = math.hypot(constant("aim_scatter").value, constant("hinge_scatter").value)
        for i, (d, b) in enumerate(((12.0, 0.03), (17.0, -0.05), (8.0, 0.0), (18.0, 0.09))):
            reach = math.asin((0.175 + 0.005) / d)
            exact = below(b + reach, sigma) - below(b - reach, sigma)
            self.assertAlmostEqual(got[f"post {i}"].share, exact, delta=0.1 * exact + 0.004)

    def test_the_same_plan_gives_the_same_chances_and_a_bend_moves_them(self):
        plan = replace(PLAN, site=replace(PLAN.site, targets=(spot("right", 3.0, 20.0, 1.5),)), lay=math.radians(80.0))
        one, two = footprint(plan, 0.0), footprint.__wrapped__(plan, 0.0)
        self.assertEqual(one.chances[0].share, two.chances[0].share)
        self.assertAlmostEqual(footprint(plan, 0.05).mean - one.mean, 0.05, places=9)

    def test_mirrored(self):
        target = Target(
            name="Hut", kind="building", outline=((20.0, 4.0), (24.0, 4.0), (24.0, 9.0), (20.0, 9.0)), height=2.0
        )
        plan = replace(PLAN, site=replace(PLAN.site, targets=(target,)))
        one, two = footprint(plan, 0.02, 100_000), footprint(mirrored(plan), -0.02, 100_000)
        self.assertAlmostEqual(one.mean, -two.mean, delta=0.001)
        self.assertAlmostEqual(
            one.chances[0].share, two.chances[0].share, delta=one.chances[0].error + two.chances[0].error + 0.002
        )


class EndOfTheFall(TestCase):
    def test_butt_in_free_flight_against_fine_steps(self):
        # CG 9 m from the hinge, let go at 60° turning at 0.9 rad/s, top 20 m off.
        x, z, t, turn, best = 0.0, 0.0, 0.0, math.radians(60.0), [0.0, 0.0]
        cx, cz, vx, vz = 9 * math.sin(turn), 9 * math.cos(turn), 9 * 0.9 * math.cos(turn), -9 * 0.9 * math.sin(turn)
        while turn < math.pi / 2:
            t = 1e-5
            cx, cz, vz, turn = cx + vx * t, cz + vz * t - 9.80665 * t * t / 2, vz - 9.80665 * t, turn + 0.9 * t
            x, z = cx - 9 * math.sin(turn), cz - 9 * math.cos(turn)
            if z + 20 * math.cos(turn) <= 0:
                break
            best = [max(best[0], z), max(best[1], x)]
        up, ahead = butt_jump(9.0, math.pi / 2, 0.9, math.radians(60.0), 20.0)
        self.assertAlmostEqual(float(up[0]), best[0], delta=0.01)
        self.assertAlmostEqual(float(ahead[0]), best[1], delta=0.1)

    def test_hinge_parts_soon_after_closing(self):
        # 10 % strain over a 30 mm step, 205 mm from the mouth
        self.assertAlmostEqual(broken_after(CUTS, 0.1), 0.1 * 0.03 / 0.205, places=12)
        found = fall(PLAN)
        self.assertLess(found.closes.estimate.value, found.time.estimate.value)

    def test_course_of_a_falling_rod(self):
        # Rod without air or hinge, from 0.05 rad: ω² = 3·g/L·(cos 0.05 − cos θ).
        mass, length, start = 300.0, 12.0, 0.05
        t = Turning(
            mass * length**2 / 3,
            mass * 9.80665,
            -6.0 * math.sin(start),
            6.0 * math.cos(start),
            0.0,
            0.0,
            0.0,
            math.pi / 2 - start,
        )
        course = marched(t, 0.0, 4000)
        for row in (800, 2000, 4000):
            turn = course.turn[row, 0]
            exact = math.sqrt(3 * 9.80665 / length * (math.cos(start) - math.cos(start + turn)))
            self.assertAlmostEqual(course.speed[row, 0] / exact, 1.0, places=3)


class Logs(TestCase):
    EVEN = Log(length=10.0, butt=0.5, tip=0.5, density=900.0, stiffness=9e9, strength=40e6, supports=(0.0, 10.0))
    W = 900 * math.pi / 4 * 0.25 * 9.80665

    def test_beam_formulas(self):
        self.assertAlmostEqual(bending(self.EVEN).moment.max(), self.W * 100 / 8, delta=0.5)
        three = bending(replace(self.EVEN, supports=(0.0, 5.0, 10.0)))
        self.assertAlmostEqual(three.loads[1], 1.25 * self.W * 5, delta=1.0)
        self.assertAlmostEqual(three.moment.min(), -self.W * 25 / 8, delta=1.0)
        over = bending(replace(self.EVEN, supports=(0.0, 7.0)))  # 3 m overhang: w·a²/2 over the support
        self.assertAlmostEqual(over.moment.min(), -self.W * 9 / 2, delta=1.0)

    def test_a_support_that_would_pull_lets_go(self):
        # The overhang of 4 m bends the span upward, off the support in it.
        got = bending(replace(self.EVEN, supports=(0.0, 4.0, 6.0)))
        self.assertEqual(got.loads[1], 0.0)
        self.assertAlmostEqual(got.loads[0], self.W * 10 / 6, delta=1.0)

    def test_loads_balance_a_tapering_log(self):
        log = replace(self.EVEN, tip=0.28, supports=(1.2, 8.3))
        got = bending(log)
        weight, centre = mass_between(log, 0, 10) * 9.80665, balance(log, 0, 10)
        self.assertAlmostEqual(got.loads[1], weight * (centre - 1.2) / 7.1, delta=weight * 1e-3)

    def test_sides_and_order(self):
        log = replace(self.EVEN, supports=(0.0, 7.0), cross_slope=math.radians(12))
        got = buck(log, (3.0, 8.5))
        self.assertEqual([(c.at, c.tension) for c in got.cuts], [(8.5, "top"), (3.0, "bottom")])
        self.assertEqual((got.cuts[0].stand, got.cuts[0].falls), ("uphill", "the tip part"))
        self.assertTrue(got.rolls)
        self.assertFalse(buck(replace(log, legs=True), (3.0,)).rolls)
        self.assertEqual(buck(replace(log, spring="left"), (3.0,)).cuts[0].stand, "right")

    def test_refusals(self):
        for field, change, cuts in (
            ("supports", {"supports": (0.0, 3.0)}, ()),
            ("supports", {"supports": (4.0,)}, ()),
            ("cuts", {}, (3.0, 3.001)),
            ("supports", {"supports": (12.0,)}, ()),
            ("cuts", {}, (11.0,)),
        ):
            with self.subTest(field=field), self.assertRaises(CoreError) as caught:
                buck(replace(self.EVEN, **change), cuts)
            self.assertEqual(caught.exception.field, field)


class Ways(TestCase):
    BARN = Target(
        name="Barn", kind="building", outline=((14.0, -8.0), (30.0, -8.0), (30.0, 10.0), (14.0, 10.0)), height=5.0
    )

    def judged(self, site=None, answers=None, features=(), tree=TREE):
        plan = replace(
            PLAN, site=site or PLAN.site, tree=tree, wedges=Wedges() if not tree.condition.wedges else PLAN.wedges
        )
        seen = {h: Answer(Finding.ABSENT) for h in hazards()} | (answers or {})
        scene = Scene(evaluate(plan), gates(seen), open_lays(plan.site, plan.tree, 0.3), features)
        return {o.way.key: o for o in options(scene)}

    def test_a_barn_on_the_lay_stops_the_whole_felling_and_names_another_lay(self):
        got = self.judged(Site(targets=(self.BARN,)))
        whole = got["whole"]
        self.assertEqual((whole.verdict, whole.stops[0].key, whole.stops[0].note), (Verdict.OVER, "reach", "Barn"))
        self.assertLess(whole.stops[0].allowed.value, 15.0)
        self.assertIsNotNone(whole.turn)
        self.assertEqual(got["reduce"].verdict, Verdict.WITHIN)
        self.assertEqual(got["refer"].stops, ())

    def test_open_gates_stop_what_they_concern(self):
        got = self.judged(answers={"conductors": Answer(Finding.PRESENT), "dead_tree": Answer(Finding.NOT_LOOKED)})
        self.assertTrue(all(o.verdict is Verdict.OVER for k, o in got.items() if k != "refer"))
        unseen = self.judged(answers={"wind": Answer(Finding.NOT_LOOKED)})
        self.assertEqual(unseen["whole"].verdict, Verdict.NOT_KNOWN)
        self.assertIn("gate dead_tree", {s.key for s in got["rigging"].stops})
        self.assertNotIn("gate dead_tree", {s.key for s in got["whole"].stops})

    def test_machines_need_a_way_in_and_speed_lines_an_anchor(self):
        got = self.judged()
        self.assertEqual(got["lift"].verdict, Verdict.NOT_KNOWN)
        self.assertIn("no_anchor", {s.key for s in got["speedline"].stops})
        way = Feature(name="Way", kind="way_out", shape="line", width=2.8, points=((30.0, 0.0), (60.0, 0.0)))
        oak = Feature(name="Oak", kind="anchor_tree", shape="spot", radius=0.4, points=((40.0, 20.0),), height=15.0)
        got = self.judged(features=(way, oak))
        self.assertEqual((got["lift"].stops, got["speedline"].stops), ((), ()))
        self.assertEqual(got["crane"].stops[0].key, "way_narrow")

    def test_a_dead_stem_is_not_climbed(self):
        got = self.judged(tree=replace(TREE, state="dead"))
        self.assertIn("dead_stem", {s.key for s in got["rigging"].stops})

    def test_two_people(self):
        seen, not_there = Answer(Finding.PRESENT, "roped off"), Answer(Finding.ABSENT)
        self.assertEqual(together((not_there, seen)), Answer(Finding.PRESENT, "roped off"))
        self.assertEqual(together((Answer(Finding.NOT_LOOKED), not_there)).finding, Finding.ABSENT)
        self.assertTrue(differ((seen, not_there)))
        self.assertFalse(differ((not_there, Answer(Finding.NOT_LOOKED))))
        self.assertIsNotNone(plus_minus(1.0, 0.1, Kind.MEASURED))
