"""Limbs shaped on a drawing: what was drawn is what comes out; weak places; the ground a limb grows from."""

import math
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from treecore.errors import CoreError
from treecore.estimate import Kind, exactly
from treecore.tests.scenes import TREE
from treecore.tree.assumed import assumed_limbs
from treecore.tree.limb import Limb, placed
from treecore.tree.shaping import across_view, axis_at, drawn, free_name, moved, split
from treecore.tree.soundness import weak_places
from treecore.tree.stem import Cavity
from treecore.tree.weigh import limb_rows, weigh
from treecore.verdict import Verdict

PLUMB = replace(TREE, lean=0.0)
ARM = Limb(name="Arm", at=9.0, azimuth=1.1, rise=0.4, length=5.0, diameter=0.11)
TWIG = Limb(name="Twig", parent="Arm", at=3.0, azimuth=2.0, rise=0.2, length=1.5, diameter=0.03)


def tips(tree, name):
    where = tree.placed
    k = next(k for k, i in enumerate(where.order) if tree.limbs[i].name == name)
    return where.base[k] + where.direction[k] * where.length[k]


class Drawing(TestCase):
    @given(st.floats(0.0, 6.28), st.floats(-4.0, 4.0), st.floats(-2.0, 3.0))
    def test_a_stroke_from_a_plumb_stem_ends_where_it_was_drawn(self, view, across, up):
        if math.hypot(across, up) < 0.4 or abs(across) < 0.05:
            return
        limb = drawn(PLUMB, view, (0.0, 10.0), (across, 10.0 + up))
        tree = replace(PLUMB, limbs=(limb,))
        east, north, high = tips(tree, limb.name)
        self.assertAlmostEqual(across_view(view, east, north), across, delta=0.02)
        self.assertAlmostEqual(high, 10.0 + up, delta=0.02)

    def test_from_a_limb_it_grows_on_that_limb(self):
        tree = replace(PLUMB, limbs=(replace(ARM, azimuth=math.pi / 2),))
        reach = 3.0 * math.cos(0.4)
        limb = drawn(tree, 0.0, (reach, 9.0 + 3.0 * math.sin(0.4)), (reach + 1.0, 11.5))
        self.assertEqual(limb.parent, "Arm")
        self.assertAlmostEqual(limb.at, 3.0, delta=0.02)

    def test_too_short_or_off_the_tree_is_refused(self):
        for start, end in (((0.0, 9.0), (0.1, 9.1)), ((8.0, 9.0), (11.0, 9.0))):
            with self.assertRaises(CoreError) as caught:
                drawn(PLUMB, 0.0, start, end)
            self.assertEqual(caught.exception.field, "limb")

    def test_names_are_free(self):
        tree = replace(PLUMB, limbs=(replace(ARM, name="Limb 1"), replace(TWIG, parent="Limb 1", name="Limb 3")))
        self.assertEqual(free_name(tree), "Limb 2")


class Dragging(TestCase):
    @settings(max_examples=40)
    @given(st.floats(0.0, 6.28), st.floats(-5.0, 5.0), st.floats(4.0, 20.0))
    def test_dragged_tips_land_there_and_keep_their_depth(self, view, x, z):
        tree = replace(PLUMB, limbs=(ARM, TWIG))
        before = tips(tree, "Arm")
        limb = moved(tree, "Arm", "tips", view, (x, z))
        after = tips(replace(tree, limbs=(limb, replace(TWIG, at=0.05))), "Arm")
        self.assertAlmostEqual(across_view(view, after[0], after[1]), x, delta=0.02)
        self.assertAlmostEqual(after[2], z, delta=0.02)
        depth = [p[0] * math.sin(view) + p[1] * math.cos(view) for p in (before, after)]
        self.assertAlmostEqual(*depth, delta=0.02)

    def test_a_union_slides_along_what_it_grows_from(self):
        tree = replace(PLUMB, limbs=(ARM, TWIG))
        self.assertAlmostEqual(moved(tree, "Arm", "union", 0.0, (3.0, 11.25)).at, 11.25)
        way = tree.placed.direction[0]
        at = (across_view(0.0, *(way[:2] * 4.2)), 9.0 + way[2] * 4.2)
        self.assertAlmostEqual(moved(tree, "Twig", "union", 0.0, at).at, 4.2, delta=0.01)
        self.assertEqual(moved(tree, "Twig", "union", 0.0, (99.0, 40.0)).at, 5.0)

    def test_on_a_leaning_stem_the_axis_leans(self):
        tree = replace(TREE, lean=math.radians(5.0), lean_azimuth=math.radians(90.0))
        east, north = axis_at(tree, 10.0)
        self.assertAlmostEqual(east, 10.0 * math.tan(math.radians(5.0)))
        self.assertAlmostEqual(north, 0.0)

    def test_unknown_limbs_and_handles_are_refused(self):
        tree = replace(PLUMB, limbs=(ARM,))
        for name, handle in (("Leg", "tips"), ("Arm", "elbow")):
            with self.assertRaises(CoreError):
                moved(tree, name, handle, 0.0, (1.0, 1.0))
        with self.assertRaises(CoreError):
            split(tree, "Leg")


