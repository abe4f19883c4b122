"""Learning: posteriors and biases worked out by hand, a cell's lines gathered, its peak against the trace."""

import math
import random
import statistics
import unittest

from treecore.errors import BadDocument, NotSolvable, OutOfRange
from treecore.estimate import Estimate, Kind
from treecore.learning.bias import Pair, bias_of, by_tree, learnt, offset_of
from treecore.learning.cell import Gatherer, hangs, peak_of, read_line, simulated
from treecore.learning.pick_outcome import PickOutcome, PlannedPick, not_more_than_it_stood, pick_outcome


class BiasByHand(unittest.TestCase):
    def test_three_over_read(self):
        """Estimates of 110, 100 and 121 kg of pieces of 100 kg: logarithms 0.09531, 0 and 0.19062, mean 0.09531,
        standard deviation 0.09531; t of two is 4.30, so the mean is known to 4.30 · 0.09531 / √3 = 0.23662.
        """
        found = bias_of([Pair(v, 0.8 * v, 1.05 * v, 100.0) for v in (110.0, 100.0, 121.0)])
        self.assertAlmostEqual(found.mean, 0.0953102, places=6)
        self.assertAlmostEqual(found.spread, 0.0953102, places=6)
        self.assertAlmostEqual(found.high - found.mean, 0.23662, places=4)
        self.assertAlmostEqual(found.over, 0.10, places=9)
        self.assertEqual((found.records, found.inside), (3, 1.0))

    def test_under_read_is_negative_and_outside_counts(self):
        found = bias_of([Pair(80.0, 76.0, 84.0, 100.0), Pair(100.0, 90.0, 110.0, 100.0)])
        self.assertLess(found.mean, 0.0)
        self.assertEqual(found.inside, 0.5)

    def test_one_record_says_nothing_of_the_spread(self):
        found = bias_of([Pair(110.0, 90.0, 120.0, 100.0)])
        self.assertEqual((found.low, found.high), (-math.inf, math.inf))
        self.assertIsNone(bias_of([]))

    def test_nothing_is_no_weight(self):
        with self.assertRaises(NotSolvable):
            bias_of([Pair(0.0, 0.0, 1.0, 5.0)])


class PosteriorByHand(unittest.TestCase):
    DENSITY = Estimate(900.0, 900.0 * math.exp(-0.2), 900.0 * math.exp(0.2), Kind.ASSUMED)  # one deviation is 0.1

    def test_two_heavy_logs(self):
        """Prior deviation 0.1, precision 100. Two pieces weighed 10 % more than modelled: logarithm 0.0953102 twice.
        Their variance: (4 · 0.15² + 0) / 6 = 0.015, precision 2 / 0.015 = 133.33. Shift 133.33 · 0.0953102 / 233.33 =
        0.0544630; 900 · e^0.0544630 = 950.376; what is left √(1/233.33) = 0.0654654.
        """
        found = learnt(self.DENSITY, [Pair(100.0, 80.0, 120.0, 110.0)] * 2, 0.15)
        self.assertAlmostEqual(found.shift, 0.0544630, places=6)
        self.assertAlmostEqual(found.after.value, 900.0 * math.exp(0.0544630), places=3)
        self.assertAlmostEqual(found.left, 0.0654654, places=6)
        self.assertAlmostEqual(math.log(found.after.high / found.after.value), 2 * 0.0654654, places=6)
        self.assertAlmostEqual(math.log(found.after.value / found.after.low), 2 * 0.0654654, places=6)

    def test_none_changes_nothing(self):
        self.assertEqual(learnt(self.DENSITY, [], 0.15).after, self.DENSITY)

    def test_many_records_find_the_truth_whatever_the_prior_said(self):
        """Sampled: pieces 20 % heavier than modelled, each off by 15 %: two hundred tell, and the interval holds it."""
        held, drawn = 0, random.Random(5)
        for _ in range(100):
            pairs = [Pair(100.0, 70.0, 130.0, 120.0 * math.exp(drawn.gauss(0.0, 0.15))) for _ in range(200)]
            after = learnt(self.DENSITY, pairs, 0.15).after
            held += after.low <= 1080.0 <= after.high
            self.assertAlmostEqual(after.value / 1080.0, 1.0, delta=0.05)
        self.assertGreaterEqual(held, 90)

    def test_the_interval_is_stated_rightly_over_yards_as_the_prior_has_them(self):
        """Yards drawn from the prior, eight records each: about 95 % of the intervals hold the yard's own figure."""
        held, drawn = 0, random.Random(11)
        for _ in range(1000):
            own = 900.0 * math.exp(drawn.gauss(0.0, 0.1))
            pairs = [Pair(900.0, 600.0, 1200.0, own * math.exp(drawn.gauss(0.0, 0.15))) for _ in range(8)]
            after = learnt(self.DENSITY, pairs, 0.15).after
            held += after.low <= own <= after.high
        self.assertAlmostEqual(held / 1000.0, 0.954, delta=0.025)


