"""The species table: found, corrected beside the published row, and used by trees."""

from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene
from apps.jobs.models import Tree
from apps.species.models import YardSpecies
from apps.survey.planner import standing
from treecore.species import find

ROW = {
    "common": "Fir of the north slope", "like": "abies_grandis", "source": "Weighed at the yard, 14 butts, 2025",
    "density": "900", "density_low": "820", "density_high": "980",
}  # fmt: skip


class Table(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()

    def setUp(self):
        self.client.force_login(self.person)

    def test_search_and_sources(self):
        page = self.client.get(
            reverse("species-table"), {"text": "fir abies", "region": "North America"}
        ).content.decode()
        self.assertIn("Grand fir", page)
        self.assertNotIn("Silver fir", page)
        page = self.client.get(reverse("species", args=["abies_grandis"])).content.decode()
        self.assertEqual(page.count("table 5-3a"), 6)  # five figures and the basic density
        self.assertIn(f'data-raw="{find("abies_grandis").density.value:.9g}"', page)
        self.assertEqual(self.client.get(reverse("species", args=["money_tree"])).status_code, 404)

    def test_a_correction_stands_beside_the_published_row_and_weighs_the_trees_that_use_it(self):
        self.client.post(reverse("yard-new"), ROW)
        row = YardSpecies.objects.get()
        self.assertIn("740", self.client.get(reverse("species", args=["abies_grandis"])).content.decode())
        before = standing(self.tree)[1].stem_mass.estimate.value
        Tree.objects.filter(pk=self.tree.pk).update(yard=row)
        after = standing(Tree.objects.get(pk=self.tree.pk))[1].stem_mass.estimate.value
        self.assertAlmostEqual(after / before, 900 / 740, places=9)
        self.client.post(reverse("yard-delete", args=[row.pk]))
        self.assertTrue(YardSpecies.objects.exists(), "a row that trees stand on stays")

    def test_a_new_tree_of_the_yards_own_is_drawn_from_three_numbers(self):
        self.client.post(reverse("yard-new"), ROW)
        typed = {
            "species": f"yard:{YardSpecies.objects.get().pk}",
            "diameter": "40",
            "height": "18",
            "state": "in_leaf",
            "breast": "metric",
            "diameter_kind": "measured",
            "height_kind": "measured",
            "lean_kind": "estimated",
        }
        answer = self.client.post(reverse("tree-preview", args=[self.tree.job_id]), typed).json()
        self.assertEqual(answer["errors"], {})
        self.assertIn("elevation", answer["fragments"]["tree-body"])

    def test_bad_figures_are_refused_at_their_field(self):
        bad = {
            "density_low": ({"density_low": "950"}, "between its two ends"),
            "density_high": ({"density_high": ""}, "both ends"),
            "density": ({"density": "9000", "density_high": "9500"}, "200"),
            "source": ({"source": ""}, "required"),
        }
        for field, (change, word) in bad.items():
            with self.subTest(field=field):
                page = self.client.post(reverse("yard-new"), ROW | change).content.decode()
                self.assertIn(word, page)
                self.assertIn("Fir of the north slope", page)
        self.assertFalse(YardSpecies.objects.exists())
