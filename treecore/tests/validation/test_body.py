"""Stem against closed forms; the whole tree's masses against each other."""

import math
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from treecore.errors import CoreError
from treecore.estimate import Estimate, Kind, exactly, plus_minus
from treecore.species import find, groups, species_table
from treecore.tests.scenes import TREE
from treecore.tree.body import crown_ratio
from treecore.tree.stem import Stem
from treecore.tree.weigh import weigh


class ClosedForms(TestCase):
    """A stem whose diameter is given at the ground is the textbook solid."""

    def test_volumes_and_centroids(self):
        base = math.pi / 4.0 * 0.8**2 * 24.0
        solids = [
            ("cylinder", 0.0, 1.0, 1 / 2),
            ("paraboloid", 0.5, 1 / 2, 1 / 3),
            ("cone", 1.0, 1 / 3, 1 / 4),
            ("neiloid", 1.5, 1 / 4, 1 / 5),
        ]
        for name, taper, share, centre in solids:
            with self.subTest(solid=name):
                volume, moment = Stem(0.8, 24.0, taper, breast=0.0).volume_and_moment(0.0, 24.0)
                self.assertAlmostEqual(volume, share * base, places=10)
                self.assertAlmostEqual(moment / volume, centre * 24.0, places=10)

    def test_frustum_of_a_cone(self):
        # Diameters 0.6 and 0.3 over 12 m: π·12/12·(0.36 + 0.18 + 0.09)
        volume, _ = Stem(0.6, 24.0, 1.0, breast=0.0).volume_and_moment(0.0, 12.0)
        self.assertAlmostEqual(volume, math.pi * (0.36 + 0.18 + 0.09), places=12)

    def test_diameter_at_breast_height_is_the_one_given(self):
        self.assertAlmostEqual(Stem(0.74, 27.0, 0.77).diameter_at(1.3), 0.74, places=12)

    @given(st.floats(0.0, 27.0), st.floats(0.0, 27.0), st.floats(0.1, 1.5))
    def test_cutting_conserves_volume_and_moment(self, one, other, taper):
        stem = Stem(0.74, 27.0, taper)
        low, high = sorted((one, other))
        parts = [stem.volume_and_moment(a, b) for a, b in ((0.0, low), (low, high), (high, 27.0))]
        whole = stem.volume_and_moment(0.0, 27.0)
        for i in (0, 1):
            self.assertAlmostEqual(math.fsum(p[i] for p in parts), whole[i], places=9)


class WholeTree(TestCase):
    def test_crown_ratio_by_hand(self):
        # Published form exp(b0 + b1/dbh) at 50 cm for conifers
        leaves, bark, wood = math.exp(-2.9584 + 0.089532), math.exp(-2.0980 - 0.022864), math.exp(-0.3737 - 0.03611)
        got = crown_ratio(groups()["conifer"], 0.50, 1.0)
        self.assertAlmostEqual(got, (1.0 - bark - wood) / (bark + wood), places=10)
        bare = crown_ratio(groups()["conifer"], 0.50, 0.0)
        self.assertAlmostEqual(bare, (1.0 - leaves - bark - wood) / (bark + wood), places=10)

    def test_parts_add_up_and_stand_in_order(self):
        result = weigh(TREE)
        whole = result.stem_mass.estimate.value + result.crown_mass.estimate.value
        self.assertAlmostEqual(result.mass.estimate.value, whole, places=9)
        for figure in result.figures:
            self.assertLess(figure.estimate.low, figure.estimate.value)
            self.assertLess(figure.estimate.value, figure.estimate.high)

    def test_stem_mass_by_hand(self):
        # V = π/4·D²/(H−1.3)^1.5 · H^2.5/2.5 with exponent 0.75; density 740 kg/m³
        volume = math.pi / 4 * 0.74**2 / 25.7**1.5 * 27.0**2.5 / 2.5
        self.assertAlmostEqual(weigh(TREE).stem_mass.estimate.value, 740.0 * volume, places=6)

    @settings(max_examples=60, deadline=None)
    @given(st.sampled_from(sorted(species_table())), st.floats(0.1, 1.5), st.floats(1.01, 1.5), st.floats(10.0, 120.0))
    def test_mass_grows_with_diameter(self, species, diameter, factor, slenderness):
        def tree(d):
            size = plus_minus(d, 0.005 * d, Kind.MEASURED)
            tall = plus_minus(max(diameter * slenderness, 4.0), 0.1, Kind.MEASURED)
            return replace(TREE, species=species, diameter=size, height=tall, spread=exactly(3.0), crown_base=None)

        try:
            thin, thick = weigh(tree(diameter)), weigh(tree(diameter * factor))
        except CoreError:
            return
        self.assertGreater(thick.mass.estimate.value, thin.mass.estimate.value)
        self.assertTrue(all(math.isfinite(v) for f in thin.figures for v in (f.estimate.low, f.estimate.high)))

    def test_bare_is_lighter_than_in_leaf_unless_evergreen(self):
        for species, lighter in (("fagus_sylvatica", True), ("abies_grandis", False), ("larix_decidua", True)):
            leaf, bare = (
                weigh(replace(TREE, species=species, state=s)).mass.estimate.value for s in ("in_leaf", "bare")
            )
            self.assertEqual(bare < leaf, lighter, species)

    def test_absurd_trees_are_refused_by_name(self):
        bad = {
            "height": {"height": Estimate(400.0, 390.0, 410.0, Kind.ESTIMATED)},
            "diameter": {"diameter": Estimate(9.0, 8.9, 9.1, Kind.MEASURED)},
            "spread": {"spread": exactly(0.0)},
            "lean": {"lean": math.nan},
            "species": {"species": "money_tree"},
        }
        for field, change in bad.items():
            with self.subTest(field=field), self.assertRaises(CoreError) as caught:
                replace(TREE, **change)
            self.assertEqual(caught.exception.field, field)


class Densities(TestCase):
    # Green weights beside the first table, in pounds to the cubic foot (FPL Technical Note 218, 1931; recalled).
    SECOND = {
        "pseudotsuga_menziesii": 38, "picea_sitchensis": 33, "thuja_plicata": 27, "juniperus_virginiana": 37,
        "pinus_strobus": 36,
        "larix_occidentalis": 48, "taxodium_distichum": 51, "platanus_occidentalis": 52, "liriodendron_tulipifera": 38,
        "liquidambar_styraciflua": 50, "nyssa_sylvatica": 45, "populus_deltoides": 49,
    }  # fmt: skip

    def test_the_lower_end_lies_below_both_tables(self):
        for key, pounds in self.SECOND.items():
            density = find(key).density
            second = pounds * 0.45359237 / 0.3048**3
            self.assertTrue(1.15 <= density.value / second <= 1.33, key)
            self.assertLess(density.low, 0.96 * second, key)

    def test_scots_pine_is_taken_as_the_weak_hinge_it_is(self):
        self.assertEqual(find("pinus_sylvestris").hinge, "snaps early")
        self.assertIn("weak in practice", find("pinus_sylvestris").note)
