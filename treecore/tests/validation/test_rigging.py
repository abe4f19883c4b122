"""Rigging against closed forms, triangles of forces, fine-step integration, and hand computation."""

import math
from dataclasses import replace
from datetime import date
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import t as t_of
from shapely.geometry import MultiPoint

from treecore.errors import CoreError
from treecore.rigging.bending import (
    Above,
    limb_stress,
    section_modulus,
    split_along,
    split_force,
    stem_sections,
    stem_stress,
    twist_stress,
)
from treecore.rigging.climbing import hanging, line_gap, pendulum_swing, two_anchors
from treecore.rigging.forces import (
    block_force,
    bridle_legs,
    cg_fall,
    field_rule,
    hinged_lever,
    let_run,
    rope_in_play,
    run_out,
    shared,
    stretch_peak,
    swing_tension,
    tag_force,
    turn_between,
    two_legs,
)
from treecore.rigging.friction import (
    Reading,
    fork_tension_ratio,
    hand_force,
    measured_friction,
    rule_of_thumb,
    student,
    wraps_for,
)
from treecore.rigging.gear import Item, bend_ratio, factors, grips, refused, working_load
from treecore.rigging.landing import give, ground_force
from treecore.rigging.segment_distance import apart
from treecore.rigging.spans import drift_pulls, speed_pulls
from treecore.rigging.swing import drop_circle, hang_slope, nearest, passings, swept, swing
from treecore.site import Site, Target
from treecore.tests.scenes import TREE
from treecore.tree.stem import Cavity

TODAY = date(2026, 11, 23)
G = 9.80665


def on_stem(tree, height, force, place=None):
    """Stress of one force, at a place or on the axis, with nothing standing above."""
    nothing = np.zeros(len(stem_sections(tree, min(height, 30.0)))) if height < tree.stem.top else np.zeros(1)
    above = Above(nothing, nothing, nothing)
    return stem_stress(tree, height, place or (0.0, 0.0, height), np.array([force]), above)


ROPE = Item(
    name="Blue line",
    kind="rope",
    strength=60e3,
    diameter=0.014,
    length=60.0,
    axial_stiffness=180e3,
    inspected=date(2026, 9, 1),
    bought=date(2024, 2, 1),
)


