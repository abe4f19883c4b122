"""Rows, forms and the declarations of the plan document say the same of the same number."""

from django.db import models
from django.test import TestCase

from apps.exchange.tests.test_intake import without_ids
from apps.felling.models import HELD, FellingPlan
from apps.gear.forms import GearForm
from apps.gear.models import DeviceReading, GearItem
from apps.jobs.models import Job, Limb, Target, Tree
from apps.survey.models import HazardAnswer, Reading
from cantrel.checks import declared_ranges
from cantrel.entryforms import column_fields
from cantrel.rows import columns_of, entry_of, paths
from treecore.document.felling import FellingEntry
from treecore.document.fields import specs
from treecore.document.gear import DeviceReadingEntry, GearEntry
from treecore.document.site import JobEntry, SiteEntry, TargetEntry
from treecore.document.tree import AnswerEntry, LimbEntry, ReadingEntry, TreeEntry

KEPT = {
    GearItem: (GearEntry,), DeviceReading: (DeviceReadingEntry,), Job: (JobEntry, SiteEntry), Target: (TargetEntry,),
    Tree: (TreeEntry,),
    Limb: (LimbEntry,), Reading: (ReadingEntry,), HazardAnswer: (AnswerEntry,), FellingPlan: (FellingEntry,),
}  # fmt: skip


PREFIX = {
    GearItem: "gear", DeviceReading: "reading", Job: "job", Target: "target", Tree: "tree", Limb: "limb",
    Reading: "reading",
    HazardAnswer: "answer", FellingPlan: "plan",
}  # fmt: skip


class Declared(TestCase):
    def test_a_number_beyond_its_range_is_refused_by_the_database_and_one_inside_is_not(self):
        for model, entries in KEPT.items():
            for entry in entries:
                held = declared_ranges(entry, HELD if model is FellingPlan else None)
                for column, (low, high) in held.items():
                    conditions = [
                        c.condition
                        for c in model._meta.constraints
                        if isinstance(c, models.CheckConstraint) and c.name == f"{PREFIX[model]}_{column}"
                    ]
                    for value, good in ((low, True), (high, True), (low - 1e-3, False), (high + 1e-3, False)):
                        with self.subTest(column=f"{model.__name__}.{column}", value=value):
                            self.assertEqual(all(c.check({column: value}) for c in conditions), good)

    def test_texts_are_as_long_in_the_document_as_in_the_database(self):
        for model, entries in KEPT.items():
            for entry in entries:
                for path, column in paths(entry):
                    spec = specs(entry).get(path[-1]) if len(path) == 1 else None
                    known = spec and next((f for f in model._meta.fields if f.name == column), None)
                    if isinstance(known, models.CharField) and spec.most is not None:
                        with self.subTest(column=f"{model.__name__}.{column}"):
                            self.assertEqual(spec.most, known.max_length)

    def test_every_column_that_is_declared_is_there(self):
        for model, entries in KEPT.items():
            there = {f.name for f in model._meta.get_fields()}
            for entry in entries:
                missing = {column for _, column in paths(entry)} - there
                with self.subTest(model=model.__name__):
                    self.assertEqual(missing, {"guy_by", "guy_people"} if model is FellingPlan else set())

    def test_a_form_takes_label_length_and_unit_from_the_declaration(self):
        form = GearForm(units="us")
        for name, field in column_fields(GearEntry, "note", "strength_N", "months").items():
            self.assertEqual(form.fields[name].label, field.label)
        self.assertEqual(form.fields["note"].max_length, 200)
        self.assertEqual(form.fields["strength"].unit, "lbf")
        self.assertEqual((form.fields["months"].min_value, form.fields["months"].max_value), (1, 60))

    def test_a_row_comes_back_from_its_entry(self):
        """Uneven values in every column; degrees and radians among them."""
        limb = {
            "name": "Bough", "at": 4.25, "azimuth": 1.9, "rise": -0.2, "length": 6.5, "diameter": 0.21,
            "foliage": "thin", "dead": True,
            "union": "decayed", "codominant": False, "kind": "measured", "note": "over the shed",
        }  # fmt: skip
        written = entry_of(Limb(**limb), LimbEntry)
        self.assertAlmostEqual(written["azimuth_deg"], 108.86198, places=5)
        for name, value in columns_of(written, LimbEntry).items():
            self.assertAlmostEqual(value, limb[name], places=9) if isinstance(value, float) else self.assertEqual(
                value, limb[name]
            )
        plan = FellingPlan(wedge_count=3, wedge_place=-0.3, guy_tie=6.5, guy_owned=40.0, pull_people=4, back_slope=0.1)
        told = entry_of(plan, FellingEntry)
        self.assertEqual((told["wedges"]["count"], told["guy"]["tackle"]["owned_m"]), (3, 40.0))
        again = FellingPlan(**{k: v for k, v in columns_of(told, FellingEntry).items() if hasattr(FellingPlan, k)})
        self.assertEqual(without_ids(entry_of(again, FellingEntry)), told)
