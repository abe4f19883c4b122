"""Records of picks: kept once, held against the plan, correcting the rest, the signature standing or not."""

import math
import uuid

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from apps.briefing import planner as briefing
from apps.crews import steps
from apps.crews.tests.scene import load_scene, whole_demo
from apps.daybook.models import FellingRecord, RecordPhoto, WorkRecord
from apps.daybook.work_planner import clashes
from apps.survey import planner as survey
from apps.takedown import planner as takedown
from cantrel.steps import strip


class Records(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, fir = load_scene(whole_demo())
        cls.tree = fir.job.trees.get(name="Copper beech")
        for gate in survey.open_gates(cls.tree):
            survey.answer(cls.tree, gate.hazard.key, {"finding": "absent"}, cls.person)

    def setUp(self):
        self.client.force_login(self.person)
        self.keys = [self.tree.job_id, self.tree.pk]
        self.picks = takedown.plan_for(self.tree).picks

    def send(self, place=0, uid=None, script=True, **said):
        data = {"uid": str(uid or uuid.uuid4()), "pick": self.picks[place]["id"], "done": "planned", **said}
        headers = {"X-Requested-With": "fetch"} if script else {}
        return self.client.post(reverse("record-work", args=self.keys), data, headers=headers)

    def masses(self):
        tree = type(self.tree).objects.get(pk=self.tree.pk)
        rows = takedown.work_out(takedown.scene_of(tree), takedown.plan_for(tree).picks)
        return [row.step.piece.mass for row in rows]

    def test_sent_twice_kept_once(self):
        uid = uuid.uuid4()
        first, again = self.send(uid=uid, wraps="2"), self.send(uid=uid, wraps="2")
        self.assertEqual((first.json()["state"], again.json()["state"]), ("kept", "again"))
        self.assertEqual(WorkRecord.objects.get().wraps, 2.0)

    def test_the_strip_says_that_something_is_recorded(self):
        def said():
            return {step["key"]: step["state"] for step in strip(type(self.tree).objects.get(pk=self.tree.pk), "fell")}

        self.assertEqual(said()["record"], "open")
        self.send(done="stopped", note="Rope jammed")
        self.assertEqual(said()["record"], "open")
        self.send(place=1)
        self.assertEqual(said()["record"], "done")

    def test_the_plan_it_is_held_against_is_kept_with_it(self):
        before = self.masses()[0]
        self.send(mass="150", mass_by="cell")
        row = WorkRecord.objects.get()
        self.assertEqual(row.planned["mass"], [before.value, before.low, before.high])
        self.assertEqual(row.planned["species"], self.tree.species)
        self.send(place=1)
        self.assertLess(row.planned["mass"][0], row.planned["standing"])

    def test_a_weighed_piece_corrects_those_after_it(self):
        before = self.masses()
        self.send(mass=f"{before[0].value * 1.15:.0f}", mass_by="cell")
        after = self.masses()
        self.assertAlmostEqual(after[0].value, round(before[0].value * 1.15), delta=0.51)
        limbs = [i for i, pick in enumerate(self.picks) if pick.get("member") and i > 0]
        self.assertTrue(all(after[i].value > before[i].value for i in limbs))
        self.assertEqual(after[-1], before[-1])  # a limb says nothing of the stem
        self.assertLess(after[2].high / after[2].value, before[2].high / before[2].value)

    def test_undo_takes_the_weighing_out_of_the_plan_again(self):
        before = self.masses()
        self.send(mass="90", mass_by="cell")
        step = steps.state("work", self.tree)["step"]
        self.client.post(reverse("undo-work", args=self.keys), {"undo": step})
        self.assertFalse(WorkRecord.objects.exists())
        self.assertEqual(self.masses(), before)

    def test_what_was_judged_by_eye_corrects_nothing(self):
        before = self.masses()
        self.send(mass="90", mass_by="eye")
        self.assertEqual(self.masses(), before)

    def test_two_records_of_one_pick_are_both_kept_and_a_person_says_which_counts(self):
        self.send(mass="90", mass_by="cell")
        answer = self.send(mass="120", mass_by="scale").json()
        self.assertEqual(answer["state"], "clash")
        found = clashes(self.tree)[0]
        self.assertEqual((found.counts.mass, [o.mass for o in found.others]), (90.0, [120.0]))
        self.assertContains(self.client.get(reverse("record", args=self.keys)), "was recorded more than once")
        self.client.post(reverse("work-record-counts", args=[*self.keys, found.others[0].pk]))
        self.assertEqual(WorkRecord.objects.get(counts=True).mass, 120.0)
        self.assertEqual(takedown.plan_for(type(self.tree).objects.get(pk=self.tree.pk)).picks[0]["weighed_kg"], 120.0)

    def test_impossible_actuals_are_refused_where_they_were_typed(self):
        wrong = {
            "mass": {"mass": "60000", "mass_by": "cell"},
            "mass_by": {"mass": "90"},
            "ended": {"started": "2026-11-25T10:00:00", "ended": "2026-11-25T09:59:59"},
            "peak_point": {"peak_point": "900"},
            "note": {"done": "changed"},
        }
        for field, said in wrong.items():
            with self.subTest(field):
                answer = self.send(**said)
                self.assertEqual((answer.status_code, list(answer.json()["errors"])), (422, [field]))
        heavy = self.send(mass="40000", mass_by="cell").json()
        self.assertIn("more than the whole tree weighs", heavy["said"])
        ahead = self.send(started="2026-11-25T10:00:00", ended="2999-01-01T00:00:00").json()
        self.assertIn("clock is ahead", ahead["said"])
        self.assertFalse(WorkRecord.objects.exists())

    def test_a_record_of_a_pick_that_is_gone_is_kept_all_the_same(self):
        plan = takedown.plan_for(self.tree)
        gone = plan.picks[0]["id"]
        takedown.keep(plan, plan.picks[1:])
        answer = self.client.post(
            reverse("record-work", args=self.keys),
            {"uid": str(uuid.uuid4()), "pick": gone, "what": "Pick 1, west limb", "done": "planned", "wraps": "3"},
            headers={"X-Requested-With": "fetch"},
        )
        self.assertEqual(answer.json()["state"], "kept")
        self.assertContains(self.client.get(reverse("record", args=self.keys)), "Pick 1, west limb")

    def test_typed_in_the_units_it_was_typed_in(self):
        self.send(units="us", mass="220", mass_by="scale")
        self.assertAlmostEqual(WorkRecord.objects.get().mass, 99.79, delta=0.01)

    def test_a_photo_of_another_kind_or_too_large_loses_nothing(self):
        false = SimpleUploadedFile("hinge.jpg", b"GIF89a and no more", content_type="image/jpeg")
        self.assertIn("no picture that can be read", self.send(photo=false).json()["said"])
        large = SimpleUploadedFile("hinge.jpg", b"\xff\xd8\xff" + b"0" * 30_000_000, content_type="image/jpeg")
        self.assertGreaterEqual(self.send(photo=large).status_code, 400)
        self.assertFalse(WorkRecord.objects.exists() or RecordPhoto.objects.exists())

    def test_a_page_without_a_script_comes_back_to_the_record(self):
        answer = self.send(script=False, note="went well")
        self.assertRedirects(answer, reverse("record", args=self.keys))
        row = WorkRecord.objects.get()
        page = self.client.get(reverse("work-record", args=[*self.keys, row.pk]))
        self.assertContains(page, "went well")
        form = page.context["form"]
        sent = {n: form[n].value() for n in form.fields if form[n].value() is not None}
        self.client.post(page.request["PATH_INFO"], sent | {"revision": row.revision, "near_miss": "tips touched"})
        self.assertEqual(WorkRecord.objects.get().near_miss, "tips touched")

    def felled(self, **said):
        fir = self.tree.job.trees.exclude(pk=self.tree.pk).get()
        data = {"uid": str(uuid.uuid4()), "pick": "felling", "done": "planned", **said}
        return self.client.post(
            reverse("record-work", args=[fir.job_id, fir.pk]), data, headers={"X-Requested-With": "fetch"}
        )

    def test_where_it_went_and_the_hinge_it_left_from_the_stump(self):
        self.assertEqual(self.felled(lay="85", hinge_left="6.5", hinge_right="7").json()["state"], "kept")
        row = FellingRecord.objects.get()
        self.assertAlmostEqual(row.lay, math.radians(85.0))
        self.assertEqual((row.hinge_left, row.hinge_right, row.by), (0.065, 0.07, "Mara"))
        self.assertEqual(self.felled(lay="90", hinge_left="6.5").json()["state"], "clash")
        self.assertAlmostEqual(FellingRecord.objects.get().lay, math.radians(85.0))  # another's reading stays
        self.assertIn("lay 90.0°", WorkRecord.objects.get(counts=False).note)
        self.assertEqual(list(self.felled(hinge_right="900").json()["errors"]), ["hinge_right"])

    def sign(self):
        text = self.client.get(reverse("brief", args=self.keys)).content.decode()
        seen = text.split('name="sign-seen"')[1].split('value="')[1].split('"')[0]
        page = {"sign-password": "kestrel-lane", "sign-stands": "on", "sign-seen": seen}
        return self.client.post(reverse("sign", args=self.keys), page, follow=True)

    def state(self):
        return briefing.signed_state(type(self.tree).objects.get(pk=self.tree.pk))

    def test_a_weighing_leaves_the_signature_standing_until_a_limit_is_passed_by_it(self):
        first = self.masses()[0]
        self.sign()
        self.assertTrue(self.state()["valid"], self.state())
        self.send(mass=f"{first.value:.1f}", mass_by="cell")
        self.assertTrue(self.state()["valid"], self.state())
        self.send(place=1, mass=f"{self.masses()[1].value * 4:.0f}", mass_by="cell")
        self.assertFalse(self.state()["valid"])
        self.assertTrue(any("Pick 2" in b for b in self.state()["blocks"]), self.state()["blocks"])
        self.assertEqual(self.state()["changes"], [])
