"""Signing: the name goes under the plan that was on the page, and under no other."""

from django.db.models import ProtectedError
from django.test import TestCase
from django.urls import reverse

from apps.briefing import planner
from apps.crews.tests.scene import load_scene
from apps.survey import planner as survey


class Signing(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()
        survey.answer(cls.tree, "wind", {"finding": "absent"}, cls.person)

    def setUp(self):
        self.client.force_login(self.person)
        self.keys = [self.tree.job_id, self.tree.pk]

    def page(self):
        text = self.client.get(reverse("brief", args=self.keys)).content.decode()
        seen = text.split('name="sign-seen"')[1].split('value="')[1].split('"')[0]
        return {"sign-name": "Mara Quillfeather", "sign-stands": "on", "sign-seen": seen}

    def sign(self, page):
        return self.client.post(reverse("sign", args=self.keys), page, follow=True).content.decode()

    def test_a_plan_changed_while_it_was_read_is_not_signed(self):
        page = self.page()
        job = self.tree.job
        job.meeting_point = "elsewhere"
        job.save()
        self.assertIn("the plan changed since this page was drawn", self.sign(page))
        self.assertFalse(self.tree.signoffs.exists())
        self.sign(self.page())
        self.assertEqual(self.tree.signoffs.get().document["job"]["meeting_point"], "elsewhere")

    def test_what_was_signed_is_what_was_seen(self):
        page = self.page()
        self.sign(page)
        self.assertEqual(self.tree.signoffs.get().digest, page["sign-seen"])
        self.assertTrue(planner.signed_state(type(self.tree).objects.get(pk=self.tree.pk))["valid"])

    def test_a_line_taken_off_the_walk_up_leaves_its_history(self):
        row = survey.add_line(self.crew, {"name": "Gas main", "gate": False, "caution": ""})
        before = row.history.count()
        survey.retire_line(self.crew, row.pk)
        self.assertEqual(row.history.count(), before + 1)

    def test_a_signed_plan_and_who_signed_it_are_not_deleted(self):
        self.sign(self.page())
        for row in (self.tree, self.tree.job, self.person):
            with self.subTest(row=row), self.assertRaises(ProtectedError):
                row.delete()
        self.assertEqual(self.tree.signoffs.count(), 1)