class OffByHand(unittest.TestCase):
    def test_mean_and_spread_of_three_lays(self):
        """2°, 5° and −1° clockwise: mean 2°, deviations 0, 3 and −3, spread √(18/2) = 3°."""
        found = offset_of([math.radians(d) for d in (2.0, 5.0, -1.0)])
        self.assertAlmostEqual(math.degrees(found.mean), 2.0)
        self.assertAlmostEqual(math.degrees(found.spread), 3.0)
        self.assertEqual(found.records, 3)

    def test_two_tell_a_spread_and_one_does_not(self):
        self.assertAlmostEqual(offset_of([1.0, 3.0]).spread, math.sqrt(2.0))
        self.assertEqual(offset_of([1.0]).spread, math.inf)
        self.assertIsNone(offset_of([]))

    def test_a_trees_pieces_tell_once(self):
        """Two pieces of one tree at 1.2 and 1/1.2 of the model are none off; one of another at 1.1 is that."""
        pairs = [Pair(10.0, 9.0, 11.0, 12.0), Pair(12.0, 9.0, 15.0, 10.0), Pair(10.0, 9.0, 11.0, 11.0)]
        found = by_tree(pairs, [4, 4, 9])
        self.assertEqual([round(pair.actual, 12) for pair in found], [1.0, 1.1])


class PickBesidePlan(unittest.TestCase):
    def test_each_quantity_beside_its_plan(self):
        plan = PlannedPick(mass=Estimate(100.0, 70.0, 140.0, Kind.ESTIMATED), wraps=2.0)
        rows = {r.key: r for r in pick_outcome(plan, PickOutcome(mass=150.0, wraps=3.0, run=2.0))}
        self.assertEqual(set(rows), {"mass", "wraps"})  # nothing was planned of a run
        self.assertEqual((rows["mass"].difference, rows["mass"].inside), (50.0, False))
        self.assertEqual((rows["wraps"].difference, rows["wraps"].inside), (1.0, None))

    def test_what_no_pick_is(self):
        for bad in (
            {"mass": 0.0},
            {"mass": 9e4},
            {"peak_point": -1.0},
            {"wraps": 13.0},
            {"run": 61.0},
            {"seconds": 86401.0},
        ):
            with self.subTest(bad), self.assertRaises(OutOfRange):
                PickOutcome(**bad)
        PickOutcome(seconds=86400.0)
        with self.assertRaises(NotSolvable):
            not_more_than_it_stood(2001.0, 2000.0)
        not_more_than_it_stood(2000.0, 2000.0)


def gathered(lines):
    cell = Gatherer()
    found = [second for line in lines for second in cell.line(line)]
    return found + list(cell.rest())


