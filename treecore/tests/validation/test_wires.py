"""Overhead conductors beside a takedown, in space: brute force over the way, closed forms, each limit tripped and
mended.
"""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from treecore.overhead import Conductor
from treecore.schools import constant
from treecore.site import Site
from treecore.takedown.members import members_of
from treecore.tests.validation.test_takedown import CLIMBER, OAK, PICK, mirrored, worked
from treecore.verdict import Verdict


def wire(east, up, approach=3.0, name="Wire"):
    """A taut, level line running north and south past the tree."""
    return Conductor(name=name, start=(east, -60.0, up), end=(east, 60.0, up), sag=0.0, approach=approach)


def near(pick, *lines, cut=None, tree=OAK, site=None):
    return [x for x in worked(pick, cut, tree, replace(site or Site(), conductors=lines))[1] if x.key == "conductor"]


class Distance(TestCase):
    def test_places_from_a_level_line(self):
        places = np.array([(3.0, 5.0, 2.0), (8.0, -9.0, 7.0), (8.0, 64.0, 10.0)])
        got = wire(8.0, 7.0).distances(places)
        for found, expected in zip(got, (math.hypot(5.0, 5.0), 0.0, math.hypot(4.0, 3.0)), strict=True):
            self.assertAlmostEqual(found, expected, places=9)

    def test_a_sagging_line_is_nearer_in_its_middle(self):
        line = Conductor(name="W", start=(0.0, -20.0, 9.0), end=(0.0, 20.0, 9.0), sag=1.2, approach=3.0)
        self.assertAlmostEqual(float(line.distances(np.array([(0.0, 0.0, 5.0)]))[0]), 2.8, delta=0.01)

    def test_the_nearest_of_many_places_is_the_least_of_all(self):
        dice = np.random.default_rng(5)
        line = Conductor(name="W", start=(-4.0, -20.0, 9.0), end=(6.0, 25.0, 7.0), sag=1.5, approach=3.0)
        for _ in range(20):
            places = dice.uniform((-30, -40, 0), (30, 40, 14), (200, 3))
            reach = dice.uniform(0.0, 2.0, 200)
            gaps = line.distances(places) - reach
            gap, which = line.nearest(places, reach)
            self.assertAlmostEqual(gap, float(gaps.min()), places=12)
            self.assertEqual(which, int(gaps.argmin()))


class Picks(TestCase):
    def test_the_piece_on_its_way_by_brute_force(self):
        # A line just east of where the bough swings, too high for what stands and for the way down to be nearer.
        w, _ = worked(PICK)
        leafy = constant("limb_width").value * w.piece.length / 2.0
        for east, up in ((11.0, 12.0), (14.0, 4.0), (-9.0, 9.0)):
            (found,) = near(PICK, wire(east, up))
            least = math.inf
            for butt, tip in zip(w.path.butt, w.path.tip, strict=True):
                for share in np.linspace(0.0, 1.0, 60):
                    x, _, z = butt + share * (tip - butt)
                    least = min(least, math.hypot(x - east, z - up) - leafy)
            self.assertLessEqual(found.demand.value, max(least, 0.0) + 0.02)
            if found.about.role == "piece":
                self.assertAlmostEqual(found.demand.value, max(least, 0.0), delta=0.3)

    def test_over_near_within_and_mirrored(self):
        for east, verdict in ((8.0, Verdict.OVER), (10.8, Verdict.NEAR), (24.0, Verdict.WITHIN)):
            (one,) = near(PICK, wire(east, 7.0))
            self.assertIs(one.verdict, verdict, (east, one.demand.value))
            flat = replace(
                OAK,
                limbs=tuple(replace(x, azimuth=math.tau - x.azimuth) for x in OAK.limbs),
                lean_azimuth=(math.tau - OAK.lean_azimuth) % math.tau,
            )
            (other,) = near(mirrored(PICK), wire(-east, 7.0), tree=flat)
            self.assertAlmostEqual(one.demand.value, other.demand.value, places=6)
            self.assertEqual((one.verdict, one.about.role), (other.verdict, other.about.role))

    def test_a_piece_let_down_through_a_line_nobody_knows(self):
        # The line runs under where the piece hangs: swinging it stays above, going down it does not.
        w, _ = worked(PICK)
        hangs = w.path.butt[w.path.rest]
        under = wire(float(hangs[0]), 1.5, approach=None)
        (found,) = near(PICK, under)
        self.assertEqual((found.verdict, found.about.role), (Verdict.OVER, "way_down"))
        (far,) = near(PICK, wire(45.0, 1.5, approach=None))
        self.assertIs(far.verdict, Verdict.NOT_KNOWN)  # its voltage is not known: the sign-off waits
        (known,) = near(PICK, wire(45.0, 1.5))
        self.assertIs(known.verdict, Verdict.WITHIN)

    def test_the_climber_comes_nearer_than_the_piece(self):
        # The bough swings to the east; the line passes west of the stem at the height of the stance.
        line = wire(-2.6, 7.6, approach=0.5)
        (found,) = near(replace(PICK, climber=CLIMBER), line)
        (alone,) = near(PICK, line)
        self.assertEqual((found.about.role, alone.about.role), ("climber", "standing"))
        self.assertLess(found.demand.value, alone.demand.value)
        stance = worked(replace(PICK, climber=CLIMBER))[0].stand.stance
        expected = math.hypot(stance[0] + 2.6, stance[2] - 7.6) - constant("arm_reach").high
        self.assertAlmostEqual(found.demand.value, expected, places=6)

    def test_a_machines_reach_is_not_known(self):
        pick = replace(PICK, method="crane", point=None, capacity=5000.0)
        roles = {x.about.role: x.verdict for x in near(pick, wire(20.0, 7.0))}
        self.assertIs(roles["machine"], Verdict.OVER)
        self.assertNotIn("machine", {x.about.role for x in near(pick, wire(60.0, 7.0))})

    def test_no_line_no_limit(self):
        self.assertEqual(near(PICK), [])
        self.assertGreater(len(members_of(OAK).names), 1)
