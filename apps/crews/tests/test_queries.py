"""How many queries a page takes, held: the strip under three, a bench under fifteen."""

from django.core.cache import cache
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from apps.crews.tests.scene import load_scene, whole_demo
from cantrel.steps import strip


class Queries(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.fir = load_scene(whole_demo())
        cls.beech = cls.fir.job.trees.get(name="Copper beech")

    def test_the_strip_takes_two(self):
        cache.clear()  # of verdicts that other tests kept
        for tree in (self.fir, self.beech):
            with self.assertNumQueries(2):
                found = {step["key"]: (step["state"], step["note"]) for step in strip(tree, "fell")}
        self.assertEqual(found["takedown"], ("done", "34 picks"))
        self.assertEqual(found["fell"], ("open", "not this way"))
        self.assertEqual(found["walk-up"], ("blocked", "7 open"))
        self.assertEqual(found["measure"], ("done", ""))

    def test_pages(self):
        self.client.force_login(self.person)
        for name, tree, most in PAGES:
            with self.subTest(page=name), CaptureQueriesContext(connection) as asked:
                self.client.get(reverse(name, args=[self.fir.job_id, getattr(self, tree).pk]))
                self.assertLessEqual(len(asked), most)


# One query is the session's, one asks whose change an undo takes back. The brief and the record show the whole plan
# beside what was signed or kept of it.
FIRS = ("walk-up", "measure", "tree-body", "fell", "footprint", "down")
PAGES = (
    *(("method", "fir", 16), ("pull", "fir", 20), ("brief", "fir", 18), ("brief", "beech", 18), ("record", "fir", 18)),
    *((name, "fir", 15) for name in FIRS),
    *((name, "beech", 15) for name in ("takedown", "takedown-access")),
)
