"""Two people, or two tabs, on one felling plan, job or tree: nothing is overwritten in silence."""

import json
import math

from django.test import SimpleTestCase, TestCase
from django.urls import reverse
from django.utils.formats import date_format
from django.utils.timezone import localtime

from apps.crews.models import Person
from apps.crews.tests.scene import load_scene
from apps.felling import planner
from apps.felling.forms import FellForm, MethodForm
from apps.felling.pullforms import SystemForm
from apps.jobs.models import Job, Tree
from cantrel.forms import value_in_words
from cantrel.revisions import merged


class Tabs(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.tree = load_scene()

    def setUp(self):
        self.client.force_login(self.person)
        self.keys = [self.tree.job_id, self.tree.pk]

    def plan(self):
        return planner.plan_for(Tree.objects.get(pk=self.tree.pk))

    def page(self):
        form = FellForm(stored=planner.values_of(self.plan()))
        data = {n: form[n].value() for n in form.fields}
        return {n: "" if v is None else v for n, v in data.items() if v is not False} | {
            "revision": self.plan().revision
        }

    def save(self, page, step="fell", **more):
        return self.client.post(reverse(step, args=self.keys), page | {"save": "1"} | more).json()


class TwoPeople(Tabs):
    """It is said whose the other value is, since when, and what one's own was; the last hand on that field counts."""

    def setUp(self):
        super().setUp()
        self.olga = Person.objects.create_user("olga", crew=self.person.crew, first_name="Olga", last_name="Fenn")

    def by_olga(self, page, **more):
        self.client.force_login(self.olga)
        answer = self.save(page, **more)
        self.client.force_login(self.person)
        return answer

    def test_who_when_and_both_values(self):
        mine = self.page()
        self.assertTrue(self.by_olga(self.page(), hinge="7.5")["saved"])
        self.save(self.page(), stump="42")  # one's own later save of something else does not make the hinge one's own
        said = self.save(mine, hinge="6")["errors"]["hinge"][0]
        at = date_format(localtime(self.plan().history.order_by("-history_id")[1].history_date), "j F, H:i")
        self.assertEqual(
            said, f"Olga Fenn changed this to 7.5\xa0cm on {at}; yours is 6\xa0cm. Save again to keep yours."
        )

    def test_a_choice_is_said_by_its_word_and_a_tick_as_yes_or_no(self):
        form = FellForm(units="us", stored={"hinge": 0.0762, "nicks": True, "method": "whole"})
        words = {name: value_in_words(form, name) for name in ("hinge", "nicks")}
        self.assertEqual((words["hinge"], words["nicks"]), ("3\xa0in", "yes"))
        form = MethodForm(stored={"method": "whole"})
        self.assertNotIn(value_in_words(form, "method"), ("", "whole"))

    def test_the_log_says_both(self):
        log = {"log_from": "0.4", "log_to": "10.4", "supports": "1; 7", "cuts": "3; 8.5", "cross_slope": "0"}
        now = {"revision": self.plan().revision}
        self.by_olga(now | log, step="down")
        mine = log | {"cuts": "4"}
        told = self.save(now | mine, "down")
        for word in ("Olga Fenn", "3; 8.5", "yours is"):
            self.assertIn(word, told["errors"]["log"][0])
        self.assertTrue(self.save(told["values"] | mine, "down")["saved"])
        self.assertEqual(self.plan().log["cuts_m"], [4.0])

    def test_told_on_the_pages_of_the_lay_a_second_save_keeps_ones_own(self):
        for step, theirs, mine in (("lay", "80", "95"), ("footprint", "70", "100")):
            now = {"revision": self.plan().revision}
            self.assertTrue(self.by_olga(now, step=step, lay=theirs)["saved"])
            told = self.save(now, step, lay=mine)
            self.assertFalse(told["saved"])
            self.assertIn(theirs, told["errors"]["lay"][0])
            self.assertTrue(self.save(told["values"], step, lay=mine)["saved"])
            self.assertAlmostEqual(math.degrees(self.plan().lay), float(mine))

    def test_a_page_older_than_anything_kept_is_not_moved_on(self):
        told = self.save({"revision": "-5"}, "lay", lay="95")
        self.assertIn("load it again", told["errors"]["__all__"][0])
        self.assertNotIn("revision", told["values"])

    def test_a_preview_while_typing_decides_nothing(self):
        mine = self.page()
        self.by_olga(self.page(), hinge="7.5")
        told = self.save(mine, hinge="6", save="")
        self.assertIn("Olga Fenn", told["errors"]["hinge"][0])
        self.assertEqual(told["values"], {})


class TwoTabs(Tabs):
    def test_different_fields_of_a_felling_plan_are_put_together(self):
        one, two = self.page(), self.page()
        self.assertTrue(self.save(one, wedge_count="3")["saved"])
        answer = self.save(two, stump="40", nicks="on")
        self.assertTrue(answer["saved"])
        self.assertEqual(answer["values"]["wedge_count"], "3")
        self.assertIn("You, on another page, changed this", answer["notes"]["wedge_count"])
        plan = self.plan()
        self.assertEqual((plan.wedge_count, plan.stump, plan.nicks), (3, 0.4, True))

    def test_one_field_is_refused_with_both_values_and_kept_on_a_second_save(self):
        one, two = self.page(), self.page()
        self.save(one, hinge="7.5", stump="42")
        answer = self.save(two, hinge="6")
        self.assertFalse(answer["saved"])
        self.assertIn("7.5", answer["errors"]["hinge"][0])
        self.assertEqual(self.plan().hinge, 0.075)
        again = {**two, **answer["values"], "hinge": "6"}
        self.assertEqual(again["stump"], "42")
        self.assertTrue(self.save(again)["saved"])
        self.assertEqual((self.plan().hinge, self.plan().stump), (0.06, 0.42))

    def test_the_same_value_from_both_is_no_conflict(self):
        one, two = self.page(), self.page()
        self.assertTrue(self.save(one, hinge="7.5")["saved"] and self.save(two, hinge="7.5")["saved"])

    def test_a_drag_on_a_stale_page_keeps_what_others_typed(self):
        two = self.page()
        self.save(self.page(), wedge_count="3")
        answer = self.save(two, handle="depth", dx="1", dy="0")
        self.assertTrue(answer["saved"])
        self.assertEqual(self.plan().wedge_count, 3)

    def test_pages_beside_the_bench(self):
        old = {"revision": self.plan().revision}
        self.save(self.page(), lay="91")
        for step, sent, field in (("lay", {"lay": "70"}, "lay"), ("footprint", {"lay": "70"}, "lay")):
            self.assertIn("You, on another page", str(self.save(old | sent, step)["errors"][field]))
        self.assertTrue(self.save(old | {"wind": "4"}, "footprint")["saved"])
        self.assertAlmostEqual(self.plan().wind, 4.0)
        log = {"log_from": "0.4", "log_to": "10.4", "supports": "1; 7", "cuts": "3; 8.5", "cross_slope": "0"}
        now = {"revision": self.plan().revision}
        self.assertTrue(self.save(now | log, "down")["saved"])
        self.assertIn("You, on another page", str(self.save(now | log | {"cuts": "4"}, "down")["errors"]))
        chosen = {"method": "whole", "reason": "Room for it"}
        self.client.post(reverse("method", args=self.keys), chosen | now)
        other = self.client.post(reverse("method", args=self.keys), chosen | now | {"reason": "There is room"})
        self.assertContains(other, "You, on another page, changed this")
        self.assertEqual(self.plan().reason, "Room for it")

    def test_a_page_nobody_knows_is_refused(self):
        for revision in ("", "999"):
            self.assertIn(
                "load it again", self.save(self.page() | {"revision": revision}, hinge="5")["errors"]["__all__"][0]
            )
        self.assertNotEqual(self.plan().hinge, 0.05)

    def test_a_job_and_a_tree(self):
        job = reverse("job", args=[self.tree.job_id])
        known = Job.objects.get(pk=self.tree.job_id)
        form = {
            "name": known.name,
            "emergency_number": known.emergency_number,
            "address": known.address,
            "slope": "0",
            "downhill": "0",
        }
        form |= {
            "revision": known.revision,
            "hospital": known.hospital,
            "notes": known.notes,
            "slope": self.shown(job, "slope"),
        }
        form |= {
            n: self.shown(job, n) for n in ("downhill", "client", "meeting_point", "first_aider", "phone_coverage")
        }
        form |= {"access": known.access, "rescue_plan": known.rescue_plan}
        self.assertRedirects(self.client.post(job, form | {"hospital": "North General"}), job)
        self.assertRedirects(self.client.post(job, form | {"notes": "mind the dog"}), job)
        known.refresh_from_db()
        self.assertEqual((known.hospital, known.notes), ("North General", "mind the dog"))
        both = self.client.post(job, form | {"notes": "the dog is gone"})
        self.assertContains(both, "You, on another page, changed this to mind the dog")
        self.assertContains(both, "North General")
        self.assertContains(both, "the dog is gone")

    def shown(self, page, name):
        text = self.client.get(page).content.decode()
        return (text.split(f'name="{name}"')[1].split(">")[0] + ' value=""').split('value="')[1].split('"')[0]


class BackAndForth(Tabs):
    def step(self, redo=False, **more):
        sent = {"back": "fell"} | ({"redo": "1"} if redo else {}) | more
        return self.client.post(reverse("undo", args=self.keys), sent, follow=True).content.decode()

    def depths(self, *steps):
        found = []
        for redo in steps:
            self.step(redo)
            found.append(round(self.plan().depth, 4))
        return found

    def test_back_forth_and_a_new_way(self):
        start = round(self.plan().depth, 4)
        for depth in ("18", "19", "20"):
            self.assertTrue(self.save(self.page(), depth=depth)["saved"])
        self.assertEqual(self.depths(False, False, True, True, True), [0.19, 0.18, 0.19, 0.2, 0.2])
        self.assertEqual(self.depths(False, False, False, False), [0.19, 0.18, start, start])
        self.assertEqual(self.depths(True), [0.18])
        self.save(self.page(), depth="21")  # a new way: what was taken back before it is not brought back
        self.assertIn("Nothing left to redo", self.step(redo=True))
        self.assertEqual(self.depths(False, False, True, True), [0.18, start, 0.18, 0.21])

    def test_a_page_that_does_not_know_the_last_change_does_not_take_it_back(self):
        old = self.plan().revision
        self.save(self.page(), depth="18")
        self.assertIn("Somebody else saved since", self.step(revision=old))
        self.assertEqual(self.plan().depth, 0.18)
        self.step(revision=self.plan().revision)
        self.assertNotEqual(self.plan().depth, 0.18)

    def test_few_rows_are_read_however_long_the_history(self):
        for depth in range(170, 190):
            self.save(self.page(), depth=str(depth / 10))
        plan = self.plan()
        with self.assertNumQueries(8):
            planner.step_back(plan, None)


class PulledTogether(Tabs):
    def setUp(self):
        super().setUp()
        self.client.post(reverse("pull", args=self.keys), {"handle": "ready three", "revision": self.plan().revision})

    def page(self):
        system = self.plan().system
        form = SystemForm(entry=system, units="metric")
        data = {n: form[n].value() for n in form.fields}
        kept = {n: "" if v is None else v for n, v in data.items()}
        return kept | {"entry": json.dumps(system), "revision": self.plan().revision}

    def test_two_parts_moved_by_two_people_both_stay_moved(self):
        one, two = self.page(), self.page()
        first, second = (part["id"] for part in self.plan().system["parts"][:2])
        self.assertTrue(self.save(one, "pull", **{f"{first}_height_m": "0.9"})["saved"])
        self.assertTrue(self.save(two, "pull", **{f"{second}_height_m": "1.4"})["saved"])
        self.assertEqual([part["height_m"] for part in self.plan().system["parts"][:2]], [0.9, 1.4])

    def test_one_part_changed_by_two_is_refused_and_nothing_is_lost(self):
        one, two = self.page(), self.page()
        first = self.plan().system["parts"][0]["id"]
        self.save(one, "pull", **{f"{first}_height_m": "0.9"})
        answer = self.save(two, "pull", **{f"{first}_height_m": "1.4"})
        self.assertIn("You, on another page, changed", answer["errors"]["__all__"][0])
        self.assertEqual(self.plan().system["parts"][0]["height_m"], 0.9)


class Rows(SimpleTestCase):
    def test_lists_of_named_rows_are_merged_row_by_row(self):
        a, b, c, d = ({"id": name, "v": 1} for name in "abcd")
        for was, stored, mine, found in (
            ([a, b], [{**a, "v": 2}, b], [a, {**b, "v": 3}], [{**a, "v": 2}, {**b, "v": 3}]),
            ([a, b], [a, b, c], [a, b, d], [a, b, c, d]),
            ([a, b, c], [b, c], [a, b, c, d], [b, c, d]),
            ([a, b, c], [c, a, b], [a, b, {**c, "v": 5}], [{**c, "v": 5}, a, b]),
            ([a, b, c], [{**a, "v": 2}, b, c], [b, a, c], [b, {**a, "v": 2}, c]),
        ):
            with self.subTest(stored=stored, mine=mine):
                self.assertEqual(merged({"x": was}, {"x": stored}, {"x": mine}).values["x"], found)
        for was, stored, mine in (
            ([a], [{**a, "v": 2}], [{**a, "v": 3}]),
            ([a, b], [{**a, "v": 2}, b], [b]),
            ([a, b, c], [c, a, b], [b, a, c]),
            ([1, 2], [1, 3], [1, 4]),
        ):
            with self.subTest(stored=stored, mine=mine):
                self.assertEqual(list(merged({"x": was}, {"x": stored}, {"x": mine}).conflicts), ["x"])


class OnlyWhatChanged(Tabs):
    def test_a_page_that_sends_only_what_changed_is_taken_as_it_stood(self):
        was = self.plan()
        sent = {"revision": was.revision, "changed": "wedge_count nicks", "wedge_count": "3", "nicks": "on"}
        self.assertTrue(self.save(sent)["saved"])
        now = self.plan()
        self.assertEqual((now.wedge_count, now.nicks, now.depth, now.hinge), (3, True, was.depth, was.hinge))
        self.assertTrue(self.save({"revision": now.revision, "changed": "nicks"})["saved"])  # a box that was unticked
        self.assertFalse(self.plan().nicks)

    def test_what_nobody_touched_stays_as_others_left_it(self):
        old = self.plan().revision
        self.save(self.page(), stump="44")
        answer = self.save({"revision": old, "changed": "hinge", "hinge": "6"})
        self.assertTrue(answer["saved"])
        self.assertEqual((self.plan().stump, self.plan().hinge), (0.44, 0.06))

    def test_a_job_sends_only_its_hospital(self):
        job = Job.objects.get(pk=self.tree.job_id)
        data = {"revision": job.revision, "changed": "hospital", "hospital": "North General"}
        self.client.post(reverse("job", args=[job.pk]), data)
        now = Job.objects.get(pk=job.pk)
        self.assertEqual((now.hospital, now.notes, now.name), ("North General", job.notes, job.name))