class Peaks(TestCase):
    def test_energy_formula_against_a_falling_weight_in_fine_steps(self):
        # 120 kg falls 1.3 m onto 9 m of rope with EA = 180 kN: integrate m·x'' = W − k·x.
        weight, k, mass = 120 * 9.80665, 180e3 / 9.0, 120.0
        x, v, best, dt = 0.0, math.sqrt(2 * 9.80665 * 1.3), 0.0, 2e-6
        while v > 0:
            v += (weight - k * x) / mass * dt
            x += v * dt
            best = max(best, k * x)
        self.assertAlmostEqual(stretch_peak(weight, 1.3, k) / best, 1.0, places=4)

    def test_schools_by_hand(self):
        # 1 kN falling 0.9144 m is three feet: five times. Laid on without fall: twice.
        self.assertAlmostEqual(field_rule(1000.0, 0.9144), 5000.0, places=6)
        self.assertAlmostEqual(stretch_peak(1000.0, 0.0, 5e4), 2000.0, places=6)

    def test_let_run_by_work_and_energy(self):
        # 1 kN falls 1 m onto a rope of 20 kN/m and a brake of 1340.7 N: 1000·(1 + 0.06703 + s) = 1340.7·s + 44.94, s =
        # 3 m.
        force = 1340.6993661823562
        run = float(run_out(1000.0, 1.0, 2e4, force))
        self.assertAlmostEqual(1000.0 * (1.0 + force / 2e4 + run), run * force + force**2 / 4e4, places=6)
        self.assertAlmostEqual(run, 3.0, places=9)
        self.assertAlmostEqual(float(run_out(1000.0, 1.0, 2e4, stretch_peak(1000.0, 1.0, 2e4))), 0.0, places=9)
        self.assertEqual(float(run_out(1000.0, 1.0, 2e4, 990.0)), math.inf)  # a brake under the weight stops nothing
        self.assertEqual(float(run_out(1000.0, 1.0, 2e4, 8000.0)), 0.0)  # above the locked peak it never runs

    def test_let_run_then_braked_against_small_steps(self):
        # 100 kg, loose hand 740 N for 2 m, then 3 kN: follow mass, stretch and slip in steps of 20 µs.
        mass, k, loose, closed, let, fall = 100.0, 2e4, 740.0, 3000.0, 2.0, 0.3
        x, v, ran, peak, dt = 0.0, math.sqrt(2 * G * fall), 0.0, 0.0, 2e-5
        while v > 0.0:
            tension, brake = k * (x - ran), loose if ran < let else closed
            if tension > brake:
                ran, tension = x - brake / k, brake
            peak = max(peak, tension)
            v += (G - tension / mass) * dt
            x += v * dt
        got = let_run(mass * G, fall, k, (loose, closed), let)
        self.assertAlmostEqual(float(got.peak) / peak, 1.0, places=3)
        self.assertAlmostEqual(float(got.run), ran, delta=0.02)

    def test_wraps_that_hold_it_make_it_locked(self):
        got = let_run(100.0 * G, 0.3, 2e4, (9000.0, 40e3), 2.0)
        self.assertAlmostEqual(float(got.peak), float(stretch_peak(100.0 * G, 0.3, 2e4)), places=6)
        self.assertEqual(float(got.run), 0.0)

    def test_fall_of_the_balance_in_five_arrangements(self):
        # h + ρ + c(1 + sin rise) + slack by hand; from above only the slack. A limb at 5° whose block is below and
        # beside.
        for above, off, beyond, rise, slack, fall in (
            (0.4, 0.4, 1.1, 90.0, 0.0, 3.0),
            (0.4, 0.5, 1.1, 90.0, 0.3, 3.4),
            (0.0, 2.0, 1.1, 0.0, 0.5, 3.6),
            (-2.0, 2.0, 1.1, 30.0, 0.2, 0.2),
            (0.3, 1.44, 1.8, 5.0, 0.0, 0.3 + 1.44 + 1.8 * 1.0871557427476582),
        ):
            self.assertAlmostEqual(cg_fall(above, off, beyond, math.radians(rise), slack), fall, places=12)

    @given(st.floats(100, 9000), st.floats(0, 8), st.floats(0, 8), st.floats(5e3, 2e5))
    def test_more_fall_never_lowers_the_peak(self, weight, one, other, k):
        low, high = sorted((one, other))
        self.assertLessEqual(stretch_peak(weight, low, k), stretch_peak(weight, high, k) + 1e-9)
        self.assertLessEqual(field_rule(weight, low), field_rule(weight, high) + 1e-9)

    def test_bars_in_a_row(self):
        # 1 N at the piece: 4 m carry 1 N, 20 m carry 0.5 N, 6 m carry 0.4 N; elongation by EA of 1 N.
        self.assertAlmostEqual(rope_in_play((4.0, 20.0, 6.0), (0.5, 0.8)), 4.0 + 10.0 + 2.4, places=12)
        self.assertAlmostEqual(rope_in_play((4.0, 20.0), (1.0,)), 24.0, places=12)

    def test_pendulum(self):
        self.assertAlmostEqual(swing_tension(500.0, math.pi / 2), 1500.0, places=9)
        self.assertAlmostEqual(swing_tension(500.0, math.pi / 3), 1000.0, places=9)


