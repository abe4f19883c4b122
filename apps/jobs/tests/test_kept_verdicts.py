"""Verdicts in the strip: known while nothing behind them changed, worked out anew where something did."""

from django.core.cache import cache
from django.core.management import call_command
from django.test import TestCase
from django.urls import reverse

from apps.crews.models import Person
from apps.felling import planner as felling
from apps.jobs.models import Tree


class KeptVerdicts(TestCase):
    @classmethod
    def setUpTestData(cls):
        call_command("load_demo", plans=True, verbosity=0)
        cls.fir = Tree.objects.get(name="Grand fir by the stream")
        cls.beech = Tree.objects.get(name="Copper beech")

    def setUp(self):
        cache.clear()
        self.client.force_login(Person.objects.get(username="mara"))

    def strip(self, tree):
        return self.client.get(reverse("strip", args=[tree.job_id, tree.pk])).content.decode()

    def page(self, tree):
        page = self.client.get(reverse("measure", args=[tree.job_id, tree.pk])).content.decode()
        return page[page.index('class="strip"') : page.index("</nav>", page.index('class="strip"'))]

    def change(self, tree, **values):
        plan = felling.plan_for(tree)
        for name, value in values.items():
            setattr(plan, name, value)
        felling.save_plan(plan)

    def test_a_page_says_planned_until_the_verdict_was_worked_out(self):
        self.assertIn("planned", self.page(self.fir))
        self.assertIn("data-unjudged", self.page(self.fir))
        self.assertIn("within limits", self.strip(self.fir))
        self.assertIn("within limits", self.page(self.fir))
        self.assertNotIn("data-unjudged", self.page(self.fir))

    def test_a_change_of_the_plan_makes_it_unknown_and_then_over(self):
        self.strip(self.fir)
        hinge = felling.plan_for(self.fir).hinge
        self.change(self.fir, hinge=0.01)
        self.assertIn("planned", self.page(self.fir))
        self.assertIn("over a limit", self.strip(self.fir))
        place = reverse("fell", args=[self.fir.job_id, self.fir.pk])
        self.assertRegex(self.page(self.fir), rf'<li class="blocked" ><a href="{place}"')
        self.change(self.fir, hinge=hinge)
        self.assertIn("within limits", self.strip(self.fir))

    def test_a_change_of_another_tree_or_of_the_yard_is_one_too(self):
        self.strip(self.fir)
        self.change(self.beech, reason="said")
        self.assertIn("data-unjudged", self.page(self.fir))

    def test_a_takedown_says_how_many_are_worst(self):
        self.assertRegex(self.strip(self.beech), r"\d+ near")

    def test_a_plan_that_can_not_be_worked_out_is_not_known(self):
        self.change(self.fir, along=None, depth=0.82, hinge=0.07)
        self.assertIn("not known", self.strip(self.fir))
