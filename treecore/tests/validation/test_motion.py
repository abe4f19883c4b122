"""The motion of a piece on its rope against scipy's integration of other equations, closed forms, and a bouncing
weight.
"""

import math
from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

import numpy as np
from scipy.integrate import solve_ivp

from treecore.rigging.forces import run_out, stretch_peak
from treecore.rigging.motion import Scene, moved, traced

G = 9.80665
FREE = (1.0 - 1e-9,)  # a block without friction


def scene(**more):
    """A limb of 5 m and 110 kg level in the plane of its rope, tied half a metre out, on 16 m of rope over a block."""
    usual = {
        "mass": 110.0,
        "inertia": 110.0 * 1.3**2,
        "balance": 2.1,
        "tie": 0.5,
        "length": 5.0,
        "butt": (0.3, 0.0, 10.2),
        "way": (1.0, 0.0, 0.0),
        "point": (0.4, 0.0, 13.9),
        "beyond": (0.0, 0.0, -1.0),
        "axial_stiffness": 260e3,
        "damping": 0.0,
        "tension_ratios": FREE,
    }
    usual |= more
    if "lengths" not in usual:
        tie = np.array(usual["butt"]) + usual["tie"] * np.array(usual["way"])
        usual["lengths"] = (float(np.linalg.norm(tie - usual["point"])), 12.5)
    return Scene(**usual)


def one(given, count=1):
    return moved(given.rows(count))


def planar(given, seconds=4.0):
    """Peak tension by scipy: balance x, z and angle of a rod in a plane, one spring of the whole rope, no friction."""
    m, inertia, c = given.mass, given.inertia, given.balance - given.tie
    free, k = given.lengths[0], given.axial_stiffness / sum(given.lengths)
    px, pz = given.point[0], given.point[2]

    def pull(y):
        x, z, angle = y[:3]
        tx, tz = x - c * math.cos(angle), z - c * math.sin(angle)
        length = math.hypot(px - tx, pz - tz)
        tension = max(k * (length - free), 0.0)
        return tension, tension * (px - tx) / length, tension * (pz - tz) / length

    def right(_, y):
        _, fx, fz = pull(y)
        angle = y[2]
        # Moment about the balance of a force at −c along the axis.
        turn = -c * (math.cos(angle) * fz - math.sin(angle) * fx)
        return [y[3], y[4], y[5], fx / m, fz / m - G, turn / inertia]

    begin = math.atan2(given.way[2], given.way[0])
    y0 = [
        given.butt[0] + given.balance * math.cos(begin),
        given.butt[2] + given.balance * math.sin(begin),
        begin,
        0,
        0,
        0,
    ]
    got = solve_ivp(right, (0.0, seconds), y0, rtol=1e-9, atol=1e-10, max_step=2e-3)
    return max(pull(y)[0] for y in got.y.T)


