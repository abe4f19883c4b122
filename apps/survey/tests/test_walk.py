"""The walk-up on the web: what is found binds the plan, and people of one name do not overwrite each other."""

from django.test import TestCase
from django.urls import reverse

from apps.briefing.planner import blocks
from apps.crews.models import Person
from apps.crews.tests.scene import load_scene, whole_demo
from apps.felling import planner as felling
from apps.survey.models import CrewHazard
from apps.takedown.planner import plan_for


class Walk(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene(whole_demo())

    def setUp(self):
        self.client.force_login(self.person)

    def answer(self, hazard, finding, tree=None, **more):
        tree = tree or self.tree
        data = {f"{hazard}-finding": finding} | {f"{hazard}-{k}": v for k, v in more.items()}
        return self.client.post(reverse("hazard-answer", args=[tree.job_id, tree.pk, hazard]), data)

    def keys(self, tree=None):
        tree = tree or self.tree
        tree = type(tree).objects.get(pk=tree.pk)
        return {x.key for x in felling.evaluated(tree)[1].limits if x.verdict.value in ("over", "not_known")}

    def test_a_dead_top_closes_wedges_whatever_is_said_in_reply(self):
        self.assertNotIn("wedge_seen", self.keys())
        self.answer("dead_top", "present", response="We will be careful", height="18")
        self.assertIn("wedge_seen", self.keys())
        page = self.client.get(reverse("fell", args=[self.tree.job_id, self.tree.pk])).content.decode()
        self.assertIn("Wedges under dead wood", page)
        self.assertIn("Wedges under dead wood (see Fell)", blocks(type(self.tree).objects.get(pk=self.tree.pk)))
        walk = self.client.get(reverse("walk-up", args=[self.tree.job_id, self.tree.pk])).content.decode()
        self.assertRegex(walk, r"It binds the plan:</b> no wedges")
        self.answer("dead_top", "absent")
        self.assertNotIn("wedge_seen", self.keys())

    def test_a_gate_of_the_crews_own_stops_every_way_by_its_name(self):
        row = CrewHazard.objects.create(crew=self.crew, name="Bees in the stem", gate=True)
        keys = [self.tree.job_id, self.tree.pk]
        self.assertContains(self.client.get(reverse("method", args=keys)), "Gate open: Bees in the stem")
        self.client.post(reverse("hazard-answer", args=[*keys, row.key]), {f"{row.key}-finding": "absent"})
        self.assertNotContains(self.client.get(reverse("method", args=keys)), "Bees in the stem")

    def test_a_moving_plate_closes_every_way_up(self):
        self.answer("root_plate", "present", response="Propped")
        page = self.client.get(reverse("method", args=[self.tree.job_id, self.tree.pk])).content.decode()
        self.assertEqual(page.count("The walk-up found: Root plate moving"), 6)

    def test_two_people_of_one_name_keep_their_own_answers(self):
        twin = Person.objects.create_user("mara2", password="kestrel-lane", crew=self.crew, first_name="Mara")
        self.answer("spring", "present", note="mine")
        self.client.force_login(twin)
        self.answer("spring", "absent", note="the other Mara’s")
        rows = self.tree.answers.filter(hazard="spring", by="Mara")
        self.assertEqual(
            {(r.person_id, r.note) for r in rows}, {(self.person.pk, "mine"), (twin.pk, "the other Mara’s")}
        )
        walk = self.client.get(reverse("walk-up", args=[self.tree.job_id, self.tree.pk])).content.decode()
        self.assertIn("mine", walk)

    def test_a_person_who_changes_their_name_keeps_one_answer(self):
        self.answer("light", "present")
        self.person.first_name = "Marah"
        self.person.save()
        self.answer("light", "absent")
        own = self.tree.answers.filter(hazard="light", person=self.person)
        self.assertEqual([r.finding for r in own], ["absent"])

    def test_a_way_up_that_nobody_tested_blocks(self):
        beech = self.tree.job.trees.get(name="Copper beech")
        self.assertFalse([b for b in blocks(beech) if b.startswith("Way up")])
        plan = plan_for(beech)
        plan.access = {**plan.access, "tested": False, "line_m": 12.0}
        plan.save()
        found = [b for b in blocks(beech) if b.startswith("Way up")]
        self.assertEqual(found, ["Way up: climbing line, over a limit", "Way up: test of the fork, not known"])
        plan.access = {}
        plan.save()
        self.assertIn("Nobody said how the climber gets up", blocks(beech))
