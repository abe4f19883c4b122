"""The plan editor: every change checked, kept as a step, taken back whole; pictures; approach distances; the body."""

import io
import json
import math

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from PIL import Image

from apps.crews.tests.scene import load_scene
from apps.jobs.models import Job, Target, Tree
from apps.site.forms import FeatureForm
from apps.site.models import SitePicture
from apps.survey import body_planner
from treecore.tree.ladder import piece


class Editing(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()
        cls.job = cls.tree.job

    def setUp(self):
        self.client.force_login(self.person)

    def ask(self, act, **data):
        data = {"picked": "", **data, "act": act}
        return self.client.post(reverse("site-edit", args=[self.job.pk]), data).json()

    def add(self, kind, points):
        answer = self.ask("add", kind=kind, points=json.dumps(points))
        self.assertEqual(answer["errors"], {})
        return answer["picked"], Target.objects.get(pk=answer["picked"].split(":")[1])

    def test_draw_move_bend_and_take_back_step_by_step(self):
        picked, row = self.add("building", [[40, 40], [46, 40], [46, 44], [40, 44]])
        self.ask("move", picked=picked, dx=1.5, dy=-2)
        row.refresh_from_db()
        self.assertEqual(row.outline[0], [41.5, 38.0])
        self.ask("corner", picked=picked, corner=0, points="[[39, 37]]")
        self.ask("insert", picked=picked, corner=0, points="[[44, 36]]")
        row.refresh_from_db()
        self.assertEqual(row.outline[:2], [[39.0, 37.0], [44.0, 36.0]])
        self.ask("delete", picked=picked)
        self.assertFalse(Target.objects.filter(pk=row.pk).exists())
        for _ in range(3):
            self.ask("undo")
        row.refresh_from_db()
        self.assertEqual(row.outline[0], [41.5, 38.0])
        for _ in range(2):
            self.ask("undo")
        self.assertFalse(Target.objects.filter(pk=row.pk).exists())
        for _ in range(2):
            self.ask("redo")
        self.assertEqual(Target.objects.get(pk=row.pk).outline[0], [41.5, 38.0])

    def test_a_picked_thing_whose_number_is_none_is_no_thing(self):
        for picked in ("target:²", "tree:" + "9" * 30, "target:", "tree:-1", "²"):
            with self.subTest(picked=picked):
                page = self.client.get(reverse("site", args=[self.job.pk]), {"picked": picked})
                self.assertEqual(page.status_code, 200)

    def test_a_refused_change_changes_nothing(self):
        picked, row = self.add("building", [[40, 40], [46, 40], [46, 44], [40, 44]])
        before = row.outline
        crossed = self.ask("corner", picked=picked, corner=0, points="[[50, 42]]")
        self.assertIn("crosses itself", str(crossed["errors"]))
        round_stem = self.ask("add", kind="building", points="[[-2,-2],[2,-2],[2,2],[-2,2]]")
        self.assertIn("stem stands inside", str(round_stem["errors"]))
        for junk in ({"points": "[[1]]"}, {"points": "nonsense"}, {"points": '[["a", 2]]'}, {"points": "[[1e999, 2]]"}):
            self.assertTrue(self.ask("add", kind="building", **junk)["errors"])
        self.assertEqual(Target.objects.get(pk=row.pk).outline, before)
        self.assertEqual(self.job.steps.count(), 1)

    def test_typed_places_tapes_and_fields(self):
        answer = self.ask(
            "type-in",
            **{"add-kind": "tree", "add-name": "Ash", "add-where": "7.5 m at 210° from the stem", "add-long": "2"},
        )
        ash = Target.objects.get(name="Ash")
        self.assertEqual(answer["errors"], {})
        self.assertAlmostEqual(ash.outline[0][0], -3.75, places=3)
        wrong = self.ask("type-in", **{"add-kind": "tree", "add-where": "7.5 m at up from the stem"})
        self.assertIn("add-where", wrong["errors"])
        tape = {
            "tape-first": "stem",
            "tape-from_first": "5",
            "tape-second": "6; 0",
            "tape-from_second": "5",
            "tape-side": "left",
        }
        self.ask("tape", **tape, **{"tape-goes": "new:anchor_vehicle"})
        self.assertEqual(Target.objects.get(kind="anchor_vehicle").outline, [[3.0, 4.0]])
        short = self.ask("tape", **tape | {"tape-from_first": "0.5", "tape-goes": "new:anchor_vehicle"})
        self.assertIn("do not meet", str(short["errors"]["tape-from_second"]))
        tall = {"feature-name": "Ash", "feature-kind": "tree", "feature-height": "400", "feature-radius": "2"}
        refused = self.ask("save", picked=f"target:{ash.pk}", **tall)
        self.assertIn("feature-height", refused["errors"])

    def test_points_are_typed(self):
        picked, row = self.add("building", [[40, 40], [46, 40], [46, 44], [40, 44]])
        fields = {"feature-name": "Byre", "feature-kind": "building", "feature-height": "4"}
        typed = "40; 40\n46; 40\n46; 45\n60 m at north of Byre"
        self.assertIn(
            "nothing here is called",
            str(self.ask("save", picked=picked, **fields, **{"feature-outline": typed})["errors"]).lower(),
        )
        self.ask(
            "save", picked=picked, **fields, **{"feature-outline": typed.replace("north of Byre", "30° from the stem")}
        )
        row.refresh_from_db()
        self.assertEqual(row.name, "Byre")
        self.assertEqual(row.outline[2:], [[46.0, 45.0], [30.0, 51.961524]])
        bow = self.ask("save", picked=picked, **fields, **{"feature-outline": "0; 30\n9; 39\n9; 30\n0; 39"})
        self.assertIn("crosses itself", str(bow["errors"]))

    def test_conductors_keep_the_yards_own_distance_and_rule_the_page(self):
        picked, _ = self.add("conductor", [[-30, 9], [30, 9]])
        page = self.client.get(reverse("site", args=[self.job.pk])).content.decode()
        self.assertIn("The local code and the owner of the line go first", page)
        self.assertIn("over a limit", page.lower())
        saved = {"feature-name": "Wire", "feature-kind": "conductor", "feature-voltage": "low", "feature-end_a": "6"}
        self.assertIn("feature-end_b", self.ask("save", picked=picked, **saved)["errors"])
        self.ask("save", picked=picked, **saved, **{"feature-end_b": "6.5"})
        self.client.post(
            reverse("approach"), {"voltage": "low", "low-distance": "2.5", "low-source": "Letter of the owner"}
        )
        panel = self.ask("pick", picked=picked)["fragments"]["panel"]
        self.assertIn('data-raw="2.5"', panel)
        self.client.post(reverse("approach"), {"voltage": "low", "low-distance": "", "low-source": ""})
        self.assertIn('data-raw="3"', self.ask("pick", picked=picked)["fragments"]["panel"])

    def test_ground_is_checked_and_taken_back(self):
        ground = {"ground-slope": "5", "ground-downhill": "620", "ground-wind": "3", "ground-wind_from": "90"}
        self.ask("ground", **ground)
        self.assertAlmostEqual(Job.objects.get().downhill, math.radians(260), places=9)
        self.assertIn("ground-origin_lat", self.ask("ground", **ground, **{"ground-origin_lat": "52"})["errors"])
        self.ask("undo")
        self.assertAlmostEqual(Job.objects.get().downhill, self.job.downhill, places=9)

    def test_pictures(self):
        def put(content, name="plan.png"):
            return self.client.post(
                reverse("site-picture-put", args=[self.job.pk]), {"image": SimpleUploadedFile(name, content)}
            )

        self.assertIn("is no picture", put(b"GIF this is not").content.decode())
        self.assertFalse(SitePicture.objects.exists())
        out = io.BytesIO()
        Image.new("RGB", (400, 300), "white").save(out, "PNG")
        self.assertEqual(put(out.getvalue()).status_code, 302)
        row = SitePicture.objects.get()
        start = (row.x, row.y)
        scale = {"scale-seen_a": f"{row.x}; {row.y}", "scale-real_a": "0; 0", "scale-real_b": "40; 0"}
        scale["scale-seen_b"] = f"{row.x + 400 * row.metres_per_pixel}; {row.y}"
        self.assertEqual(self.ask("scale", **scale)["errors"], {})
        row.refresh_from_db()
        self.assertAlmostEqual(row.metres_per_pixel, 0.1, places=9)
        self.assertEqual(
            self.client.get(reverse("site-picture", args=[self.job.pk])).headers["Content-Type"], "image/jpeg"
        )
        self.ask("undo")
        row.refresh_from_db()
        self.assertEqual((row.x, row.y), start)

    def test_a_request_far_too_big_is_turned_away_in_words(self):
        answer = self.client.post(reverse("site-picture-put", args=[self.job.pk]), {}, CONTENT_LENGTH="200000000")
        self.assertEqual(answer.status_code, 413)
        self.assertIn("200 MB", answer.content.decode())


class Body(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()

    def setUp(self):
        self.client.force_login(self.person)

    def ask(self, **data):
        address = reverse("tree-body-edit", args=[self.tree.job_id, self.tree.pk])
        return self.client.post(address, {"view": "158", "limit": "200", "picked": "", **data}).json()

    def scene(self):
        return body_planner.scene(Tree.objects.get(pk=self.tree.pk))

    def test_replace_drag_split_and_take_back(self):
        count = self.tree.limbs.count()
        name = self.ask(act="take", which="7")["values"]["picked"]
        self.assertIn(7, Tree.objects.get(pk=self.tree.pk).replaced)
        frame = {"frame": "235,500,20", "handle": "tips", "picked": name, "x": "320", "y": "300"}
        before = self.tree.limbs.get(name=name).length
        self.ask(**frame)
        self.assertEqual(self.tree.limbs.get(name=name).length, before, "a drag is not kept before it ends")
        self.ask(**frame, save="1")
        self.assertNotEqual(self.tree.limbs.get(name=name).length, before)
        whole = sum(r.mass.value for r in self.scene()["limbs"] if r.name == name)
        self.ask(act="split", picked=name)
        halves = sum(r.mass.value for r in self.scene()["limbs"] if r.name.startswith(name))
        self.assertAlmostEqual(halves, whole, places=6)
        for _ in range(3):
            self.ask(act="undo")
        self.assertEqual(self.tree.limbs.count(), count)
        self.assertNotIn(7, Tree.objects.get(pk=self.tree.pk).replaced)

    def test_draw_type_and_refuse(self):
        drawn = self.ask(act="draw", frame="235,500,20", x="235", y="380", x1="310", y1="340")
        limb = self.tree.limbs.get(name=drawn["values"]["picked"])
        self.assertAlmostEqual(limb.length, math.hypot(75, 40) / 20, places=2)
        self.assertAlmostEqual(math.degrees(limb.azimuth), 158 + 90, places=6)
        typed = {
            "limb-name": "Bough",
            "limb-at": "8",
            "limb-azimuth": "40",
            "limb-rise": "30",
            "limb-length": "4",
            "limb-diameter": "12",
            "limb-foliage": "full",
            "limb-union": "cracked",
            "limb-kind": "measured",
        }
        wide = self.ask(act="limb-save", **typed | {"limb-diameter": "200"})
        self.assertIn("limb-diameter", wide["errors"])
        saved = self.ask(act="limb-save", **typed)
        self.assertEqual(saved["errors"], {})
        self.assertIn("Over a limit", saved["fragments"]["weak"])
        twice = self.ask(act="limb-save", **typed | {"limb-name": "Twin"})
        self.assertIn("same place", str(twice["errors"]))

    def test_hollows_and_pieces_are_the_cores(self):
        self.ask(act="cavity-add", **{"cavity-low": "1", "cavity-high": "3", "cavity-across": "30"})
        refused = self.ask(act="cavity-add", **{"cavity-low": "1", "cavity-high": "3", "cavity-across": "90"})
        self.assertIn("cavity-across", refused["errors"])
        core = body_planner.core_tree(Tree.objects.get(pk=self.tree.pk))
        shown = self.ask(low="2", high="5")["fragments"]["piece"]
        self.assertIn(f'data-raw="{piece(core, 2.0, 5.0).mass.value:.9g}"', shown)
        self.assertIn("Smalian", shown)


class Lists(TestCase):
    def test_two_thousand_jobs_open_with_as_many_queries_as_one(self):
        crew, person, _tree = load_scene()
        self.client.force_login(person)

        def queries():
            # Session, person with crew, count, jobs, trees; how they stand: signatures, what the strip asks, answers.
            with self.assertNumQueries(8):
                self.client.get(reverse("jobs"))

        queries()
        jobs = Job.objects.bulk_create(Job(crew=crew, name=f"Job {i}") for i in range(60))
        Tree.objects.bulk_create(
            Tree(job=j, name=f"T{i}", species="abies_grandis", diameter=0.4, height=20, spread=5)
            for j in jobs
            for i in range(10)
        )
        queries()
        with self.assertNumQueries(8):
            self.client.get(reverse("jobs") + "?page=2")


class TwoTabs(TestCase):
    """Two people at one thing of the site."""

    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()
        cls.shed = cls.tree.job.targets.get(name="Tool shed")

    def setUp(self):
        self.client.force_login(self.person)

    def page(self):
        self.shed.refresh_from_db()
        form = FeatureForm(row=self.shed, units="metric")
        data = {form.add_prefix(n): form[n].value() for n in form.fields}
        return {n: v for n, v in data.items() if v not in (None, False)} | {"revision": self.shed.revision}

    def save(self, page, **more):
        data = {"act": "save", "picked": f"target:{self.shed.pk}"} | page | {f"feature-{k}": v for k, v in more.items()}
        answer = self.client.post(reverse("site-edit", args=[self.tree.job_id]), data).json()
        self.shed.refresh_from_db()
        return answer

    def test_different_words_are_put_together_and_one_is_shown_with_both(self):
        one, two = self.page(), self.page()
        self.assertEqual(self.save(one, note="roof repaired")["errors"], {})
        self.assertEqual(self.save(two, height="2.8")["errors"], {})
        self.assertEqual((self.shed.note, self.shed.height), ("roof repaired", 2.8))
        clash = self.save(two, note="roof gone", worth="a spade")
        self.assertIn("You, on another page, changed this to roof repaired", clash["errors"]["feature-note"][0])
        self.assertEqual(clash["values"]["feature-note"], "roof gone")
        self.assertEqual(clash["values"]["feature-height"], "2.8")
        self.assertEqual((self.shed.note, self.shed.worth), ("roof repaired", ""))
        again = two | clash["values"]
        self.assertEqual(self.save(again)["errors"], {})
        self.assertEqual((self.shed.note, self.shed.worth, self.shed.height), ("roof gone", "a spade", 2.8))

    def test_a_shape_moved_in_one_is_not_put_back_by_words_typed_in_the_other(self):
        two, before = self.page(), self.shed.outline
        move = {"act": "move", "picked": f"target:{self.shed.pk}", "dx": "1.5", "dy": "0"}
        self.client.post(reverse("site-edit", args=[self.tree.job_id]), move)
        self.save(two, note="beside the path")
        self.assertEqual(self.shed.note, "beside the path")
        self.assertAlmostEqual(self.shed.outline[0][0], before[0][0] + 1.5, places=3)
