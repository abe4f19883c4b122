"""Leads of a fork before anybody measured them, against triangles worked out by hand."""

import math
from dataclasses import replace
from unittest import TestCase

from treecore.errors import CoreError
from treecore.estimate import exactly
from treecore.formats.leads import usual_leads
from treecore.tests.scenes import TREE


class Leads(TestCase):
    def tree(self, height, spread):
        return replace(TREE, height=exactly(height), spread=exactly(spread))

    def test_they_reach_the_height_and_stand_three_tenths_of_the_spread_out(self):
        leads = usual_leads(self.tree(20.0, 15.0), 5.0, 2, math.radians(350.0), ("A", "B"))
        for lead in leads:
            rise = math.radians(lead["rise_deg"])
            self.assertAlmostEqual(lead["length_m"] * math.sin(rise), 15.0, delta=0.02)
            self.assertAlmostEqual(lead["length_m"] * math.cos(rise), 4.5, delta=0.05)
            self.assertEqual((lead["at_m"], lead["codominant"]), (5.0, True))
        self.assertEqual([lead["azimuth_deg"] for lead in leads], [350.0, 170.0])
        self.assertEqual([lead["name"] for lead in leads], ["A", "B"])

    def test_wide_and_narrow_crowns_keep_a_rise_a_lead_may_have(self):
        flat = usual_leads(self.tree(8.0, 20.0), 3.0, 3, 0.0, ("A", "B", "C"))
        steep = usual_leads(self.tree(28.0, 3.0), 3.0, 3, 0.0, ("A", "B", "C"))
        self.assertEqual({lead["rise_deg"] for lead in flat}, {55.0})
        self.assertEqual({lead["rise_deg"] for lead in steep}, {80.0})
        self.assertEqual([lead["azimuth_deg"] for lead in flat], [0.0, 120.0, 240.0])

    def test_their_cross_sections_together_are_the_stems(self):
        tree = self.tree(22.0, 10.0)
        for count in (2, 3, 6):
            leads = usual_leads(tree, 4.0, count, 0.0, "ABCDEF")
            areas = sum(math.pi / 4.0 * lead["diameter_m"] ** 2 for lead in leads)
            self.assertAlmostEqual(areas, math.pi / 4.0 * tree.stem.diameter_at(4.0) ** 2, delta=0.004)

    def test_refused(self):
        tree = self.tree(20.0, 10.0)
        self.assertTrue(usual_leads(tree, 0.31, 2, 0.0, "AB") and usual_leads(tree, 18.95, 2, 0.0, "AB"))
        for fork, count in ((0.29, 2), (19.05, 2), (5.0, 1), (5.0, 7)):
            with self.subTest(fork=fork, count=count), self.assertRaises(CoreError):
                usual_leads(tree, fork, count, 0.0, "ABCDEFG")
