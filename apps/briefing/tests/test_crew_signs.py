"""Each of the crew signs in their own name; what changed between plans is said place by place."""

import threading

from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.urls import reverse

from apps.briefing import planner
from apps.briefing.models import PlanReader, SignOff
from apps.crews.models import Person
from apps.crews.tests.scene import load_scene
from apps.felling.models import FellingPlan
from apps.jobs.models import Role, Tree
from apps.survey import planner as survey
from treecore.formats.changes import changes


def signed_scene():
    """The demo's fir, signed; its people."""
    crew, person, tree = load_scene()
    survey.answer(tree, "wind", {"finding": "absent"}, person)
    planner.sign(tree, person, planner.keep_seen(planner.document(tree)))
    hand = Person.objects.create_user("bram", password="x", crew=crew, role="hand", first_name="Bram Tolliver")
    return tree, person, hand


class CrewSigns(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.tree, cls.person, cls.hand = signed_scene()

    def setUp(self):
        self.keys = [self.tree.job_id, self.tree.pk]
        self.client.force_login(self.hand)

    def fresh(self):
        return Tree.objects.get(pk=self.tree.pk)

    def read(self, pk=None, **said):
        number = pk or self.tree.signoffs.first().pk
        return self.client.post(reverse("plan-read", args=[*self.keys, number]), said, follow=True)

    def test_in_their_own_name_once_with_what_they_do(self):
        self.read()
        self.read()
        row = PlanReader.objects.get()
        self.assertEqual(
            (row.name, row.person, row.role.split(", ")[0]), ("Bram Tolliver", self.hand, "Pull line and winch")
        )
        crew = {c.name: c.at is not None for c in planner.crew_of(self.fresh())}
        self.assertEqual((crew["Bram Tolliver"], crew["Ines Pargeter"]), (True, False))

    def test_from_the_phone_back_to_the_phone(self):
        page = self.client.get(reverse("phone", args=self.keys))
        self.assertContains(page, "I have read and understood it")
        self.assertContains(self.read(phone="1"), "Bram Tolliver")
        self.assertNotContains(self.client.get(reverse("phone", args=self.keys)), "I have read and understood it")

    def test_nobody_signs_what_has_lapsed_or_was_superseded(self):
        old = self.tree.signoffs.first().pk
        Role.objects.filter(role="Lane guard, east gate").update(name="Nia Marlowe")
        self.assertContains(self.read(), "the plan is another by now")
        planner.sign(self.fresh(), self.person, planner.keep_seen(planner.document(self.fresh())))
        self.assertContains(self.read(old), "the plan is another by now")
        self.assertFalse(PlanReader.objects.exists())

    def test_a_new_signature_asks_the_crew_anew(self):
        self.read()
        job = self.tree.job
        job.meeting_point = "West gate"
        job.save()
        self.client.force_login(self.person)
        FellingPlan.objects.update(depth=0.18)
        planner.sign(self.fresh(), self.person, planner.keep_seen(planner.document(self.fresh())))
        self.assertFalse(planner.has_read(self.fresh(), self.hand))
        page = self.client.get(reverse("plan-changes", args=[*self.keys, SignOff.objects.last().pk]))
        rows = {c["where"]: (c["old"], c["new"]) for c in page.context["changes"]}
        self.assertEqual(rows["The job’s papers · Meeting point for the ambulance"][1], "West gate")
        depth = next(row for where, row in rows.items() if where.endswith("Notch depth"))
        self.assertEqual(depth[1].replace("\xa0", " "), "18.0 cm")
        later = SignOff.objects.first().pk
        same = self.client.get(reverse("plan-changes", args=[*self.keys, SignOff.objects.last().pk]) + f"?to={later}")
        self.assertEqual(same.context["changes"], page.context["changes"])


class TwoAtOnce(TransactionTestCase):
    def test_two_of_the_crew_sign_at_the_same_moment(self):
        tree, person, hand = signed_scene()
        number, said = tree.signoffs.first().pk, []

        def sign(who):
            said.append(planner.read(Tree.objects.get(pk=tree.pk), who, number))
            connection.close()

        threads = [threading.Thread(target=sign, args=(who,)) for who in (person, hand, person, hand)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(said, [""] * 4)
        self.assertEqual(PlanReader.objects.count(), 2)


class Changes(TestCase):
    def document(self, **tree):
        return {"schema": "cantrel-plan", "version": 4, "trees": [{"name": "Elm", "species": "x", **tree}]}

    def picks(self, *rows):
        return self.document(takedown={"picks": [{"id": i, "at_m": at, "member": m} for i, at, m in rows]})

    def test_a_quantity_in_si_with_its_words(self):
        found = changes(self.document(lean_deg=2.0), self.document(lean_deg=4.0))
        self.assertEqual([(c.path[1:], c.dimension) for c in found], [(("Lean from upright",), "fine_angle")])
        self.assertAlmostEqual(found[0].new, 0.0698131701)

    def test_picks_by_the_name_that_stays_with_them(self):
        old = self.picks(("p1", 1.0, "West"), ("p2", 2.0, "East"), ("p3", 3.0, "Top"))
        new = self.picks(("p2", 2.5, "East"), ("p1", 1.0, "West"), ("p4", 4.0, "Low"))
        found = [(c.path[-1], c.old, c.new) for c in changes(old, new)]
        moved = ("At, up the stem or out from the union", 2.0, 2.5)
        self.assertEqual(found, [moved, ("3, Low", None, "Low"), ("3, Top", "Top", None)])

    def test_another_order_alone_is_said(self):
        old, new = self.picks(("p1", 1.0, "W"), ("p2", 2.0, "E")), self.picks(("p2", 2.0, "E"), ("p1", 1.0, "W"))
        self.assertEqual([(c.path[-1], c.old, c.new) for c in changes(old, new)], [("order", "1, 2", "2, 1")])
