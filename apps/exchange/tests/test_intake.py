"""Files on their way in: looked at, set right, taken in whole or not at all; and out again the same."""

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene
from apps.exchange import list_planner
from apps.jobs.models import Job, Target, Tree
from apps.jobs.planner import site_entry, tree_entry
from treecore.errors import BadDocument, NotSolvable

LIST = (
    "No;Species;DBH (cm);Height (m)\nA1;Beech;45,5;18\nA2;Money tree;30;12\nA3;English oak;60;999\nA4;English "
    "oak;60;19\n"
)


class TakingIn(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()
        cls.job = cls.tree.job

    def setUp(self):
        self.client.force_login(self.person)

    def send(self, content, name="trees.csv", job=None):
        content = content if isinstance(content, bytes) else content.encode("cp1252")
        address = reverse("take-in", args=[(job or self.job).pk])
        return self.client.post(address, {"file": SimpleUploadedFile(name, content)}, follow=True)

    def test_two_bad_lines_are_set_right_and_all_four_taken_in(self):
        text = LIST.replace("Beech", "European beech (and copper beech)")
        page = self.send(text).content.decode()
        self.assertIn("2 would be taken in, 2 refused", page)
        self.assertIn("Money tree", page)
        self.assertEqual(self.job.trees.count(), 1, "nothing is changed by looking")
        kept = self.job.intakes.get()
        look = reverse("take-in-look", args=[self.job.pk, kept.pk])
        page = self.client.post(
            look,
            {"line-3": ["A2", "Silver birch", "30", "12"], "line-4": ["A3", "English oak", "60", "21"]},
            follow=True,
        )
        self.assertIn("4 would be taken in", page.content.decode())
        self.client.post(reverse("take-in-now", args=[self.job.pk, kept.pk]))
        self.assertEqual(self.job.trees.count(), 5)
        tree = self.job.trees.get(name="A1")
        self.assertEqual((tree.diameter, tree.height, tree.history.count()), (0.455, 18.0, 1))
        with self.assertRaises(BadDocument):
            list_planner.take(list_planner.intake_for(self.job, kept.pk), self.person)

    def test_a_line_by_a_number_that_is_none_is_not_kept(self):
        self.send(LIST)
        look = reverse("take-in-look", args=[self.job.pk, self.job.intakes.get().pk])
        sent = {"line-²": ["A2"], "line-" + "9" * 30: ["A2"], "line-": ["A2"]}
        self.assertEqual(self.client.post(look, sent, follow=True).status_code, 200)
        self.assertEqual(self.job.intakes.get().corrections, {})

    def test_columns_can_be_mapped_by_hand(self):
        text = LIST.replace("DBH (cm)", "Dicke").replace("Height (m)", "Lang")
        self.assertIn(
            "Still to be found among the columns: Height, Diameter or girth", self.send(text).content.decode()
        )
        kept = self.job.intakes.get()
        list_planner.correct(kept, _Posted({"column-2": "diameter", "column-3": "height"}))
        self.assertEqual(list_planner.look(kept, 5)["good"], 1)

    def test_nothing_half_taken_in(self):
        # Each feature is sound by itself; together the new wall would stand round the fir.
        ring = [[-3, -3], [3, -3], [3, 3], [-3, 3], [-3, -3]]
        rows = [("Far shed", [[[80, 80], [84, 80], [84, 85], [80, 80]]]), ("Ring wall", [ring])]
        features = [
            {"type": "Feature", "geometry": {"type": "Polygon", "coordinates": c}, "properties": {"name": n}}
            for n, c in rows
        ]
        data = {"type": "FeatureCollection", "cantrel": {"frame": "local metres"}, "features": features}
        self.send(json.dumps(data), "more.geojson")
        kept, before = self.job.intakes.get(), self.job.targets.count()
        with self.assertRaises(NotSolvable):
            list_planner.take(kept, self.person)
        kept.refresh_from_db()
        self.assertIsNone(kept.taken)
        self.assertEqual(self.job.targets.count(), before)

    def test_a_tree_inside_a_building_is_refused_at_its_line(self):
        page = self.send(
            "No;Species;DBH (cm);Height (m);X;Y\nA;English oak;40;15;17;-9\nB;English oak;40;15;60;60\n"
        ).content.decode()
        self.assertIn("1 would be taken in, 1 refused", page)
        self.assertIn("Pump house", page)

    def test_what_is_no_list_is_refused_at_once(self):
        for content, word in (
            (b"\x89PNG\r\n\x1a\n\x00\x00", "no text"),
            ("one column\nonly", "Only one column"),
            ('{"type": 1}', "GeoJSON"),
        ):
            with self.subTest(word=word):
                self.assertIn(word, self.send(content).content.decode())
        self.assertFalse(self.job.intakes.exists())

    def test_a_site_goes_out_and_comes_back_the_same(self):
        for lat_lon in (False, True):
            with self.subTest(lat_lon=lat_lon):
                found = list_planner.geojson_of(self.job, lat_lon=lat_lon)
                empty = Job.objects.create(crew=self.crew, name=f"Copy {lat_lon}")
                self.send(json.dumps(found).encode(), "site.geojson", empty)
                list_planner.take(empty.intakes.get(), self.person)
                empty.refresh_from_db()
                for told in (site_entry, lambda job: [tree_entry(t) for t in job.trees.all()]):
                    self.assertEqual(*(without_ids(told(job)) for job in (empty, self.job)))

    def test_progress_is_told(self):
        rows = "\n".join(f"T{i};English oak;40;15" for i in range(600))
        self.send("No;Species;DBH (cm);Height (m)\n" + rows)
        kept, told = self.job.intakes.get(), []
        list_planner.take(kept, self.person, lambda done, of: told.append((done, of)))
        self.assertEqual(told, [(250, 600), (500, 600), (600, 600)])
        self.assertEqual(Tree.objects.filter(job=self.job).count(), 601)
        self.assertEqual(
            {t.history.get().history_user for t in self.job.trees.filter(name__startswith="T")}, {self.person}
        )

    def test_what_changes_while_a_list_is_read_leaves_nothing_of_it(self):
        self.send("No;Species;DBH (cm);Height (m)\n" + "\n".join(f"T{i};English oak;40;15" for i in range(600)))
        kept, jobs, told = self.job.intakes.get(), Job.objects.count(), []

        def meanwhile(done, of):
            told.append((done, Tree.objects.filter(job=self.job).count(), Job.objects.for_crew(self.crew).count()))
            if done == 500:
                Target.objects.filter(job=self.job).first().delete()

        with self.assertRaisesMessage(NotSolvable, "the job changed while the file was read"):
            list_planner.take(kept, self.person, meanwhile)
        self.assertEqual(told, [(250, 1, 1), (500, 1, 1)], "nobody sees a half list")
        self.assertEqual(
            (Job.objects.count(), Tree.objects.count(), Tree.history.filter(name="T1").count()), (jobs, 1, 0)
        )

    def test_a_look_is_worked_out_once_until_something_it_stands_on_changes(self):
        self.send(LIST)
        kept = self.job.intakes.get()
        first = list_planner.look(kept, 5)
        with self.assertNumQueries(5):  # the job, its ground and its names: no line is read again
            again = list_planner.look(kept, 5)
        self.assertEqual(first, again)
        Tree.objects.create(job=self.job, name="A4", species="pedunculate_oak", diameter=0.4, height=15.0, spread=8.0)
        self.assertEqual(list_planner.look(kept, 5)["good"], first["good"] - 1, "the name is taken now")

    def test_a_list_too_wide_or_too_long_is_refused_before_it_is_read(self):
        for text, word in (
            ("a;" * 70 + "\n" + "b;" * 70, "More than 60 columns"),
            ("No;Species\n" + "A;Oak\n" * 50_001, "More than 50000 rows"),
        ):
            with self.subTest(word=word):
                self.assertIn(word, self.send(text).content.decode())


def without_ids(written):
    """A document without the ids its rows have."""
    if isinstance(written, dict):
        return {key: without_ids(value) for key, value in written.items() if key != "id"}
    return [without_ids(value) for value in written] if isinstance(written, list) else written


class _Posted(dict):
    def getlist(self, key):
        return [self[key]]