class AgainstScipy(TestCase):
    def test_butt_tie_near_balance_and_tip_tie(self):
        # Ties uneven along a level, a rising and a hanging limb; each seen in a mirror as well.
        for tie, slope in ((0.15, 0.0), (0.5, 0.0), (1.1, 0.35), (1.9, 0.0), (2.3, -0.3), (3.9, 0.2)):
            with self.subTest(tie=tie, slope=slope):
                way = (math.cos(slope), 0.0, math.sin(slope))
                given = scene(tie=tie, way=way)
                got, there = float(one(given).peak[0]), planar(given)
                self.assertAlmostEqual(got / there, 1.0, delta=0.015)
                flip = replace(given, way=(-way[0], 0.0, way[2]), butt=(-0.3, 0.0, 10.2), point=(-0.4, 0.0, 13.9))
                self.assertAlmostEqual(float(one(flip).peak[0]) / got, 1.0, places=9)

    def test_stiff_rope_light_piece_and_a_drop_onto_a_block_below(self):
        for more in (
            {"axial_stiffness": 800e3, "tie": 0.4},
            {"mass": 14.0, "inertia": 14.0 * 1.2, "tie": 0.6},
            {"point": (0.2, 0.0, 9.4), "tie": 0.4, "way": (math.cos(1.2), 0.0, math.sin(1.2))},
        ):
            with self.subTest(more=more):
                given = scene(**more, seconds=1.5)
                self.assertAlmostEqual(float(one(given).peak[0]) / planar(given, 1.5), 1.0, delta=0.02)

    def test_turned_about_a_plumb_line_it_is_the_same(self):
        plain = one(scene(tie=0.7))
        turn = np.array([[math.cos(0.9), -math.sin(0.9), 0], [math.sin(0.9), math.cos(0.9), 0], [0, 0, 1.0]])
        given = scene(tie=0.7)
        there = replace(given, **{n: tuple(turn @ np.array(getattr(given, n))) for n in ("butt", "way", "point")})
        got = one(there)
        self.assertAlmostEqual(float(got.peak[0]) / float(plain.peak[0]), 1.0, places=9)
        np.testing.assert_allclose(got.force[0], turn @ plain.force[0], rtol=1e-6, atol=1e-6)

    def test_out_of_the_plane_against_scipy_in_space(self):
        # The point stands 1.4 m aside of the limb's plane: balance, axis and spin in space, the same rope.
        given = scene(tie=0.8, point=(0.4, 1.4, 13.9))
        c, k = given.balance - given.tie, given.axial_stiffness / sum(given.lengths)

        def pull(y):
            tie = y[:3] - c * y[3:6] / np.linalg.norm(y[3:6])
            off = np.array(given.point) - tie
            length = np.linalg.norm(off)
            return max(k * (length - given.lengths[0]), 0.0) * off / length

        def right(_, y):
            force, axis = pull(y), y[3:6] / np.linalg.norm(y[3:6])
            spin = y[9:12]
            return np.concatenate(
                [
                    y[6:9],
                    np.cross(spin, axis),
                    force / given.mass - [0, 0, G],
                    np.cross(-c * axis, force) / given.inertia,
                ]
            )

        y0 = np.concatenate([np.array(given.butt) + given.balance * np.array(given.way), given.way, np.zeros(6)])
        found = solve_ivp(right, (0.0, 4.0), y0, rtol=1e-9, atol=1e-10, max_step=2e-3)
        there = max(np.linalg.norm(pull(y)) for y in found.y.T)
        self.assertAlmostEqual(float(one(given).peak[0]) / there, 1.0, delta=0.015)

    def test_on_its_hinge_the_stretching_rope_holds_more_than_the_still_lever(self):
        # A rod that turns about its butt against a spring at its tie: one angle, by scipy.
        for tie in (0.5, 1.0, 1.9):
            given = scene(tie=tie, parts=1.2)
            about, k = given.inertia + given.mass * given.balance**2, given.axial_stiffness / sum(given.lengths)

            def pull(angle, tie=tie, given=given, k=k):
                tx, tz = given.butt[0] + tie * math.cos(angle), given.butt[2] - tie * math.sin(angle)
                dx, dz = given.point[0] - tx, given.point[2] - tz
                length = math.hypot(dx, dz)
                tension = max(k * (length - given.lengths[0]), 0.0)
                turns = tension * (dx * math.sin(angle) + dz * math.cos(angle)) / length * tie
                return tension, turns

            def right(_, y, given=given, pull=pull, about=about):
                return [y[1], (given.mass * G * given.balance * math.cos(y[0]) - pull(y[0])[1]) / about]

            def stops(_, y):
                return y[1] if y[0] > 1e-6 else 1.0

            stops.terminal, stops.direction = True, -1
            got = solve_ivp(right, (0.0, 2.0), [0.0, 0.0], rtol=1e-9, atol=1e-11, max_step=2e-3, events=stops)
            there = max(pull(a)[0] for a in got.y[0] if a <= 1.2)
            moves = one(given)
            self.assertAlmostEqual(float(moves.lever[0]) / there, 1.0, delta=0.02)
        still = given.mass * G * given.balance / (1.9 * math.sin(math.atan2(3.7, 1.8)))
        self.assertGreater(float(moves.lever[0]), 1.7 * still)


