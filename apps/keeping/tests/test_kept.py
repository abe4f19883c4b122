"""Jobs put by, handed over, deleted and brought back; who did what; what is past its time."""

from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from apps.briefing.planner import document
from apps.crews.models import Person, SignIn
from apps.crews.tests.scene import load_scene
from apps.exchange.models import Intake
from apps.jobs import keep_planner
from apps.jobs.models import Job, Tree
from apps.keeping import activity_planner, sweep_planner


class Kept(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()
        cls.job = cls.tree.job
        cls.olga = Person.objects.create_user("olga", crew=cls.crew, first_name="Olga", last_name="Fenn")

    def setUp(self):
        self.client.force_login(self.person)

    def names(self, **where):
        return [job.name for job in self.client.get(reverse("jobs"), where).context["jobs"]]

    def test_deleted_and_brought_back_within_thirty_days(self):
        asked = self.client.get(reverse("job-delete", args=[self.job.pk]))
        self.assertContains(asked, "Delete")
        self.assertTrue(Job.objects.for_crew(self.crew).exists(), "asked once more first")
        self.client.post(reverse("job-delete", args=[self.job.pk]), {"sure": "1"})
        self.assertEqual(self.client.get(reverse("job", args=[self.job.pk])).status_code, 404)
        self.assertNotContains(self.client.get(reverse("jobs")), self.job.name)
        self.assertEqual(sweep_planner.sweep()["deleted jobs are gone for good"], 0)
        self.client.post(reverse("job-back", args=[self.job.pk]))
        self.assertEqual(self.client.get(reverse("job", args=[self.job.pk])).status_code, 200)
        Job.objects.update(deleted_at=timezone.now() - keep_planner.WAY_BACK - timedelta(minutes=1))
        self.assertEqual(sweep_planner.sweep()["deleted jobs are gone for good"], 1)
        self.assertFalse(Job.objects.exists())

    def test_what_was_signed_is_put_by_and_never_deleted(self):
        self.tree.signoffs.create(name="Mara", person=self.person, digest="0", document=document(self.tree))
        page = self.client.post(reverse("job-delete", args=[self.job.pk]), {"sure": "1"}, follow=True)
        self.assertContains(page, "put the job by instead")
        self.client.post(reverse("job-put-by", args=[self.job.pk]))
        self.job.refresh_from_db()
        self.assertEqual((self.job.archived, self.job.deleted_at), (True, None))
        self.assertNotContains(self.client.get(reverse("jobs")), f">{self.job.name}<")
        self.client.post(reverse("job-put-by", args=[self.job.pk]), {"back": "1"})
        self.job.refresh_from_db()
        self.assertFalse(self.job.archived)

    def test_handed_over_to_somebody_of_the_yard_who_is_there(self):
        gone = Person.objects.create_user("gone", crew=self.crew, is_active=False)
        for pk, status in ((self.olga.pk, 302), (gone.pk, 404), ("9" * 30, 404), ("²", 404)):
            with self.subTest(pk=pk):
                answer = self.client.post(reverse("job-hand-over", args=[self.job.pk]), {"keeper": pk})
                self.assertEqual(answer.status_code, status)
        self.job.refresh_from_db()
        self.assertEqual(self.job.keeper, self.olga)

    def test_who_when_what_old_and_new(self):
        self.client.force_login(self.olga)
        tree = Tree.objects.get(pk=self.tree.pk)
        page = self.client.get(reverse("measure", args=[self.job.pk, tree.pk])).context["form"]
        sent = {name: page[name].value() for name in page.fields if page[name].value() not in (None, False)}
        answer = self.client.post(
            reverse("measure", args=[self.job.pk, tree.pk]), sent | {"height": "27", "revision": tree.revision}
        )
        self.assertEqual(answer.status_code, 302)
        event = activity_planner.events(activity_planner.JOB, self.job, 0, 1)[0]
        self.assertEqual((event.by, str(event.table), event.named), (self.olga, "Tree", tree.name))
        (change,) = [c for c in event.changes if c.name == "Height"]
        self.assertEqual((change.dimension, change.old, change.new), ("length", tree.height, 27.0))
        shown = self.client.get(reverse("job-activity", args=[self.job.pk]))
        for said in ("Olga Fenn", tree.name, "Height", "27"):
            self.assertContains(shown, said)
        self.assertEqual(self.client.get(reverse("job-activity", args=[self.job.pk]), {"page": "²"}).status_code, 200)

    def test_what_is_past_its_time_goes_and_the_rest_stays(self):
        now = timezone.now()
        for age, name in ((31, "old"), (1, "new")):
            row = Intake.objects.create(job=self.job, kind="csv", name=name, text="")
            Intake.objects.filter(pk=row.pk).update(at=now - timedelta(days=age))
            half = Job.objects.create(crew=self.crew, name=name, staging=True, deleted_at=now)
            Job.objects.filter(pk=half.pk).update(created=now - timedelta(days=age) + timedelta(hours=1))
            tried = SignIn.objects.create(name=name, address="", outcome=SignIn.Outcome.REFUSED)
            SignIn.objects.filter(pk=tried.pk).update(at=now - timedelta(days=age * 6))
        found = sweep_planner.sweep()
        self.assertEqual((found["lists on their way in are gone"], found["half lists are gone"]), (1, 1))
        self.assertEqual([row.name for row in Intake.objects.all()], ["new"])
        self.assertEqual([job.name for job in Job.objects.filter(staging=True)], ["new"])
        self.assertEqual([row.name for row in SignIn.objects.all()], ["new"])
