"""Limbs, cavities, measured stems and the ladder against integration done apart, closed forms and each other."""

import itertools
import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from treecore.errors import CoreError
from treecore.estimate import Kind, exactly, plus_minus
from treecore.schools import constant
from treecore.tests.scenes import TREE
from treecore.tree.crown import SLOTS, remainder, slots
from treecore.tree.ladder import ladder, piece
from treecore.tree.limb import Limb, limb_table, placed
from treecore.tree.stem import Cavity, DiameterPoint, Stem, volume_rules
from treecore.tree.weigh import weigh

BEECH = replace(TREE, species="fagus_sylvatica", spread=plus_minus(12.0, 0.8, Kind.ESTIMATED), height=exactly(21.0))
BOUGH = Limb(name="Bough", at=7.0, azimuth=2.0, rise=0.6, length=8.0, diameter=0.22, kind=Kind.MEASURED)
FORK = Limb(name="Fork", parent="Bough", at=4.5, azimuth=2.7, rise=0.9, length=3.0, diameter=0.09)
SPUR = Limb(name="Spur", at=4.0, azimuth=5.0, rise=-0.3, length=2.5, diameter=0.06, dead=True)
WOOD, LEAVES = exactly(1000.0), exactly(800.0)
ALL = frozenset(range(SLOTS))


def weighed(limbs, density=WOOD, foliage=LEAVES, carried=1.0):
    return limb_table(limbs, placed(tuple(limbs)), density, foliage, carried)


class OneLimb(TestCase):
    def test_mass_and_balance_against_integration(self):
        # Axis by slices; side wood 1.1 of it round 0.68 of the length, foliage 800 kg/m² of base round 0.76.
        z = np.linspace(0.0, 8.0, 800001)
        area = math.pi / 4 * (0.22 * (1 - z / 8.0) ** 0.8) ** 2
        axis, axis_moment = 1000 * np.trapezoid(area, z), 1000 * np.trapezoid(area * z, z)
        leaves = 800 * math.pi / 4 * 0.22**2
        mass = axis * 2.1 + leaves
        moment = axis_moment + 1.1 * axis * 0.68 * 8 + leaves * 0.76 * 8
        row = weighed((BOUGH,)).row(0)
        self.assertAlmostEqual(row.mass.value, mass, places=4)
        self.assertAlmostEqual(row.balance.value, moment / mass, places=5)
        self.assertLess(row.tie, row.balance.value)
        self.assertAlmostEqual(row.thirds, 2 / 3 * 8.0, delta=1e-3)
        self.assertGreaterEqual(row.mass.low, 0.0)

    def test_a_limb_carries_what_grows_on_it(self):
        alone = weighed((replace(FORK, parent="", at=5.0),)).row(0).mass.value
        both = weighed((BOUGH, FORK))
        # Side wood and foliage of its own only beyond the fork: 3.5 of 8 m.
        axis = 1000 * math.pi / 4 * 0.22**2 * 8.0 / 2.6
        own = axis + (1.1 * axis + 800 * math.pi / 4 * 0.22**2) * 3.5 / 8.0
        self.assertAlmostEqual(both.row(0).mass.value, own + alone, places=8)
        self.assertEqual(both.row(1).mass.value, alone)

    def test_bare_limbs_balance_nearer_the_butt_and_dead_ones_weigh_less(self):
        leafy, bare = (weighed((BOUGH,), carried=c).row(0) for c in (1.0, 0.0))
        self.assertLess(bare.balance.value, leafy.balance.value)
        self.assertLess(bare.mass.value, leafy.mass.value)
        dead, alive = weighed((SPUR,), carried=0.0).row(0), weighed((replace(SPUR, dead=False),), carried=0.0).row(0)
        self.assertAlmostEqual(dead.mass.value, constant("limb_dead").value * alive.mass.value, places=9)

    def test_in_full_leaf_two_thirds_lies_within_the_interval(self):
        for density, foliage in (
            (exactly(1000.0), BEECH.group.limb_foliage),
            (TREE.kind.density, TREE.group.limb_foliage),
        ):
            for thick, long in (
                (0.05, 2.5),
                (0.08, 4.0),
                (0.12, 5.0),
                (0.15, 9.0),
                (0.22, 8.0),
                (0.3, 12.0),
                (0.45, 14.0),
            ):
                for kind in Kind:
                    limb = replace(BOUGH, diameter=thick, length=long, kind=kind)
                    at = weighed((limb,), density, foliage).row(0).balance
                    self.assertTrue(at.low < 0.5 * long < 2.0 / 3.0 * long <= at.high, (thick, long, at))

    def test_measured_is_narrower_than_guessed(self):
        def width(kind):
            mass = weighed((replace(BOUGH, kind=kind),)).row(0).mass
            return mass.high - mass.low

        self.assertLess(width(Kind.MEASURED), width(Kind.ESTIMATED))
        self.assertLess(width(Kind.ESTIMATED), width(Kind.ASSUMED))


