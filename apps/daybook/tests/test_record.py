"""The record: kept once, then changed by two people without losing either's words."""

from django.db.models import ProtectedError
from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene
from apps.daybook.models import FellingRecord


class Record(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.tree = load_scene()

    def setUp(self):
        self.client.force_login(self.person)
        self.url = reverse("record", args=[self.tree.job_id, self.tree.pk])

    def page(self):
        form = self.client.get(self.url).context["form"]
        data = {n: form[n].value() for n in form.fields}
        kept = FellingRecord.objects.filter(tree=self.tree).first()
        plain = {n: v for n, v in data.items() if v not in (None, False)}
        return plain | ({"revision": kept.revision} if kept else {})

    def test_two_people_write_it(self):
        self.assertRedirects(self.client.post(self.url, self.page() | {"height": "26.4"}), self.url)
        one, two = self.page(), self.page()
        self.client.post(self.url, one | {"notes": "went over slow and true"})
        self.client.post(self.url, two | {"hinge_left": "6.5", "hinge_right": "7"})
        kept = FellingRecord.objects.get(tree=self.tree)
        self.assertEqual((kept.notes, kept.hinge_left, kept.height), ("went over slow and true", 0.065, 26.4))
        clash = self.client.post(self.url, two | {"notes": "soft ground took the top"})
        self.assertContains(clash, "You, on another page, changed this to went over slow and true")
        self.assertContains(clash, "soft ground took the top")

    def test_the_plan_it_is_held_against_stays_as_it_was(self):
        self.client.post(self.url, {"height": "26.4"})
        before = FellingRecord.objects.get(tree=self.tree).document
        self.client.post(reverse("fell", args=[self.tree.job_id, self.tree.pk]), {"depth": "19", "save": "1"})
        self.client.post(self.url, self.page() | {"notes": "later"})
        self.assertEqual(FellingRecord.objects.get(tree=self.tree).document, before)
        self.assertGreater(len(before["trees"]), 0)

    def test_a_tree_with_a_record_is_not_deleted(self):
        self.client.post(self.url, {"height": "26.4"})
        with self.assertRaises(ProtectedError):
            self.tree.delete()
        self.assertTrue(FellingRecord.objects.filter(tree=self.tree).exists())

    def test_estimate_and_actual_by_hand(self):
        """26.4 m taped, planned 26 m: 0.4 m more; a lay of 90° where 83° were planned: 7° to the right."""
        self.client.post(self.url, {"height": "26.4", "lay": "90"})
        rows = {r["key"]: r for r in self.client.get(self.url).context["rows"]}
        self.assertEqual(rows["lay"]["difference"].replace("\xa0", " "), "+7.0°")
        planned = float(rows["height"]["estimate"]["value"])
        told = float(rows["height"]["difference"].split("\xa0")[0].replace("−", "-"))
        self.assertAlmostEqual(told, 26.4 - planned, delta=0.051)

    def test_what_nobody_measured_is_not_compared(self):
        self.client.post(self.url, {"notes": "went well"})
        for row in self.client.get(self.url).context["rows"]:
            self.assertNotIn("difference", row)

    def test_impossible_actuals_are_refused_at_their_field(self):
        for name, typed in (("height", "400"), ("height", "nan"), ("minutes", "-3"), ("lay", "x"), ("lay", "40000")):
            answer = self.client.post(self.url, {name: typed})
            with self.subTest(field=name, typed=typed):
                self.assertIn(name, answer.context["form"].errors)
                self.assertContains(answer, f'value="{typed}"')
        self.assertFalse(FellingRecord.objects.filter(tree=self.tree).exists())
