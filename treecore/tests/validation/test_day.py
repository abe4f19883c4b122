"""The day: a schedule of three picks by hand, areas and shares against integrals, the queue against what must hold."""

import itertools
import math
from datetime import date
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from shapely.geometry import Polygon

from treecore.day.clock import Break, clock
from treecore.day.light import daylight
from treecore.day.money import Rates, costs, total
from treecore.day.queueing import PARTS, Crew, PickWork, course, day, part_times, what_if
from treecore.day.quick import finishes
from treecore.day.times import Task, activities, disc
from treecore.day.work import Ground, felling_work, ground_of, segment, thin_share, trips
from treecore.errors import CoreError
from treecore.estimate import Estimate, Kind, together
from treecore.site import Site, Spot
from treecore.tests.scenes import PLAN

#        before tie cut lower untie back drag chip log   [s]
THREE = (
    (100.0, 20.0, 30.0, 15.0, 10.0, 5.0, 60.0, 40.0, 0.0),
    (50.0, 20.0, 30.0, 15.0, 10.0, 5.0, 60.0, 40.0, 20.0),
    (10.0, 0.0, 30.0, 0.0, 0.0, 0.0, 60.0, 0.0, 0.0),
)
TIMES = st.lists(st.lists(st.floats(0.0, 500.0), min_size=9, max_size=9), min_size=1, max_size=8)


def at(spans, pick, part):
    return next((s.start, s.end) for s in spans if (s.pick, s.part) == (pick, part))


class ByHand(TestCase):
    """Three picks, worked through on paper."""

    def test_two_on_the_ground(self):
        found = course(THREE, 2)
        # Pick 0: in place at 100, tied at 120, sawn at 150, down at 165, untied at 175, rope back at 180, dragged out
        # at 240, chipped at 280. Pick 1: the climber is in place at 200, tied at 220, sawn at 250; one hand is free.
        self.assertEqual(at(found.spans, 0, "cut"), (120.0, 150.0))
        self.assertEqual(at(found.spans, 0, "back"), (175.0, 180.0))
        self.assertEqual(at(found.spans, 0, "chip"), (240.0, 280.0))
        self.assertEqual(at(found.spans, 1, "cut"), (220.0, 250.0))
        # Untied at 275, rope at 280, dragged 340, cut to length 360, chipped 400. Pick 2: in place at 260, no rope, but
        # nothing may fall before pick 1 is clear at 275, and then the first hand is at the chipper until 280: sawn
        # from 280 to 310, dragged from 310 to 370.
        self.assertEqual(at(found.spans, 1, "log"), (340.0, 360.0))
        self.assertEqual(at(found.spans, 1, "chip"), (360.0, 400.0))
        self.assertEqual(at(found.spans, 2, "cut"), (280.0, 310.0))
        self.assertEqual(at(found.spans, 2, "drag"), (310.0, 370.0))
        self.assertEqual((found.finish, found.waited), (400.0, 20.0))

    def test_one_on_the_ground_does_one_thing_after_the_other(self):
        found = course(THREE, 1)
        # Pick 0 as before until the rope is back at 180; the hand drags until 240 and chips until 280. The climber is
        # tied at 220 and waits for a hand until 280: sawn 310, down 325, untied 335, back 340. Pick 2 is in place at
        # 320; the tree goes before the ground, so it gets the hand at 340: sawn 370. Only then pick 1 is dragged to
        # 430, cut to 450 and chipped to 490, and pick 2 dragged to 550.
        self.assertEqual(at(found.spans, 1, "cut"), (280.0, 310.0))
        self.assertEqual(at(found.spans, 2, "cut"), (340.0, 370.0))
        self.assertEqual(at(found.spans, 1, "chip"), (450.0, 490.0))
        self.assertEqual((found.finish, found.waited), (550.0, 60.0 + 20.0))

    def test_a_rope_that_is_not_back_is_waited_for(self):
        slow = ((*THREE[0][:5], 200.0, *THREE[0][6:]), THREE[1])
        found = course(slow, 3)
        self.assertEqual(at(found.spans, 0, "back"), (175.0, 375.0))
        self.assertEqual(at(found.spans, 1, "tie"), (375.0, 395.0))
        self.assertEqual(found.waited, 175.0)


NONE = np.array([0.0, 0.4, 0.0, 0.3, 0.3, 0.4, 0.0, 0.4, 0.6])  # how often a part of a pick is nothing


