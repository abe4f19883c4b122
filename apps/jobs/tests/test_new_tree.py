"""A forked tree begun by its fork and the number of its leads, before anybody measured one."""

import math

from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene, whole_demo
from apps.survey import planner as survey

KINDS = {"state": "in_leaf", "diameter_kind": "measured", "height_kind": "estimated", "breast": "metric"}


class ForkedTree(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.fir = load_scene(whole_demo())

    def setUp(self):
        self.client.force_login(self.person)
        self.job = self.fir.job

    def begin(self, **more):
        typed = {"species": "fagus_sylvatica", "diameter": "80", "height": "21", "spread": "12"} | more
        return self.client.post(reverse("tree-new", args=[self.job.pk]), typed)

    def test_three_leads_stand_evenly_round_and_reach_the_height(self):
        self.begin(name="Twin", fork="3", leads="3", leads_towards="20")
        tree = self.job.trees.get(name="Twin")
        leads = list(tree.limbs.all())
        self.assertEqual([round(math.degrees(x.azimuth)) for x in leads], [20, 140, 260])
        for lead in leads:
            self.assertTrue(lead.codominant)
            self.assertAlmostEqual(lead.at, 3.0)
            self.assertAlmostEqual(3.0 + lead.length * math.sin(lead.rise), 21.0, delta=0.02)
            self.assertAlmostEqual(math.degrees(lead.rise), math.degrees(math.atan2(18.0, 3.6)), delta=0.1)

    def test_together_they_are_as_thick_as_the_stem_below(self):
        self.begin(name="Pair", fork="3")
        tree = self.job.trees.get(name="Pair")
        self.begin(name="Whole")
        whole, *_ = survey.standing(self.job.trees.get(name="Whole"))
        areas = [lead.diameter**2 for lead in tree.limbs.all()]
        self.assertEqual(len(areas), 2)
        self.assertAlmostEqual(math.sqrt(sum(areas)), whole.stem.diameter_at(3.0), delta=0.002)

    def test_a_fork_above_the_tip_is_said_at_its_field(self):
        answer = self.begin(name="High", fork="20.5", leads="2")
        self.assertEqual(answer.status_code, 200)
        self.assertIn("a fork is above the stump and below the tip", answer.content.decode())
        self.assertFalse(self.job.trees.filter(name="High").exists())

    def test_the_drawing_shows_them_before_it_is_saved(self):
        typed = {"species": "fagus_sylvatica", "diameter": "80", "height": "21", "fork": "3", "leads": "2"} | KINDS
        answer = self.client.post(reverse("tree-preview", args=[self.job.pk]), typed).json()
        self.assertIn("svg", answer["fragments"]["tree-body"])
        self.assertEqual(answer["errors"], {})
