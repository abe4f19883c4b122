"""A stem out of round against other geometry: chords by shapely on a turned ellipse, tapes by elliptic integrals,
mirrored.
"""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from scipy.special import ellipeinc
from shapely.affinity import rotate, scale
from shapely.geometry import LineString, Point

from treecore.estimate import Kind
from treecore.felling.balance import wedge_arm
from treecore.felling.notch import Cuts
from treecore.felling.oval import bark_marks, hinge_aside, peg, turned_to
from treecore.felling.plan import evaluate
from treecore.formats.felling_entry import felling_of
from treecore.site import Site
from treecore.tests.scenes import PLAN, TREE, mirrored
from treecore.tree.chord import hinge_chord
from treecore.units import GRAVITY

CASES = ((0.5, 1.3, 40.0, 0.0), (0.62, 1.18, 200.0, 75.0), (0.44, 0.8, 310.0, 20.0), (0.9, 1.0, 0.0, 50.0))


def ellipse(mean, oval, azimuth, lay):
    """The same stem seen with the lay along x and the right of it along −y."""
    long, short = mean * math.sqrt(oval), mean / math.sqrt(oval)
    circle = Point(0.0, 0.0).buffer(1.0, quad_segs=4000)
    return rotate(scale(circle, long / 2.0, short / 2.0), -math.degrees(math.radians(azimuth - lay)), origin=(0, 0))


def cuts_of(mean, oval, azimuth, lay, depth=0.12, **more):
    turned = turned_to(mean, oval, math.radians(azimuth), math.radians(lay))
    plain = {"stump": 0.3, "opening": 1.1, "hinge": 0.05, "rise": 0.03, "depth": depth}
    return Cuts(along=turned.along, across=turned.across, skew=turned.skew, **(plain | more))


def chord(shape, x):
    """Ends of a width across the lay: the left and the right one."""
    cut = shape.exterior.intersection(LineString([(x, -5.0), (x, 5.0)]))
    ys = sorted(p.y for p in cut.geoms)
    return ys[1], -ys[0]


class Shape(TestCase):
    def test_extent_chords_and_their_middles(self):
        for case in CASES:
            with self.subTest(case=case):
                shape, cuts = ellipse(*case), cuts_of(*case)
                self.assertAlmostEqual(shape.bounds[2] - shape.bounds[0], cuts.along, places=6)
                left, right = chord(shape, 0.0)
                self.assertAlmostEqual(left + right, cuts.across, places=6)
                apex = cuts.along / 2.0 - cuts.depth
                left, right = chord(shape, apex)
                self.assertAlmostEqual(hinge_chord(cuts.depth, cuts.along, cuts.across), left + right, places=6)
                self.assertAlmostEqual((right - left) / 2.0, cuts.skew * apex, places=6)

    def test_a_wedge_bears_inside_the_true_rim(self):
        for case in CASES:
            shape, cuts = ellipse(*case), cuts_of(*case)
            for place in (0.0, 0.5, -0.9, 2.0):
                behind, right = wedge_arm(cuts.along, cuts.across, 0.0, place, cuts.skew)
                self.assertLess(shape.exterior.distance(Point(-behind, -right)), 2e-6)