class Statics(TestCase):
    def test_block_resultant_for_five_angles(self):
        # Without friction 2·T·cos(γ/2), γ between the legs; with it the law of cosines.
        for degrees in (0, 40, 90, 130, 175):
            g = math.radians(degrees)
            lead, rest = (0.0, 0.0, -1.0), (math.sin(g), 0.0, -math.cos(g))
            self.assertAlmostEqual(
                math.hypot(*block_force(lead, rest, 1000.0, 1.0)), 2000.0 * math.cos(g / 2), places=6
            )
            e = 0.8
            cosine = math.sqrt(1 + e * e + 2 * e * math.cos(g)) * 1000.0
            self.assertAlmostEqual(math.hypot(*block_force(lead, rest, 1000.0, e)), cosine, places=6)
            self.assertAlmostEqual(turn_between(lead, rest), math.pi - g, places=7)

    def test_lever_by_moments(self):
        # 800 N at 1.5 m of a level limb, rope at 60° tied at 2.5 m: T·2.5·sin 60° = 800·1.5
        got = hinged_lever(800.0, 1.5, 2.5, 0.0, math.radians(60))
        self.assertAlmostEqual(got * 2.5 * math.sin(math.radians(60)), 1200.0, places=9)
        with self.assertRaises(CoreError):
            hinged_lever(800.0, 1.5, 2.5, 0.0, 0.001)

    def test_bridle_is_a_triangle_of_forces(self):
        left, right = two_legs(1000.0, math.radians(35), math.radians(50))
        self.assertAlmostEqual(left * math.cos(math.radians(35)) + right * math.cos(math.radians(50)), 1000.0, places=9)
        self.assertAlmostEqual(left * math.sin(math.radians(35)), right * math.sin(math.radians(50)), places=9)
        lengths, angles = bridle_legs(3.0, (1.0, 9.0), 5.0)
        self.assertEqual(lengths, (5.0, 5.0))
        self.assertAlmostEqual(math.cos(angles[0]), 0.6, places=12)
        # Sloping 30°: heads and ties as points in a plane; the forces meet in the head, so nothing turns.
        slope, head, ties, cg = math.radians(30), 2.5, (1.0, 4.5), 2.2
        lengths, angles = bridle_legs(head, ties, cg, slope)
        for tie, length in zip(ties, lengths, strict=True):
            x, z = (tie - cg) * math.cos(slope), (tie - cg) * math.sin(slope) - head
            self.assertAlmostEqual(length, math.hypot(x, z), places=12)
        one, two = two_legs(1000.0, *angles)
        self.assertAlmostEqual(one * math.cos(angles[0]) + two * math.cos(angles[1]), 1000.0, places=9)
        self.assertEqual(two_legs(900.0, 0.0, 0.0), (450.0, 450.0))
        for refused_by in (
            lambda: bridle_legs(2.0, (3.0, 4.0), 2.2),
            lambda: two_legs(900.0, math.pi / 2, math.pi / 2),
            lambda: shared(900.0, 2.0, 2.04, 2.0),
        ):
            with self.assertRaises(CoreError):
                refused_by()
        self.assertAlmostEqual(shared(900.0, 1.0, 4.0, 2.0)[0], 600.0, places=9)
        self.assertAlmostEqual(shared(900.0, 1.0, 4.0, 2.0)[1], 300.0, places=9)
        # Main rope 14.04° off plumb, tag line 35° below level: both triangles of forces close.
        off, below = math.atan2(1.5, 6.0), math.radians(35)
        tag = tag_force(600.0, off, below)
        main = tag * math.cos(below) / math.sin(off)
        self.assertAlmostEqual(main * math.cos(off), 600.0 + tag * math.sin(below), places=9)
        self.assertAlmostEqual(tag_force(600.0, off, 0.0), 150.0, places=12)  # level, it is W·aside/below

    def test_capstan_table(self):
        for wraps, share in ((0, 1.0), (1, math.exp(-0.4 * math.pi)), (2.5, math.exp(-math.pi))):
            self.assertAlmostEqual(hand_force(1000.0, 0.2, wraps), 1000.0 * share, places=9)
        self.assertAlmostEqual(hand_force(5000.0, 0.2, wraps_for(5000.0, 250.0, 0.2)), 250.0, places=9)
        self.assertEqual(wraps_for(200.0, 250.0, 0.2), 0.0)
        self.assertAlmostEqual(fork_tension_ratio(0.35, math.pi), math.exp(-0.35 * math.pi), places=12)
        self.assertEqual([rule_of_thumb(m) for m in (30, 100, 300, 900)], [1.0, 1.5, 2.0, 3.0])

    def test_a_crews_readings_by_hand(self):
        # Three readings: mean of ln(L/H)/2πn; reading allowances and Student's t for two degrees of freedom.
        readings = tuple(Reading(*r) for r in ((1000.0, 1.5, 150.0), (1000.0, 2.0, 90.0), (2000.0, 2.0, 200.0)))
        each = [
            math.log(load / hand) / (2 * math.pi * n)
            for load, n, hand in ((1000, 1.5, 150), (1000, 2, 90), (2000, 2, 200))
        ]
        mean = sum(each) / 3
        sd = math.sqrt(sum((v - mean) ** 2 for v in each) / 2)
        reading = math.hypot(math.log(1.05), math.log(1.15)) / (2 * math.pi) * (1 / 1.5 + 1 / 2 + 1 / 2) / 3
        got = measured_friction(readings)
        self.assertAlmostEqual(got.value, mean, places=12)
        self.assertAlmostEqual(got.high - got.value, math.hypot(4.30 * sd / math.sqrt(3), reading), places=12)
        self.assertIsNone(measured_friction(()))
        for freedom in range(1, 10):
            self.assertAlmostEqual(student(freedom), t_of.ppf(0.975, freedom), delta=0.006)
        self.assertAlmostEqual(student(10), t_of.ppf(0.975, 10), delta=0.006)
        for bad in (
            (40.0, 1.0, 10.0),
            (1000.0, 0.05, 10.0),
            (1000.0, 11.0, 10.0),
            (1000.0, 1.0, 0.5),
            (900.0, 1.0, 900.0),
        ):
            with self.assertRaises(CoreError):
                Reading(*bad)
        self.assertEqual([Reading(*r).hand for r in ((1000.0, 0.1, 1.0), (1e5, 10.0, 5e3))], [1.0, 5e3])
        self.assertEqual(Reading(50.0, 1.0, 1.0).load, 50.0)
        for bad in ((1e5, 1.0, 5.1e3), (1.1e5, 1.0, 100.0)):
            with self.assertRaises(CoreError):
                Reading(*bad)