class ClosedForms(TestCase):
    def test_dropped_at_its_balance_it_bounces_by_energy(self):
        # Tied at the balance straight under the point, 0.4 m slack: W(1 + √(1 + 2hk/W)).
        given = scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.4, 12.5))
        k, got = given.axial_stiffness / 15.9, one(given)
        self.assertAlmostEqual(float(got.peak[0]) / float(stretch_peak(110.0 * G, 0.4, k)), 1.0, delta=0.01)
        # 0.4 m fall freely in √(2h/g); a sixth of the bounce later, or less, it pulls most.
        self.assertAlmostEqual(float(got.tight[0]), math.sqrt(0.8 / G), delta=0.01)
        self.assertGreater(float(got.at[0]), float(got.tight[0]))

    def test_friction_at_the_block_stiffens_what_the_load_feels(self):
        given = scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.4, 12.5))
        for passes in (0.9, 0.5, 0.25):
            k = given.axial_stiffness / (3.4 + 12.5 * passes)
            got = one(replace(given, tension_ratios=(passes,)))
            self.assertAlmostEqual(float(got.peak[0]) / float(stretch_peak(110.0 * G, 0.4, k)), 1.0, delta=0.01)
            self.assertAlmostEqual(float(got.at_device[0]) / float(got.peak[0]), passes, delta=0.02)

    def test_led_over_a_second_place(self):
        given = scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.4, 8.0, 4.5), tension_ratios=(0.8, 0.6))
        k = given.axial_stiffness / (3.4 + 0.8 * 8.0 + 0.8 * 0.6 * 4.5)
        got = one(given)
        self.assertAlmostEqual(float(got.peak[0]) / float(stretch_peak(110.0 * G, 0.4, k)), 1.0, delta=0.015)
        self.assertAlmostEqual(float(got.at_device[0]) / float(got.peak[0]), 0.48, delta=0.02)

    def test_a_damped_bounce(self):
        # Laid on without fall: spring and damper together carry 1 − e^(−ζωt)(cos ω't − ζ/√(1 − ζ²)·sin ω't) weights.
        for damping in (0.05, 0.15):
            given = scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.0, 12.5), damping=damping)
            t, root = np.linspace(0.0, 8.0, 20001), math.sqrt(1 - damping**2)
            carried = 1 - np.exp(-damping * t) * (np.cos(root * t) - damping / root * np.sin(root * t))
            self.assertAlmostEqual(float(one(given).peak[0]) / (110.0 * G), carried.max(), delta=0.02)

    def test_a_device_that_slides_stops_it_by_work_and_energy(self):
        given = scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.4, 12.5))
        brake, k = 2000.0, given.axial_stiffness / 15.9
        got = one(replace(given, holds=(brake, brake), slides=(brake, brake), let=np.inf))
        self.assertAlmostEqual(float(got.peak[0]) / brake, 1.0, delta=0.005)
        self.assertAlmostEqual(float(got.run[0]), float(run_out(110.0 * G, 0.4, k, brake)), delta=0.02)
        self.assertEqual(float(got.stops[0]), 1.0)

    def test_what_slides_begins_higher_and_a_weak_device_never_stops_it(self):
        given = scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.4, 12.5))
        got = one(replace(given, holds=(2600.0, 2600.0), slides=(2000.0, 2000.0), let=np.inf))
        self.assertAlmostEqual(float(got.peak[0]) / 2600.0, 1.0, delta=0.02)
        # Once it slides the lesser tension brakes it: it runs further than if it went on holding 2.6 kN.
        k = given.axial_stiffness / 15.9
        even = [float(run_out(110.0 * G, 0.4, k, brake)) for brake in (2600.0, 2000.0)]
        self.assertGreater(float(got.run[0]), even[0] + 0.6 * (even[1] - even[0]))
        runs = one(replace(given, holds=(900.0, 900.0), slides=(900.0, 900.0), let=np.inf))
        self.assertEqual(float(runs.stops[0]), 0.0)
        self.assertGreaterEqual(float(runs.ground[0]), 0.0)
        self.assertLess(abs(float(runs.lowest[0])), 0.1)
        # A locked one that reaches the ground before it hangs: its device holds, and the ground is met for itself.
        low = one(
            replace(
                given, butt=(0.3, 0.0, 2.6), point=(2.4, 0.0, 5.6), lengths=(3.4, 4.0), tie=0.4, axial_stiffness=2e5
            )
        )
        self.assertEqual((float(low.stops[0]), float(low.ground[0]) >= 0.0, float(low.run[0])), (1.0, True, 0.0))
        self.assertGreater(float(low.touch[0][2]), 1.0)

    def test_a_hand_that_closes_late_lets_it_run_further(self):
        given = scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.4, 12.5))
        ways = [
            one(replace(given, holds=(800.0, 3000.0), slides=(800.0, 3000.0), let=0.5, reaction=t))
            for t in (0.0, 0.3, 0.6)
        ]
        runs = [float(w.run[0]) for w in ways]
        self.assertEqual(runs, sorted(runs))
        # At 0.5 m it goes on for 0.3 s at (W − 800 N)/m from the speed it has there, then stops over braking.
        speed = math.sqrt(2 * (G * 0.4 + (G - 800 / 110.0) * 0.5))
        self.assertAlmostEqual(runs[1] - runs[0], speed * 0.3, delta=0.35)

    def test_pulled_tight_before_the_cut_it_jerks_less(self):
        given = scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.0, 12.5))
        weight = 110.0 * G
        got = one(replace(given, tight=0.4 * weight))
        self.assertAlmostEqual(float(got.peak[0]) / weight, 1.6, delta=0.02)
        # Pulled from the device over block and second place: more there by what both keep back.
        led = scene(
            tie=2.1,
            balance=2.1,
            point=(2.4, 0.0, 13.2),
            lengths=(3.0, 8.0, 4.5),
            tension_ratios=(0.8, 0.6),
            tight=300.0,
        )
        first = traced(led.rows(1)[0])
        self.assertAlmostEqual(float(first.tension[0]), 300.0, delta=12.0)
        self.assertAlmostEqual(float(first.at_device[0]), 300.0 / 0.48, delta=20.0)