class Splitting(TestCase):
    def test_halves_keep_wood_foliage_and_balance(self):
        tree = replace(PLUMB, limbs=(ARM,))
        two = replace(tree, limbs=split(tree, "Arm"))
        (whole,), halves = limb_rows(tree), limb_rows(two)
        self.assertAlmostEqual(sum(h.mass.value for h in halves), whole.mass.value, places=9)
        self.assertAlmostEqual(halves[0].balance.value, whole.balance.value, places=9)
        for half in halves:
            self.assertAlmostEqual(half.mass.value, whole.mass.value / 2, places=9)


class Assumed(TestCase):
    def test_an_assumed_limb_measured_as_it_was_assumed_weighs_the_same(self):
        for species in ("fagus_sylvatica", "abies_grandis"):
            tree = replace(PLUMB, species=species, spread=exactly(9.0))
            result = weigh(tree)
            rows = assumed_limbs(tree, result.whole_crown)
            self.assertAlmostEqual(math.fsum(r.mass.value for r in rows), result.crown_mass.estimate.value, delta=1e-6)
            for row in rows[2:9:3]:
                limb = replace(row.limb, name="Mine", kind=Kind.MEASURED)
                mine = replace(tree, limbs=(limb,), replaced=frozenset({row.number}))
                self.assertAlmostEqual(limb_rows(mine)[0].mass.value, row.mass.value, delta=1e-6 * row.mass.value)
                self.assertAlmostEqual(weigh(mine).mass.estimate.value, result.mass.estimate.value, delta=1e-3)

    def test_above_a_fork_the_assumed_crown_hangs_on_the_leads(self):
        leads = tuple(
            replace(ARM, name=n, at=6.0, azimuth=a, rise=1.3, length=14.0, diameter=0.4, codominant=True)
            for n, a in (("west", 4.6), ("east", 1.5))
        )
        tree = replace(PLUMB, species="fagus_sylvatica", spread=exactly(12.0), fork=6.2, limbs=leads)
        result = weigh(tree)
        on_stem = [r.mass.value for r in assumed_limbs(tree, result.whole_crown) if not r.limb.parent]
        hung = math.fsum(row.mass.value for row in limb_rows(tree))
        self.assertAlmostEqual(hung + math.fsum(on_stem), result.crown_mass.estimate.value, places=6)
        for row in limb_rows(tree):
            self.assertGreater(row.mass.high - row.mass.value, 0.3 * row.mass.value)

    def test_a_leafless_state_makes_them_lighter_but_keeps_their_number(self):
        tree = replace(PLUMB, species="fagus_sylvatica", spread=exactly(9.0))
        bare = replace(tree, state="bare")
        leafy, leafless = (assumed_limbs(t, weigh(t).whole_crown) for t in (tree, bare))
        self.assertEqual(len(leafy), len(leafless))
        self.assertTrue(all(a.mass.value > b.mass.value for a, b in zip(leafy, leafless, strict=True)))


class WeakPlaces(TestCase):
    def test_walls_and_unions(self):
        radius = TREE.stem.diameter_at(4.0) / 2
        thin = Cavity(low=1.0, high=4.0, across=2 * radius * 0.75)
        sturdy = Cavity(low=5.0, high=6.0, across=0.1)
        limbs = (
            replace(ARM, name="a", union="cracked"),
            replace(ARM, name="b", at=8.0, union="included"),
            replace(ARM, name="c", at=7.0, union="decayed"),
            replace(ARM, name="d", at=6.0),
        )
        weak = weak_places(replace(TREE, cavities=(thin, sturdy), limbs=limbs))
        verdicts = [w.verdict for w in weak]
        self.assertEqual(verdicts, [Verdict.OVER, Verdict.WITHIN, Verdict.OVER, Verdict.NEAR, Verdict.NOT_KNOWN])
        self.assertAlmostEqual(weak[0].demand.value, 0.25, places=12)

    def test_an_open_cavity_is_never_within(self):
        (limit,) = weak_places(replace(TREE, cavities=(Cavity(low=1.0, high=2.0, across=0.05, open=True),)))
        self.assertIs(limit.verdict, Verdict.NEAR)


class Placing(TestCase):
    def test_children_stand_on_their_parents_whatever_the_order(self):
        bud = Limb(name="Bud", parent="Twig", at=1.0, azimuth=0.0, rise=1.5, length=0.5, diameter=0.01)
        for limbs in ((ARM, TWIG, bud), (bud, TWIG, ARM)):
            where = placed(tuple(limbs))
            named = {limbs[i].name: k for k, i in enumerate(where.order)}
            k, up = named["Bud"], named["Twig"]
            self.assertTrue((where.base[k] == where.base[up] + where.direction[up] * 1.0).all())

    def test_circles_are_refused(self):
        with self.assertRaises(CoreError):
            replace(TREE, limbs=(replace(ARM, parent="Twig", at=1.0, diameter=0.03), replace(TWIG, at=1.0)))


class OvalStems(TestCase):
    def test_widths_and_mean(self):
        tree = replace(TREE, oval=1.25, oval_azimuth=math.radians(30.0))
        long, short = tree.width_along(math.radians(30.0)), tree.width_along(math.radians(120.0))
        self.assertAlmostEqual(long / short, 1.25, places=12)
        self.assertAlmostEqual(math.sqrt(long * short), TREE.diameter.value, places=12)
        self.assertAlmostEqual(weigh(tree).mass.estimate.value, weigh(TREE).mass.estimate.value, places=9)
