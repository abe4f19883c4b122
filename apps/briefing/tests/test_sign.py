"""Signing: the name goes under the plan that was on the page, and under no other."""

import json

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
        return {"sign-password": "kestrel-lane", "sign-stands": "on", "sign-seen": seen}

    def sign(self, page):
        return self.client.post(reverse("sign", args=self.keys), page, follow=True).content.decode()

    def test_a_plan_changed_while_it_was_read_is_not_signed(self):
        page = self.page()
        job = self.tree.job
        job.meeting_point = "elsewhere"
        job.save()
        answer = self.sign(page)
        self.assertIn("the plan changed since this page was drawn", answer)
        self.assertIn("Changed: job meeting point.", answer)
        self.assertFalse(self.tree.signoffs.exists())
        again = answer.split('name="sign-seen"')[1].split('value="')[1].split('"')[0]
        self.assertEqual(again, planner.fingerprint(type(self.tree).objects.get(pk=self.tree.pk)))
        self.sign(page | {"sign-seen": again})
        self.assertEqual(self.tree.signoffs.get().document["job"]["meeting_point"], "elsewhere")

    def test_what_was_signed_is_what_was_seen(self):
        page = self.page()
        self.sign(page)
        self.assertEqual(self.tree.signoffs.get().digest, page["sign-seen"])
        self.assertTrue(planner.signed_state(type(self.tree).objects.get(pk=self.tree.pk))["valid"])

    def test_a_page_that_does_not_say_which_plan_it_showed_signs_nothing(self):
        for seen in ("", "0" * 64):
            self.sign(self.page() | {"sign-seen": seen})
            self.assertFalse(self.tree.signoffs.exists(), seen)

    def test_a_signature_made_on_the_form_before_still_stands(self):
        self.sign(self.page())
        row = self.tree.signoffs.get()
        old = json.loads(json.dumps(row.document)) | {"version": 3}
        old["trees"][0]["limbs"] = [{**b, "union": "included bark"} for b in old["trees"][0]["limbs"][:1]]
        row.document, row.form, row.digest = old, 2, planner.digest(old, 2)
        row.save()
        state = planner.signed_state(type(self.tree).objects.get(pk=self.tree.pk))
        self.assertNotIn("the signed document itself", state["changes"])

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
