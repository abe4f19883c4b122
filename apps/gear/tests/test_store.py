"""The gear store side by side: two people on one item, what an item may carry, and one that a plan names."""

from datetime import date, timedelta

from django.test import TestCase
from django.urls import reverse

from apps.crews.models import Crew, Person
from apps.crews.tests.scene import load_scene, whole_demo
from apps.gear.models import GearItem


class Store(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene(whole_demo())
        cls.rope = GearItem.objects.get(crew=cls.crew, name="Blue line")

    def setUp(self):
        self.client.force_login(self.person)
        self.url = reverse("gear-item", args=[self.rope.pk])

    def page(self):
        form = self.client.get(self.url).context["form"]
        data = {n: form[n].value() for n in form.fields}
        plain = {n: v for n, v in data.items() if v not in (None, False)}
        return plain | {"revision": GearItem.objects.get(pk=self.rope.pk).revision}

    def test_two_people_on_one_item(self):
        one, two = self.page(), self.page()
        self.assertRedirects(self.client.post(self.url, one | {"wear": "worn"}), reverse("gear"))
        self.assertRedirects(self.client.post(self.url, two | {"note": "new eye on one end"}), reverse("gear"))
        self.rope.refresh_from_db()
        self.assertEqual((self.rope.wear, self.rope.note), ("worn", "new eye on one end"))
        clash = self.client.post(self.url, two | {"note": "cut by a metre"})
        self.assertContains(clash, "You, on another page, changed this to new eye on one end")
        self.assertContains(clash, "cut by a metre")
        self.rope.refresh_from_db()
        self.assertEqual(self.rope.note, "new eye on one end")
        kept = self.client.post(self.url, self.page() | {"note": "cut by a metre"})
        self.assertRedirects(kept, reverse("gear"))

    def test_an_item_that_a_plan_names_is_not_deleted(self):
        answer = self.client.post(reverse("gear-delete", args=[self.rope.pk]), follow=True)
        self.assertContains(answer, "Not deleted")
        self.assertTrue(GearItem.objects.filter(pk=self.rope.pk).exists())
        self.client.post(reverse("gear-retire", args=[self.rope.pk]), {"why": "sheath worn through"})
        self.rope.refresh_from_db()
        self.assertEqual(self.rope.retired, "sheath worn through")

    def test_two_items_of_one_name_are_refused_at_the_name(self):
        other = GearItem.objects.filter(crew=self.crew).exclude(pk=self.rope.pk).first()
        answer = self.client.post(self.url, self.page() | {"name": other.name})
        self.assertIn("name", answer.context["form"].errors)

    def test_dates_are_kept_where_nobody_touches_them(self):
        GearItem.objects.filter(pk=self.rope.pk).update(bought="2024-03-01", inspected="2026-10-02")
        self.client.post(self.url, self.page() | {"note": "washed"})
        self.rope.refresh_from_db()
        self.assertEqual((self.rope.bought.isoformat(), self.rope.inspected.isoformat()), ("2024-03-01", "2026-10-02"))

    def test_why_an_item_may_not_be_used_is_said_with_its_day(self):
        long_ago, today = date.today() - timedelta(days=40 * 365), date.today()
        for given, said in (
            ({"wear": "poor"}, "marked poor"),
            ({"bought": long_ago}, f"bought {long_ago.isoformat()}, kept"),
            ({"inspected": None}, "never inspected"),
            ({"inspected": today - timedelta(days=400), "months": 6}, "inspection was due"),
            ({"retired": "melted by a drum"}, "retired: melted by a drum"),
        ):
            sound = {"wear": "new", "bought": today, "inspected": today, "months": 12, "retired": ""}
            GearItem.objects.filter(pk=self.rope.pk).update(**sound | given)
            with self.subTest(said=said):
                self.assertContains(self.client.get(reverse("gear")), said)
        GearItem.objects.filter(pk=self.rope.pk).update(**sound)
        row = self.client.get(reverse("gear")).content.decode().split(self.rope.name)[1].split("</tr>")[0]
        self.assertIn("may be used", row)

    def test_what_it_may_carry_is_its_strength_over_the_factor(self):
        """Straight, unworn, with no knot: a fifth of what it breaks at."""
        GearItem.objects.filter(pk=self.rope.pk).update(strength=60_000.0, wear="new")
        rows = {r["row"].name: r for r in self.client.get(reverse("gear")).context["rows"]}
        self.assertAlmostEqual(float(rows[self.rope.name]["raw"]), 12_000.0, places=6)

    def test_another_crews_store_is_not_found(self):
        other = Crew.objects.create(name="Fernhill Trees")
        self.client.force_login(Person.objects.create_user("ines", password="fern-hill-7", crew=other))
        self.assertEqual(self.client.get(self.url).status_code, 404)
        self.assertNotContains(self.client.get(reverse("gear")), self.rope.name)
