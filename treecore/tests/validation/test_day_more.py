"""Weather, bookings, wood and price of a day, worked out by hand."""

import math
import random
import unittest

from treecore.day.booked import Booked, clashes, forwards
from treecore.day.money import asked
from treecore.day.queueing import PickWork, until_back
from treecore.day.times import Task
from treecore.day.weather import over, stops
from treecore.day.wood import Truck, wood_of
from treecore.day.work import thick_stem
from treecore.errors import NotSolvable, OutOfRange
from treecore.estimate import Estimate, Kind, exactly


class Weather(unittest.TestCase):
    def test_hours_over_the_limit_run_together(self):
        found = over([(8, 9.0), (10, 12.0), (9, 11.0), (11, 10.0), (14, 15.0)], 10.0)
        self.assertEqual([(w.start / 3600, w.end / 3600, w.gust) for w in found], [(9, 11, 12.0), (14, 15, 15.0)])

    def test_at_the_limit_is_not_over(self):
        self.assertEqual(over([(8, 10.0)], 10.0), ())

    def test_work_that_ends_as_it_begins_to_blow_is_done(self):
        windows = over([(12, 20.0)], 10.0)
        self.assertIsNone(stops(windows, 8 * 3600.0, 12 * 3600.0))
        self.assertIsNone(stops(windows, 13 * 3600.0, 15 * 3600.0))
        self.assertEqual(stops(windows, 8 * 3600.0, 12 * 3600.0 + 1), windows[0])

    def test_no_such_hour(self):
        for wrong in ((24, 5.0), (-1, 5.0), (3, -1.0), (3, 200.0)):
            with self.assertRaises(OutOfRange):
                over([wrong], 10.0)


class Bookings(unittest.TestCase):
    def test_one_machine_two_crews(self):
        a, b = Booked("crane", "A", 9.0, 12.0), Booked("crane", "B", 11.0, 13.0)
        self.assertEqual(clashes([b, a]), ((a, b),))
        self.assertEqual(clashes([a, Booked("crane", "B", 12.0, 13.0)]), ())  # handed over on the spot
        self.assertEqual(clashes([a, Booked("lift", "B", 9.0, 12.0)]), ())
        self.assertEqual(clashes([a, Booked("crane", "A", 10.0, 11.0)]), ())

    def test_any_two_that_overlap_are_found(self):
        """Against every pair looked at one by one."""
        drawn = random.Random(7)
        for _ in range(200):
            rows = []
            for n in range(6):
                start = drawn.uniform(6.0, 16.0)
                rows.append(Booked("crane", "ABC"[n % 3], start, start + drawn.uniform(0.2, 4.0)))
            pairs = {
                frozenset((x, y))
                for x in rows
                for y in rows
                if x.who != y.who and max(x.start, y.start) < min(x.end, y.end)
            }
            self.assertEqual({frozenset(pair) for pair in clashes(rows)}, pairs)

    def test_backwards(self):
        with self.assertRaises(NotSolvable):
            forwards(Booked("crane", "A", 12.0, 12.0))


