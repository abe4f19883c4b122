"""Another language needs nothing but a catalogue: no page says a word that none was asked for."""

import re

from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.pseudo import CLOSE, OPEN, pseudo, typed_by_people, unmarked
from apps.crews.tests.scene import load_scene, whole_demo
from cantrel.limits import limit_said
from cantrel.quantities import explain
from treecore.errors import NotSolvable, OutOfRange, none_of
from treecore.species import species_table
from treecore.units import DIMENSIONS
from treecore.verdict import Limit, Verdict, limit_kinds

# Names are the same in every language: of people whose rules these are, of units, of species in Latin.
NAMES = ("Newton", "Smalian", "Huber", "Cantrel", "GeoJSON", "WGS", "CSV")


class Locale(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.fir = load_scene(whole_demo())
        cls.beech = cls.fir.job.trees.get(name="Copper beech")
        symbols = {unit.symbol for row in DIMENSIONS.values() for unit in row.values()}
        latin = {species.scientific for species in species_table().values()}
        cls.known = sorted({*symbols, *latin, *NAMES} - {""}, key=len, reverse=True)

    def left(self, name, *args):
        answer = self.client.get(reverse(name, args=args))
        self.assertEqual(answer.status_code, 200, name)
        texts = sorted([*typed_by_people(), *self.known], key=len, reverse=True)
        return unmarked(answer.content.decode(), texts)

    def test_every_word_of_every_page_is_marked(self):
        self.client.force_login(self.person)
        job = self.fir.job_id
        pages = [(name,) for name in YARD] + [(name, job) for name in JOB]
        pages += [(name, job, self.fir.pk) for name in FELLED] + [(name, job, self.beech.pk) for name in IN_PIECES]
        with pseudo():
            for page in pages:
                with self.subTest(page=page[0]):
                    self.assertEqual(self.left(*page), [])

    def test_what_is_refused_and_held_is_marked_with_its_values(self):
        with pseudo():
            for error in (
                NotSolvable("pick", "there are {count} of them", count=3),
                none_of("kind", "odd", ("one", "two")),
                OutOfRange("lay", 9.0, 0.0, 6.0, "a turn", "length"),
            ):
                said = explain(error, "metric")
                self.assertRegex(said, f"{OPEN}.*{CLOSE}", said)
            for key in limit_kinds():
                for text in ("name", "sentence", "change"):
                    said = limit_said(Limit(key, Verdict.OVER, None, None), "us")[text]
                    with self.subTest(limit=key, text=text):
                        self.assertTrue(not said or OPEN in said, said)

    def test_filled_in_values_are_left_as_they_are(self):
        with pseudo():
            said = explain(NotSolvable("pick", "“{name}” is gone", name="North lead"), "metric")
        self.assertIn("“North lead”", said)
        self.assertNotIn("gone", re.sub(r"[{}]", "", said))


YARD = ("jobs", "gear", "yard-schools", "species-table", "approach", "plan-file", "job-new")
JOB = ("job", "site")
FELLED = (
    "walk-up", "measure", "tree-body", "method", "fell", "pull", "footprint", "down", "referral", "brief", "record",
)  # fmt: skip
IN_PIECES = ("takedown", "takedown-access", "brief", "method", "tree-body", "measure")
