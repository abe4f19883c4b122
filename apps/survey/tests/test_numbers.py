"""The numbers on every page are the core's, in either unit system."""

import re

from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene
from apps.felling import planner
from apps.survey import planner as survey

ROW = re.compile(r'class="fig \w+" data-figure="(\w+)".*?data-raw="([^"]+)">([^<]+)<', re.DOTALL)


class Numbers(TestCase):
    def setUp(self):
        _, self.person, self.tree = load_scene()
        self.client.force_login(self.person)

    def rows(self, step):
        page = self.client.get(reverse(step, args=[self.tree.job_id, self.tree.pk])).content.decode()
        return {key: (float(raw), shown) for key, raw, shown in ROW.findall(page)}

    def test_measure_fell_and_method(self):
        _, result = planner.evaluated(self.tree)
        standing = {f.key: f for f in survey.standing(self.tree)[1].figures}
        for step, figures, least in (
            ("measure", standing, 6),
            ("fell", result.figures, 25),
            ("method", result.figures, 2),
        ):
            rows = self.rows(step)
            self.assertGreaterEqual(len(rows), least, step)
            for key, (raw, _) in rows.items():
                value = figures[key].estimate.value
                self.assertAlmostEqual(raw, value, delta=1e-8 * max(1.0, abs(value)), msg=f"{step} {key}")

    def test_us_customary_shows_the_same_tree(self):
        metric = self.rows("measure")
        self.person.units = "us"
        self.person.save()
        us = self.rows("measure")
        self.assertEqual({k: v[0] for k, v in us.items()}, {k: v[0] for k, v in metric.items()})
        pounds = float(us["mass"][1].replace("\u00a0", ""))
        self.assertAlmostEqual(pounds, us["mass"][0] / 0.45359237, delta=50)  # three figures of ten thousand

    def test_preview_needs_only_species_diameter_and_height(self):
        url = reverse("tree-preview", args=[self.tree.job_id])
        few = {"species": "acer_campestre", "state": "in_leaf", "diameter": "38", "height": "", "breast": "metric",
               "diameter_kind": "measured", "height_kind": "estimated", "lean_kind": "estimated"}  # fmt: skip
        self.assertEqual(self.client.post(url, few).json(), {"errors": {}, "fragments": {}})
        drawn = self.client.post(url, few | {"height": "13"}).json()
        self.assertIn("The tree to scale", drawn["fragments"]["tree-body"])
        refused = self.client.post(url, few | {"height": "400"}).json()
        self.assertIn("the tallest living trees", refused["errors"]["height"][0])
