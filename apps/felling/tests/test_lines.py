"""The pulling system's page, the fall's, the log's: what is typed and dragged is the core's number, and nothing is
lost.
"""

import json
import math
import re
from datetime import date

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from apps.crews.models import Person
from apps.crews.tests.scene import load_scene
from apps.felling import planner, pull_planner
from apps.felling.pullforms import SystemForm
from apps.gear.planner import from_entry
from treecore.felling.footprint import footprint
from treecore.formats.felling_entry import log_of
from treecore.rigging.readymade import NAMES


class Scene(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()
        cls.keys = [cls.tree.job_id, cls.tree.pk]

    def setUp(self):
        self.client.force_login(self.person)

    def url(self, name):
        return reverse(name, args=self.keys)

    def plan(self):
        return planner.plan_for(type(self.tree).objects.get(pk=self.tree.pk))

    def raw(self, html, after=""):
        return float(re.search(after + r'[\s\S]*?data-raw="([^"]+)"', html).group(1))


class Pulling(Scene):
    def typed(self, **more):
        entry = self.plan().system
        form = SystemForm(entry=entry)
        names = [f.html_name for row in (*form.rows(), *form.rope_rows()) for f in row["fields"]]
        data = {n: form[n].value() for n in (*names, "tie_m", "takes", "design_school")}
        return (
            {k: "" if v is None else v for k, v in data.items()}
            | {"entry": json.dumps(entry), "revision": self.plan().revision}
            | more
        )

    def post(self, **more):
        return self.client.post(self.url("pull"), self.typed(**more)).json()

    def test_lines_are_laid_out_by_name_and_the_need_is_said_first(self):
        today = date.today().isoformat()
        rope = {"name": "Blue line", "kind": "rope", "strength_N": 62000, "diameter_m": 0.014, "length_m": 60}
        from_entry(self.tree.job.crew, rope | {"bought": today, "inspected": today})
        self.client.post(self.url("pull"), {"handle": "off", "revision": self.plan().revision})
        self.assertContains(self.client.get(self.url("pull")), "Needed:")
        laid = {"handle": "lay out", "pull-design": "redirect", "pull-anchor": "Pull oak", "pull-by": "winch"}
        self.client.post(self.url("pull"), laid | {"pull-rope": "Blue line", "revision": self.plan().revision})
        plan = self.plan()
        worked = planner.evaluated(self.tree, plan)
        self.assertEqual(plan.system["ropes"][0]["owned_m"], 60)
        needs = pull_planner.needed(self.tree, plan)
        page = self.client.get(self.url("pull")).content.decode()
        self.assertIn(f'<b data-raw="{needs.on_tree:.9g}">', page)
        self.assertTrue(needs.enough)
        set_guy = {"handle": "guy set", "guy-anchor": "Pull oak", "guy-rope": "Blue line", "guy-tended": "on"}
        self.client.post(self.url("pull"), set_guy | {"revision": self.plan().revision})
        # The only anchor stands straight ahead: a guy from there holds no side, and none is taken.
        self.assertIsNone(planner.evaluated(self.tree, self.plan()).given.guy)
        self.assertContains(self.client.get(self.url("pull")), "no anchor on this side, draw one")
        away = -math.copysign(1.5, worked.result.point.side_moment)
        to = self.plan().lay + away
        place = [self.tree.x + 25.0 * math.sin(to), self.tree.y + 25.0 * math.cos(to)]
        self.tree.job.targets.create(
            name="Corner ash", kind="anchor_tree", shape="spot", outline=[place], diameter=0.6, sound=True
        )
        self.client.post(self.url("pull"), set_guy | {"guy-anchor": "Corner ash", "revision": self.plan().revision})
        guy = planner.evaluated(self.tree, self.plan()).given.guy
        self.assertAlmostEqual(guy.distance, 25.0, places=2)
        self.assertContains(self.client.get(self.url("brief")), "guy, up to")
        self.client.post(self.url("pull"), {"handle": "guy off", "revision": self.plan().revision})
        self.assertIsNone(planner.evaluated(self.tree, self.plan()).given.guy)
        gone = self.client.post(
            self.url("pull"), laid | {"pull-anchor": "No elm", "revision": self.plan().revision}, follow=True
        )
        self.assertContains(gone, "Not rigged.")

    def test_another_kind_of_part_has_its_own_fields_at_once(self):
        entry = pull_planner.with_ids(self.plan().system)
        hand = next(p for p in entry["parts"] if p["kind"] == "winch")
        sent = {"revision": self.plan().revision, "changed": f"{hand['id']}_kind", f"{hand['id']}_kind": "people"}
        fields = self.client.post(self.url("pull"), sent).json()["fragments"]["parts"]
        self.assertIn(f'name="{hand["id"]}_people"', fields)
        self.assertNotIn(f'name="{hand["id"]}_force_N"', fields)

    def test_every_ready_made_system_opens_and_is_kept(self):
        for kind in NAMES:
            with self.subTest(kind=kind):
                self.client.post(self.url("pull"), {"handle": f"ready {kind}", "revision": self.plan().revision})
                page = self.client.get(self.url("pull"))
                self.assertContains(page, "Purchase, turns counted")
                given, _result = planner.evaluated(self.tree, self.plan())
                self.assertAlmostEqual(
                    self.raw(page.content.decode(), "Purchase, turns counted"), given.rigged.purchase.value, places=6
                )
        self.client.post(self.url("pull"), {"handle": "off", "revision": self.plan().revision})
        self.assertIsNone(self.plan().system)

    def test_a_part_dropped_at_an_anchor_stands_on_it(self):
        answer = self.post(handle="part p0", x="143.6", y="94.7", frame="100,100,1", save="1")
        part = self.plan().system["parts"][0]
        self.assertEqual((part["x_m"], part["y_m"], part["trunk_m"]), (43.7, 5.4, 0.88))
        self.assertEqual(answer["values"]["p0_x_m"], "43.7")
        self.post(handle="part p1", dx="2", dy="-1", save="1")
        self.assertAlmostEqual(self.plan().system["parts"][1]["x_m"], 39.1)

    def test_wrong_systems_are_named_at_the_part_and_nothing_is_lost(self):
        for more, field, said in (
            ({"r0_path": "tree > Pull oak > Nobody"}, "r0_path", "no part"),
            ({"r0_path": "tree > Pull oak"}, "r0_path", "othing hauls it"),
            ({"p1_force_N": "0"}, "p1_name", "what the winch pulls"),
            ({"tie_m": "40"}, "tie_m", "outside"),
            ({"p0_x_m": "far"}, "p0_x_m", ""),
            ({"p0_x_m": ""}, "p0_x_m", "required"),
        ):
            with self.subTest(field=field):
                answer = self.post(**more, save="1")
                self.assertIn(field, answer["errors"])
                self.assertIn(said, answer["errors"][field][0])
        self.assertEqual(self.plan().system["ropes"][0]["path"], ["tree", "Pull oak", "Hand winch"])

    def test_a_refused_part_is_marked_on_the_drawing(self):
        answer = self.post(p1_force_N="0")
        self.assertRegex(answer["fragments"]["above"], r'part winch wrong"[^>]*aria-label="Hand winch"')

    def test_parts_and_ropes_are_added_renamed_and_taken_off(self):
        answer = self.post(handle="add ring", save="1")
        self.assertIn("Take off Ring", answer["fragments"]["parts"])
        self.post(p0_name="The oak", save="1")
        self.assertEqual(self.plan().system["ropes"][0]["path"], ["tree", "The oak", "Hand winch"])
        ring = self.plan().system["parts"][2]["id"]
        self.post(handle=f"drop {ring}", save="1")
        self.assertEqual([p["name"] for p in self.plan().system["parts"]], ["The oak", "Hand winch"])
        pull_planner.new_rope(entry := self.plan().system)
        self.assertEqual(entry["ropes"][1]["path"], ["The oak", "Hand winch"])

    def test_handles_that_name_nothing_change_nothing_and_say_so(self):
        before = self.plan().system
        for handle in ("part", "part nothing", "add nothing", "add", "drop", "drop p9", "unrope", "unrope r9"):
            with self.subTest(handle=handle):
                self.assertTrue(self.post(handle=handle, save="1")["errors"])
        self.assertEqual(self.plan().system, before)

    def test_too_short_is_said_with_how_much(self):
        page = self.post(r0_owned_m="50", save="1")["fragments"]
        self.assertIn("too short", page["tables"])
        self.assertIn("Rope length", page["ruling"])
        _, result = planner.evaluated(self.tree, self.plan())
        self.assertEqual(result.ruling.key, "rope_short")


class Ground(Scene):
    def test_chances_on_the_page_are_the_cores(self):
        self.client.post(self.url("footprint"), {"lay": "104", "save": "1", "revision": self.plan().revision})
        page = self.client.get(self.url("footprint")).content.decode()
        given, result = planner.evaluated(self.tree, self.plan())
        self.assertAlmostEqual(math.degrees(given.lay), 104.0)
        first = footprint(given, result.bend).chances[0]
        self.assertEqual(first.target.name, "Pump house")
        self.assertGreater(first.share, 0.05)
        self.assertAlmostEqual(self.raw(page, "Pump house</span>"), first.share, places=7)

    def test_the_lay_is_dragged_and_bad_wind_is_refused(self):
        answer = self.client.post(
            self.url("footprint"), {"handle": "lay", "x": "300", "y": "100", "frame": "100,100,10"}
        ).json()
        self.assertEqual(answer["values"]["lay"], "90")
        self.assertIn("chances", answer["fragments"])
        self.assertIn("wind", self.client.post(self.url("footprint"), {"wind": "-3"}).json()["errors"])

    def test_the_log(self):
        data = {
            "log_from": "0.4",
            "log_to": "10.4",
            "supports": "1; 7",
            "cuts": "3; 8.5",
            "cross_slope": "0",
            "revision": self.plan().revision,
        }
        self.assertEqual(self.client.post(self.url("down"), data | {"save": "1"}).json()["errors"], {})
        log, cuts = log_of(self.plan().log, planner.scene(self.tree)[0])
        self.assertEqual((log.length, cuts), (10.0, (3.0, 8.5)))
        page = self.client.get(self.url("down")).content.decode()
        self.assertRegex(page, r"<b>At 8\.5\s*m</b>")
        moved = self.client.post(self.url("down"), data | {"handle": "cut 0", "dx": "5", "dy": "0"}).json()
        self.assertEqual(moved["values"]["cuts"], "3.5; 8.5")
        for field, text in (("supports", "1; 2"), ("cuts", "3; x"), ("log_to", "60"), ("cuts", "")):
            with self.subTest(field=field, text=text):
                self.assertIn(field, self.client.post(self.url("down"), data | {field: text}).json()["errors"])


class WalkUp(Scene):
    def answer(self, hazard, **values):
        data = {f"{hazard}-{k}": v for k, v in values.items()}
        return self.client.post(reverse("hazard-answer", args=[*self.keys, hazard]), data)

    def test_two_people_differ_and_what_either_saw_counts(self):
        ned = Person.objects.create_user("ned", crew=self.crew, role="hand", first_name="Ned", last_name="Oxley")
        self.client.force_login(ned)
        self.answer("root_plate", finding="present")
        page = self.client.get(self.url("walk-up"))
        self.assertContains(page, "seen differently")
        self.assertContains(page, "Root plate moving, lifted or cut; soil soaked</a> (present, and nothing")
        self.answer("root_plate", finding="present", response="Referred")
        self.assertEqual(self.tree.answers.filter(hazard="root_plate").count(), 3)
        self.assertNotContains(self.client.get(self.url("walk-up")), "(present, and nothing")

    def test_a_photo_is_kept_for_the_crew_and_a_text_is_refused(self):
        fine = (
            b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x02\x00\x00\x00\x90wS"
            b"\xde\x00\x00\x00\x0cIDATx\x9cc\xf8\xcf\xc0\x00\x00\x03\x01\x01\x00\xc9\xfe\x92\xef\x00\x00\x00"
            b"\x00IEND\xaeB`\x82"
        )
        self.answer("vines", finding="present", photo=SimpleUploadedFile("ivy.png", fine))
        row = self.tree.answers.get(hazard="vines", by=self.person.shown_name())
        photo = self.client.get(reverse("hazard-photo", args=[*self.keys, row.pk]))
        self.assertEqual(photo.headers["Content-Type"], "image/jpeg")
        refused = self.answer(
            "vines", finding="present", note="kept", photo=SimpleUploadedFile("ivy.png", b"no picture")
        )
        self.assertContains(refused, "no picture that can be read")
        self.assertContains(refused, 'value="kept"')
        row.photo.delete()

    def test_a_line_of_the_crews_own_can_be_a_gate(self):
        self.client.post(
            self.url("line-new"), {"name": "Gas main under the lay", "gate": "on", "caution": "Ask for the map."}
        )
        self.assertContains(self.client.get(self.url("walk-up")), "2 gates open")
        self.assertContains(
            self.client.post(self.url("line-new"), {"name": "Gas main under the lay"}), "on the list already"
        )
        own = self.crew.hazards.get(name="Gas main under the lay")
        self.answer(own.key, finding="absent")
        self.assertContains(self.client.get(self.url("walk-up")), "1 gate open")
        self.client.post(self.url("line-new"), {"retire": own.pk})
        self.assertContains(self.client.get(self.url("walk-up")), "Gas main")  # its answer stands


class Schools(Scene):
    def test_a_yards_schools_begin_a_new_plan(self):
        self.client.post(
            reverse("yard-schools"), {"notch": "open", "depth": "quarter", "pattern": "bore", "zone": "2.0"}
        )
        self.tree.felling.delete()
        plan = self.plan()
        self.assertEqual(
            (plan.notch_school, plan.depth_school, plan.pattern_school, plan.zone_school),
            ("open", "quarter", "bore", "2.0"),
        )
        self.assertContains(self.client.get(reverse("yard-schools")), "selected")

    def test_refer_or_wait_is_a_sheet_of_its_own(self):
        self.client.post(
            self.url("method"),
            {"method": "refer", "reason": "Plate lifts on the stream side", "revision": self.plan().revision},
        )
        page = self.client.get(self.url("referral"))
        for text in ("Plate lifts on the stream side", "From a lift", "Way out leaves", "Wind above the limit"):
            self.assertContains(page, text)
