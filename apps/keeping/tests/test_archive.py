"""A job, or a whole yard, goes out as one file and comes back byte for byte; nobody's word comes in with it."""

import io
import json
import zipfile

from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from PIL import Image

from apps.briefing.planner import signed_state
from apps.crews.models import Crew, Person
from apps.crews.tests.scene import load_scene, whole_demo
from apps.gear.models import GearItem
from apps.jobs.models import Job, Target, Tree
from apps.keeping import activity_planner, archive_planner
from apps.site.models import SitePicture
from apps.survey.models import CrewHazard, HazardAnswer
from treecore.errors import BadDocument


def jpeg():
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "green").save(out, "JPEG")
    return out.getvalue()


def packed(rows, pictures=()):
    """An archive somebody wrote by hand."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("rows.json", rows if isinstance(rows, str) else json.dumps(rows))
        for number, content in pictures:
            archive.writestr(f"pictures/{number}.jpg", content)
    return io.BytesIO(out.getvalue())


class Archives(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene(whole_demo())
        cls.person.role = "owner"
        cls.person.save()
        cls.job = cls.tree.job
        own = CrewHazard.objects.create(crew=cls.crew, name="Bees in the hollow")
        answer = HazardAnswer(tree=cls.tree, hazard=own.key, finding="absent", by="Mara", person=cls.person)
        answer.photo.save("p.jpg", ContentFile(jpeg()), save=True)
        picture = SitePicture(job=cls.job, wide=40, high=30)
        picture.image.save("g.jpg", ContentFile(jpeg()), save=True)
        cls.tree.height = 27.5
        cls.tree.save()
        cls.job.trees.last().limbs.all().delete()  # rows that only their past knows
        Target.objects.filter(job=cls.job).first().delete()
        document = archive_planner.document(cls.tree)
        cls.tree.signoffs.create(name="Mara", person=cls.person, digest="0" * 64, document=document)
        cls.elsewhere = Crew.objects.create(name="Alder Yard")
        cls.other = Person.objects.create_user("ned", crew=cls.elsewhere, role="owner")

    def out(self, of):
        to = io.BytesIO()
        (archive_planner.job_archive if isinstance(of, Job) else archive_planner.yard_archive)(of, to)
        return to.getvalue()

    def test_a_job_comes_back_byte_for_byte_with_its_past_and_its_pictures(self):
        sent = self.out(self.job)
        found = archive_planner.take_in(self.elsewhere, io.BytesIO(sent))
        (job,) = found.jobs
        self.assertEqual((found.trees, found.pictures, found.signatures), (2, 2, 1))
        self.assertNotEqual(job.pk, self.job.pk)
        self.assertEqual(self.out(job), sent)
        self.assertEqual(job.picture.image.read(), self.job.picture.image.read())
        events = activity_planner.events(activity_planner.JOB, job, 0, 500)
        self.assertEqual(len(events), len(activity_planner.events(activity_planner.JOB, self.job, 0, 500)))

    def test_a_whole_yard_comes_back_byte_for_byte_where_nothing_is_yet(self):
        sent = self.out(self.crew)
        archive_planner.take_in(self.elsewhere, io.BytesIO(sent))
        Crew.objects.filter(pk=self.crew.pk).update(name="Was here")
        Crew.objects.filter(pk=self.elsewhere.pk).update(name=self.crew.name)
        self.elsewhere.refresh_from_db()
        self.assertEqual(self.out(self.elsewhere), sent)
        self.assertEqual(self.elsewhere.gear.count(), self.crew.gear.count())
        with self.assertRaisesMessage(BadDocument, "without jobs"):
            archive_planner.take_in(self.elsewhere, io.BytesIO(sent))

    def test_neither_a_signature_nor_an_answer_counts_that_came_with_a_file(self):
        found = archive_planner.take_in(self.crew, io.BytesIO(self.out(self.job)))
        tree = found.jobs[0].trees.get(name=self.tree.name)
        state = signed_state(tree)
        self.assertFalse(state["valid"])
        self.assertIn("it came with a file, not by signing here", state["changes"])
        self.assertEqual(set(tree.answers.values_list("person", flat=True)), {None})
        self.assertEqual(tree.signoffs.get().name, "Mara")

    def test_rows_of_the_yard_that_are_there_already_are_used(self):
        before = (self.crew.gear.count(), self.crew.hazards.count())
        archive_planner.take_in(self.crew, io.BytesIO(self.out(self.job)))
        self.assertEqual((self.crew.gear.count(), self.crew.hazards.count()), before)
        CrewHazard.objects.create(crew=self.elsewhere, name="Bees in the hollow", key="own-77")
        found = archive_planner.take_in(self.elsewhere, io.BytesIO(self.out(self.job)))
        self.assertTrue(HazardAnswer.objects.filter(tree__job=found.jobs[0], hazard="own-77").exists())

    def test_what_is_no_archive_or_was_changed_leaves_nothing(self):
        rows = json.loads(zipfile.ZipFile(io.BytesIO(self.out(self.job))).read("rows.json"))
        pictures = [(1, jpeg()), (2, jpeg())]

        def changed(change):
            copy = json.loads(json.dumps(rows))
            change({table["table"]: table for table in copy["tables"]}, copy)
            return packed(copy, pictures)

        def put(table, column, value, past=False):
            return lambda tables, _: tables[table]["past" if past else "rows"][0].update({column: value})

        tried = [io.BytesIO(b""), io.BytesIO(b"PK\3\4"), packed("[" * 99_999), packed("{}"), packed(rows | {"form": 2})]
        tried += [packed(rows, [(1, b"<script>"), (2, b"")]), packed(rows | {"tables": [{"table": "auth.User"}]})]
        tried += [
            changed(put(*where))
            for where in (
                ("jobs.Tree", "diameter", -1),
                ("jobs.Tree", "diameter", "wide"),
                ("jobs.Tree", "points", {"a": 1}),
                ("jobs.Tree", "job", 99),
                ("jobs.Tree", "name", ""),
                ("takedown.TakedownPlan", "picks", [1]),
                ("briefing.SignOff", "document", {"schema": "cantrel-plan"}),
                ("jobs.Target", "outline_m", 3),
                ("jobs.Target", "outline", [["a"]]),
                ("jobs.Tree", "history_date", "never", True),
                ("jobs.Job", "#", "one"),
            )
        ]
        tried.append(
            changed(lambda tables, whole: whole["tables"].append({"table": "crews.Person", "rows": [], "past": []}))
        )
        before = (Job.objects.count(), Tree.objects.count(), Tree.history.count(), GearItem.objects.count())
        good = 0
        for number, upload in enumerate(tried):
            with self.subTest(number=number):
                try:
                    archive_planner.take_in(self.elsewhere, upload)
                    good += 1
                except BadDocument:
                    after = (Job.objects.count(), Tree.objects.count(), Tree.history.count(), GearItem.objects.count())
                    self.assertEqual(after, before)
        self.assertEqual(good, 0)

    def test_pages(self):
        self.client.force_login(self.person)
        sent = self.client.get(reverse("job-archive", args=[self.job.pk]))
        content = b"".join(sent.streaming_content)
        self.assertEqual(content, self.out(self.job))
        self.assertEqual(b"".join(self.client.get(reverse("yard-archive")).streaming_content), self.out(self.crew))
        self.client.force_login(self.other)
        page = self.client.post(reverse("archive"), {"file": SimpleUploadedFile("a.zip", content)}, follow=True)
        self.assertContains(page, "2 trees")
        self.assertEqual(self.elsewhere.jobs.count(), 1)
        bad = self.client.post(reverse("archive"), {"file": SimpleUploadedFile("a.zip", b"nothing")})
        self.assertContains(bad, "no archive of this program")
        Person.objects.filter(pk=self.other.pk).update(role="planner")
        self.assertEqual(self.client.get(reverse("archive")).status_code, 403)
        self.assertEqual(self.client.get(reverse("job-archive", args=[self.job.pk])).status_code, 404)