class Cell(unittest.TestCase):
    def test_units(self):
        self.assertEqual(read_line("1.5,2,kN").force, 2000.0)
        self.assertAlmostEqual(read_line("1.5,100,kgf").force, 980.665)
        self.assertAlmostEqual(read_line("1.5,1000,lbf").force, 4448.2216, places=3)

    def test_rubbish(self):
        for line in (
            "",
            "1.2,3",
            "a,b,kN",
            "1,2,stone",
            "nan,1,kN",
            "1,inf,kN",
            "-1,2,kN",
            "1,9e9,kN",
            "1,2,kN," + "x" * 90,
        ):
            with self.subTest(line), self.assertRaises(BadDocument):
                read_line(line)

    def test_peak_hold_against_the_trace(self):
        """A hundred readings a second of a known half sine of 8 kN in 3 s: the peak is its top, at a reading."""
        forces = [8000.0 * math.sin(math.pi * n / 300.0) for n in range(300)]
        seconds = gathered(f"{n / 100:.2f},{force / 1000:.6f},kN" for n, force in enumerate(forces))
        self.assertEqual([s.number for s in seconds], [0, 1, 2])
        self.assertEqual(sum(len(s.readings) for s in seconds), 300)
        self.assertAlmostEqual(peak_of(seconds), max(forces), delta=0.001)

    def test_a_gap_is_said_and_a_second_without_readings_is_not_there(self):
        seconds = gathered(["0.0,1,kN", "0.5,1,kN", "0.9,1,kN", "3.2,2,kN", "what", "3.3,2,kN"])
        self.assertEqual([s.number for s in seconds], [0, 3])
        self.assertAlmostEqual(seconds[0].silent, 0.9)  # 0.5 s and 0.4 s; the last 0.1 s is no gap
        self.assertEqual(seconds[1].rubbish, 1)

    def test_a_jump_of_units_is_converted_and_told(self):
        seconds = gathered(["0.0,1,kN", "0.1,1000,N", "1.2,1,kN", "1.3,1,kN"])
        self.assertEqual(seconds[0].readings, ((0.0, 1000.0), (0.1, 1000.0)))
        self.assertEqual([s.jumped for s in seconds], [True, True])

    def test_a_cell_switched_on_anew_goes_on_where_it_was(self):
        seconds = gathered(["50.0,1,kN", "51.5,2,kN", "0.0,3,kN", "1.0,4,kN"])
        self.assertEqual([(s.number, s.peak) for s in seconds], [(0, 1000.0), (1, 3000.0), (2, 4000.0)])

    def test_what_hangs_is_the_middle_of_the_last_seconds(self):
        seconds = gathered(f"{n / 10:.1f},{1.0 + (n % 3) / 10:.1f},kN" for n in range(90))
        self.assertEqual(hangs(seconds), statistics.median(1000.0 + 100.0 * (n % 3) for n in range(60, 90)))

    def test_the_stand_in_follows_the_motion_between_its_times(self):
        trace = [(0.0, 0.0), (1.0, 4000.0), (2.0, 2000.0)]
        self.assertEqual(
            [simulated(t, trace, 900.0) for t in (-1.0, 0.5, 1.5, 2.0, 9.0)], [0.0, 2000.0, 3000.0, 900.0, 900.0]
        )
        uneven = [(0.0, 1000.0), (0.5, 3000.0), (3.0, 500.0)]
        self.assertAlmostEqual(simulated(0.1, uneven, 0.0), 1400.0)
        self.assertAlmostEqual(simulated(1.5, uneven, 0.0), 2000.0)
        self.assertEqual([simulated(-0.1, uneven, 7.0), simulated(1.0, [], 7.0)], [0.0, 0.0])

    def test_a_cell_may_have_been_on_for_ten_days(self):
        self.assertEqual(read_line("864000,1,N").at, 864000.0)
        with self.assertRaises(BadDocument):
            read_line("864001,1,N")


if __name__ == "__main__":
    unittest.main()