class WhatIsToBeSeen(TestCase):
    def test_the_peak_falls_from_the_butt_to_a_flat_floor_near_the_balance(self):
        ties = (0.1, 0.3, 0.6, 0.9, 1.2, 1.5, 1.8, 2.1)
        peaks = [float(one(scene(tie=t, damping=0.06)).peak[0]) / (110.0 * G) for t in ties]
        self.assertTrue(all(a > b for a, b in pairwise(peaks[:6])), peaks)
        self.assertTrue(4.0 < peaks[0] < 10.0, peaks)
        floor = min(peaks)
        self.assertTrue(1.4 < floor < 2.0, peaks)
        self.assertLess(peaks[-1] / floor, 1.25, peaks)

    def test_stiffer_ropes_lighter_pieces_and_rising_limbs_whip_harder(self):
        peak = [float(one(scene(tie=0.3, axial_stiffness=e)).peak[0]) for e in (150e3, 300e3, 900e3)]
        self.assertEqual(peak, sorted(peak))
        light, heavy = (float(one(scene(mass=m, inertia=m * 1.69, tie=0.3)).peak[0]) / m for m in (30.0, 300.0))
        self.assertGreater(light, heavy)
        level, rising = (
            float(one(scene(tie=0.3, way=(math.cos(a), 0.0, math.sin(a)))).peak[0]) for a in (0.0, math.radians(35))
        )
        self.assertGreater(rising, level)

    def test_a_swing_pulls_its_point_aside(self):
        # Tied at its balance level with its point, 5.3 m off: T = 3·W·cos φ off plumb, level part at most 1.5·W at 45°.
        given = scene(
            butt=(3.6, 0.0, 13.9), tie=2.1, axial_stiffness=2e6, lengths=(5.3, 0.5), foot_arm=(0.4, 0.0, 13.9)
        )
        aside = abs(float(one(given).foot_force[0][0]))
        self.assertAlmostEqual(aside / (110.0 * G), 1.5, delta=0.06)

    def test_a_later_swing_through_the_bottom_counts(self):
        # From 70° off plumb on a stiff, well damped rope: W·(3 − 2·cos 70°) at the bottom, long after it first came
        # tight.
        off = math.radians(70)
        tie = (0.4 + 5.3 * math.sin(off), 0.0, 13.9 - 5.3 * math.cos(off))
        butt = (tie[0] - 2.1, 0.0, tie[2])
        got = one(scene(butt=butt, tie=2.1, axial_stiffness=4e6, damping=0.4, lengths=(5.3, 12.5)))
        self.assertAlmostEqual(float(got.peak[0]) / (110.0 * G), 3 - 2 * math.cos(off), delta=0.07)
        self.assertGreater(float(got.at[0]), 0.9)

    def test_what_hangs_quietly_ends_early(self):
        quiet = one(scene(tie=2.1, balance=2.1, point=(2.4, 0.0, 13.2), lengths=(3.0, 12.5), damping=0.3))
        self.assertLess(float(quiet.ended[0]), 2.0)
        self.assertGreater(float(quiet.ended[0]), float(quiet.at[0]))
        self.assertAlmostEqual(
            float(quiet.at[0]), (math.pi - 2 * math.asin(0.3)) / 12.35 / math.sqrt(1 - 0.3**2), delta=0.008
        )
        # One that still turns about its tie goes on to the end, however still its balance hangs.
        turning = one(scene(tie=1.9, damping=0.3))
        self.assertGreater(float(turning.ended[0]), 3.9)

    def test_the_trace_tells_the_same_story(self):
        given = scene(tie=0.5, parts=0.6, damping=0.06)
        got, trace = one(given), traced(given.rows(1)[0])
        self.assertAlmostEqual(float(trace.tension.max()), float(got.peak[0]), places=6)
        self.assertTrue(np.all(np.diff(trace.time) >= 0.0))
        np.testing.assert_allclose(np.linalg.norm(trace.way, axis=1), 1.0, atol=1e-9)
        self.assertAlmostEqual(float(trace.time[trace.tension.argmax()]), float(got.at[0]), places=6)
        self.assertGreaterEqual(float(got.ended[0]) - float(got.parted[0]), 3.9)
        self.assertAlmostEqual(float(got.turned[0]), 0.6, places=9)

    def test_an_upright_piece_leaves_its_hinge_with_the_speed_of_its_fall(self):
        # A top of 4 m pushed over, its rope slack: ω² = 2·W·b·(1 − cos 60°)/(I + m·b²) about its butt.
        given = scene(
            way=(0.0, 0.0, 1.0),
            slope=math.pi / 2,
            parts=math.pi / 3,
            tie=0.3,
            point=(0.5, 0.0, 10.0),
            lengths=(4.0, 9.0),
        )
        trace, got = traced(given.rows(1)[0]), one(given)
        about = given.inertia + given.mass * given.balance**2
        spin = math.sqrt(2 * given.mass * G * given.balance * (1 - math.cos(math.pi / 3)) / about)
        i = int(np.searchsorted(trace.time, float(got.parted[0])))
        speed = np.linalg.norm(trace.balance[i + 3] - trace.balance[i + 1]) / (trace.time[i + 3] - trace.time[i + 1])
        self.assertAlmostEqual(speed, given.balance * spin + 0.0, delta=0.06 * speed)
        self.assertEqual(float(got.lever[0]), 0.0)

    def test_the_forces_kept_are_those_that_bend_most(self):
        # Out of the plane, all three parts of every moment count: the trace looked through one step after the other.
        given = scene(
            tie=0.8,
            point=(0.4, 1.4, 13.9),
            beyond=(0.3, -0.2, -0.933),
            foot_arm=(0.4, 1.4, 13.9),
            union_arm=(2.0, -1.5, 0.7),
        )
        trace, got = traced(given.rows(1)[0]), one(given)
        for arm, kept in ((given.foot_arm, got.foot_force[0]), (given.union_arm, got.union_force[0])):
            moments = np.linalg.norm(np.cross(np.array(arm), trace.force), axis=1)
            self.assertAlmostEqual(float(np.linalg.norm(np.cross(arm, kept))) / float(moments.max()), 1.0, places=6)
        self.assertAlmostEqual(
            float(np.linalg.norm(got.force[0])), float(np.linalg.norm(trace.force, axis=1).max()), places=6
        )

    def test_energy_is_not_made(self):
        # Without damping and friction, weight and speed and stretch keep their sum through the whole motion.
        given = scene(tie=0.8)
        trace, k = traced(given.rows(1)[0]), given.axial_stiffness / sum(given.lengths)
        speed = np.gradient(trace.balance, trace.time, axis=0)
        turn = np.linalg.norm(np.gradient(trace.way, trace.time, axis=0), axis=1)
        energy = 0.5 * given.mass * (speed**2).sum(axis=1) + 0.5 * given.inertia * turn**2
        energy = energy + given.mass * G * trace.balance[:, 2] + trace.tension**2 / (2 * k)
        inner = energy[5:-5]
        self.assertLess((inner.max() - inner.min()) / (given.mass * G * 4.0), 0.05)
