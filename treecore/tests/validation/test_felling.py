"""Notch, hinge and balance against exact or hand-computed values."""

import math
from unittest import TestCase

from treecore.errors import CoreError, NotSolvable, OutOfRange
from treecore.felling.balance import (
    commit_angle,
    pivot_offset,
    pull_moments,
    wedge_arm,
    wedge_drive,
    wedge_lever,
    wedge_lift,
    wind_force,
)
from treecore.felling.hinge import bending_moment, thick_limit, thin_limit
from treecore.felling.notch import Cuts, aim_off, closing_angle, ground_angle, notch_outline
from treecore.rigging.line import Pull
from treecore.site import Site, bearing, place
from treecore.tests.scenes import CUTS
from treecore.tree.chord import hinge_chord


class Notch(TestCase):
    def test_exact_chords_of_an_ellipse(self):
        for fraction, share in [(0.2, 4 / 5), (0.25, 3**0.5 / 2), (1 / 3, 8**0.5 / 3), (0.5, 1.0)]:
            with self.subTest(fraction=fraction):
                self.assertAlmostEqual(hinge_chord(fraction * 0.60, along=0.60, across=0.50), share * 0.50, places=12)

    def test_forty_degrees_in_a_stem_leaning_twelve_back_closes_at_twenty_eight(self):
        self.assertAlmostEqual(math.degrees(closing_angle(math.radians(40), math.radians(-12))), 28.0, places=12)

    def test_ground_is_further_downhill(self):
        site = Site(slope=math.radians(20), downhill=math.radians(90))
        for lay, degrees in ((90, 110), (270, 70), (0, 90)):
            self.assertAlmostEqual(
                math.degrees(ground_angle(site.falling_ground(math.radians(lay)))), degrees, places=9
            )

    def test_aim_off(self):
        self.assertAlmostEqual(aim_off(1.0, 2.0), math.pi / 6, places=12)
        with self.assertRaises(NotSolvable):
            aim_off(3.0, 2.0)

    def test_outline_opens_by_the_angle_asked_for(self):
        for kind in ("conventional", "reversed", "open"):
            cuts = Cuts(
                along=0.82,
                across=0.78,
                stump=0.35,
                depth=0.17,
                opening=math.radians(70),
                hinge=0.07,
                rise=0.03,
                notch_school=kind,
            )
            apex, lower, upper = notch_outline(cuts)
            up = math.atan2(upper[1] - apex[1], upper[0] - apex[0])
            down = math.atan2(lower[1] - apex[1], lower[0] - apex[0])
            self.assertAlmostEqual(math.degrees(up - down), 70.0, places=9, msg=kind)

    def test_refusals(self):
        for field, change in {
            "depth": {"depth": 0.9},
            "hinge": {"hinge": 0.66},
            "opening": {"opening": math.inf},
            "stump": {"stump": -0.1},
            "rise": {"rise": 0.5},
        }.items():
            values = {n: getattr(CUTS, n) for n in ("along", "across", "stump", "depth", "opening", "hinge", "rise")}
            with self.subTest(field=field), self.assertRaises(OutOfRange) as caught:
                Cuts(**(values | change))
            self.assertEqual(caught.exception.field, field)


class Hinge(TestCase):
    def test_limits_by_hand(self):
        # 6 kN·m across, 40 MPa, half kept, 0.6 m long: 36000/(0.5·40e6·0.36) = 5 mm
        self.assertAlmostEqual(thin_limit(-6000.0, 40e6, 0.5, 0.6), 0.005, places=12)
        # 0.05 m thick: 40e6·0.6·0.0025/6 = 10 kN·m; fully plastic half as much again, a quarter instead of a sixth
        self.assertAlmostEqual(bending_moment(40e6, 0.6, 0.05), 10000.0, places=6)
        self.assertAlmostEqual(bending_moment(40e6, 0.6, 0.05, 1.5), 40e6 * 0.6 * 0.05**2 / 4.0, places=6)

    def test_thick_limit_inverts_the_bending_moment(self):
        self.assertAlmostEqual(thick_limit(10000.0, 40e6, 0.6), 0.05, places=12)
        self.assertAlmostEqual(thick_limit(15000.0, 40e6, 0.6, 1.5), 0.05, places=12)
        self.assertEqual(thick_limit(-1.0, 40e6, 0.6), 0.0)