class Anchors(TestCase):
    def test_split_along_a_leaning_stem(self):
        along, across = split_force((300.0, 0.0, -400.0), (0.0, 0.0, 1.0))
        self.assertEqual((along, across), (400.0, 300.0))
        np.testing.assert_allclose(
            split_along((300.0, 50.0, -400.0), (0.0, 0.6, 1.2)), (0.0, -150.0, -300.0), atol=1e-9
        )
        tilt = (math.sin(0.1), 0.0, math.cos(0.1))
        along, across = split_force((0.0, 0.0, -1000.0), tilt)
        self.assertAlmostEqual(along, 1000.0 * math.cos(0.1), places=9)
        self.assertAlmostEqual(across, 1000.0 * math.sin(0.1), places=9)

    def test_hollow_tapered_stem_against_slices_of_its_section(self):
        # I by integration over rings, stress at every centimetre of height.
        stem = replace(TREE, lean=0.0, cavities=(Cavity(low=4.0, high=7.5, across=0.42),))
        force, height = (1800.0, -900.0, -6000.0), 12.0
        got = on_stem(stem, height, force)
        worst = 0.0
        for z in np.arange(0.05, height, 0.01):
            d, c = stem.stem.diameter_at(float(z)), 0.42 if 4.0 <= z <= 7.5 else 0.0
            r = np.linspace(c / 2, d / 2, 2001)
            inertia = np.trapezoid(math.pi * r**3, r)
            moment = math.hypot(1800.0, 900.0) * (height - z)
            worst = max(worst, moment * d / 2 / inertia + 6000.0 / (math.pi / 4 * (d * d - c * c)))
        self.assertAlmostEqual(float(got.stress[0]) / worst, 1.0, delta=0.01)
        self.assertAlmostEqual(section_modulus(0.4), math.pi * 0.064 / 32, places=12)
        self.assertAlmostEqual(limb_stress(1000.0, 2.0, 0.2), 2000.0 / (math.pi * 0.008 / 32), places=3)
        with self.assertRaises(CoreError):
            on_stem(stem, 40.0, force)

    def test_a_place_beyond_the_stem_turns_about_every_section(self):
        # On a lead 2 m out and 14 m up, growing at 5 m: the moment about the foot is r × F whatever carries it.
        upright = replace(TREE, lean=0.0)
        force, place = (900.0, 0.0, -5000.0), (2.0, 0.0, 14.0)
        got = on_stem(upright, 5.0, force, place)
        self.assertAlmostEqual(float(got.turning[0]), abs(900.0 * 14.0 + 5000.0 * 2.0), places=6)
        thick = upright.stem.diameter_at(0.05)
        foot = float(got.turning[0]) / section_modulus(thick) + 5000.0 / (math.pi / 4 * thick**2)
        self.assertGreaterEqual(float(got.stress[0]), foot * 0.999)

    def test_a_block_on_the_bark_bends_what_it_presses(self):
        # 8 kN straight down on the bark of a round section: pressure P/A and bending P·r/S = 4·P/A, five times the
        # pressure.
        upright = replace(TREE, lean=0.0)
        radius = upright.stem.diameter_at(12.0) / 2
        on_bark, on_axis = (on_stem(upright, 12.0, (0.0, 0.0, -8000.0), (x, 0.0, 12.0)) for x in (radius, 0.0))
        thick = upright.stem.diameter_at(float(on_bark.height[0]))
        by_hand = 8000.0 / (math.pi / 4 * thick**2) + 8000.0 * radius / (math.pi / 32 * thick**3)
        self.assertAlmostEqual(float(on_bark.stress[0]) / by_hand, 1.0, places=6)
        self.assertGreater(float(on_bark.stress[0]), 4 * float(on_axis.stress[0]))

    def test_what_stands_above_leans_on_the_stem(self):
        # 30 kN standing 1.5 m east of every section's axis, 6 kN pulled north 10 m up: moments square to one another.
        stem = replace(TREE, lean=0.0)
        n = len(stem_sections(stem, 10.0))
        above = Above(np.full(n, 30e3), np.full(n, 45e3), np.zeros(n))
        got = stem_stress(stem, 10.0, (0.0, 0.0, 10.0), np.array([[0.0, 6000.0, 0.0]]), above)
        thick = stem.stem.diameter_at(0.05)
        foot = math.hypot(45e3, 60e3) / section_modulus(thick) + 30e3 / (math.pi / 4 * thick**2)
        self.assertAlmostEqual(float(got.turning[0]), 75e3, places=6)
        self.assertGreaterEqual(float(got.stress[0]), foot * 0.999)

    def test_a_force_beside_the_axis_turns_it(self):
        # 3 kN north at 0.4 m east: T = 1.2 kN·m about the axis; shear 16·T/πd³ where it is thinnest.
        stem = replace(TREE, lean=0.0)
        got = on_stem(stem, 10.0, (0.0, 3000.0, 0.0), (0.4, 0.0, 10.0))
        thick = stem.stem.diameter_at(10.0 * 39 / 40)
        self.assertAlmostEqual(float(got.twist[0]), 16 * 1200.0 / (math.pi * thick**3), places=3)
        self.assertAlmostEqual(float(twist_stress(-1200.0, 0.2)), 16 * 1200.0 / (math.pi * 0.008), places=6)

    def test_a_force_down_a_leaning_stem_bends_it(self):
        lean, down = replace(TREE, lean=math.radians(6.0)), (0.0, 0.0, -8000.0)
        out = 12.0 * math.tan(lean.lean)
        place = (out * math.sin(lean.lean_azimuth), out * math.cos(lean.lean_azimuth), 12.0)
        upright = on_stem(replace(TREE, lean=0.0), 12.0, down)
        self.assertGreater(float(on_stem(lean, 12.0, down, place).stress[0]), 2 * float(upright.stress[0]))