class WholeTree(TestCase):
    def test_limbs_add_to_the_crown_and_move_the_balance(self):
        base, more = weigh(BEECH), weigh(replace(BEECH, limbs=(BOUGH, FORK)))
        density = BEECH.kind.density.value
        table = weighed((BOUGH, FORK), density=exactly(density))
        added = table.row(0)
        self.assertAlmostEqual(more.mass.estimate.value - base.mass.estimate.value, added.mass.value, places=6)
        moment = more.mass.estimate.value * more.east.value - base.mass.estimate.value * base.east.value
        # The limb was measured as it stands: the lean moves it by its union's height on the stem, 7 m, no more.
        lean = math.tan(BEECH.lean) * math.sin(BEECH.lean_azimuth)
        self.assertAlmostEqual(moment, added.mass.value * (added.cg[0] + lean * 7.0), places=6)

    def test_leads_of_a_leaning_fork_stand_as_they_were_measured(self):
        # A stem leaning 4° east to its fork at 5 m, one upright lead: the lead's axis stays over the fork.
        lean = math.tan(math.radians(4.0))
        lead = Limb(name="Lead", at=5.0, azimuth=0.0, rise=math.pi / 2, length=14.0, diameter=0.4, codominant=True)
        tree = replace(BEECH, lean=math.radians(4.0), lean_azimuth=math.pi / 2, fork=5.0, limbs=(lead,), replaced=ALL)
        got, alone = weigh(tree), weighed((lead,), density=exactly(BEECH.kind.density.value)).row(0)
        z = np.linspace(0.0, 5.0, 5001)
        area = np.array([math.pi / 4 * tree.stem.diameter_at(float(h)) ** 2 for h in z])
        stem, moment = (BEECH.kind.density.value * np.trapezoid(area * w, z) for w in (1.0, z))
        east = lean * (moment + alone.mass.value * 5.0) / (stem + alone.mass.value)
        self.assertAlmostEqual(got.east.value, east, places=5)

    def test_no_assumed_crown_left(self):
        bare = weigh(replace(BEECH, replaced=ALL))
        self.assertEqual(bare.crown_mass.estimate.value, 0.0)
        some = frozenset({0, 3, 11})
        shares = [s.weight for s in slots("oval", 0.45, 0.7) if s.number in some]
        self.assertAlmostEqual(remainder("oval", 0.45, 0.7, some).share, 1.0 - math.fsum(shares), places=12)

    def test_the_assumed_crown_stands_in_balance_at_the_groups_height(self):
        for form, centre in (("cone", 0.36), ("oval", 0.45)):
            rows = slots(form, centre, 0.5)
            self.assertAlmostEqual(math.fsum(s.weight for s in rows), 1.0, places=12)
            self.assertAlmostEqual(math.fsum(s.weight * s.cg for s in rows), centre, places=9)
            self.assertAlmostEqual(math.fsum(s.weight * s.reach * math.sin(s.azimuth) for s in rows), 0.0, places=12)

    @settings(max_examples=25, deadline=None)
    @given(st.floats(0.0, 6.2))
    def test_turning_the_tree_turns_its_balance(self, turn):
        def turned(a):
            return (a + turn) % math.tau

        tree = replace(BEECH, limbs=(BOUGH, SPUR), replaced=frozenset({2, 7}))
        limbs = tuple(replace(limb, azimuth=turned(limb.azimuth)) for limb in tree.limbs)
        # The assumed limbs stand fixed to north, so only a tree without any turns exactly.
        tree = replace(tree, replaced=ALL)
        one, two = weigh(tree), weigh(replace(tree, limbs=limbs, lean_azimuth=turned(tree.lean_azimuth)))
        s, c = math.sin(turn), math.cos(turn)
        self.assertAlmostEqual(two.east.value, one.east.value * c + one.north.value * s, places=9)
        self.assertAlmostEqual(two.north.value, one.north.value * c - one.east.value * s, places=9)
        self.assertAlmostEqual(two.inertia.estimate.value, one.inertia.estimate.value, delta=1e-6)

    def test_every_state_changes_mass_balance_and_wind(self):
        tree = replace(BEECH, limbs=(BOUGH,))
        seen = {state: weigh(replace(tree, state=state)) for state in ("in_leaf", "bare", "dead", "storm_wet")}
        # Bare and dead trees carry no leaves: what is left balances at one height, whatever its wood weighs.
        heights = {state: r.cg_height.estimate.value for state, r in seen.items()}
        self.assertAlmostEqual(heights["bare"], heights["dead"], places=9)
        self.assertTrue(heights["bare"] < heights["in_leaf"] < heights["storm_wet"])
        for name in ("mass", "inertia", "wind_area"):
            values = {getattr(r, name).estimate.value for r in seen.values()}
            self.assertEqual(len(values), 4, name)
        self.assertLess(seen["bare"].wind_area.estimate.value, seen["in_leaf"].wind_area.estimate.value)
        self.assertLess(seen["in_leaf"].mass.estimate.value, seen["storm_wet"].mass.estimate.value)

    def test_inertia_of_a_bare_pole(self):
        # Cone of base diameter D at the ground: I about the foot = m·H²/10.
        tree = replace(TREE, replaced=ALL)
        z = np.linspace(0.0, 27.0, 400001)
        area = math.pi / 4 * (0.74 * ((27 - z) / 25.7) ** 0.75) ** 2
        got = weigh(tree).inertia.estimate.value
        self.assertAlmostEqual(got / (740 * np.trapezoid(area * z * z, z)), 1.0, places=6)


