"""Cuts aloft against hand calculation: hinge and push, step, collar, reversed and tilted notches, a piece that leans
back.
"""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from scipy.spatial.transform import Rotation

from treecore.errors import CoreError
from treecore.schools import constant
from treecore.takedown.catching import starts_of
from treecore.takedown.cutting import hinge_aloft, moment_at_cut, step_aloft
from treecore.takedown.members import members_of
from treecore.takedown.pick import RigPoint
from treecore.takedown.pieces import Cut
from treecore.takedown.sawcut import SawCut
from treecore.tests.validation.test_takedown import GEAR, OAK, PICK, item, worked
from treecore.units import GRAVITY
from treecore.verdict import Verdict

TOP = Cut("", 16.0)
STEM = replace(PICK, method="free", point=None, bearing=math.radians(70.0))


def leaning(degrees, towards=250.0):
    return replace(OAK, lean=math.radians(degrees), lean_azimuth=math.radians(towards))


def keys(limits):
    return {limit.key: limit for limit in limits}


class Hinges(TestCase):
    def test_a_third_deep_and_a_twentieth_thick_where_nobody_said(self):
        for tree in (OAK, leaning(4.0), leaning(4.0, 70.0)):
            w, _ = worked(STEM, TOP, tree)
            hinge, d = hinge_aloft(members_of(tree), w.piece, STEM), w.piece.diameter
            self.assertAlmostEqual(hinge.depth, d / 3.0, places=6)
            self.assertAlmostEqual(hinge.thick, d / 20.0, places=9)
            half = d / 2.0
            sound = half - 0.035 * d  # bark holds nothing
            self.assertAlmostEqual(hinge.length, 2.0 * math.sqrt(sound**2 - (half - d / 3.0) ** 2), places=6)
            to = np.array([math.sin(STEM.bearing), math.cos(STEM.bearing)])
            ahead = float(np.dot(np.array(w.piece.cg[:2]) - np.array(w.piece.butt[:2]), to))
            self.assertAlmostEqual(hinge.behind, half - d / 3.0 - d / 40.0 - ahead, places=6)
            bends = tree.kind.mor.value * hinge.length * (d / 20.0) ** 2 / 6.0
            back = w.piece.mass.value * GRAVITY * hinge.behind
            self.assertAlmostEqual(hinge.needed.value, back + bends, delta=1e-6 * abs(back + bends))
            self.assertAlmostEqual(hinge.push.value, (back + bends) / 1.5, delta=1e-6 * abs(back + bends))

    def test_a_designed_hinge_is_pushed_over_or_is_too_stiff(self):
        for thick, over in ((0.004, False), (0.04, True)):
            cut = SawCut(depth=0.07, hinge=thick)
            limits = keys(worked(replace(STEM, cut=cut), TOP, leaning(3.0, 70.0))[1])
            self.assertEqual(limits["push_hard"].verdict is Verdict.OVER, over)
        self.assertNotIn("push_hard", keys(worked(STEM, TOP)[1]))

    def test_one_that_leans_back_closes_its_cut_until_it_is_turned_forward(self):
        back = leaning(6.0)
        limits = keys(worked(STEM, TOP, back)[1])
        self.assertIs(limits["kerf_closes"].verdict, Verdict.OVER)
        forward = keys(worked(replace(STEM, bearing=math.radians(250.0)), TOP, back)[1])
        self.assertNotIn("kerf_closes", forward)
        # The same by hand: its weight times how far its balance stands behind the hinge, against a push at 1.5 m.
        w, _ = worked(STEM, TOP, back)
        behind = hinge_aloft(members_of(back), w.piece, STEM).behind
        self.assertAlmostEqual(limits["kerf_closes"].demand.value, w.piece.mass.value * 9.80665 * behind, places=3)
        self.assertAlmostEqual(limits["kerf_closes"].allowed.value, 200.0 * 1.5, places=6)
        tagged = replace(STEM, gear=GEAR | {"tag": item("Yellow", "tag")})
        with_tag = keys(worked(tagged, TOP, back)[1])["kerf_closes"].allowed.value
        self.assertAlmostEqual(with_tag, 300.0 + 250.0 * 0.8 * w.piece.length * 0.7, places=6)

    def test_no_room_for_notch_and_hinge_is_refused_at_its_field(self):
        for cut, field in (
            (SawCut(depth=0.4), "cut_depth"),
            (SawCut(key="step", overlap=0.4), "cut_overlap"),
        ):
            with self.assertRaises(CoreError) as caught:
                worked(replace(STEM, cut=cut), TOP)
            self.assertEqual(caught.exception.field, field)
        for bad, field in (
            ({"key": "bite"}, "cut_type"),
            ({"notch": "birdsmouth"}, "notch"),
            ({"opening": 0.05}, "cut_opening"),
            ({"tilt": 0.9}, "cut_tilt"),
            ({"hinge": 0.0}, "cut_hinge"),
        ):
            with self.subTest(field=field), self.assertRaises(CoreError) as caught:
                SawCut(**bad)
            self.assertEqual(caught.exception.field, field)