class Gear(TestCase):
    def test_working_load_by_hand(self):
        # 60 kN · good 0.9 · running bowline 0.65 / 5
        self.assertAlmostEqual(working_load(ROPE, "5", "running_bowline").value, 60e3 * 0.9 * 0.65 / 5, places=6)
        sling = Item(name="Sling", kind="sling", strength=40e3, wear="new")
        basket = working_load(sling, "10", sling="basket", angle=math.radians(60))
        self.assertAlmostEqual(basket.value, 40e3 / 10 * 2 * math.cos(math.radians(30)), places=6)
        self.assertIsNone(working_load(replace(sling, strength=None), "5"))
        # The ends of every factor together: wear, knot and configuration, each from the table.
        table = {(f.key, c): f.strength_reduction for c in ("wear", "knot", "sling") for f in factors(c).values()}
        choked = working_load(replace(sling, wear="worn"), "5", "running_bowline", "choked")
        for end in ("low", "value", "high"):
            kept = math.prod(
                getattr(table[k], end) for k in (("worn", "wear"), ("running_bowline", "knot"), ("choked", "sling"))
            )
            self.assertAlmostEqual(getattr(choked, end), 40e3 / 5 * kept, places=6)

    def test_refused(self):
        self.assertIsNone(refused(ROPE, TODAY))
        self.assertEqual(refused(replace(ROPE, inspected=date(2026, 4, 1)), TODAY).key, "overdue")
        self.assertEqual(refused(replace(ROPE, bought=date(2019, 1, 1)), TODAY).key, "old")
        self.assertEqual(refused(replace(ROPE, retired="cut by the saw"), TODAY).key, "retired")
        self.assertEqual(refused(replace(ROPE, inspected=None), TODAY).key, "uninspected")
        with self.assertRaises(CoreError):
            Item(name="X", kind="string", strength=1e3)

    def test_leg_lines_grip_only_thicker_ones(self):
        leg = Item(name="Leg", kind="leg", strength=20e3, diameter=0.010)
        self.assertTrue(grips(leg, replace(ROPE, diameter=0.013)))
        self.assertFalse(grips(replace(leg, diameter=0.012), replace(ROPE, diameter=0.013)))
        self.assertIsNone(grips(leg, replace(ROPE, diameter=None)))
        self.assertAlmostEqual(
            bend_ratio(Item(name="Pulley", kind="block", strength=1e5, diameter=0.07), ROPE), 5.0, places=9
        )


