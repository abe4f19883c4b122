"""A day that is over, taken in from its file: signed, recorded, learnt from."""

import json
from io import StringIO

from django.core.management import call_command
from django.test import TestCase
from django.urls import reverse

from apps.briefing.planner import crew_of, signed_state, still_signed
from apps.crews.models import Crew, Person
from apps.day import planner as days
from apps.daybook.models import FellingRecord, WorkRecord
from apps.exchange.day_planner import take_in
from apps.jobs.models import Job, Tree
from apps.lessons import planner as lessons
from treecore.errors import BadDocument, OutOfRange


class DemoDay(TestCase):
    @classmethod
    def setUpTestData(cls):
        call_command("load_demo", stdout=StringIO())
        cls.crew = Crew.objects.get()
        cls.job = Job.objects.get(name="Kestrel Lane allotments")

    def test_every_tree_is_signed_and_stands_with_its_crew(self):
        for tree in Tree.objects.all():
            with self.subTest(tree.name):
                state = signed_state(tree)
                self.assertTrue(state["valid"], state)
                self.assertTrue(still_signed(tree))
                signed = {member.name for member in crew_of(tree) if member.at}
                self.assertEqual(signed, {"Mara Quillfeather", "Bram Tolliver", "Ines Pargeter"})

    def test_every_pick_is_recorded_once_and_loading_again_doubles_nothing(self):
        beech = Tree.objects.get(name="Copper beech")
        self.assertEqual(beech.work_records.filter(counts=True).count(), len(beech.takedown.picks))
        before = WorkRecord.objects.count()
        call_command("load_demo", stdout=StringIO())
        self.assertEqual((WorkRecord.objects.count(), FellingRecord.objects.count()), (before, 2))

    def test_the_yards_wood_is_learnt_from_three_beeches(self):
        wood = next(w for w in lessons.woods(self.crew) if w.key == "fagus_sylvatica")
        self.assertEqual(wood.trees, 3)
        self.assertLess(wood.learnt.after.value, wood.learnt.before.value)
        before, after = wood.learnt.before, wood.learnt.after
        self.assertLess(after.high / after.low, before.high / before.low)
        self.client.force_login(Person.objects.get(username="mara"))
        page = self.client.get(reverse("learning") + "?by=species")
        self.assertContains(page, f'data-raw="{after.value}"'.split(".")[0])
        self.client.post(reverse("learning-wood", args=["fagus_sylvatica"]))
        row = self.crew.species.get()
        self.assertAlmostEqual(row.density, after.value)
        self.assertContains(self.client.get(reverse("learning")), row.common.split(",")[0])

    def test_the_review_says_what_was_planned_and_done(self):
        beech = next(r for r in lessons.review(self.job) if r.tree.name == "Copper beech")
        planned, actual, timed = beech.seconds
        self.assertEqual(timed, 34)
        rows = WorkRecord.objects.filter(tree=beech.tree)
        self.assertAlmostEqual(actual, sum((r.ended - r.started).total_seconds() for r in rows))
        self.assertAlmostEqual(planned, sum(r.planned["seconds"][0] for r in rows))
        self.assertEqual(len(beech.misses), 1)
        self.client.force_login(Person.objects.get(username="bram"))
        page = self.client.get(reverse("review", args=[self.job.pk]))
        self.assertContains(page, "Tips brushed the glasshouse gutter")
        self.assertContains(page, "The plan said")

    def test_pace_moves_the_next_day_and_can_be_switched_off(self):
        pace = lessons.pace(self.crew)
        self.assertGreater(pace.records, 50)
        worked = days.worked(days.workday_of(self.job))
        self.assertEqual((worked.pace, worked.paced_by), (pace.after.value, pace.records))
        days.save_rates(self.crew, {"own_pace": False}, None, "Mara")
        slow = days.worked(days.workday_of(self.job))
        self.assertEqual(slow.pace, 1.0)
        self.assertNotEqual(slow.day.finish.value, worked.day.finish.value)

    def test_half_a_file_takes_nothing_in(self):
        text = {"schema": "cantrel-day", "version": 1, "job": self.job.name}
        fine = {"tree": "Copper beech", "by": "mara", "pick": 1, "wraps": 1.0}
        wrong = {"tree": "Copper beech", "by": "mara", "pick": 2, "mass_kg": 90000.0, "mass_by": "cell"}
        before = WorkRecord.objects.count()
        for said, error in (
            (text | {"version": 2}, BadDocument),
            (text | {"job": "Nowhere"}, BadDocument),
            (text | {"records": [fine, wrong]}, OutOfRange),
        ):
            with self.subTest(json.dumps(said)[:60]), self.assertRaises(error):
                take_in(self.crew, said)
        self.assertEqual(WorkRecord.objects.count(), before)