class Tapes(TestCase):
    def test_round_the_bark_by_elliptic_integrals(self):
        for mean, oval, azimuth, lay in CASES[:3]:
            cuts = cuts_of(mean, oval, azimuth, lay, taper=0.012)
            marks = bark_marks(cuts)
            a, b = mean * math.sqrt(oval) / 2.0, mean / math.sqrt(oval) / 2.0
            turn = math.radians(azimuth - lay)  # of the first axis, to the right of the lay

            def along(x, right, a=a, b=b, turn=turn):
                """Arc from the end of the first axis to a point, by the incomplete integral of the second kind."""
                first = x * math.cos(turn) + right * math.sin(turn)
                second = -x * math.sin(turn) + right * math.cos(turn)
                t = math.atan2(second / b, first / a)
                return b * ellipeinc(t, 1.0 - (a / b) ** 2)

            girth = 4.0 * b * ellipeinc(math.pi / 2.0, 1.0 - (a / b) ** 2)
            ahead = 1.0 / math.hypot(math.cos(turn) / a, math.sin(turn) / b)
            front, apex = along(ahead, 0.0), cuts.along / 2.0 - cuts.depth
            back_left, back_right = apex - cuts.hinge - 0.006, apex - cuts.hinge + 0.006
            shape = ellipse(mean, oval, azimuth, lay)
            for got, x, side in (
                (marks.apex[0], apex, 0),
                (marks.apex[1], apex, 1),
                (marks.back[0], back_left, 0),
                (marks.back[1], back_right, 1),
            ):
                ends = chord(shape, x)
                right = -ends[0] if side == 0 else ends[1]
                way = (along(x, right) - front) % girth if side else (front - along(x, right)) % girth
                self.assertAlmostEqual(got, way, places=5)
            self.assertAlmostEqual(sum(marks.behind), girth, places=5)
            self.assertAlmostEqual(marks.behind[1], girth / 2.0, places=5)

    def test_a_bar_laid_along_the_lay(self):
        for case in CASES:
            shape, cuts = ellipse(*case), cuts_of(*case)
            apex = cuts.along / 2.0 - cuts.depth
            left, right = chord(shape, apex)
            marks = bark_marks(cuts)
            for side, y in enumerate((left - (left + right) / 4.0, -right + (left + right) / 4.0)):
                ends = sorted(p.x for p in shape.exterior.intersection(LineString([(-5, y), (5, y)])).geoms)
                self.assertAlmostEqual(marks.notch[side], ends[1] - apex, places=5)
                self.assertAlmostEqual(marks.wood[side], apex - cuts.hinge - ends[0], places=5)

    def test_round_stems_read_alike_on_both_sides_and_mirrors_swap_them(self):
        marks = bark_marks(cuts_of(*CASES[3]))
        for pair in marks:
            self.assertAlmostEqual(pair[0], pair[1], places=6)
        one = bark_marks(cuts_of(0.5, 1.3, 40.0, 0.0, taper=0.01))
        other = bark_marks(cuts_of(0.5, 1.3, -40.0, 0.0, taper=-0.01))
        np.testing.assert_allclose([p[::-1] for p in one], list(other), atol=1e-9)
        self.assertGreater(abs(one.apex[0] - one.apex[1]), 0.03)


class Balance(TestCase):
    def test_the_hinge_stands_beside_the_stems_middle(self):
        flat = replace(PLAN, pull=None, wedges=replace(PLAN.wedges, count=0))
        skewed = replace(flat, cuts=replace(flat.cuts, skew=0.3))
        one, other = evaluate(flat), evaluate(skewed)
        pivot = flat.cuts.along / 2.0 - flat.cuts.depth - flat.cuts.hinge / 2.0
        self.assertAlmostEqual(hinge_aside(skewed.cuts), 0.3 * pivot, places=12)
        weight = one.figures["mass"].estimate.value * GRAVITY
        moved = other.estimates["side_moment"].value - one.estimates["side_moment"].value
        self.assertAlmostEqual(moved, -weight * 0.3 * pivot, delta=1e-6 * weight)
        self.assertAlmostEqual(other.estimates["s_oval"].value, -weight * 0.3 * pivot, delta=1e-6 * weight)
        self.assertAlmostEqual(other.estimates["margin"].value, one.estimates["margin"].value, delta=1e-6)
        mirror = evaluate(replace(mirrored(skewed), cuts=replace(mirrored(skewed).cuts, skew=-0.3)))
        for key, sign in (("side_moment", -1.0), ("thin", 1.0), ("side_most", 1.0)):
            got = mirror.estimates[key].value
            self.assertAlmostEqual(got, sign * other.estimates[key].value, delta=1e-6 * abs(got))

    def test_the_entry_turns_the_trees_oval_to_the_lay(self):
        tree = replace(TREE, oval=1.25, oval_azimuth=math.radians(30.0))
        entry = {"lay_deg": 80.0, "depth_m": 0.15, "opening_deg": 60.0, "hinge_m": 0.07, "rise_m": 0.03, "stump_m": 0.3}
        cuts = felling_of(entry, tree, Site()).cuts
        mean = tree.stem.diameter_at(0.3)
        self.assertAlmostEqual(cuts.along * cuts.across, mean**2, places=9)
        self.assertAlmostEqual(cuts.skew, cuts_of(mean, 1.25, 30.0, 80.0).skew, places=9)
        self.assertEqual(tree.lean_kind, Kind.MEASURED)

    def test_the_peg_stands_square_to_the_hinge_through_its_middle(self):
        cuts = cuts_of(0.6, 1.3, 40.0, 0.0)
        found = peg(Site(tree_x=3.0, tree_y=-2.0), 0.0, cuts, 20.0)
        self.assertEqual(found.out, 10.0)
        np.testing.assert_allclose(found.place, (3.0 + hinge_aside(cuts), 8.0), atol=1e-12)
        east = peg(Site(), math.pi / 2.0, cuts, 20.0)
        np.testing.assert_allclose(east.place, (10.0, -hinge_aside(cuts)), atol=1e-12)