class Ways(TestCase):
    def test_tie_on_circle_about_the_point_against_fine_rotation(self):
        path = swing((2.0, 0.0, 10.0), (5.0, 0.0, 10.0), 1.4, 0.5, (0.0, 0.0, 14.0), 0.0, 0.15)
        rope = math.hypot(2.5, 4.0)
        ties = path.butt + (path.tip - path.butt) * (0.5 / 3.0)
        for tie in ties[1:]:
            self.assertAlmostEqual(math.dist(tie, (0.0, 0.0, 14.0)), rope, places=9)
        self.assertAlmostEqual(path.angle, math.atan2(2.5, 4.0), places=12)
        np.testing.assert_allclose(np.linalg.norm(path.tip - path.butt, axis=1), 3.0, atol=1e-9)
        self.assertEqual(path.heavy, "tip")
        # At rest the tips hang: lowest is the tie's lowest less what hangs below it.
        self.assertAlmostEqual(path.low, 14.0 - rope - 2.5, places=2)

    def test_swept_ground_against_a_fine_step_integration(self):
        # The tie turns about the point by small rotations of its own, the piece by equal shares of its way to rest.
        butt, tip, point, tie = np.array([2.0, 1.0, 10.0]), np.array([4.4, 2.6, 10.9]), np.array([0.3, -0.4, 14.0]), 0.7
        path = swing(tuple(butt), tuple(tip), 1.5, tie, tuple(point), 0.0, 0.15)
        length, n = np.linalg.norm(tip - butt), 3000
        way = (tip - butt) / length
        arm = butt + tie * way - point
        flat = np.array([arm[0], arm[1], 0.0]) / np.hypot(arm[0], arm[1])
        axis = np.cross([0.0, 0.0, 1.0], flat)
        begin = math.atan2(np.hypot(arm[0], arm[1]), -arm[2])
        slope, level = math.asin(way[2]), np.array([way[0], way[1], 0.0]) / np.hypot(way[0], way[1])
        places, turned = [butt[:2], tip[:2]], 0.0
        for k in range(n):
            # Evenly in the phase of the swing: the step in angle is the sine of that phase.
            step = -begin * (math.cos(math.pi * (k + 1) / n) - math.cos(math.pi * k / n))
            arm = (
                arm * math.cos(step) + np.cross(axis, arm) * math.sin(step) + axis * (axis @ arm) * (1 - math.cos(step))
            )
            turned = min(turned + 2.0 / n, 1.0)
            now = slope + (-math.pi / 2 - slope) * turned
            lies = level * math.cos(now) + np.array([0.0, 0.0, math.sin(now)])
            places += [(point + arm - lies * tie)[:2], (point + arm + lies * (length - tie))[:2]]
        fine = MultiPoint(np.array(places)).convex_hull
        self.assertLess(fine.buffer(0.05).symmetric_difference(swept(path)).area / fine.area, 0.02)
        self.assertTrue(swept(path).buffer(0.02).contains(fine))

    def test_moving_the_tie_past_the_balance_flips_it(self):
        self.assertEqual([hang_slope(t, 1.4, 3.0, 0.15)[0] for t in (0.4, 1.4, 2.6)], ["tip", "level", "butt"])

    def test_over_and_beside_a_roof(self):
        roof = Target(
            name="Glasshouse", kind="building", height=2.9, outline=((-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0))
        )
        site = Site(tree_x=-4.0, tree_y=0.0, targets=(roof,))
        over = swing((2.0, 0.0, 10.0), (5.0, 0.0, 10.0), 1.4, 1.4, (3.4, 0.0, 14.0), 0.0, 0.15)
        (passed,) = passings(over, site)
        self.assertTrue(passed.over)
        self.assertGreater(passed.gap, 5.0)
        deep = swing((2.0, 0.0, 5.0), (5.0, 0.0, 5.0), 1.4, 0.3, (0.3, 0.0, 6.0), 0.0, 0.15)
        self.assertEqual(passings(deep, site)[0].gap, 0.0)

    def test_what_it_passes_high_above_is_told_only_from_afar(self):
        # Level at 9 m and more, from 2 to 5 m east: a shed 2.5 m beyond is passed above and aside, one 3.5 m beyond is
        # told by that.
        path = swing((2.0, 0.0, 10.0), (5.0, 0.0, 10.0), 1.4, 1.4, (3.4, 0.0, 14.0), 0.0, 0.15)
        east = float(max(path.butt[:, 0].max(), path.tip[:, 0].max()))
        for off, told in ((2.5, []), (3.5, [3.5])):
            x = east + off
            shed = Target(
                name="Shed", kind="building", height=2.0, outline=((x, -9.0), (x + 2, -9.0), (x + 2, 9.0), (x, 9.0))
            )
            found = passings(path, Site(targets=(shed,)))
            np.testing.assert_allclose([p.gap for p in found], told, atol=1e-9)

    def test_nearest_and_drop(self):
        path = swing((2.0, 0.0, 10.0), (5.0, 0.0, 10.0), 1.4, 0.5, (0.0, 0.0, 14.0), 0.0, 0.15)
        self.assertLess(nearest(path, (0.0, 0.0, 9.3)), 0.5)
        self.assertAlmostEqual(drop_circle(2.0, 8.0, (0.0, 0.0)).area, math.pi * 16.0, delta=0.5)

    def test_a_stem_piece_goes_the_way_its_notch_faces(self):
        path = swing((0.0, 0.0, 12.0), (0.0, 0.0, 15.0), 1.4, 0.3, (0.0, 0.0, 11.5), 0.0, 0.15, math.radians(250))
        flat = path.tip[6] - path.butt[6]  # the last step of turning over its hinge
        self.assertAlmostEqual(math.atan2(flat[0], flat[1]) % math.tau, math.radians(250), places=9)
        self.assertAlmostEqual(flat[2], 0.0, places=9)
        np.testing.assert_allclose(path.butt[:7], np.tile([0.0, 0.0, 12.0], (7, 1)), atol=1e-12)
        np.testing.assert_allclose(np.linalg.norm(path.tip - path.butt, axis=1), 3.0, atol=1e-9)
        self.assertAlmostEqual(path.tie[path.rest][2], 11.5 - 0.8, places=9)  # hangs its rope's length below

    def test_a_side_notch_swings_evenly_to_where_it_faces(self):
        path = swing((1.0, 0.0, 10.0), (4.0, 0.0, 10.0), 1.4, 0.5, (0.0, 0.0, 14.0), 0.0, 0.15, math.radians(180))
        ways = path.tip - path.butt
        self.assertAlmostEqual(math.atan2(ways[0, 0], ways[0, 1]), math.pi / 2, places=12)
        middle = ways[7]  # halfway to rest it has turned half of the quarter turn
        self.assertAlmostEqual(math.atan2(middle[0], middle[1]), math.radians(135), places=9)

    def test_what_two_legs_keep_does_not_turn(self):
        path = swing((2.0, 0.0, 10.0), (5.0, 0.0, 11.0), 1.4, 1.4, (0.0, 0.0, 14.0), 0.0, 0.15, keeps=True)
        ways = path.tip - path.butt
        np.testing.assert_allclose(ways, np.tile(ways[0], (len(ways), 1)), atol=1e-9)

    @given(st.lists(st.floats(-5, 5), min_size=12, max_size=12))
    def test_lines_apart_against_many_points_on_them(self, v):
        a, b, c, d = (np.array([v[i : i + 3]]) for i in (0, 3, 6, 9))
        t = np.linspace(0, 1, 201)[:, None]
        points, others = a + t * (b - a), c + t * (d - c)
        sampled = np.sqrt(((points[:, None, :] - others[None, :, :]) ** 2).sum(axis=2)).min()
        got = float(apart(a, b, c, d)[0, 0])
        self.assertLessEqual(got, sampled + 1e-9)
        step = (np.linalg.norm(b - a) + np.linalg.norm(d - c)) / 400
        self.assertGreaterEqual(got, sampled - step - 1e-9)