class Queue(TestCase):
    @settings(deadline=None, max_examples=60)
    @given(TIMES, st.integers(1, 4))
    def test_what_must_hold_of_any_day(self, times, ground):
        found = course(times, ground)
        work = sum(sum(row[:3]) for row in times)
        self.assertGreaterEqual(found.finish + 1e-6, work)  # the climber does all of it alone
        self.assertLessEqual(found.finish, sum(map(sum, times)) + 1e-6)  # nobody works twice as slow as one alone
        climber = sorted((s.start, s.end) for s in found.spans if s.who == "climber")
        self.assertTrue(all(a[1] <= b[0] + 1e-9 for a, b in itertools.pairwise(climber)))
        chipper = sorted((s.start, s.end) for s in found.spans if s.who == "chipper")
        self.assertTrue(all(a[1] <= b[0] + 1e-9 for a, b in itertools.pairwise(chipper)))
        for when in {s.start for s in found.spans}:
            busy = sum(s.start <= when < s.end for s in found.spans if s.who in ("ground", "chipper"))
            self.assertLessEqual(busy, ground)

    def test_the_quick_run_ends_when_the_simulated_one_does(self):
        draw = np.random.default_rng(7)
        for ground in (1, 2, 3, 5):
            for picks in (1, 2, 7, 20, 60):
                times = draw.exponential(100.0, (picks, 9)) * (draw.random((picks, 9)) > NONE)
                with self.subTest(ground=ground, picks=picks):
                    asked = course(times.tolist(), ground).finish
                    self.assertAlmostEqual(float(finishes(times[None], ground)[0]), asked, places=6)

    @settings(deadline=None, max_examples=30)
    @given(TIMES)
    def test_later_picks_wait_for_clear_ground(self, times):
        spans = course(times, 3).spans
        cut = {s.pick: s.start for s in spans if s.part == "cut"}
        untied = {s.pick: s.end for s in spans if s.part in ("lower", "untie")}
        for pick, start in cut.items():
            self.assertGreaterEqual(start + 1e-9, untied.get(pick - 1, 0.0))


def work(**amounts):
    return PickWork(name="1", **{part: tuple(amounts.get(part, ())) for part in PARTS})


PICK = work(
    before=[Task("climb", 2.0), Task("set_up", 1.0)], tie=[Task("tie", 1.0)], cut=[Task("cut", disc(0.3), 1.25)],
    lower=[Task("lower", 9.0)], untie=[Task("untie", 1.0)], back=[Task("rope_back", 14.0)],
    drag=[Task("drag", 60.0)], chip=[Task("chip", 60.0)],
)  # fmt: skip


class Times(TestCase):
    def test_parts_by_hand(self):
        found = part_times([PICK], Crew(ground=2, throat=0.30, way=0.5))[0]
        by_hand = [2 * 8 + 90, 60, math.pi / 4 * 0.09 * 300 * 1.25, 27, 45, 16.8, 60 * 2.5 * 0.5, 60 * 1.2 / 4, 0]
        for got, asked in zip(found, by_hand, strict=True):
            self.assertAlmostEqual(got, asked)

    def test_a_yards_own_factor_counts_for_its_kind_alone(self):
        own, table = (part_times([PICK], Crew(), factors)[0] for factors in ({"climb": 2.0}, None))
        self.assertAlmostEqual(own[0] - table[0], 16.0)
        self.assertEqual(own[1:], table[1:])

    def test_the_interval_holds_what_is_drawn(self):
        found = day([PICK] * 5, Crew(), simulated=400)
        self.assertTrue(found.finish.low < found.finish.value < found.finish.high)
        again = day([PICK] * 5, Crew(), simulated=400, seed=2).finish
        self.assertAlmostEqual(found.finish.high, again.high, delta=0.2 * again.high)

    def test_more_hands_never_make_it_longer_and_the_bottleneck_is_the_busiest(self):
        picks = [PICK] * 6
        self.assertTrue(all(w.saves >= -1e-6 for w in what_if(picks, Crew(ground=1))))
        found = day(picks, Crew(ground=1), simulated=0)
        self.assertEqual(found.bottleneck, max(found.busy, key=found.busy.get))
        self.assertGreater(
            day(picks, Crew(ground=1), simulated=0).course.finish, day(picks, Crew(), simulated=0).course.finish
        )

    def test_every_time_has_a_source_and_a_wide_interval(self):
        for kind in activities().values():
            self.assertTrue(kind.source)
            self.assertGreater(kind.time.high / kind.time.low, 2.0)
            self.assertTrue(kind.time.low < kind.time.value < kind.time.high)

    def test_a_crew_that_can_not_work_is_refused(self):
        for crew in ({"ground": 0}, {"throat": 0.0}):
            with self.assertRaises(CoreError):
                Crew(**crew)


