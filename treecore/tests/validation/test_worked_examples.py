"""Worked examples and tables from books, as far as they are remembered: the book's number, not our formula's.

Read from memory and held to the digits that are remembered.
"""

import math
from unittest import TestCase

from treecore.felling.bucking import Log, bending
from treecore.rigging.forces import block_force, shared, stretch_peak, swing_tension, turn_between, two_legs
from treecore.rigging.friction import hand_force, wraps_for
from treecore.units import GRAVITY


class Rope(TestCase):
    def test_a_hawser_round_a_bollard(self):
        """Beer and Johnston, Vector Mechanics: 7,500 N on two turns is held by 150 N; μ 0.311, 52.5 kN on three."""
        mu = 0.311
        self.assertAlmostEqual(hand_force(7500.0, mu, 2.0), 150.0, delta=1.0)
        self.assertAlmostEqual(wraps_for(7500.0, 150.0, mu), 2.0, delta=0.01)
        self.assertAlmostEqual(hand_force(52_500.0, mu, 3.0), 150.0, delta=1.5)

    def test_sling_legs_by_their_angle_to_the_level(self):
        """The table of rigging handbooks: tension over half the load at 60°, 45° and 30° above the level."""
        for above, factor in ((60.0, 1.155), (45.0, 1.414), (30.0, 2.000)):
            off = math.radians(90.0 - above)
            left, right = two_legs(1000.0, off, off)
            with self.subTest(above=above):
                self.assertAlmostEqual(left / 500.0, factor, places=3)
                self.assertAlmostEqual(right, left, places=6)

    def test_blocks_by_the_angle_between_their_legs(self):
        """The table of rigging handbooks: load on a block over the line's pull."""
        for between, factor in ((0.0, 2.00), (45.0, 1.84), (60.0, 1.73), (90.0, 1.41), (120.0, 1.00), (150.0, 0.52)):
            a = math.radians(between)
            legs = (0.0, 0.0, -1.0), (math.sin(a), 0.0, -math.cos(a))
            with self.subTest(between=between):
                self.assertAlmostEqual(math.hypot(*block_force(*legs, 1.0, 1.0)), factor, delta=0.012)
                self.assertAlmostEqual(math.degrees(turn_between(*legs)), 180.0 - between, delta=1e-4)

    def test_a_load_put_on_suddenly(self):
        """Timoshenko, Strength of Materials: twice what the same load does when it is put on slowly."""
        self.assertAlmostEqual(float(stretch_peak(980.7, 0.0, 2e4)), 2.0 * 980.7, places=6)

    def test_a_climber_on_a_rope(self):
        """Wexler 1950, theory of belaying: 150 lb, factor of fall 1, M 4,000 lb per unit strain: about 1,260 lb."""
        weight, stretch_modulus, length, fall = 150.0, 4000.0, 40.0, 40.0
        peak = float(stretch_peak(weight, fall, stretch_modulus / length))
        self.assertAlmostEqual(peak, 150.0 + math.sqrt(150.0**2 + 2.0 * 150.0 * 4000.0), places=6)
        self.assertAlmostEqual(peak, 1260.0, delta=10.0)

    def test_a_pendulum_let_go_level(self):
        """Any text on mechanics: three times its weight at the lowest place."""
        self.assertAlmostEqual(swing_tension(500.0, math.pi / 2.0), 1500.0, places=9)


class Beams(TestCase):
    def log(self, *supports, length=6.0):
        # A cylinder 0.3 m thick that weighs 600 N a metre.
        area = math.pi / 4.0 * 0.3**2
        density = 600.0 / GRAVITY / area
        return Log(length=length, butt=0.3, tip=0.3, density=density, stiffness=9e9, strength=4e7, supports=supports)

    def test_on_both_ends(self):
        """Gere, Mechanics of Materials, appendix: w·L²/8 in the middle, w·L/2 on each end."""
        found = bending(self.log(0.0, 6.0))
        self.assertAlmostEqual(abs(found.moment).max(), 600.0 * 36.0 / 8.0, delta=3.0)
        for load in found.loads:
            self.assertAlmostEqual(load, 1800.0, delta=2.0)

    def test_on_three_props(self):
        """The same appendix: two equal spans carry 3/8, 10/8 and 3/8 of w·L, and −w·L²/8 over the middle."""
        found = bending(self.log(0.0, 3.0, 6.0))
        for load, share in zip(found.loads, (3 / 8, 10 / 8, 3 / 8), strict=True):
            self.assertAlmostEqual(load, share * 600.0 * 3.0, delta=12.0)

    def test_an_overhanging_end(self):
        """The same appendix: w·a²/2 over the support that an end of a reaches beyond."""
        found = bending(self.log(1.5, 6.0))
        over = min(range(len(found.x)), key=lambda i: abs(found.x[i] - 1.5))
        self.assertAlmostEqual(abs(found.moment[over]), 600.0 * 1.5**2 / 2.0, delta=12.0)

    def test_two_people_and_a_plank(self):
        """Any text on statics: a load a third along a plank leaves two thirds to the nearer end."""
        self.assertEqual([round(part, 6) for part in shared(900.0, 0.0, 3.0, 1.0)], [600.0, 300.0])