class Balance(TestCase):
    def test_a_plumb_tree_sits_back_of_the_hinge(self):
        # D/2 − depth − t/2 = 0.41 − 0.17 − 0.035
        self.assertAlmostEqual(pivot_offset(0.82, 0.17, 0.07), 0.205, places=12)
        self.assertAlmostEqual(wedge_lever(0.82, 0.17, 0.07), 0.615, places=12)

    def test_wedge_lift(self):
        # 0.6 m lever, turned until a CG 0.3 m back and 9 m up is over the hinge: 20 mm; over it already: nothing
        self.assertAlmostEqual(wedge_lift(0.6, math.atan(0.3 / 9.0)), 0.02, places=12)
        self.assertEqual(wedge_lift(0.6, -0.1), 0.0)

    def test_a_wedge_bears_inside_the_rim_of_an_oval(self):
        # Stem 0.8 along, 0.6 across, wedge 30° to the right of straight behind, 10 cm inside the rim.
        behind, beside = wedge_arm(0.8, 0.6, 0.1, math.radians(30.0))
        rim = math.hypot(behind, beside) + 0.1
        x, y = rim * math.cos(math.radians(30.0)), rim * math.sin(math.radians(30.0))
        self.assertAlmostEqual((x / 0.4) ** 2 + (y / 0.3) ** 2, 1.0, places=12)
        self.assertAlmostEqual(math.atan2(beside, behind), math.radians(30.0), places=12)
        mirror = wedge_arm(0.8, 0.6, 0.1, math.radians(-30.0))
        self.assertAlmostEqual(mirror[0], behind, places=12)
        self.assertAlmostEqual(mirror[1], -beside, places=12)

    def test_frictionless_wedge_is_its_slope(self):
        self.assertAlmostEqual(wedge_drive(1000.0, 0.12, 0.0), 2000.0 * math.tan(0.06), places=9)

    def test_pull_moment_against_the_cross_product(self):
        # Tie 12 m above the hinge at (-0.5, 0.3); anchor 30 m off, 40° right of the lay, 2 m below the hinge.
        pull = Pull(tie=12.4, azimuth=math.radians(120), distance=30.0, anchor=-1.6, force=7000.0)
        lean, pivot = (-0.2 / 12.0, 0.3 / 12.0), 0.3
        tie = (-0.2 - 0.3, 0.3, 12.0)
        anchor = (30 * math.cos(math.radians(40)) - 0.3, 30 * math.sin(math.radians(40)), -2.0)
        line = [a - t for a, t in zip(anchor, tie, strict=True)]
        force = [7000.0 * v / math.sqrt(sum(x * x for x in line)) for v in line]
        forward = tie[2] * force[0] - tie[0] * force[2]
        right = tie[2] * force[1] - tie[1] * force[2]
        got = pull_moments(pull, math.radians(80), 0.4, pivot, lean)
        self.assertAlmostEqual(got[0], forward, places=6)
        self.assertAlmostEqual(got[1], right, places=6)

    def test_wind(self):
        self.assertAlmostEqual(wind_force(80.0, 10.0, 0.6 * 1.25), 3000.0, places=9)

    def test_commit_angle_balances_the_moments(self):
        turn = commit_angle(44e3, 0.4, 8.6, 30e3)
        back, height = 0.4, 8.6
        ahead = height * math.sin(turn) - back * math.cos(turn)  # CG past the pivot after the turn
        self.assertAlmostEqual(44e3 * ahead, 30e3, places=6)

    def test_a_line_tied_below_the_cut_is_refused(self):
        with self.assertRaises(CoreError) as caught:
            pull_moments(Pull(tie=0.35, azimuth=0, distance=20, anchor=0, force=1), 0.0, 0.4, 0.2, (0.0, 0.0))
        self.assertEqual(caught.exception.field, "pull_tie")


class Bearings(TestCase):
    def test_a_lay_of_365_degrees_is_5_and_says_so(self):
        turned, changed = bearing(math.radians(365))
        self.assertAlmostEqual(math.degrees(turned), 5.0, places=9)
        self.assertTrue(changed)
        self.assertEqual(bearing(0.5), (0.5, False))
        self.assertAlmostEqual(math.degrees(bearing(math.radians(-90))[0]), 270.0, places=9)
        for slip in (2655, 721, -361, math.inf, math.nan):
            with self.subTest(slip=slip), self.assertRaises(CoreError):
                bearing(math.radians(slip))

    def test_right_of_a_lay_east_is_south(self):
        x, y = place(Site(), math.pi / 2, 10.0, 2.0)
        self.assertAlmostEqual(x, 10.0, places=9)
        self.assertAlmostEqual(y, -2.0, places=9)
