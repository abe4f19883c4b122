"""Readings against hand computation: plane trigonometry, similar triangles, inverse variance."""

import math
from unittest import TestCase

from treecore.errors import NotSolvable, OutOfRange
from treecore.estimate import Kind, plus_minus
from treecore.measuring import (
    combine,
    diameter_from_girth,
    height_by_rope,
    height_by_sine,
    height_by_stick,
    height_by_tangent,
    lean_from_offset,
    read,
)


class Heights(TestCase):
    def test_stick_as_long_as_the_reach_gives_the_distance(self):
        self.assertAlmostEqual(height_by_stick(26.4, 0.66, 0.66, sighted=0.35), 26.75, places=12)
        self.assertAlmostEqual(height_by_stick(20.0, 0.5, 0.625), 16.0, places=12)

    def test_tangent_with_exact_angles(self):
        # 45° up and 30° down at 30 m: 30·(1 + 1/√3)
        got = height_by_tangent(30.0, math.pi / 4, -math.pi / 6)
        self.assertAlmostEqual(got, 30.0 + 30.0 / math.sqrt(3.0), places=10)

    def test_tangent_from_a_slope_distance(self):
        # 20 m taped on a 60° grade is 10 m level; both sights up: 10·(tan 75° − tan 60°) = 20
        got = height_by_tangent(20.0, math.radians(75.0), math.radians(60.0), slope=math.radians(60.0))
        self.assertAlmostEqual(got, 10.0 * (2.0 + math.sqrt(3.0) - math.sqrt(3.0)), places=10)

    def test_tangent_corrects_a_tip_that_stands_towards_the_eye(self):
        # tip at (27, 25), foot at (30, -1.6) as seen from the eye
        got = height_by_tangent(30.0, math.atan2(25.0, 27.0), math.atan2(-1.6, 30.0), toward=3.0)
        self.assertAlmostEqual(got, 26.6, places=10)
        uncorrected = height_by_tangent(30.0, math.atan2(25.0, 27.0), math.atan2(-1.6, 30.0))
        self.assertGreater(uncorrected, got)

    def test_sine_of_a_leaning_tree_needs_no_correction(self):
        top, foot = (27.0, 25.0), (30.0, -1.6)
        got = height_by_sine(
            math.hypot(*top), math.atan2(top[1], top[0]), math.hypot(*foot), math.atan2(foot[1], foot[0])
        )
        self.assertAlmostEqual(got, 26.6, places=10)

    def test_rope(self):
        self.assertAlmostEqual(height_by_rope(45.0, 1.5, 5.5), 27.25, places=12)

    def test_girth_and_lean(self):
        self.assertAlmostEqual(diameter_from_girth(math.pi * 0.74), 0.74, places=12)
        self.assertAlmostEqual(lean_from_offset(5.0, 5.0 * math.sqrt(3.0)), math.radians(30.0), places=12)

    def test_refusals_name_the_quantity(self):
        bad = [
            ("distance", lambda: height_by_stick(0.0, 0.6, 0.6)),
            ("height", lambda: height_by_stick(300.0, 1.0, 0.5)),
            ("top", lambda: height_by_tangent(20.0, -0.2, -0.1)),
            ("toward", lambda: height_by_tangent(20.0, 0.5, -0.1, toward=25.0)),
            ("on_ground", lambda: height_by_rope(40.0, 41.0, 1.0)),
            ("girth", lambda: diameter_from_girth(math.nan)),
            ("girth", lambda: diameter_from_girth(9.0 * math.pi)),
        ]
        for field, call in bad:
            with self.subTest(field=field), self.assertRaises((OutOfRange, NotSolvable)) as caught:
                call()
            self.assertEqual(caught.exception.field, field)


class Combining(TestCase):
    def test_weights_are_inverse_variances(self):
        # sd 1 at 10 and sd 0.5 at 12: weights 1:4, mean 11.6; chi² = 2²/(1 + 0.25) = 3.2, so sd = √3.2/√5
        got = combine([plus_minus(10.0, 1.0, Kind.MEASURED), plus_minus(12.0, 0.5, Kind.MEASURED)])
        self.assertAlmostEqual(got.estimate.value, 11.6, places=12)
        self.assertAlmostEqual(got.weights[1], 0.8, places=12)
        self.assertAlmostEqual(got.disagreement, math.sqrt(3.2), places=12)
        self.assertAlmostEqual(got.estimate.sd, math.sqrt(3.2 / 5.0), places=12)

    def test_agreeing_readings_narrow_but_never_below_their_own_precision(self):
        got = combine([plus_minus(20.0, 0.6, Kind.MEASURED)] * 4)
        self.assertAlmostEqual(got.estimate.sd, 0.3, places=12)

    def test_a_reading_uses_the_default_spread_of_its_method(self):
        got = read("rope", {"length": 45.0, "on_ground": 1.5, "above": 5.5})
        self.assertAlmostEqual(got.sd, math.hypot(0.02 * 27.25, 0.5), places=12)

    def test_nothing_to_combine(self):
        with self.assertRaises(NotSolvable):
            combine([])
