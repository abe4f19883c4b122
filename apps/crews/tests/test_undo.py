"""Whatever is changed on a page can be taken back there and brought back, and nothing unseen is."""

from django.contrib.messages import get_messages
from django.test import TestCase
from django.urls import reverse

from apps.briefing.planner import set_roles
from apps.crews import steps
from apps.crews.tests.scene import load_scene
from apps.daybook.models import FellingRecord
from apps.felling.models import YardSchool
from apps.felling.planner import save_yard_schools
from apps.gear.models import DeviceReading, GearItem
from apps.jobs.models import Job, Target, Tree
from apps.survey.models import CrewHazard, HazardAnswer, Reading


class Undo(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()

    def setUp(self):
        self.client.force_login(self.person)
        self.at = [self.tree.job_id, self.tree.pk]

    def post(self, route, args, **data):
        return self.client.post(reverse(route, args=args), data)

    def offered(self, scope, owner):
        return steps.state(scope, owner)

    def there_and_back(self, scope, owner, route, args, held):
        """Undo and redo by the page's buttons; ``held`` tells what the change is about."""
        after, offered = held(), self.offered(scope, owner)
        self.post(route, args, undo=offered["step"], page="/gear/")
        before = held()
        self.assertNotEqual(before, after)
        self.post(route, args, redo=self.offered(scope, owner)["again"], page="/gear/")
        self.assertEqual(held(), after)
        self.post(route, args, undo=self.offered(scope, owner)["step"])
        self.assertEqual(held(), before)

    def test_a_jobs_papers_and_who_does_what(self):
        job = Job.objects.get(pk=self.tree.job_id)
        page = self.client.get(reverse("job", args=[job.pk]))
        data = {n: page.context["form"][n].value() or "" for n in page.context["form"].fields}
        self.post("job", [job.pk], **data | {"hospital": "North General", "revision": job.revision})
        self.there_and_back("paper", job, "undo-job", [job.pk, "paper"], lambda: Job.objects.get(pk=job.pk).hospital)
        set_roles(job, [("in charge", "Ada"), ("first aid", "Bo")])
        told = lambda: list(job.roles.values_list("role", "name"))  # noqa: E731
        self.there_and_back("paper", job, "undo-job", [job.pk, "paper"], told)

    def test_readings_and_the_trees_numbers(self):
        self.post("reading-new", [*self.at, "girth"], **{"girth-girth": "231"})
        count = Reading.objects.filter(tree=self.tree).count
        self.there_and_back("body", self.tree, "undo-body", self.at, count)

    def test_the_walk_up_with_each_persons_answers(self):
        hazard = self.client.get(reverse("walk-up", args=self.at)).context["rows"][0]["hazard"].key
        self.post(
            "hazard-answer", [*self.at, hazard], **{f"{hazard}-finding": "present", f"{hazard}-response": "roped"}
        )
        held = lambda: list(  # noqa: E731
            HazardAnswer.objects.filter(tree=self.tree, hazard=hazard).values_list("finding", "response")
        )
        self.assertIn(("present", "roped"), held())
        self.there_and_back("walk", self.tree, "undo-walk", self.at, held)

    def test_a_line_of_the_crews_own(self):
        self.post("line-new", self.at, name="Wasps in the ivy")
        row = CrewHazard.objects.get(name="Wasps in the ivy")
        self.post("line-new", self.at, retire=str(row.pk))
        held = lambda: CrewHazard.objects.get(pk=row.pk).retired  # noqa: E731
        self.there_and_back("lines", self.crew, "undo-crew", ["lines"], held)

    def test_gear_kept_retired_taken_off_with_its_readings(self):
        bollard = GearItem.objects.create(crew=self.crew, name="Test bollard", kind="device", wear="new")
        self.post("gear-reading", [bollard.pk], load="2", wraps="1.5", hand="300")
        held = lambda: (GearItem.objects.filter(name="Test bollard").count(), DeviceReading.objects.count())  # noqa: E731
        self.there_and_back("gear", self.crew, "undo-crew", ["gear"], held)
        self.post("gear-reading", [bollard.pk], load="2", wraps="1.5", hand="300")
        self.post("gear-delete", [bollard.pk])
        self.there_and_back("gear", self.crew, "undo-crew", ["gear"], held)
        self.assertEqual(held(), (1, 1))
        self.post("gear-retire", [bollard.pk], why="cracked cheek")
        why = lambda: GearItem.objects.get(pk=bollard.pk).retired  # noqa: E731
        self.there_and_back("gear", self.crew, "undo-crew", ["gear"], why)

    def test_usual_schools(self):
        save_yard_schools(self.crew, {"notch": "open", "depth": "quarter"})
        held = lambda: set(YardSchool.objects.values_list("choice", "key"))  # noqa: E731
        self.there_and_back("schools", self.crew, "undo-crew", ["schools"], held)

    def test_a_target_taken_off_on_the_method_page(self):
        target = Target.objects.filter(job=self.tree.job).first()
        self.post("target-remove", [*self.at, target.pk])
        held = lambda: list(Target.objects.filter(pk=target.pk).values_list("name", "kind", "outline"))  # noqa: E731
        self.assertEqual(held(), [])
        self.there_and_back("site", self.tree.job, "undo-job", [self.tree.job_id, "site"], held)
        self.assertEqual(held()[0][0], target.name)

    def test_a_record_goes_back_to_what_it_said_before_but_is_never_taken_off(self):
        self.post("record", self.at, height="21.5", notes="as planned")
        self.assertEqual(self.offered("record", self.tree)["undo"], "")
        row = FellingRecord.objects.get(tree=self.tree)
        self.post("record", self.at, height="21.5", notes="went left", revision=row.revision)
        held = lambda: FellingRecord.objects.get(tree=self.tree).notes  # noqa: E731
        self.there_and_back("record", self.tree, "undo-record", self.at, held)

    def test_a_step_the_page_did_not_offer_is_not_taken_back(self):
        save_yard_schools(self.crew, {"notch": "open"})
        seen = self.offered("schools", self.crew)["step"]
        save_yard_schools(self.crew, {"notch": "conventional"})
        answer = self.post("undo-crew", ["schools"], undo=seen)
        self.assertIn("Somebody else saved", str(next(iter(get_messages(answer.wsgi_request)))))
        self.assertEqual(YardSchool.objects.get().key, "conventional")

    def test_what_was_changed_elsewhere_since_is_not_overwritten(self):
        job = Job.objects.get(pk=self.tree.job_id)
        with steps.recorded("site", job, "slope"):
            job.slope = 0.1
            job.save()
        job.slope = 0.2  # by another page, in another scope
        job.save()
        self.assertIn("Somebody else", steps.back("site", job))
        self.assertEqual(Job.objects.get(pk=job.pk).slope, 0.2)

    def test_only_what_a_step_changed_goes_back(self):
        tree = Tree.objects.get(pk=self.tree.pk)
        with steps.recorded("body", tree, "state"):
            tree.state = "bare"
            tree.save()
        tree.fork = 4.0
        tree.save()
        self.assertEqual(steps.back("body", tree), "")
        tree.refresh_from_db()
        self.assertEqual((tree.state, tree.fork), (self.tree.state, 4.0))

    def test_back_to_a_page_of_our_own_only(self):
        for page, goes in (("https://elsewhere.example/", "/"), ("//elsewhere.example", "/"), ("/gear/", "/gear/")):
            answer = self.post("undo-crew", ["gear"], page=page)
            self.assertEqual(answer.headers["Location"], goes)