class Spans(TestCase):
    def test_speed_line_by_its_triangle(self):
        # 1 kN in the middle of 30 m that sags 3 m: each half leans atan(3/15), 2·T·sin = W.
        for end in speed_pulls(1000.0, 30.0, 0.0, 0.1):
            self.assertAlmostEqual(end, 500.0 / math.sin(math.atan2(3, 15)), places=6)
        with self.assertRaises(CoreError):
            speed_pulls(1000.0, 30.0, 0.0, 0.6)

    def test_an_inclined_speed_line_closes_at_its_load(self):
        # Ends 24 m apart, the second 7 m lower; sag 8 % of the 25 m chord, plumb: both pulls and 1 kN close in the
        # middle.
        first, second = speed_pulls(1000.0, 24.0, -7.0, 0.08)
        drop = -3.5 - 2.0
        up, down = math.atan2(-drop, 12.0), math.atan2(-7.0 - drop, 12.0)
        self.assertAlmostEqual(first * math.cos(up), second * math.cos(down), places=6)
        self.assertAlmostEqual(first * math.sin(up) + second * math.sin(down), 1000.0, places=6)
        self.assertGreater(first, second)

    def test_drift_is_worst_near_the_further_point(self):
        first, second = drift_pulls(1000.0, 10.0, 0.0, 5.0)
        self.assertAlmostEqual(first, second, places=6)  # level points: the same either way round
        left, right = math.atan2(9.8, 5.0), math.atan2(0.2, 5.0)
        self.assertGreaterEqual(second, 1000.0 * math.sin(left) / math.sin(left + right) - 1e-6)
        with self.assertRaises(CoreError):
            drift_pulls(1000.0, 10.0, -6.0, 5.0)

    def test_a_bed_takes_the_energy_over_what_it_gives(self):
        soft = give("brush", 1.0)
        force = ground_force(800.0, 6.0, soft)
        self.assertAlmostEqual((force.value - 800.0) * soft.value, 800.0 * 6.0, places=6)  # work = energy
        self.assertLess(force.value, ground_force(800.0, 6.0, give("logs", 1.0)).value)
        self.assertLess(
            ground_force(800.0, 6.0, give("logs", 1.0)).value, ground_force(800.0, 6.0, give("none", 0.0)).value
        )
        self.assertEqual(give("brush", 4.0).value, 0.05 + 4.0 * 0.5)
        for bad in (("hay", 1.0), ("brush", 4.1), ("brush", -0.1)):
            with self.assertRaises(CoreError):
                give(*bad)


