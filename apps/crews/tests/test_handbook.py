"""Methods and glossary in the app: readable by whoever may sign in, and every cited place is there."""

import csv
import re
from pathlib import Path

from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene, whole_demo
from cantrel.handbook import cited

CORE = Path(__file__).resolve().parents[3] / "treecore"
PLACE = re.compile(r"docs/methods\.md,? [a-z ]+? \(\d+\)")


class Handbook(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.fir = load_scene(whole_demo())

    def setUp(self):
        self.client.force_login(self.person)

    def test_every_place_the_core_cites_is_there(self):
        page = self.client.get(reverse("methods")).content.decode()
        places = {m[0] for file in CORE.rglob("*.py") for m in PLACE.finditer(file.read_text())}
        places |= {m[0] for file in CORE.rglob("*.csv") for m in PLACE.finditer(file.read_text())}
        self.assertGreater(len(places), 100)
        for place in sorted(places):
            with self.subTest(place=place):
                anchor = cited(place).partition("#")[2]
                self.assertEqual(page.count(f'id="{anchor}"'), 1)

    def test_an_item_keeps_its_number_after_a_paragraph_between(self):
        page = self.client.get(reverse("methods")).content.decode()
        item = page[page.index('id="swing-12"') : page.index('id="swing-12"') + 200]
        self.assertIn("A load on a far line moves along it", item)

    def test_glossary_is_a_table(self):
        page = self.client.get(reverse("glossary")).content.decode()
        self.assertIn("<td>pivot</td>", page)
        self.assertIn("Glossary</h1>", page)

    def test_a_figure_and_a_limit_lead_to_their_method(self):
        page = self.client.get(reverse("fell", args=[self.fir.job_id, self.fir.pk])).content.decode()
        self.assertIn(f'href="{reverse("methods")}#hinge-3"', page)
        with (CORE / "data" / "limits.csv").open() as file:
            places = [cited(row["source"]) for row in csv.DictReader(file) if cited(row["source"])]
        self.assertTrue([place for place in places if f'<a href="{place}">Why</a>' in page])

    def test_signed_out_nobody_reads_it(self):
        self.client.logout()
        self.assertEqual(self.client.get(reverse("methods")).status_code, 302)
