"""The fall against the toppling rod's energy, a step-by-step integration done apart, and its own limits."""

import math
from dataclasses import replace
from unittest import TestCase

from treecore.errors import CoreError
from treecore.felling.fall import Turning, fall, turned
from treecore.felling.wedges import Wedges
from treecore.tests.scenes import CUTS, PLAN

ROD = Turning(100 * 10**2 / 3, 980.665, -5 * math.sin(0.1), 5 * math.cos(0.1), 0.0, 0.0, 0.0, math.pi / 2 - 0.1)


def stepped(t, closes, dt=2e-5):
    """Time and speed by small steps of time from the turn at which it moves, the plain way."""
    r, balance = math.hypot(t.back, t.height), math.atan2(t.back, t.height)
    commit = balance + math.asin(t.hinge / (t.weight * r))
    turn = speed = time = 0.0
    while turn < t.ends:
        moment = t.weight * r * math.sin(turn - balance) - t.air * speed**2
        moment += (t.help if turn < commit else 0.0) - (t.hinge if turn < closes else 0.0)
        speed += moment / t.inertia * dt
        turn += speed * dt
        time += dt
    return time, speed


class Rods(TestCase):
    def test_speed_of_a_toppling_rod_by_energy(self):
        # From 0.1 rad past upright to level: ω² = 3·g/ℓ·cos 0.1
        _, speed, goes = turned(ROD, 1.0)
        self.assertTrue(goes)
        self.assertAlmostEqual(float(speed[0]), math.sqrt(3 * 9.80665 / 10 * math.cos(0.1)), places=4)

    def test_time_and_speed_against_small_steps(self):
        heavy = Turning(480e3, 44e3, 0.35, 8.4, 24e3, 62e3, 1500.0, 1.52)
        for t, closes in ((ROD, 1.0), (heavy, 1.2)):
            time, speed, _ = turned(t, closes, 960)
            by_steps = stepped(t, closes)
            self.assertAlmostEqual(float(time[0]), by_steps[0], delta=0.006 * by_steps[0])
            self.assertAlmostEqual(float(speed[0]), by_steps[1], delta=0.002 * by_steps[1])

    def test_steps_of_the_program_are_fine_enough(self):
        heavy = Turning(480e3, 44e3, 0.35, 8.4, 24e3, 62e3, 1500.0, 1.52)
        coarse, fine = turned(heavy, 1.2), turned(heavy, 1.2, 4000)
        self.assertAlmostEqual(float(coarse[0][0]), float(fine[0][0]), delta=0.01 * float(fine[0][0]))
        self.assertAlmostEqual(float(coarse[1][0]), float(fine[1][0]), delta=0.002 * float(fine[1][0]))

    def test_a_stem_that_is_not_brought_over_does_not_fall(self):
        self.assertFalse(turned(ROD._replace(back=0.4), 1.0)[2])


class Plans(TestCase):
    def test_intervals_order_and_meaning(self):
        found = fall(PLAN)
        for figure in found.figures:
            self.assertTrue(0 <= figure.estimate.low <= figure.estimate.value <= figure.estimate.high, figure.key)
        self.assertAlmostEqual(found.walked.estimate.value, 1.4 * (found.time.estimate.value - 0.8), places=9)
        inertia = found.energy.terms[0].value
        turning = found.tip_speed.estimate.value / (27.0 - 0.35)
        self.assertAlmostEqual(
            found.energy.estimate.value, 0.5 * inertia * turning**2, delta=1e-6 * found.energy.estimate.value
        )

    def test_more_pull_is_faster_and_too_little_is_refused(self):
        bored = replace(PLAN, saw=replace(PLAN.saw, pattern="bore"))  # let go at a stroke, under all the line gives
        quick = fall(replace(bored, pull=replace(PLAN.pull, force=9000.0)))
        self.assertLess(quick.time.estimate.value, fall(bored).time.estimate.value)
        # Cut and pulled until it starts, a line that could give more makes it no quicker.
        self.assertLess(fall(bored).time.estimate.value, fall(PLAN).time.estimate.value)
        with self.assertRaises(CoreError) as caught:
            fall(replace(PLAN, pull=None, wedges=Wedges(), cuts=CUTS))
        self.assertEqual(caught.exception.field, "fall")
