"""The day of a job: numbers on the page are the core's, what has to be done first holds the saw up, nothing is lost."""

import io
import re
from datetime import date

from django.test import TestCase
from django.urls import reverse
from icalendar import Calendar

from apps.crews.models import Crew, Person
from apps.crews.tests.scene import load_scene, whole_demo
from apps.day import planner
from apps.day.models import Workday, WorkItem, YardRates
from apps.keeping import archive_planner
from treecore.errors import CoreError


class Scene(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.fir = load_scene(whole_demo())
        cls.job = cls.fir.job

    def setUp(self):
        self.client.force_login(self.person)

    def url(self, name="day", *more):
        return reverse(name, args=[self.job.pk, *more])

    def page(self, **asked):
        return self.client.get(self.url(), asked).content.decode()

    def keep(self, **more):
        typed = {"on": "2026-12-03", "start": "07:30", "ground": "2", "throat": "15"} | more
        return self.client.post(self.url(), typed)

    def item(self, **more):
        return self.client.post(self.url("work-items"), {"kind": "fence", "what": "Fence panels out"} | more)


class DayPage(Scene):
    def test_numbers_on_the_page_are_the_cores(self):
        self.keep(trees=["Copper beech"])
        worked = planner.worked(planner.workday_of(self.job))
        page = self.page()
        shown = [float(x) for x in re.findall(r'<dd data-raw="([^"]+)"', page)]
        finish = worked.day.finish.value
        for asked in (finish, worked.clock.at(finish), worked.day.busy[worked.day.bottleneck]):
            self.assertTrue(any(abs(asked - got) < 1e-5 * abs(asked) for got in shown), asked)
        self.assertIn(f'data-raw="{worked.total.value:.9g}"', page)
        self.assertEqual(len(worked.trees[0].picks), 34)

    def test_the_fir_is_felled_and_the_beech_taken_down(self):
        works = {w.tree.name: w for w in planner.worked(planner.workday_of(self.job)).trees}
        self.assertEqual([p.name for p in works["Grand fir by the stream"].picks], ["felling"])
        self.assertEqual(len(works["Copper beech"].picks), 34)
        self.assertIsNotNone(works["Grand fir by the stream"].gust)

    def test_a_day_is_kept_and_another_crew_beside_it(self):
        self.assertEqual(self.keep(name="Ladders", ground="3").status_code, 302)
        kept = Workday.objects.get()
        self.assertEqual((kept.on, kept.start, kept.ground, kept.name), (date(2026, 12, 3), 450, 3, "Ladders"))
        self.assertAlmostEqual(kept.throat, 0.15)
        self.client.post(self.url() + "?new=1", {"on": "2026-12-03", "start": "8:00", "ground": "1", "throat": "20"})
        self.assertEqual(Workday.objects.count(), 2)
        self.assertIn("3 December 2026, Ladders", self.page())

    def test_bad_input_is_said_at_its_field(self):
        for field, text in (("ground", "0"), ("ground", "many"), ("throat", "400"), ("start", "25:00"), ("on", "soon")):
            with self.subTest(field=field, text=text):
                answer = self.keep(**{field: text})
                self.assertEqual(answer.status_code, 200)
                self.assertTrue(answer.context["form"].errors)
        self.assertFalse(Workday.objects.exists())

    def test_two_people_on_one_day_lose_nothing(self):
        self.keep()
        seen = Workday.objects.get().revision
        self.keep(revision=seen, ground="4")
        self.keep(revision=seen, start="09:00")
        kept = Workday.objects.get()
        self.assertEqual((kept.ground, kept.start), (4, 540))

    def test_wind_over_what_a_plan_stands_says_do_not_begin(self):
        self.keep(gust="30")
        self.assertIn("Do not begin", self.page())
        Workday.objects.all().delete()
        self.keep(gust="1")
        self.assertNotIn("Do not begin", self.page())

    def test_daylight_where_the_site_is_on_the_globe(self):
        self.assertIn("Sun from", self.page())
        self.job.origin_lat = None
        self.job.save()
        self.assertIn("where it is on the globe", self.page())

    def test_into_a_calendar(self):
        self.keep(start="08:15")
        kept = Workday.objects.get()
        event = Calendar.from_ical(self.client.get(self.url("day-ics", kept.pk)).content).walk("VEVENT")[0]
        self.assertEqual((event.decoded("dtstart").hour, event.decoded("dtstart").minute), (8, 15))
        worked = planner.worked(kept)
        long = (event.decoded("dtend") - event.decoded("dtstart")).total_seconds()
        self.assertAlmostEqual(long, worked.clock.at(worked.day.finish.value) - 60 * 495, delta=1.0)

    def test_rates_of_the_yard_count(self):
        form = self.client.get(reverse("rates")).context["form"]
        rates = {n: form[n].value() for n in form.fields if form[n].value() is not None}
        rates |= {n: "0" for n in ("chipper", "machine", "crane_day", "tipping", "making_good")}
        self.assertEqual(self.client.post(reverse("rates"), rates | {"person": "10", "money": "€"}).status_code, 302)
        worked = planner.worked(planner.workday_of(self.job))
        self.assertAlmostEqual(worked.total.value, 3 * 10 * worked.day.finish.value / 3600.0)
        self.assertIn("€", self.page())
        refused = self.client.post(reverse("rates"), rates | {"person": "-1", "revision": "1"})
        self.assertTrue(refused.context["form"].errors)
        self.assertEqual(YardRates.objects.get().person, 10.0)


class BeforeTheSaw(Scene):
    def test_an_item_is_put_on_the_list_ticked_and_taken_back(self):
        self.item()
        row = WorkItem.objects.get()
        self.assertEqual(planner.open_items(self.fir), ["Fence panels out"])
        self.client.post(self.url("work-item-tick", row.pk))
        self.assertEqual(planner.open_items(self.fir), [])
        self.client.post(self.url("work-item-drop", row.pk))
        self.assertFalse(WorkItem.objects.exists())
        offered = re.search(r'name="undo" value="([^"]+)"', self.page())[1]
        self.client.post(reverse("undo-job", args=[self.job.pk, "items"]), {"undo": offered, "page": self.url()})
        self.assertTrue(WorkItem.objects.get().done)

    def test_nobody_signs_a_plan_before_what_has_to_be_done_is_done(self):
        self.item(what="Power off", kind="power")
        brief = reverse("brief", args=[self.job.pk, self.fir.pk])
        said = "Before the saw, not done yet: Power off"
        self.assertIn(said, self.client.get(brief).content.decode())
        self.client.post(self.url("work-item-tick", WorkItem.objects.get().pk))
        self.assertNotIn(said, self.client.get(brief).content.decode())

    def test_what_comes_first_comes_first(self):
        self.item(what="Power off", kind="power")
        first = WorkItem.objects.get()
        self.item(what="Line down", after=str(first.pk))
        second = WorkItem.objects.get(what="Line down")
        self.client.post(self.url("work-item-tick", second.pk))
        self.assertFalse(WorkItem.objects.get(pk=second.pk).done)
        self.assertIn("waits for: Power off", self.page())
        for row in (first, second):
            self.client.post(self.url("work-item-tick", row.pk))
        self.assertTrue(WorkItem.objects.get(pk=second.pk).done)

    def test_one_that_waits_for_itself_is_refused_by_name(self):
        self.item(what="A")
        a = WorkItem.objects.get(what="A")
        self.item(what="B", after=str(a.pk))
        b = WorkItem.objects.get(what="B")
        with self.assertRaises(CoreError) as said:
            planner.save_item(self.job, {"after_id": b.pk}, WorkItem.objects.get(pk=a.pk), "")
        self.assertEqual(said.exception.field, "after")
        answer = self.client.post(
            self.url("work-item", a.pk), {"kind": "other", "what": "A", "after": str(b.pk), "revision": a.revision}
        )
        self.assertIn("before itself", answer.content.decode())
        self.assertIsNone(WorkItem.objects.get(pk=a.pk).after_id)

    def test_leave_needs_a_name(self):
        answer = self.item(kind="leave", what="Over the fence")
        self.assertIn("leave_by", answer.context["item_form"].errors)
        self.item(kind="leave", what="Over the fence", leave_by="Mrs Ash, 2 Dec")
        self.assertIn("leave: Mrs Ash, 2 Dec", self.page())

    def test_an_item_of_one_tree_does_not_hold_another_up(self):
        beech = self.job.trees.get(name="Copper beech")
        self.item(tree=str(beech.pk))
        self.assertEqual((planner.open_items(self.fir), planner.open_items(beech)), ([], ["Fence panels out"]))

    def test_ground_crew_ticks_but_does_not_plan(self):
        self.item()
        hand = Person.objects.create_user("tam", password="x", crew=self.crew, role="hand")
        self.client.force_login(hand)
        row = WorkItem.objects.get()
        self.assertEqual(self.client.post(self.url("work-item-tick", row.pk)).status_code, 302)
        self.assertTrue(WorkItem.objects.get().done)
        self.assertEqual(self.item(what="Mine").status_code, 403)
        self.assertEqual(self.keep().status_code, 403)


class Kept(Scene):
    def test_a_job_leaves_and_comes_back_with_its_days(self):
        self.keep(trees=["Copper beech"], name="Ladders")
        self.item(what="Power off")
        self.item(what="Line down", after=str(WorkItem.objects.get().pk))
        YardRates.objects.create(crew=self.crew, person=12.0)
        for bring in (archive_planner.job_archive, archive_planner.yard_archive):
            with self.subTest(bring=bring.__name__):
                to, elsewhere = io.BytesIO(), Crew.objects.create(name=bring.__name__)
                bring(self.job if "job" in bring.__name__ else self.crew, to)
                archive_planner.take_in(elsewhere, io.BytesIO(to.getvalue()))
                there = elsewhere.jobs.get()
                day = there.days.get()
                self.assertEqual((day.name, day.trees, day.start), ("Ladders", ["Copper beech"], 450))
                self.assertEqual(there.work_items.get(what="Line down").after.what, "Power off")
        self.assertEqual(YardRates.objects.get(crew=elsewhere).person, 12.0)