class Geometry(TestCase):
    def test_segment_against_an_integral_and_whole_and_half(self):
        for along, across, depth in ((0.82, 0.78, 0.17), (0.5, 0.7, 0.31)):
            half = along / 2.0
            width = lambda x: across * math.sqrt(max(1.0 - (x / half) ** 2, 0.0))  # noqa: B023, E731
            area, _ = quad(width, half - depth, half)
            self.assertAlmostEqual(segment(along, across, depth), area, places=6)
        self.assertAlmostEqual(segment(0.8, 0.6, 0.8), math.pi / 4 * 0.48)
        self.assertAlmostEqual(segment(0.8, 0.6, 0.4), math.pi / 8 * 0.48)

    def test_what_of_a_frustum_is_thin_against_an_integral(self):
        thick, end, throat = 0.31, 0.07, 0.15
        share = lambda a, b: quad(lambda d: d * d, a, b)[0]  # noqa: E731
        self.assertAlmostEqual(thin_share(thick, end, throat), share(end, throat) / share(end, thick))
        self.assertEqual((thin_share(0.1, 0.02, 0.15), thin_share(0.4, 0.2, 0.15)), (1.0, 0.0))

    def test_trips(self):
        self.assertEqual([trips(m) for m in (0.5, 25.0, 25.1, 130.0)], [1, 1, 2, 6])


class Light(TestCase):
    def test_published_times(self):
        # London, 21 June and 21 December: 03:43 to 20:21 UTC and 08:04 to 15:53 UTC (HM Nautical Almanac Office).
        for when, rise, down in ((date(2026, 6, 21), (3, 43), (20, 21)), (date(2026, 12, 21), (8, 4), (15, 53))):
            found = daylight(51.5, -0.12, when, "UTC")
            for got, (hour, minute) in ((found.sunrise, rise), (found.sunset, down)):
                self.assertAlmostEqual(got.hour * 60 + got.minute, hour * 60 + minute, delta=3)
            self.assertTrue(found.dawn < found.sunrise < found.sunset < found.dusk)

    def test_where_the_sun_does_not_set(self):
        with self.assertRaises(CoreError):
            daylight(78.0, 15.0, date(2026, 6, 21), "UTC")


class Money(TestCase):
    def test_by_hand(self):
        finish = Estimate(4 * 3600.0, 3 * 3600.0, 7 * 3600.0, Kind.ESTIMATED)
        mass = Estimate(2500.0, 2000.0, 3500.0, Kind.ESTIMATED)
        rates = Rates(person=40.0, chipper=25.0, machine=90.0, crane_day=800.0, tipping=30.0, making_good=120.0)
        found = costs(finish, 3, mass, rates, {"crane": 0.5})
        self.assertEqual([line.what for line in found], ["crew", "chipper", "tipping", "making_good", "crane"])
        self.assertAlmostEqual(total(found).value, 4 * 3 * 40 + 4 * 25 + 2.5 * 30 + 120 + 400)
        self.assertAlmostEqual(total(found).low, 3 * 3 * 40 + 3 * 25 + 2.0 * 30 + 120 + 400)
        self.assertAlmostEqual(total(found).high, 7 * 3 * 40 + 7 * 25 + 3.5 * 30 + 120 + 400)

    def test_nothing_free_is_listed_and_no_rate_is_below_nothing(self):
        some = Estimate(3600.0, 3600.0, 3600.0, Kind.ESTIMATED)
        mass = Estimate(1000.0, 1000.0, 1000.0, Kind.ESTIMATED)
        free = Rates(person=50.0, chipper=0.0, tipping=0.0)
        self.assertEqual([line.what for line in costs(some, 2, mass, free)], ["crew"])
        with self.assertRaises(CoreError):
            costs(some, 2, mass, Rates(person=-1.0))