class MeasuredStem(TestCase):
    POINTS = (DiameterPoint(0.1, 0.98), DiameterPoint(9.0, 0.5))

    def test_passes_through_every_diameter(self):
        stem = Stem(0.74, 27.0, 0.75, points=self.POINTS)
        for z, d in ((1.3, 0.74), *self.POINTS):
            self.assertAlmostEqual(stem.diameter_at(z), d, places=12)

    def test_volume_against_slices(self):
        stem = Stem(0.74, 27.0, 0.75, points=self.POINTS)
        z = np.linspace(0.4, 21.0, 20001)
        slices = np.trapezoid([math.pi / 4 * stem.diameter_at(float(h)) ** 2 for h in z], z)
        self.assertAlmostEqual(stem.volume_and_moment(0.4, 21.0)[0], slices, places=5)

    def test_rules_of_the_crews_on_solids(self):
        # Newton is exact for paraboloid and cone; Smalian too high and Huber too low on a cone.
        cone = volume_rules(Stem(0.8, 24.0, 1.0, breast=0.0), 0.0, 24.0 - 1e-9)
        exact = math.pi / 4 * 0.64 * 24 / 3
        self.assertAlmostEqual(cone.newton, exact, places=6)
        self.assertAlmostEqual(cone.smalian, 1.5 * exact, places=6)
        self.assertAlmostEqual(cone.huber, 0.75 * exact, places=6)
        paraboloid = volume_rules(Stem(0.8, 24.0, 0.5, breast=0.0), 3.0, 9.0)
        for rule in (paraboloid.newton, paraboloid.smalian, paraboloid.huber):
            self.assertAlmostEqual(rule, paraboloid.integrated, places=10)

    def test_a_hollow_takes_out_its_cylinder(self):
        hollow = Cavity(low=1.0, high=4.0, across=0.4)
        sound, less = weigh(TREE), weigh(replace(TREE, cavities=(hollow,)))
        lost = sound.stem_mass.estimate.value - less.stem_mass.estimate.value
        self.assertAlmostEqual(lost, 740 * math.pi / 4 * 0.16 * 3.0, places=6)
        self.assertAlmostEqual(hollow.strength_left(TREE.stem), 1 - (0.4 / TREE.stem.diameter_at(4.0)) ** 4, places=12)

    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.floats(0.0, 27.0), min_size=1, max_size=5))
    def test_cutting_into_pieces_conserves_mass_and_moment(self, cuts):
        tree = replace(TREE, points=self.POINTS, cavities=(Cavity(low=0.5, high=6.0, across=0.3, decayed=True),))
        ends = sorted({0.0, 27.0, *(round(c, 2) for c in cuts)})
        pieces = [piece(tree, a, b) for a, b in itertools.pairwise(ends)]
        whole = piece(tree, 0.0, 27.0)
        self.assertAlmostEqual(math.fsum(p.mass.value for p in pieces), whole.mass.value, places=7)
        moments = math.fsum(p.mass.value * p.cg.value for p in pieces)
        self.assertAlmostEqual(moments, whole.mass.value * whole.cg.value, places=6)
        self.assertAlmostEqual(whole.mass.value, weigh(tree).stem_mass.estimate.value, places=7)

    def test_ladder_rungs_add_up_and_pieces_keep_the_limit(self):
        rungs = ladder(TREE, 250.0)
        self.assertAlmostEqual(
            math.fsum(r.per_metre.value for r in rungs), weigh(TREE).stem_mass.estimate.value, places=6
        )
        for rung in rungs[2:20]:
            upper = piece(TREE, rung.height, min(rung.height + rung.length, 27.0)).mass.high
            self.assertLessEqual(upper, 250.0 + 1e-3)
            if not rung.reaches_top:
                self.assertGreater(upper, 250.0 - 0.1)


class Refusals(TestCase):
    def test_named_at_what_is_wrong(self):
        lead = replace(BOUGH, codominant=True)
        bad = {
            "limb Bough": {"limbs": (BOUGH, replace(BOUGH, diameter=0.1))},
            "limb Twin": {"limbs": (BOUGH, replace(BOUGH, name="Twin"))},
            "limb Bough diameter": {"limbs": (replace(BOUGH, diameter=0.9),)},
            "limb Fork at": {"limbs": (BOUGH, replace(FORK, at=8.5))},
            "limb Fork parent": {"limbs": (FORK,)},
            "cavity_across": {"cavities": (Cavity(low=1.0, high=3.0, across=0.8),)},
            "fork": {"fork": 6.0},
            "point_diameter": {"points": (DiameterPoint(6.0, 0.9),)},
            "point_height": {"points": (DiameterPoint(1.3, 0.7),)},
            "replaced": {"replaced": frozenset({99})},
            "limb Bough at": {"limbs": (lead,), "fork": 5.0},
        }
        for field, change in bad.items():
            with self.subTest(field=field), self.assertRaises(CoreError) as caught:
                replace(TREE, **change)
            self.assertEqual(caught.exception.field, field)