class Wood(unittest.TestCase):
    MASS = Estimate(2000.0, 1600.0, 2500.0, Kind.ESTIMATED)
    DENSITY = Estimate(1000.0, 900.0, 1100.0, Kind.ASSUMED)

    def test_by_hand(self):
        """2000 kg, 40 % chipped: 800 kg at 300 kg/m³ lie in 2.667 m³, 1200 kg at 1000 are 1.2 m³; 7.1 m of thick wood
        in logs of 2 m are four. A truck of 12 m³ and 3.5 t takes it at once, one of 3 m³ in ⌈(2.667 + 1.8)/3⌉ = 2.
        """
        found = wood_of(self.MASS, 0.4, self.DENSITY, 7.1, 2.0)
        self.assertEqual((found.logs, found.loads), (4, 1))
        self.assertAlmostEqual(found.chip_volume.value, 800.0 / 300.0)
        self.assertAlmostEqual(found.log_volume.value, 1.2)
        self.assertAlmostEqual(found.log_volume.low, 0.6 * 1600.0 / 1100.0)
        self.assertAlmostEqual(found.log_volume.high, 0.6 * 2500.0 / 900.0)
        self.assertAlmostEqual(found.energy.value, 4400.0)
        self.assertAlmostEqual(found.energy.low, 1600.0 * 1.6)
        self.assertAlmostEqual(found.energy.high, 2500.0 * 3.0)
        self.assertEqual(wood_of(self.MASS, 0.4, self.DENSITY, 8.0, 2.0).logs, 4)
        self.assertEqual(wood_of(self.MASS, 0.4, self.DENSITY, 7.1, 2.0, Truck(3.0, 3500.0)).loads, 2)
        self.assertEqual(wood_of(self.MASS, 0.4, self.DENSITY, 7.1, 2.0, Truck(12.0, 900.0)).loads, 3)

    def test_what_no_log_and_no_truck_is(self):
        for wrong in (
            {"log_length": 0.0},
            {"truck": Truck(0.0, 100.0)},
            {"truck": Truck(1.0, 0.0)},
            {"chip_share": 1.1},
        ):
            said = {"chip_share": 0.4, "thick": 7.0, "log_length": 2.0, **wrong}
            with self.assertRaises(OutOfRange):
                wood_of(
                    self.MASS, said["chip_share"], self.DENSITY, 7.0, said["log_length"], said.get("truck", Truck())
                )

    def test_a_cone_is_thick_up_to_where_it_is_as_thin_as_the_throat(self):
        class Cone:
            top = 10.0

            def diameter_at(self, z):
                return 0.5 * (1.0 - z / self.top)

        self.assertAlmostEqual(thick_stem(Cone(), 10.0, 0.15), 7.0, places=6)
        self.assertEqual(thick_stem(Cone(), 4.0, 0.15), 4.0)
        self.assertAlmostEqual(thick_stem(Cone(), 10.0, 0.6), 0.0, places=6)


class Price(unittest.TestCase):
    def test_by_hand(self):
        """Costs 1000 (800 to 1500), the wood brings 200 (100 to 400), a stump 80, a fifth on top: 1.2 · 880 = 1056;
        at best 1.2 · (800 − 400 + 80) = 576, at worst 1.2 · (1500 − 100 + 80) = 1776.
        """
        paid = Estimate(1000.0, 800.0, 1500.0, Kind.ESTIMATED)
        found = asked(paid, Estimate(200.0, 100.0, 400.0, Kind.ESTIMATED), 80.0, 0.2)
        self.assertEqual([round(v, 9) for v in (found.value, found.low, found.high)], [1056.0, 576.0, 1776.0])

    def test_wood_worth_more_than_the_work_costs_nothing(self):
        self.assertEqual(asked(exactly(100.0), exactly(300.0), 0.0, 0.1).value, 0.0)


class UntilBack(unittest.TestCase):
    def test_by_the_table(self):
        """60 s to tie, 20 s to call, 0.05 m² at 300 s are 15 s, 10 m let down at 3 s: 125 s; dragging is not in it."""
        pick = PickWork(
            name="1", before=(), tie=(Task("tie", 1.0),), cut=(Task("call", 1.0), Task("cut", 0.05)),
            lower=(Task("lower", 10.0),), untie=(), back=(), drag=(Task("drag", 500.0),), chip=(), log=(),
        )  # fmt: skip
        found = until_back(pick)
        self.assertAlmostEqual(found.value, 125.0)
        self.assertAlmostEqual(found.low, 25.0 + 8.0 + 5.0 + 10.0)
        self.assertAlmostEqual(until_back(pick, dict.fromkeys(("tie", "call", "cut", "lower"), 2.0)).value, 250.0)
        self.assertFalse(math.isclose(found.high, found.value))