class Breaks(TestCase):
    """Times of the clock by hand, over the three picks above."""

    def test_a_break_waits_until_nothing_hangs(self):
        # Pick 0 is sawn from 120 and untied at 175: a break due at 130 begins then, one due at 200 at once.
        found = clock(course(THREE, 2), 1000.0, (Break(130.0, 60.0), Break(200.0, 30.0)))
        self.assertEqual([b.due for b in found.breaks], [175.0, 200.0])
        self.assertEqual([found.at(t) for t in (0.0, 175.0, 180.0, 210.0)], [1000.0, 1175.0, 1240.0, 1300.0])

    def test_no_break_after_the_work_and_the_usual_ones_on_a_long_day(self):
        self.assertEqual(clock(course(THREE, 2), 0.0, (Break(400.0, 60.0),)).breaks, ())
        long = course([[9.0 * 3600.0, *[0.0] * 8]], 1)
        found = clock(long, 8.0 * 3600.0)
        self.assertEqual([(b.due / 3600.0, b.long / 60.0) for b in found.breaks], [(2, 15), (4, 30), (6, 15)])
        self.assertEqual(found.at(9.0 * 3600.0), 18.0 * 3600.0)

    def test_a_day_begins_within_itself(self):
        for start in (-1.0, 86401.0):
            with self.assertRaises(CoreError):
                clock(course(THREE, 1), start)


class Sums(TestCase):
    def test_ends_that_go_together(self):
        found = together(Estimate(v, v - 1.0, v + 3.0, Kind.MEASURED) for v in (4.0, 10.0))
        self.assertEqual((found.value, found.low, found.high, found.kind), (14.0, 12.0, 20.0, Kind.ESTIMATED))


class OnTheGround(TestCase):
    """Way out and felling, by hand."""

    def site(self, *places):
        return Site(tree_x=2.0, tree_y=-1.0, places=places)

    def test_the_way_out_as_drawn_as_parked_and_as_guessed(self):
        shape = Polygon([(10, 0), (30, 0), (30, 2), (10, 2)])
        way = Spot(name="Way", kind="way_out", shape=shape, outline=(), width=0.8, length=20.0)
        parked = Spot(name="Lorry", kind="parking", shape=Polygon([(4, 3), (6, 3), (6, 5), (4, 5)]), outline=())
        drawn = ground_of(self.site(parked, way), 0.2)
        self.assertEqual((drawn.way, drawn.start, drawn.throat, drawn.guessed), (20.0, (18.0, 2.0), 0.2, False))
        near = ground_of(self.site(parked))
        self.assertAlmostEqual(near.way, math.hypot(3.0, 5.0))
        self.assertEqual((near.start, near.guessed), (None, False))
        self.assertEqual((ground_of(self.site()).way, ground_of(self.site()).guessed), (20.0, True))

    def test_a_felling_is_its_cuts_lines_wedges_and_crown(self):
        found = felling_work(PLAN, 400.0, 2, 5.0, Ground(30.0, None, 0.15, False))
        amounts = {task.key: task.amount for part in ("before", "cut", "drag", "chip") for task in getattr(found, part)}
        self.assertEqual((amounts["line"], amounts["limb_up"], amounts["chip"]), (2.0, 400.0, 400.0))
        self.assertEqual(amounts["drag"], 16 * 30.0)
        self.assertEqual(amounts["wedge"], PLAN.wedges.count)
        notch, back = (segment(0.82, 0.78, depth) for depth in (0.17, 0.82 - 0.17 - 0.07))
        self.assertAlmostEqual(amounts["cut"], 2.0 * notch + back)
        logs = sum(disc(PLAN.tree.stem.diameter_at(z)) for z in (1.0, 2.0, 3.0, 4.0, 5.0))
        self.assertAlmostEqual(next(task.amount for task in found.log), logs)

    def test_what_would_change_it_by_hand(self):
        # One pick: 200 s aloft and down, 150 s dragged, 72 s chipped: half the way saves 75 s, a throat half as wide
        # again saves 72 s less 4/9 of it, another hand nothing.
        pick = work(before=[Task("climb", 25.0)], drag=[Task("drag", 60.0)], chip=[Task("chip", 60.0)])
        saves = {w.key: w.saves for w in what_if([pick], Crew())}
        self.assertAlmostEqual(saves["hand"], 0.0)
        self.assertAlmostEqual(saves["way"], 75.0)
        self.assertAlmostEqual(saves["chipper"], 72.0 * 5.0 / 9.0)
