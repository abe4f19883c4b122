"""What a migration makes of old plans: a zero the form filled in by itself is nobody's word, everything given stays."""

from importlib import import_module

from django.apps import apps
from django.test import TestCase

from apps.crews.tests.scene import load_scene
from apps.felling import planner
from apps.felling.models import FellingPlan

unsaid = import_module("apps.felling.migrations.0003_felling_truth").unsaid


class Winds(TestCase):
    def test_a_zero_nobody_gave_is_not_known_and_the_rest_stays(self):
        _, _, tree = load_scene()
        plan = planner.plan_for(tree)
        for given, kept in (
            ((3.0, 4.6), (3.0, 4.6)),
            ((0.0, 4.6), (0.0, 4.6)),
            ((0.0, 0.0), (None, None)),
            ((2.0, 0.0), (2.0, 0.0)),
        ):
            plan.wind, plan.wind_from = given
            plan.save()
            unsaid(apps, None)
            row = FellingPlan.objects.get(pk=plan.pk)
            self.assertEqual((row.wind, row.wind_from), kept)
            self.assertEqual((row.hinge, row.wedge_rise, row.system), (plan.hinge, plan.wedge_rise, plan.system))
        history = plan.history.filter(wind=0.0, wind_from=0.0)
        self.assertFalse(history.exists())
