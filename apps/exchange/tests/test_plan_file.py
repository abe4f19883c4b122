"""A plan file goes out and comes in on the web as the same job; every refusal in one is named before anything is changed."""

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from apps.briefing.planner import canonical, document
from apps.crews.models import Crew, Person
from apps.crews.tests.scene import load_scene, whole_demo
from apps.exchange.models import PlanFile
from apps.jobs.models import Job


class PlanFiles(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene(whole_demo())
        cls.beech = cls.tree.job.trees.get(name="Copper beech")

    def setUp(self):
        self.client.force_login(self.person)

    def send(self, text, name="plan.json"):
        upload = SimpleUploadedFile(name, text.encode() if isinstance(text, str) else text)
        return self.client.post(reverse("plan-file"), {"file": upload}, follow=True)

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

    def test_another_crew_does_not_see_it(self):
        self.send(whole_demo())
        kept = PlanFile.objects.first()
        self.client.force_login(
            Person.objects.create_user("eve", password="x", crew=Crew.objects.create(name="Others"))
        )
        self.assertEqual(self.client.get(reverse("plan-file-look", args=[kept.pk])).status_code, 404)
