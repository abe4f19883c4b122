"""The numbers on every page are the core's, in either unit system."""

import re

from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene
from apps.felling import planner
from apps.survey import planner as survey
from treecore.felling.fall import fall

ROW = re.compile(r'class="fig \w+" data-figure="(\w+)".*?data-raw="([^"]+)">([^<]+)<', re.DOTALL)


class Numbers(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.tree = load_scene()

    def setUp(self):
        self.client.force_login(self.person)

    def rows(self, step):
        page = self.client.get(reverse(step, args=[self.tree.job_id, self.tree.pk])).content.decode()
        return {key: (float(raw), shown) for key, raw, shown in ROW.findall(page)}

    def test_measure_fell_and_method(self):
        _, result = planner.evaluated(self.tree)
        standing = {f.key: f for f in survey.standing(self.tree)[1].figures}
        for step, figures, least in (
            ("measure", standing, 6),
            ("fell", result.figures | {f.key: f for f in fall(result.plan).figures}, 29),
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
        few = {
            "species": "acer_campestre",
            "state": "in_leaf",
            "diameter": "38",
            "height": "",
            "breast": "metric",
            "diameter_kind": "measured",
            "height_kind": "estimated",
            "lean_kind": "estimated",
        }
        self.assertEqual(self.client.post(url, few).json(), {"errors": {}, "fragments": {}})
        drawn = self.client.post(url, few | {"height": "13"}).json()
        self.assertIn("The tree to scale", drawn["fragments"]["tree-body"])
        refused = self.client.post(url, few | {"height": "400"}).json()
        self.assertIn("the tallest living trees", refused["errors"]["height"][0])

    def test_the_smallest_largest_and_most_leaning_trees_open_every_page(self):
        five = {
            "species": "acer_campestre",
            "state": "in_leaf",
            "diameter_kind": "measured",
            "height_kind": "measured",
            "lean_azimuth": "10",
            "lean_kind": "estimated",
            "breast": "metric",
            "x": "2",
            "y": "2",
        }
        for name, diameter, height, spread, lean in (
            ("Whip", "2", "3.2", "0.5", "0"),
            ("Giant", "800", "90", "40", "2"),
            ("Leaner", "40", "14", "7", "55"),
        ):
            data = five | {"name": name, "diameter": diameter, "height": height, "spread": spread, "lean": lean}
            self.assertEqual(
                self.client.post(reverse("tree-new", args=[self.tree.job_id]), data).status_code, 302, name
            )
            tree = self.tree.job.trees.get(name=name)
            for step in ("walk-up", "measure", "method", "fell", "brief", "record", "export"):
                with self.subTest(tree=name, step=step):
                    self.assertEqual(self.client.get(reverse(step, args=[tree.job_id, tree.pk])).status_code, 200)
            survey.answer(tree, "wind", {"finding": "absent"}, self.person)
