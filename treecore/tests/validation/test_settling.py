"""The rope at its blocks and device: friction as a complementarity problem, runs by energy and small steps, energy."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from treecore.rigging import settling as r
from treecore.rigging.motion import Scene, moved, traced
from treecore.tests.validation.test_motion import FREE, scene
from treecore.units import GRAVITY

G = 9.80665


def rope_of(rng, legs, damper):
    """A rope whose legs have been pulled and slackened at random, and its tensions before it settles."""
    ways = rng.uniform(0.2, 8.0, legs)
    lengths = ways / (1.0 + rng.uniform(-0.001, 0.02, legs) * rng.choice([0.1, 1.0]))
    rope = np.zeros(r.ROPE)
    rope[r.LEGS], rope[r.EA], rope[r.USED_UP] = legs, 10 ** rng.uniform(4.8, 6.0), -1.0
    rope[r.N : r.N + legs], rope[r.L : r.L + legs] = lengths, ways
    rope[r.E : r.E + 2] = rng.uniform(0.3, 1.0 - 1e-9, 2)
    rope[r.BEFORE : r.BEFORE + legs] = np.maximum(ways / lengths - 1.0 + rng.uniform(-1e-3, 1e-3, legs), 0.0)
    strain = ways / lengths - 1.0
    return rope, rope[r.EA] * ((1.0 + damper) * strain - damper * rope[r.BEFORE : r.BEFORE + legs])


class Settled(TestCase):
    def test_friction_holds_everywhere_and_rope_slips_only_where_it_is_at_its_limit(self):
        rng = np.random.default_rng(27)
        for trial in range(1200):
            legs, damper = 2 + trial % 2, float(rng.choice([0.0, 0.3]))
            rope, first = rope_of(rng, legs, damper)
            holds = float(rng.choice([np.inf, max(first.max(), 10.0) * rng.uniform(0.2, 1.2)]))
            slides, before = holds / 1.15, rope[r.N : r.N + legs].copy()
            slid = rope[r.SLIDES] = float(rng.choice([0.0, 1.0])) if holds < np.inf else 0.0
            r.settle(rope, damper, holds, slides)
            pulled, gained = rope[r.T : r.T + legs], np.cumsum(rope[r.N : r.N + legs] - before)
            near = 2e-6 * max(pulled.max(), 1.0)
            with self.subTest(trial=trial):
                # The device: at rest no more than it holds and no rope lost; sliding, just what it slides at, but what
                # it held at the moment it begins to.
                if rope[r.SLIDES]:
                    self.assertAlmostEqual(pulled[-1], slides if slid else holds, delta=near)
                    self.assertGreater(gained[-1], 0.0)
                    self.assertAlmostEqual(rope[r.RUN], gained[-1], places=12)
                else:
                    self.assertLessEqual(pulled[-1], holds + near)
                    self.assertAlmostEqual(gained[-1], 0.0, places=10)
                for place in range(legs - 1):
                    passes, one, two = rope[r.E + place], pulled[place], pulled[place + 1]
                    self.assertGreaterEqual(two, passes * one - near)
                    self.assertGreaterEqual(one, passes * two - near)
                    if pulled.max() > near and abs(gained[place]) > 1e-10:
                        at = (two, passes * one) if gained[place] > 0.0 else (one, passes * two)
                        self.assertAlmostEqual(*at, delta=near)

    def test_slack_is_taken_up_from_where_it_lies(self):
        # Leg one is pulled 4 cm tight, leg two has 10 cm to spare: nothing pulls, and the rest of it stays there.
        for legs, spare in (((5.04, 8.0), 1), ((8.0, 5.04), 0)):
            rope = np.zeros(r.ROPE)
            rope[r.LEGS], rope[r.EA], rope[r.E] = 2, 2e5, 0.8
            rope[r.L : r.L + 2] = legs
            rope[r.N : r.N + 2] = (5.0, 8.1) if spare else (8.1, 5.0)
            r.settle(rope, 0.0, np.inf, np.inf)
            self.assertEqual(tuple(rope[r.T : r.T + 2]), (0.0, 0.0))
            self.assertAlmostEqual(rope[r.N + spare] - legs[spare], 0.06, places=9)


def log(tail, **more):
    """A log of 180 kg, 3 m long, tied half a metre from its butt, cut free level 2.5 m under its block."""
    usual = {
        "mass": 180.0,
        "inertia": 180.0 * 9.0 / 12.0,
        "balance": 1.5,
        "tie": 0.5,
        "length": 3.0,
        "butt": (-0.5, 0.0, 20.0),
        "way": (1.0, 0.0, 0.0),
        "point": (0.0, 0.0, 22.5),
        "beyond": (0.0, 0.0, -1.0),
        "axial_stiffness": 200e3,
        "damping": 0.0,
        "lengths": (2.5, tail),
        "tension_ratios": FREE,
        "holds": (900.0, 3100.0),
        "slides": (900.0, 3100.0),
        "let": 0.5,
        "reaction": 0.3,
    }
    return Scene(**(usual | more))


def by_small_steps(given, step=4e-5):
    """Run and peak of the same log, its rope one spring that the device lets out: plane angle, steps of 0.04 ms."""
    m, inertia, c = given.mass, given.inertia, given.balance - given.tie
    px, pz = given.point[0], given.point[2]
    x, z, angle = given.butt[0] + given.balance, given.butt[2], 0.0
    vx = vz = spin = run = peak = now = 0.0
    rest, natural, used = given.lengths[1], sum(given.lengths), None
    while now < given.seconds:
        cos, sin = math.cos(angle), math.sin(angle)
        dx, dz = px - (x - c * cos), pz - (z - c * sin)
        long = math.hypot(dx, dz)
        pull = given.axial_stiffness * ((long + rest) / natural - 1.0)
        used = now if used is None and run > given.let else used
        limit = given.slides[1] if used is not None and now - used >= given.reaction else given.slides[0]
        if pull > limit:
            fresh = (long + rest) / (1.0 + limit / given.axial_stiffness)
            run, natural, pull = run + fresh - natural, fresh, limit
        pull = max(pull, 0.0)
        peak = max(peak, pull)
        fx, fz = pull * dx / long, pull * dz / long
        vx, vz = vx + fx / m * step, vz + (fz / m - G) * step
        spin -= c * (cos * fz - sin * fx) / inertia * step
        x, z, angle, now = x + vx * step, z + vz * step, angle + spin * step, now + step
    return run, peak


class RunOut(TestCase):
    def test_it_runs_as_far_with_little_rope_behind_the_block_as_with_much(self):
        for tail in (0.3, 0.6, 1.0, 2.0, 4.0):
            with self.subTest(tail=tail):
                got, (run, peak) = moved(log(tail).rows(1)), by_small_steps(log(tail))
                self.assertAlmostEqual(float(got.run[0]) / run, 1.0, delta=0.004)
                self.assertAlmostEqual(float(got.peak[0]) / peak, 1.0, delta=0.002)
                self.assertEqual(float(got.stops[0]), 1.0)

    def test_its_run_by_energy(self):
        # Tied at its balance under the block: W(h + F/k + s) = F·s + F²/2k, whatever the tail and the modulus.
        weight, brake = 180.0 * G, 2600.0
        for tail, modulus in ((0.3, 9e5), (0.3, 6e4), (3.0, 9e5)):
            given = log(tail, butt=(-1.5, 0.0, 20.0), tie=1.5, axial_stiffness=modulus, lengths=(2.9, tail))
            given = replace(given, holds=(brake,) * 2, slides=(brake,) * 2)
            soft = modulus / (2.9 + tail)
            run = (weight * (0.4 + brake / soft) - brake**2 / 2 / soft) / (brake - weight)
            # Rope that ran out is as long again in play: it stretches by F/EA a metre more.
            run *= 1.0 / (1.0 + brake / modulus)
            self.assertAlmostEqual(float(moved(given.rows(1)).run[0]) / run, 1.0, delta=0.01)

    def test_what_it_ran_is_the_work_its_device_took(self):
        # Block with friction, two tails: weight times fall less what moves = work at device and block + stored.
        for tail, passes in ((0.4, 0.9), (2.5, 0.7)):
            given = log(tail, tension_ratios=(passes,), holds=(1900.0,) * 2, slides=(1900.0,) * 2, let=np.inf)
            trace, got = traced(given.rows(1)[0]), moved(given.rows(1))
            fell = given.butt[2] - float(trace.balance[-1, 2])
            speed = (trace.balance[-1] - trace.balance[-3]) / (trace.time[-1] - trace.time[-3])
            turn = np.linalg.norm(trace.way[-1] - trace.way[-3]) / (trace.time[-1] - trace.time[-3])
            moving = 0.5 * 180.0 * float(speed @ speed) + 0.5 * given.inertia * float(turn) ** 2
            device = 1900.0 * float(got.run[0])
            slipped = 1900.0 / passes * float(got.run[0])  # what runs out passes the block against the greater tension
            took = 180.0 * G * fell - moving
            self.assertGreater(took, device)
            self.assertLess(took, slipped * 1.12 + 250.0)


class OneLaw(TestCase):
    def test_the_damper_pulls_on_both_ends_and_slips_with_the_device(self):
        # Much damping: the piece never feels more than the sliding device and the block's friction let through.
        for tail in (0.3, 4.0):
            given = log(tail, damping=0.4, tension_ratios=(0.9,), holds=(1100.0,) * 2, slides=(850.0,) * 2, let=np.inf)
            trace = traced(given.rows(1)[0])
            self.assertLessEqual(float(trace.at_device.max()), 1100.0 * (1 + 1e-6))
            self.assertLessEqual(float((trace.tension - trace.at_device / 0.9).max()), 0.02)
            # While the piece goes down the device lets out rope at what it slides at, no more.
            sliding = trace.at_device[np.abs(trace.at_device - 850.0) < 0.01]
            self.assertGreater(len(sliding), 0.3 * len(trace.time))

    def test_a_locked_rope_is_damped_at_both_ends_alike(self):
        given = log(3.0, damping=0.15, holds=(np.inf,) * 2, slides=(np.inf,) * 2)
        trace = traced(given.rows(1)[0])
        self.assertGreater(float(trace.tension.max()), 2.0 * 180.0 * G)
        np.testing.assert_allclose(trace.at_device, trace.tension, rtol=1e-6, atol=1e-3)


class NoEnergyIsMade(TestCase):
    SCENES = (
        {},
        {"tie": 0.15},
        {"tie": 1.1, "way": (math.cos(0.35), 0.0, math.sin(0.35))},
        {"tie": 4.9},
        {"tie": 0.4, "axial_stiffness": 800e3},
        {"tie": 0.6, "mass": 14.0, "inertia": 16.8},
        {"tie": 0.8, "point": (0.4, 1.4, 13.9)},
        {"lengths": (3.8, 0.3)},
        {"lengths": (4.8, 0.3)},
    )

    def test_like_moments_keep_their_energy_over_ten_seconds(self):
        # Free moments of a bounce: weight and speed alone; less than a thousandth of the greatest motion energy apart.
        for more in self.SCENES:
            given = self.limb(**more)
            trace = traced(given.rows(1)[0])
            step = np.diff(trace.time)
            even = np.abs(np.diff(step)) < 1e-9
            speed = (trace.balance[2:] - trace.balance[:-2]) / (trace.time[2:] - trace.time[:-2])[:, None]
            turn = (trace.way[2:] - trace.way[:-2]) / (trace.time[2:] - trace.time[:-2])[:, None]
            moving = 0.5 * given.mass * (speed**2).sum(axis=1) + 0.5 * given.inertia * (turn**2).sum(axis=1)
            # A central difference reads the turn of an axis short by sin(ωh)/ωh: set right.
            short = np.linalg.norm(turn, axis=1) * step[:-1]
            moving += 0.5 * given.inertia * (turn**2).sum(axis=1) * (short**2 / 3.0)
            energy = moving + given.mass * G * trace.balance[1:-1, 2]
            slack = (trace.tension[:-2] == 0.0) & (trace.tension[1:-1] == 0.0) & (trace.tension[2:] == 0.0) & even
            with self.subTest(more=more):
                self.assertGreater(int(slack.sum()), 50)
                self.assertLess(float(np.ptp(energy[slack])) / float(moving[even].max()), 1e-3)
                # Today's step or a little less: 5 ms at most before, so 2,000 of them in ten seconds.
                self.assertLess(len(trace.time), 1.3 * max(10.0 / 5e-3, 10.0 / (step.max() * 1.13)))

    @staticmethod
    def limb(**more):
        """The limb of the other tests of motion, so high up that it meets no ground in ten seconds."""
        given = scene(seconds=10.0, **more)
        return replace(given, **{n: (*getattr(given, n)[:2], getattr(given, n)[2] + 100.0) for n in ("butt", "point")})

    def test_it_leaves_its_hinge_with_all_the_speed_of_its_fall(self):
        # A top pushed over, its rope slack: the moment it parts its balance moves at b·ω, ω² = 2·W·b·Δh/(I + m·b²).
        for parts in (0.5, 1.0, 1.31):
            given = self.limb(
                way=(0.0, 0.0, 1.0),
                slope=math.pi / 2,
                parts=parts,
                tie=0.3,
                point=(0.5, 0.0, 10.0),
                lengths=(9.0, 9.0),
            )
            trace, got = traced(given.rows(1)[0]), moved(given.rows(1))
            about = given.inertia + given.mass * given.balance**2
            spin = math.sqrt(2 * given.mass * GRAVITY * given.balance * (1 - math.cos(parts)) / about)
            i = int(np.searchsorted(trace.time, float(got.parted[0]) + 1e-9))
            after = trace.time[i + 1] - trace.time[i]
            turned = math.acos(float(trace.way[i] @ trace.way[i + 1])) / after
            self.assertAlmostEqual(turned / spin, 1.0, delta=0.001)