class Climbers(TestCase):
    def test_line_load_and_swing(self):
        got = hanging((0.0, 0.0, 16.0), (3.0, 0.0, 12.0), False)
        self.assertAlmostEqual(got.angle, math.atan2(3.0, 4.0), places=12)
        self.assertAlmostEqual(got.speed, math.sqrt(2 * 9.80665 * 1.0), places=9)
        self.assertAlmostEqual(got.need, 32.0, places=12)
        based = hanging((0.0, 0.0, 16.0), (3.0, 0.0, 12.0), True)
        path, speeds = pendulum_swing((0.0, 0.0, 16.0), (3.0, 0.0, 12.0))
        np.testing.assert_allclose(np.linalg.norm(path - [0.0, 0.0, 16.0], axis=1), 5.0, atol=1e-12)
        self.assertAlmostEqual(float(speeds.max()), got.speed, places=9)
        self.assertEqual(len(pendulum_swing((0.0, 0.0, 16.0), (3.0, 0.0, 16.5))[0]), 1)
        self.assertAlmostEqual(based.load, 2 * got.load, places=9)
        self.assertAlmostEqual(based.need, 32.0, places=12)

    def test_own_line_near_a_cut_and_two_anchors(self):
        self.assertAlmostEqual(line_gap((0.0, 0.0, 10.0), (0.0, 0.0, 2.0), (0.3, 0.4, 6.0)), 0.5, places=12)
        first, second = two_anchors((-3.0, 0.0, 4.0), (3.0, 0.0, 4.0), (0.0, 0.0, 0.0))
        self.assertAlmostEqual(first, second, places=9)
        self.assertAlmostEqual(first * 0.8 * 2, 100 * 9.80665, places=6)
