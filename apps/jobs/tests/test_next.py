"""A tree opens at its next step; the site is a step of the strip; the strip is asked for anew."""

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from apps.briefing.models import SignOff
from apps.crews.tests.scene import load_scene, whole_demo
from apps.jobs.models import Job
from apps.survey.planner import rest_absent, walk_up
from cantrel.steps import next_step


class NextStep(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.fir = load_scene(whole_demo())
        cls.beech = cls.fir.job.trees.get(name="Copper beech")

    def setUp(self):
        self.client.force_login(self.person)

    def opened(self, tree):
        return self.client.get(reverse("tree", args=[tree.job_id, tree.pk])).headers["Location"]

    def test_gates_first_then_what_is_open_then_the_brief(self):
        at = [self.fir.job_id, self.fir.pk]
        self.assertEqual(self.opened(self.fir), reverse("walk-up", args=at))
        self.fir.answers.update(finding="absent")
        keys = [row["hazard"].key for row in walk_up(self.fir)]
        self.assertGreater(rest_absent(self.fir, [*keys, "no such line"], self.person), 3)
        self.assertEqual(rest_absent(self.fir, keys, self.person), 0)
        # Walked, measured, a method chosen, felled by a plan of its own: no picks are asked of it, the brief is.
        step = next_step(self.fir)["key"]
        self.assertIn(step, ("takedown", "brief"))
        self.fir.felling.delete()
        self.assertEqual(next_step(self.fir)["key"], "method")

    def test_a_tree_of_another_yard_opens_nowhere(self):
        self.client.logout()
        self.assertIn("/sign-in/", self.opened(self.fir))

    def test_the_site_is_a_step_and_keeps_the_tree_it_was_opened_from(self):
        page = self.client.get(reverse("site", args=[self.fir.job_id]), {"tree": self.beech.pk}).content.decode()
        strip = page.split('<nav class="strip"')[1].split("</nav>")[0]
        self.assertIn(reverse("takedown", args=[self.fir.job_id, self.beech.pk]), strip)
        self.assertRegex(" ".join(strip.split()), r'aria-current="step"><span [^>]*></span>Site<small>\d+ things')
        for asked in ("", "999999", "x"):  # two trees and none of them named: no strip, and no fault
            page = self.client.get(reverse("site", args=[self.fir.job_id]), {"tree": asked})
            self.assertNotContains(page, 'class="strip"')
        self.beech.delete()
        self.assertContains(self.client.get(reverse("site", args=[self.fir.job_id])), 'class="strip"')

    def test_the_strip_alone(self):
        at = [self.fir.job_id, self.fir.pk]
        strip = self.client.get(reverse("strip", args=at), {"step": "fell"}).content.decode()
        self.assertTrue(strip.startswith("<nav"))
        self.assertEqual(strip.count("aria-current"), 1)
        self.assertNotContains(self.client.get(reverse("strip", args=at), {"step": "<nowhere>"}), "nowhere")


class Lists(TestCase):
    """The list of jobs and a job's page: found by words, each tree with where it stands."""

    def setUp(self):
        self.crew, self.person, self.tree = load_scene()
        self.client.force_login(self.person)
        self.job = self.tree.job

    def found(self, words):
        page = self.client.get(reverse("jobs"), {"q": words})
        return [job.name for job in page.context["jobs"]]

    def test_jobs_are_found_by_name_address_and_tree(self):
        other = Job.objects.create(crew=self.crew, name="Mill yard", address="3 Quarry Road")
        self.assertEqual(self.found(""), [other.name, self.job.name])
        for words, names in (
            ("kestrel", [self.job.name]),
            ("quarry MILL", [other.name]),
            (self.tree.name.split(maxsplit=1)[0], [self.job.name]),
            ("quarry kestrel", []),
        ):
            with self.subTest(words=words):
                self.assertEqual(self.found(words), names)
        self.assertContains(self.client.get(reverse("jobs"), {"q": "nothing at all"}), "No job has these words.")

    def test_a_tree_shows_its_next_step_its_gates_and_who_signed(self):
        self.tree.answers.all().delete()
        opened = next_step(self.tree)
        for address in (reverse("jobs"), reverse("job", args=[self.job.pk])):
            page = self.client.get(address)
            self.assertContains(page, f"next: {opened['name']}")
            self.assertContains(page, f"gates: {opened['note']}")
        row = {"name": "Mara Quillfeather", "document": {}, "digest": "0" * 64, "figures": "", "program": ""}
        SignOff.objects.create(tree=self.tree, **row)
        for address in (reverse("jobs"), reverse("job", args=[self.job.pk])):
            self.assertContains(self.client.get(address), "signed by Mara Quillfeather")

    def test_the_list_asks_as_much_for_many_trees_as_for_one(self):
        with CaptureQueriesContext(connection) as one:
            self.client.get(reverse("jobs"))
        for i in range(6):
            self.tree.pk, self.tree.name = None, f"Copy {i}"
            self.tree.save()
        with CaptureQueriesContext(connection) as many:
            self.client.get(reverse("jobs"))
        self.assertEqual(len(many), len(one))
