"""A plan file goes out and comes in on the web as the same job; every refusal in one is named before anything is
changed.
"""

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from apps.briefing.planner import canonical, document
from apps.crews import steps
from apps.crews.models import Crew, Person
from apps.crews.tests.scene import load_scene, whole_demo
from apps.exchange.models import PlanFile
from apps.jobs.models import Job, Tree


class Sent(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene(whole_demo())
        cls.beech = cls.tree.job.trees.get(name="Copper beech")

    def setUp(self):
        self.client.force_login(self.person)

    def send(self, text, name="plan.json"):
        upload = SimpleUploadedFile(name, text.encode() if isinstance(text, str) else text)
        return self.client.post(reverse("plan-file"), {"file": upload}, follow=True)


class PlanFiles(Sent):
    def test_out_and_in_again_is_the_same_plan(self):
        for tree in (self.tree, self.beech):
            with self.subTest(tree=tree.name):
                text = self.client.get(reverse("export", args=[tree.job_id, tree.pk])).content.decode()
                seen = self.send(text)
                self.assertContains(seen, f"<b>{tree.name}</b> tree, ")
                self.assertContains(seen, "would become a job")
                before = Job.objects.count()
                kept = PlanFile.objects.first()
                made = self.client.post(reverse("plan-file-look", args=[kept.pk]))
                job = Job.objects.order_by("-pk").first()
                self.assertRedirects(made, reverse("job", args=[job.pk]))
                again = document(job.trees.get(name=tree.name))
                self.assertEqual(canonical(again), canonical(json.loads(text)))
                self.client.post(reverse("plan-file-look", args=[kept.pk]))  # pressed twice
                self.assertEqual(Job.objects.count(), before + 1)

    def test_every_refusal_is_named_and_nothing_is_changed(self):
        plan = json.loads(whole_demo())
        plan["trees"][0]["lean_deg"] = 80.0
        plan["trees"][1]["spread_m"] = 900.0
        seen = self.send(json.dumps(plan))
        for said in ("Grand fir by the stream", "Copper beech", "t come in", "disabled", "80° is outside 0° to 60°"):
            self.assertContains(seen, said)
        self.assertContains(seen, "<li><b>trees[", count=2)
        kept, before = PlanFile.objects.first(), Job.objects.count()
        self.client.post(reverse("plan-file-look", args=[kept.pk]))
        self.assertEqual((Job.objects.count(), PlanFile.objects.get(pk=kept.pk).made), (before, None))
        plan["trees"][0] |= {"spread_m": "wide", "limbs": 4}
        self.assertContains(self.send(json.dumps(plan)), "<li><b>trees[0].", count=2)
        self.assertContains(self.send("{ no"), "not JSON")

    def test_a_refused_pick_comes_in_and_is_named(self):
        plan = json.loads(whole_demo())
        plan["trees"] = plan["trees"][1:]
        plan["trees"][0]["takedown"]["picks"][2]["at_m"] = 60.0
        seen = self.send(json.dumps(plan))
        self.assertContains(seen, "pick 3</b>")
        self.assertContains(seen, "would become a job")

    def test_a_jobs_own_page_takes_it_too_to_be_put_over_that_job(self):
        sent = SimpleUploadedFile("plan.json", whole_demo().encode())
        page = self.client.post(reverse("take-in", args=[self.tree.job_id]), {"file": sent})
        self.assertRegex(page["Location"], rf"/\d+/\?over={self.tree.job_id}$")
        self.assertContains(self.client.get(page["Location"]), self.tree.name)

    def test_another_crew_does_not_see_it(self):
        self.send(whole_demo())
        kept = PlanFile.objects.first()
        self.client.force_login(
            Person.objects.create_user("eve", password="x", crew=Crew.objects.create(name="Others"))
        )
        self.assertEqual(self.client.get(reverse("plan-file-look", args=[kept.pk])).status_code, 404)


class OverAJob(Sent):
    """A file over a job: shown first, all or nothing, nothing unseen, and undone page by page."""

    def look(self, plan):
        self.send(json.dumps(plan))
        kept = PlanFile.objects.first()
        url = reverse("plan-file-look", args=[kept.pk])
        return url, self.client.get(url, {"over": self.tree.job_id})

    def changed_plan(self):
        plan = document(self.tree)
        plan["job"]["hospital"] = "North General"
        row = plan["trees"][0]
        row["height_m"], row["limbs"] = 21.5, row["limbs"][:1]
        row["felling"]["hinge_m"] = 0.071
        plan["site"]["targets"] = [t for t in plan["site"]["targets"] if t["name"] != "North hedge"]
        plan["site"]["targets"].append(
            {"name": "New shed", "outline_m": [[20, 20], [24, 20], [24, 24]], "height_m": 2.4}
        )
        return plan

    def test_it_is_looked_at_line_by_line_then_put_over(self):
        beech = document(self.beech)
        url, seen = self.look(self.changed_plan())
        for said in (
            "<b>Papers</b> changed: hospital", "<b>New shed</b> new", "<b>North hedge</b> taken off",
            "stay as they are</summary>",
            "<b>Grand fir by the stream</b> changed: felling, height, limbs",
        ):  # fmt: skip
            self.assertContains(seen, said)
        self.client.post(url, {"over": self.tree.job_id, "seen": seen.context["seen"]})
        tree = Tree.objects.get(pk=self.tree.pk)
        self.assertEqual((tree.height, tree.limbs.count(), tree.felling.hinge), (21.5, 1, 0.071))
        self.assertEqual(tree.job.hospital, "North General")
        names = set(tree.job.targets.values_list("name", flat=True))
        self.assertTrue("New shed" in names and "North hedge" not in names)
        self.assertEqual(canonical(document(Tree.objects.get(pk=self.beech.pk)))["trees"], canonical(beech)["trees"])

    def test_undo_takes_it_back_page_by_page(self):
        before = canonical(document(self.tree))
        url, seen = self.look(self.changed_plan())
        self.client.post(url, {"over": self.tree.job_id, "seen": seen.context["seen"]})
        tree = Tree.objects.get(pk=self.tree.pk)
        for scope, owner in (("felling", tree), ("body", tree), ("site", tree.job), ("paper", tree.job)):
            self.assertEqual(steps.back(scope, owner), "")
        self.assertEqual(canonical(document(Tree.objects.get(pk=self.tree.pk))), before)

    def test_a_job_that_changed_since_it_was_looked_at_is_left_alone(self):
        url, seen = self.look(self.changed_plan())
        Tree.objects.filter(pk=self.beech.pk).update(height=18.25)
        answer = self.client.post(url, {"over": self.tree.job_id, "seen": seen.context["seen"]}, follow=True)
        self.assertContains(answer, "changed since this was shown")
        self.assertNotEqual(Tree.objects.get(pk=self.tree.pk).height, 21.5)

    def test_the_same_file_changes_nothing(self):
        _, seen = self.look(document(self.tree))
        self.assertEqual(seen.context["lines"], [])
        self.assertIn(self.tree.name, seen.context["same"])

    def test_another_crews_job_is_not_found(self):
        other = Job.objects.create(crew=Crew.objects.create(name="Others"), name="Theirs")
        self.send(json.dumps(document(self.tree)))
        url = reverse("plan-file-look", args=[PlanFile.objects.first().pk])
        self.assertEqual(self.client.get(url, {"over": other.pk}).status_code, 404)
