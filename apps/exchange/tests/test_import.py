"""Importing is all or nothing; the database refuses what the forms refuse."""

import math

from django.db import IntegrityError, transaction
from django.test import TestCase

from apps.crews.models import Crew
from apps.crews.tests.scene import demo_text, load_scene
from apps.exchange.planner import import_document
from apps.felling.models import FellingPlan
from apps.jobs.models import Job, Target, Tree
from treecore.errors import BadDocument


class Import(TestCase):
    def test_nothing_is_half_imported(self):
        crew = Crew.objects.create(name="C")
        for old, new in (
            ('"hinge_m": 0.07', '"hinge_m": 0.9'),
            ('"species": "abies_grandis"', '"species": "x"'),
            ('"outline_m"', '"outline"'),
            (
                "}\n",
                "",
            ),
        ):
            with self.subTest(new=new), self.assertRaises(BadDocument):
                import_document(crew, demo_text().replace(old, new, 1) if new else demo_text()[:-3])
        self.assertEqual((Job.objects.count(), Tree.objects.count(), Target.objects.count()), (0, 0, 0))

    def test_everything_arrives(self):
        _, _, tree = load_scene()
        self.assertEqual(tree.job.targets.count(), 16)
        self.assertEqual(tree.job.roles.count(), 5)
        self.assertEqual(tree.readings.count(), 4)
        self.assertEqual(tree.answers.count(), 16)
        self.assertAlmostEqual(math.degrees(tree.felling.lay), 83.0)
        self.assertEqual(tree.felling.method, "whole")


class Database(TestCase):
    def test_rows_no_form_would_let_through(self):
        _, _, tree = load_scene()
        bad = [
            (Tree, {"height": 400.0}),
            (Tree, {"diameter": 0.0}),
            (Tree, {"lean": 2.0}),
            (Tree, {"spread": -1.0}),
            (FellingPlan, {"depth": -0.1}),
            (FellingPlan, {"hinge": 0.7}),
            (FellingPlan, {"lay": 7.0}),
            (FellingPlan, {"wind": -1.0}),
            (Job, {"slope": 1.5}),
            (Job, {"name": ""}),
            (Target, {"height": -1.0}),
        ]
        for model, change in bad:
            with (
                self.subTest(model=model.__name__, change=change),
                self.assertRaises(IntegrityError),
                transaction.atomic(),
            ):
                model.objects.update(**change)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Tree.objects.create(
                job=tree.job, name=tree.name, species="abies_grandis", diameter=0.3, height=12.0, spread=3.0
            )
