"""Another language needs nothing but a catalogue: no page says a word that none was asked for."""

import re
from datetime import date
from gettext import GNUTranslations
from pathlib import Path

from django.conf import settings
from django.test import TestCase
from django.urls import reverse
from django.utils import translation
from django.utils.formats import date_format

from apps.crews.tests.pseudo import CLOSE, OPEN, pseudo, typed_by_people, unmarked
from apps.crews.tests.scene import load_scene, whole_demo
from cantrel.limits import limit_said
from cantrel.quantities import estimate, explain, text
from treecore.errors import NotSolvable, OutOfRange, none_of
from treecore.estimate import exactly
from treecore.species import species_table
from treecore.units import DIMENSIONS
from treecore.verdict import Limit, Verdict, limit_kinds

# Names are the same in every language: of people whose rules these are, of units, of species in Latin.
NAMES = ("Newton", "Smalian", "Huber", "Cantrel", "GeoJSON", "WGS", "CSV")


class Locale(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.fir = load_scene(whole_demo())
        cls.person.role = "owner"
        cls.person.save()
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

    def test_what_is_said_in_a_context_is_marked_too(self):
        # Names of months have one where they stand in a date: December is marked as any other word.
        with pseudo():
            for month in range(1, 13):
                said = date_format(date(2027, month, 3), "DATE_FORMAT")
                self.assertRegex(said, f"{OPEN}.*{CLOSE}", said)

    def test_filled_in_values_are_left_as_they_are(self):
        with pseudo():
            said = explain(NotSolvable("pick", "“{name}” is gone", name="North lead"), "metric")
        self.assertIn("“North lead”", said)
        self.assertNotIn("gone", re.sub(r"[{}]", "", said))


class UsTerms(TestCase):
    """Who reads US units reads US terms."""

    FILE = Path(settings.BASE_DIR) / "cantrel" / "locale" / "en_US" / "LC_MESSAGES" / "django"

    def entries(self):
        with self.FILE.with_suffix(".mo").open("rb") as compiled:
            return {k: v for k, v in GNUTranslations(compiled)._catalog.items() if k}

    def test_the_compiled_catalogue_is_the_written_one(self):
        text = re.sub(r'"\n"', "", self.FILE.with_suffix(".po").read_text(encoding="utf-8"))
        written = re.findall(r'^msgid "(.+)"\nmsgstr "(.+)"$', text, re.MULTILINE)
        self.assertEqual({k.replace('\\"', '"'): v.replace('\\"', '"') for k, v in written}, self.entries())

    def test_what_is_filled_in_stays(self):
        for ours, theirs in self.entries().items():
            with self.subTest(text=ours):
                self.assertEqual(re.findall(r"\{[^}]*\}|%\(\w+\)s", ours), re.findall(r"\{[^}]*\}|%\(\w+\)s", theirs))

    def test_pages_go_by_the_persons_units(self):
        _, person, fir = load_scene()
        self.client.force_login(person)
        here = reverse("measure", args=[fir.job_id, fir.pk])
        self.assertContains(self.client.get(here), "Girth by tape")
        person.units = "us"
        person.save()
        page = self.client.get(here)
        self.assertContains(page, "Circumference by tape")
        self.assertContains(page, '<html lang="en-us">')
        self.assertNotContains(page, "Girth")

    def test_numbers_take_the_readers_decimal_mark(self):
        with translation.override("de"):
            self.assertEqual(text(12.34, "length", "metric"), "12,3\xa0m")
            self.assertEqual(estimate(exactly(0.5), "length", "metric")["value"], "0,5")
        self.assertEqual(text(12.34, "length", "metric"), "12.3\xa0m")


YARD = ("jobs", "gear", "yard-schools", "species-table", "approach", "plan-file", "job-new")
YARD += ("people", "account", "archive", "jobs-deleted")
JOB = ("job", "site", "job-delete")
FELLED = (
    "walk-up", "measure", "tree-body", "method", "fell", "pull", "footprint", "down", "referral", "brief", "record",
)  # fmt: skip
IN_PIECES = ("takedown", "takedown-access", "brief", "method", "tree-body", "measure")
