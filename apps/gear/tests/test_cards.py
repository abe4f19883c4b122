"""An item over its life: inspections with their photo, loads seen, the store as a list, labels."""

import io
import uuid
from datetime import date, timedelta

from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import models
from django.test import TestCase
from django.urls import reverse
from PIL import Image

from apps.crews.tests.scene import load_scene, whole_demo
from apps.daybook import work_planner
from apps.daybook.models import WorkRecord
from apps.gear import card_planner
from apps.gear.models import GearItem, Inspection
from apps.keeping.sweep_planner import SHOWN_BY
from apps.takedown import planner as takedown


class Cards(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, fir = load_scene(whole_demo())
        cls.tree = fir.job.trees.get(name="Copper beech")
        cls.block = GearItem.objects.get(name="Big block")

    def setUp(self):
        self.client.force_login(self.person)
        self.card = reverse("gear-card", args=[self.block.pk])

    def inspect(self, **said):
        return self.client.post(self.card, {"on": date.today().isoformat(), "passed": "yes", **said}, follow=True)

    def test_due_by_hand(self):
        """Six months after 31 August is the last of February; of 15 July it is 15 January."""
        for on, months, due in (
            (date(2026, 8, 31), 6, date(2027, 2, 28)),
            (date(2026, 7, 15), 6, date(2027, 1, 15)),
            (date(2027, 8, 31), 6, date(2028, 2, 29)),
            (date(2026, 11, 30), 1, date(2026, 12, 30)),
            (date(2026, 1, 10), 12, date(2027, 1, 10)),
        ):
            self.assertEqual(card_planner.due(GearItem(inspected=on, months=months)), due)
        self.assertIsNone(card_planner.due(GearItem()))

    def test_looked_over_with_a_photo(self):
        GearItem.objects.update(inspected=date.today() - timedelta(days=400))
        out = io.BytesIO()
        Image.new("RGB", (40, 30), "brown").save(out, "JPEG")
        self.inspect(note="Cheek dented", photo=SimpleUploadedFile("b.jpg", out.getvalue(), content_type="image/jpeg"))
        row = Inspection.objects.get()
        self.assertEqual((row.by, row.note, row.passed), ("Mara", "Cheek dented", True))
        self.assertEqual(GearItem.objects.get(pk=self.block.pk).inspected, date.today())
        answer = self.client.get(reverse("inspection-photo", args=[row.pk]))
        self.assertEqual(Image.open(io.BytesIO(b"".join(answer.streaming_content))).size, (40, 30))

    def test_one_that_failed_says_why_and_is_retired_with_it(self):
        self.assertContains(self.inspect(passed="no"), "Say why it is not to be used again.")
        self.inspect(passed="no", note="Sheave cracked")
        self.assertEqual(GearItem.objects.get(pk=self.block.pk).retired, "Sheave cracked")
        self.assertContains(self.client.get(self.card), "Sheave cracked")

    def test_nobody_inspects_tomorrow(self):
        tomorrow = (date.today() + timedelta(days=1)).isoformat()
        self.assertContains(self.inspect(on=tomorrow), "hat day has not come yet")
        self.assertFalse(Inspection.objects.exists())

    def record(self, pick, **read):
        entry = takedown.plan_for(self.tree).picks[pick]
        made = work_planner.Made(uuid.uuid4(), entry["id"])
        return work_planner.keep(self.tree, made, {"done": "planned", **read}, self.person).record

    def test_loads_it_has_seen_by_hand(self):
        """A cell read 1.5 of what was planned at the point: so did block and sling; at the device it read 0.8."""
        row = self.record(8, peak_point=0.0, peak_base=0.0)
        plan = row.planned
        row.peak_point, row.peak_base = 1.5 * plan["peak_point"][0], 0.8 * plan["peak_base"][0]
        row.save()
        demands = {link["role"]: link for link in plan["gear"]}
        seen = card_planner.loads(self.crew)
        for name, role, share in (("Big block", "block", 1.5), ("Stem bollard", "device", 0.8)):
            self.assertAlmostEqual(seen[name][0].load, demands[role]["demand"][0] * share, delta=0.01)
        self.assertIn("Kestrel Lane allotments, Copper beech, 9", self.client.get(self.card).content.decode())

    def test_more_than_it_may_is_said_and_its_history_stays_when_it_is_retired(self):
        row = self.record(8, peak_point=10.0)
        WorkRecord.objects.filter(pk=row.pk).update(peak_point=60_000.0)
        self.assertContains(self.client.get(self.card), "It has seen more than it may carry.")
        self.client.post(reverse("gear-retire", args=[self.block.pk]), {"why": "overloaded at Kestrel Lane"})
        page = self.client.get(self.card).content.decode()
        self.assertIn("overloaded at Kestrel Lane", page)
        self.assertIn("Copper beech, 9", page)

    def test_out_and_in_again_changes_nothing(self):
        text = self.client.get(reverse("gear-csv")).content
        before = list(GearItem.objects.values())
        self.upload(text)
        self.assertEqual(list(GearItem.objects.values()), before)

    def upload(self, content):
        file = SimpleUploadedFile("gear.csv", content, content_type="text/csv")
        return self.client.post(reverse("gear-take-in"), {"file": file}, follow=True)

    def test_a_list_changes_by_name_and_adds(self):
        answer = self.upload(b"name;kind;length_m;wear\nBlue line;rope;55,5;worn\nGreen line;rope;30;new\n")
        self.assertContains(answer, "1 new, 1 changed, 0 as they were")
        self.assertEqual(GearItem.objects.get(name="Blue line").length, 55.5)

    def test_one_wrong_line_takes_nothing_in(self):
        count = GearItem.objects.count()
        for text, said in (
            ("name,kind\nA,rope\nB,anchor chain\n", "ine 3"),
            ("name,kind,strength_N\nA,rope,strong\n", "ine 2"),
            ("name,colour\nA,blue\n", "colour"),
            ("kind\nrope\n", "no column “name”"),
        ):
            with self.subTest(said):
                self.assertContains(self.upload(text.encode()), said)
                self.assertEqual(GearItem.objects.count(), count)

    def test_a_label_for_every_item_in_use(self):
        self.client.post(reverse("gear-retire", args=[self.block.pk]), {"why": "worn"})
        page = self.client.get(reverse("gear-labels")).content.decode()
        self.assertEqual(page.count('class="tie-on"'), GearItem.objects.filter(retired="").count())

    def test_no_picture_is_swept_that_a_row_shows(self):
        shown = set(SHOWN_BY)
        own = [model for model in apps.get_models() if model.__module__.startswith("apps.")]
        self.assertGreater(len(own), 20)
        for model in own:
            for field in model._meta.concrete_fields:
                if isinstance(field, models.FileField):
                    self.assertIn((model, field.name), shown)