class Notches(TestCase):
    def test_it_parts_where_its_notch_closes(self):
        level = worked()[0].piece
        for cut, expected in (
            (SawCut(), (20.0, 70.0)),
            (SawCut(opening=math.radians(50.0)), (20.0, 50.0)),
            (SawCut(opening=math.radians(15.0)), (15.0, 15.0)),
            (SawCut(notch="open"), (20.0, 75.0)),
            (SawCut(notch="open", opening=math.radians(88.0)), (20.0, 88.0)),
        ):
            got = [
                math.degrees(s.parts) for s in starts_of(level._replace(way=(1.0, 0.0, 0.0)), replace(PICK, cut=cut))
            ]
            np.testing.assert_allclose(got, [min(e, 85.0) for e in expected], atol=0.01)

    def test_a_reversed_one_leaves_flat(self):
        for slope, expected in ((0.0, (0.0, 20.0)), (35.0, (15.0, 55.0)), (90.0, (70.0, 110.0)), (-30.0, (0.0, 20.0))):
            got = SawCut(key="reversed").parts(math.radians(slope))
            np.testing.assert_allclose(np.degrees(got), expected, atol=0.01)
        stem = replace(STEM, cut=SawCut(key="reversed", opening=math.radians(60.0)))
        for cut, over in ((stem.cut, True), (SawCut(key="reversed", opening=math.radians(100.0)), False)):
            limits = keys(worked(replace(stem, cut=cut), TOP)[1])
            self.assertEqual(limits["reversed_closes"].verdict is Verdict.OVER, over)

    def test_a_tilted_hinge_sends_it_aside_as_a_turn_in_space_does(self):
        for tilt, opening in ((12.0, 45.0), (-20.0, 70.0), (33.0, 90.0)):
            cut = SawCut(opening=math.radians(opening), tilt=math.radians(tilt))
            # The hinge runs across a notch that faces north; its east end, on the right, is the higher one.
            line = np.array([math.cos(math.radians(tilt)), 0.0, math.sin(math.radians(tilt))])
            top = Rotation.from_rotvec(-math.radians(opening) * line).apply([0.0, 0.0, 1.0])
            self.assertGreater(top[1], 0.0)
            self.assertAlmostEqual(math.atan2(top[0], top[1]), cut.aside(), places=9)
        pick = replace(PICK, method="negative", tie=0.3, point=RigPoint(member="", at=15.5), bearing=1.0)
        tilted = replace(pick, cut=SawCut(opening=1.2, tilt=0.3))
        self.assertAlmostEqual(tilted.goes - 1.0, math.atan(math.sin(0.3) * math.tan(0.6)), places=9)
        ends = [worked(p, TOP)[0].path for p in (pick, tilted)]
        at = [math.atan2(*(p.cg[len(p.cg) // 2, :2] - p.cg[0, :2])) for p in ends]
        self.assertGreater(math.remainder(at[1] - at[0], math.tau), 0.1)


class Steps(TestCase):
    def test_the_wood_between_two_cuts_by_hand(self):
        cut = replace(PICK, cut=SawCut(key="step", overlap=0.02), slack=0.0)
        w, limits = worked(cut, Cut("Bough", 4.6))
        step = step_aloft(members_of(OAK), w)
        self.assertAlmostEqual(step.holds.value, 3e6 * w.piece.diameter * 0.02**2 / 6.0, delta=1e-6)
        out = math.dist(w.piece.cg[:2], w.piece.butt[:2])
        self.assertAlmostEqual(step.weight.value, w.piece.mass.value * GRAVITY * out, delta=1e-6)
        self.assertAlmostEqual(step.pushed.value, 200.0 * min(1.5, w.piece.length), places=6)
        self.assertLess(keys(limits)["step_holds"].allowed.low, step.holds.value)

    def test_it_lets_go_early_and_does_not_snap(self):
        found = {}
        for overlap in (0.008, 0.015, 0.03):
            pick = replace(STEM, bearing=math.radians(70.0), cut=SawCut(key="step", overlap=overlap))
            limits = keys(worked(pick, Cut("", 24.5), leaning(6.0))[1])
            found[overlap] = [limits[k].verdict is Verdict.OVER for k in ("step_holds", "step_snaps")]
        self.assertEqual(found[0.008], [True, False])
        wide = keys(worked(replace(STEM, cut=SawCut(key="step", overlap=0.1)), TOP)[1])
        self.assertIs(wide["step_snaps"].verdict, Verdict.OVER)
        self.assertIs(wide["step_holds"].verdict, Verdict.WITHIN)

    def test_a_tight_line_takes_its_weight(self):
        slack = worked(replace(PICK, cut=SawCut(key="step")))[0]
        tie = slack.piece.balance.value
        tight = replace(PICK, cut=SawCut(key="step"), tie=tie, pretension=0.5 * slack.piece.mass.value * GRAVITY)
        w, _ = worked(tight)
        arm = np.array(w.piece.way) * tie
        to = np.array(w.point) - (np.array(w.piece.butt) + arm)
        weight = np.cross(np.array(w.piece.cg) - np.array(w.piece.butt), [0, 0, -w.piece.mass.value * GRAVITY])
        line = np.cross(arm, to / np.linalg.norm(to) * tight.pretension)
        self.assertAlmostEqual(moment_at_cut(w).value, float(np.linalg.norm(weight + line)), places=6)
        self.assertLess(moment_at_cut(w).value, moment_at_cut(slack).value)
        hook = replace(PICK, method="crane", capacity=900.0, cut=SawCut(key="step"))
        self.assertEqual(moment_at_cut(worked(hook)[0]).value, 0.0)
        self.assertNotIn("step_snaps", keys(worked(hook)[1]))


class Collars(TestCase):
    def test_it_splits_further_out_than_a_diameter(self):
        for at, over in ((0.1, False), (0.6, True)):
            limits = keys(worked(replace(PICK, cut=SawCut(key="top")), Cut("Bough", at))[1])
            self.assertEqual(limits["top_splits"].verdict is Verdict.OVER, over)
        self.assertEqual(limits["top_splits"].demand.value, 0.6)
        self.assertEqual(limits["top_splits"].about.name, "Bough")
        self.assertLess(
            abs(limits["top_splits"].allowed.value - worked(PICK, Cut("Bough", 0.6))[0].piece.diameter), 1e-9
        )
        hook = replace(PICK, method="crane", capacity=900.0, cut=SawCut(key="top"))
        self.assertNotIn("top_splits", keys(worked(hook, Cut("Bough", 0.6))[1]))
        self.assertNotIn("top_splits", keys(worked(replace(STEM, cut=SawCut(key="top")), TOP)[1]))


class Steering(TestCase):
    def test_turned_aside_by_the_hinge_alone_with_the_line_slack(self):
        level = worked()[0].piece
        lies = math.atan2(level.way[0], level.way[1])
        most = constant("steer_most").value
        for turn, slack, said in (
            (most + 0.1, 0.3, Verdict.OVER),
            (-most - 0.1, 0.3, Verdict.OVER),
            (0.2, 0.3, Verdict.WITHIN),
        ):
            limits = keys(worked(replace(PICK, bearing=(lies + turn) % math.tau, slack=slack))[1])
            self.assertIs(limits["steered_slack"].verdict, said)
            self.assertAlmostEqual(limits["steered_slack"].demand.value, abs(turn), places=6)
        self.assertNotIn("steered_slack", keys(worked(replace(PICK, bearing=lies + 0.5, slack=0.0))[1]))
