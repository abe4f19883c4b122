"""Hinge with taper, bypass and core; guy line; saw cuts: hand computation and direct geometry."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from treecore.errors import CoreError, NotSolvable
from treecore.felling.evaluate import judged, thinning
from treecore.felling.guying import guy_moments, guy_way, torsion
from treecore.felling.hinge import (
    bending_shape,
    bypass_closes,
    core_chord,
    hinge_wood,
    holding_shape,
    shear_stress,
    turn_by_bypass,
    turn_by_hinge,
)
from treecore.felling.plan import evaluate
from treecore.felling.sawing import Saw, cut_sequence, longest_cut
from treecore.felling.splitting import narrow, split_use, splitting_moment, toughness
from treecore.rigging.line import Guy
from treecore.tests.scenes import CUTS, PLAN, PULL


class Hinge(TestCase):
    def test_tapered_section_against_slices(self):
        wood = hinge_wood(replace(CUTS, taper=0.03))
        y = np.linspace(-wood.length / 2, wood.length / 2, 400001)
        thick = wood.mean + wood.taper * y / wood.length  # y to the left
        area, first = np.trapezoid(thick, y), np.trapezoid(thick * y, y)
        middle = first / area
        second = np.trapezoid(thick * (y - middle) ** 2, y)
        even = wood.mean * wood.length**2 / 6.0
        # Pushed to the right, the left end is in tension; to the left, the right end.
        self.assertAlmostEqual(
            holding_shape(wood, 1.0, wood.length), second / (wood.length / 2 - middle) / even, places=6
        )
        self.assertAlmostEqual(
            holding_shape(wood, -1.0, wood.length), second / (wood.length / 2 + middle) / even, places=6
        )
        self.assertAlmostEqual(bending_shape(wood, wood.length), np.trapezoid(thick**2, y), places=9)

    def test_thicker_on_the_tension_side_holds_more(self):
        wood = hinge_wood(replace(CUTS, taper=0.05))
        self.assertGreater(holding_shape(wood, 1.0, wood.length), 1.0)
        self.assertLess(holding_shape(wood, -1.0, wood.length), 1.0)

    def test_turn_of_the_lay(self):
        # Ends 85 and 55 mm: the middle line slants 15 mm over the length, towards the thicker left.
        wood = hinge_wood(replace(CUTS, taper=0.03))
        self.assertAlmostEqual(turn_by_hinge(wood), -math.atan(0.015 / wood.length), places=12)
        cut = hinge_wood(replace(CUTS, bypass=0.02, bypass_side="left"))
        self.assertAlmostEqual(cut.left, 0.05, places=12)
        self.assertAlmostEqual(cut.right, 0.07, places=12)
        self.assertAlmostEqual(turn_by_hinge(cut), 0.0, places=12)
        self.assertAlmostEqual(turn_by_bypass(cut), math.atan(0.035 / wood.length), places=12)
        self.assertAlmostEqual(math.degrees(bypass_closes(0.008, 0.008)), 45.0, places=9)

    def test_a_core_takes_its_chord(self):
        # Strip through the middle of a core 0.3 m across, vanishing width: the diameter; beyond it: nothing.
        self.assertAlmostEqual(core_chord(0.3, -1e-6, 1e-6), 0.3, places=6)
        self.assertEqual(core_chord(0.3, 0.15, 0.2), 0.0)
        x = np.linspace(0.05, 0.12, 200001)
        self.assertAlmostEqual(
            core_chord(0.3, 0.05, 0.12), np.trapezoid(2 * np.sqrt(0.0225 - x**2), x) / 0.07, places=9
        )

    def test_shear_by_hand(self):
        # 1.5 · 9 kN / (0.6 · 0.05 m²) = 0.45 MPa
        wood = hinge_wood(CUTS)._replace(mean=0.05)
        self.assertAlmostEqual(shear_stress(9000.0, wood, 0.6), 450e3, places=6)

    def test_refusals(self):
        for field, change in {
            "taper": {"taper": 0.15},
            "bypass_side": {"bypass": 0.02},
            "bypass": {"bypass": 0.08, "bypass_side": "left"},
            "slope": {"slope": 2.0},
        }.items():
            with self.subTest(field=field), self.assertRaises(CoreError) as caught:
                replace(CUTS, **change)
            self.assertEqual(caught.exception.field, field)


class GuyLine(TestCase):
    def way(self, azimuth, distance, anchor, lean=(0.0, 0.0), cut=0.4, pivot=0.2):
        guy = Guy(tie=12.4, azimuth=azimuth, distance=distance, anchor=anchor)
        return guy_way(guy, 0.0, cut, pivot, lean, math.radians(80.0))

    def test_on_the_hinge_line_it_stays_the_same(self):
        # Lay north: the hinge line runs east through the pivot, 0.2 m ahead of the stem, 0.4 m up.
        way = self.way(math.atan2(18.0, 0.2), math.hypot(18.0, 0.2), 0.4)
        self.assertAlmostEqual(way.out, 0.0, places=9)
        self.assertAlmostEqual(way.slack, 0.0, places=9)

    def test_ahead_behind_and_above_against_direct_geometry(self):
        for east, north, up in ((18.0, 4.0, 0.4), (18.0, -4.0, 0.4), (18.0, 0.2, 3.0), (-15.0, -2.0, -1.0)):
            with self.subTest(anchor=(east, north, up)):
                lean = (0.02, -0.015)
                way = self.way(math.atan2(east, north) % math.tau, math.hypot(east, north), up, lean)
                for turn, length in zip(way.turns[::15], way.lengths[::15], strict=True):
                    x0, y0 = lean[0] * 12.0 - 0.2, lean[1] * 12.0
                    r, start = math.hypot(x0, 12.0), math.atan2(x0, 12.0)
                    tie = (y0, 0.2 + r * math.sin(start + turn), 0.4 + r * math.cos(start + turn))
                    self.assertAlmostEqual(length, math.dist(tie, (east, north, up)), places=9)

    def test_behind_it_tightens_and_ahead_it_slackens(self):
        behind, ahead = self.way(math.radians(100.0), 18.0, 0.4), self.way(math.radians(70.0), 18.0, 0.4)
        self.assertGreater(behind.out, 1.5)
        self.assertGreater(ahead.slack, 2.0)

    def test_tension_is_side_moment_over_its_lever(self):
        # Square to the lay, level with the hinge: lever = height · cos φ.
        guy = Guy(tie=12.4, azimuth=math.radians(270.0), distance=16.0, anchor=0.4, limit=50e3)
        got = guy_moments(guy, 0.0, 0.4, 0.0, (0.0, 0.0), 30e3)
        self.assertAlmostEqual(float(got.tension), 30e3 / (12.0 * 16.0 / 20.0), places=6)
        self.assertAlmostEqual(float(got.across), -30e3, places=6)
        self.assertEqual(float(guy_moments(guy, 0.0, 0.4, 0.0, (0.0, 0.0), -30e3).tension), 0.0)
        # A gust to the guyed side asks for its own moment over the same lever, times the gain; anchored square,
        # nothing along.
        blown = guy_moments(guy, 0.0, 0.4, 0.0, (0.0, 0.0), 30e3, 12e3, 1.3)
        self.assertAlmostEqual(float(blown.wanted), 1.3 * 42e3 / (12.0 * 16.0 / 20.0), places=6)
        self.assertAlmostEqual(float(blown.along), 0.0, places=6)
        # Anchored 30° behind square it pulls back by its tension in the gust; ahead of square its help counts for
        # nothing.
        behind = guy_moments(replace(guy, azimuth=math.radians(240.0)), 0.0, 0.4, 0.0, (0.0, 0.0), 30e3, 12e3)
        self.assertAlmostEqual(float(behind.along), -42e3 * math.tan(math.radians(30.0)), delta=1.0)
        ahead = guy_moments(replace(guy, azimuth=math.radians(300.0)), 0.0, 0.4, 0.0, (0.0, 0.0), 30e3, 12e3)
        self.assertEqual(float(ahead.along), 0.0)
        self.assertEqual(
            float(guy_moments(replace(guy, limit=1000.0), 0.0, 0.4, 0.0, (0.0, 0.0), 30e3).tension), 1000.0
        )

    def test_torsion(self):
        self.assertAlmostEqual(torsion(40e3, 0.3, math.radians(30.0)), 6000.0, places=9)

    def test_it_takes_the_side_moment_off_the_hinge(self):
        guy = Guy(tie=14.0, azimuth=math.radians(353.0), distance=22.0, limit=20e3, tended=True)  # left of a lay of 83°
        plan = replace(PLAN, guy=guy)
        with_it, without = evaluate(plan), evaluate(PLAN)
        self.assertGreater(without.point.side_moment, 0.0)
        self.assertAlmostEqual(with_it.point.side_moment, 0.0, places=6)
        self.assertGreater(with_it.point.guy_tension, 0.0)


class Sawing(TestCase):
    def test_what_a_bar_must_reach(self):
        def need(pattern, bar):
            return longest_cut(cut_sequence(CUTS, Saw(bar=bar, pattern=pattern), True, True)).bar

        self.assertAlmostEqual(need("straight", 0.9), 0.78, places=9)  # the whole width across
        self.assertAlmostEqual(need("halves", 0.5), 0.39 * 1.08, places=9)  # half of it and a little over
        chord = hinge_wood(CUTS).length
        notch = cut_sequence(CUTS, Saw(bar=0.9), True, True)[0].bar
        self.assertAlmostEqual(notch, chord, places=12)

    def test_compression_side_first_and_out_to_the_escape(self):
        cuts = cut_sequence(CUTS, Saw(bar=0.5, pattern="lean_side", nicks=True), True, True)
        self.assertEqual([c.key for c in cuts], ["notch_sloping", "notch_level", "nicks", "compression", "tension"])
        self.assertLess(cuts[3].stands[1], 0.0)  # fibres in tension on the left: begin on the right
        self.assertGreater(cuts[4].stands[1], 0.0)

    def test_areas_lie_in_the_stump_and_leave_the_hinge(self):
        apex = CUTS.along / 2 - CUTS.depth
        for pattern in ("straight", "lean_side", "halves", "bore", "middle"):
            for cut in cut_sequence(CUTS, Saw(bar=0.5, pattern=pattern), True, False)[2:]:
                for x, y in cut.area:
                    self.assertLessEqual((2 * x / CUTS.along) ** 2 + (2 * y / CUTS.across) ** 2, 1.0 + 1e-9)
                    self.assertLessEqual(x, apex - CUTS.hinge + 1e-9, (pattern, cut.key))

    def test_whoever_saws_stands_beside_the_stump(self):
        for pattern in ("straight", "lean_side", "halves", "bore", "middle"):
            for cut in cut_sequence(CUTS, Saw(bar=0.5, pattern=pattern, nicks=True), True, True):
                x, y = cut.stands
                self.assertGreater((2 * x / CUTS.along) ** 2 + (2 * y / CUTS.across) ** 2, 1.3, (pattern, cut.key))
                self.assertLess(math.hypot(x, y), 1.0, (pattern, cut.key))

    def test_a_bore_through_the_notch_leaves_two_thirds_of_the_hinge(self):
        centre = next(c for c in cut_sequence(CUTS, Saw(bar=0.9, pattern="middle"), True, True) if c.key == "centre")
        wide = max(abs(y) for _, y in centre.area)
        self.assertAlmostEqual(wide, hinge_wood(CUTS).length / 2.0 / 3.0, delta=1e-6)

    def test_a_cut_past_the_apex_through_the_thinner_end_is_refused(self):
        # Ends of 85 and 55 mm: 70 mm past the apex leaves the left end standing and cuts the right one through.
        replace(CUTS, taper=0.03, bypass=0.07, bypass_side="left")
        with self.assertRaises(CoreError) as caught:
            replace(CUTS, taper=0.03, bypass=0.07, bypass_side="right")
        self.assertEqual(caught.exception.field, "bypass")

    def test_the_strap_asks_its_own_bar(self):
        # Strap left at the back, 12 % of 82 cm deep: the oval is 2·√(0.12 − 0.12²) of 78 cm wide there.
        wide = 2.0 * math.sqrt(0.12 - 0.12**2) * 0.78
        for bar, share in ((0.9, 1.0), (0.4, 0.5)):
            bore, trigger = cut_sequence(CUTS, Saw(bar=bar, pattern="bore"), True, True)[-2:]
            self.assertEqual((bore.key, trigger.key), ("bore", "trigger"))
            self.assertAlmostEqual(trigger.bar, share * wide, places=9)

    def test_a_split_runs_where_the_energy_it_frees_pays_for_its_faces(self):
        # A beam in bending, its rear part cut off at the foot over a length c: dU/dc of M²c/2EI₁ + M²(l − c)/2EI₀ by
        # differences, over its width, is the toughness.
        tough, stiff, wide, along, front = 420.0, 9.1e9, 0.44, 0.52, 0.19
        moment = float(splitting_moment(tough, stiff, wide, along, front))

        def energy(split, length=3.0):
            front_part, whole = (wide * h**3 / 12 for h in (front, along))
            return moment**2 / (2 * stiff) * (split / front_part + (length - split) / whole)

        freed = (energy(1.0005) - energy(0.9995)) / 0.001 / wide
        self.assertAlmostEqual(freed / tough, 1.0, places=6)

    def test_sawing_from_behind_it_moves_when_what_is_left_bends(self):
        wood, cuts = (420.0, 9.1e9, 0.44), (0.52, 0.12, 0.05)
        bends = 55e6 * 0.44 * 0.05**2 / 6
        # Four times what bends the hinge as planned: it moves at twice its thickness and carries all of it.
        used = float(split_use(4 * bends, bends, wood, cuts, False))
        self.assertAlmostEqual(used, 4 * bends / float(splitting_moment(*wood, 0.52, 0.12 + 0.10)), places=9)
        # Bored, the hinge is no thicker than planned and passes on no more than bends it.
        bored = float(split_use(4 * bends, bends, wood, cuts, True))
        self.assertAlmostEqual(bored, bends / float(splitting_moment(*wood, 0.52, 0.17)), places=9)
        self.assertLess(bored, used)
        self.assertEqual(float(split_use(-1e3, bends, wood, cuts, False)), 0.0)
        self.assertAlmostEqual(narrow(math.radians(20)), 1.5, places=9)
        self.assertEqual(narrow(math.radians(70)), 1.0)
        self.assertLess(toughness("high").high, toughness("low").value)
        with self.assertRaises(NotSolvable):
            toughness("never")


class MidPull(TestCase):
    def test_thinning_keeps_what_holds_and_turns_to_the_thicker_end(self):
        left, right = thinning(evaluate(PLAN))
        for row in (left, right):
            self.assertEqual(row.end, row.drift)
            self.assertLess(row.least, row.now)
            self.assertGreaterEqual(row.least, 0.015)
        # With the right end at its least, the hinge still holds the side moment's upper bound.
        thinned = replace(PLAN, cuts=replace(CUTS, hinge=(0.07 + right.least) / 2, taper=0.07 - right.least))
        result = evaluate(thinned)
        self.assertLessEqual(result.estimates["thin"].value, thinned.cuts.hinge)
        self.assertAlmostEqual(turn_by_hinge(result.wood), -right.turn, places=9)


class Ledger(TestCase):
    @given(st.floats(0.0, 3.0))
    def test_lines_add_up_along_and_across(self, wind):
        guy = Guy(tie=14.0, azimuth=math.radians(340.0), distance=22.0, limit=3e3, tended=True)
        p = evaluate(replace(PLAN, wind=wind, guy=guy)).point
        along = (
            p.m_lean
            + p.m_crown
            + p.m_pivot
            + p.wind_along
            + p.guy_along
            + p.pull_along
            + p.wedge_moment
            - p.hinge_moment
        )
        self.assertLessEqual(p.guy_along, 0.0)  # it pulls back, so it counts
        self.assertAlmostEqual(along, p.margin, places=5)
        across = p.s_lean + p.s_crown + p.pull_across + p.guy_across + p.wedge_side
        self.assertAlmostEqual(across, p.side_moment, places=5)
        self.assertAlmostEqual(abs(across) + p.wind_across + p.side_ends, p.side_most, places=5)
        self.assertGreater(p.side_ends, 0.0)

    def test_the_gust_uses_up_the_margin(self):
        # A mean wind whose gusts are the figure, from each side in turn: at the worst nothing is left, along or across.
        forward = replace(PLAN.tree, lean=0.06, lean_azimuth=1.2)
        for change in ({}, {"pull": replace(PULL, force=9e3)}, {"pull": None, "tree": forward}):
            plan = replace(PLAN, **change)
            calm = evaluate(replace(plan, wind=0.0)).point
            left = []
            for turn in (0.0, math.pi / 2, -math.pi / 2):
                wind = replace(plan, wind=calm.gust / 1.5, wind_from=(plan.lay + turn) % math.tau)
                p = evaluate(wind).point
                left.append(min(p.margin / p.available, 1.0 - p.thin_joint / plan.cuts.hinge))
            self.assertGreater(calm.gust, 1.0)
            self.assertAlmostEqual(min(left), 0.0, delta=0.03)

    def test_the_wind_given_uses_up_only_what_it_blows_against(self):
        # Squares of gusts: along is used up by the share against, across by the share aside, in a fan of 30° to both
        # sides.
        plan = replace(PLAN, pull=replace(PULL, azimuth=PLAN.lay), wind=0.0)
        calm = evaluate(plan).point
        along = calm.margin / calm.gale

        def here(off):
            found = evaluate(replace(plan, wind_from=(plan.lay + math.radians(off)) % math.tau)).point
            self.assertAlmostEqual(found.gust, calm.gust, places=9)
            return found.gust_here**2

        self.assertAlmostEqual(here(0.0), along, delta=1e-6 * along)  # all of it against, half aside
        across = here(90.0)  # all of it aside, half against: less than what is left along allows
        self.assertLess(across, along / 0.5)
        self.assertAlmostEqual(here(180.0), across / 0.5, delta=1e-5 * across)  # none against, half aside
        self.assertAlmostEqual(
            here(45.0), min(along / math.cos(math.radians(15)), across / math.sin(math.radians(75))), delta=1e-6 * along
        )

    def test_judged_adds_the_way_walked(self):
        self.assertIn("escape_time", {limit.key for limit in judged(PLAN).result.limits})
