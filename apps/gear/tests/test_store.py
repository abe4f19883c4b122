"""The gear store side by side: two people on one item, what an item may carry, and one that a plan names."""

from django.test import TestCase
from django.urls import reverse

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
        self.assertContains(clash, "Somebody else changed this to new eye on one end")
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
