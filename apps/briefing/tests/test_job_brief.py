"""The brief of a whole job: on the screen, as PDF on both papers, its lists and drawings read back by others."""

import csv
import io
from xml.etree import ElementTree

import ezdxf
from django.test import TestCase
from django.urls import reverse
from openpyxl import load_workbook
from pypdf import PdfReader

from apps.briefing import job_planner
from apps.crews.models import Person
from apps.crews.tests.scene import load_scene, whole_demo
from apps.takedown import planner as takedown
from cantrel import paper


class JobBrief(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, fir = load_scene(whole_demo())
        cls.job, cls.beech = fir.job, fir.job.trees.get(name="Copper beech")

    def setUp(self):
        self.client.force_login(self.person)
        self.keys = [self.job.pk, self.beech.pk]

    def pdf(self, size):
        answer = self.client.post(reverse("job-brief-make", args=[self.job.pk, size]))
        self.assertEqual(answer["Content-Type"], "application/pdf")
        return PdfReader(io.BytesIO(answer.content))

    def test_pdf_on_both_papers(self):
        for size, wide, pages in (("a4", 595, 9), ("letter", 612, 9)):
            with self.subTest(size):
                found = self.pdf(size)
                self.assertEqual(len(found.pages), pages)
                self.assertAlmostEqual(float(found.pages[0].mediabox.width), wide, delta=1.0)
                text = " ".join(" ".join(page.extract_text() for page in found.pages).split())
                for said in ("Kestrel Lane allotments", "South limb 1", "Blue line", "Rope ready, clear", "Stop, stop"):
                    self.assertIn(said, text)
                self.assertIn("52° 24.742′ N 2° 11.043′ W", text)  # 52.41237 north, 2.18405 west, by hand

    def test_every_pick_is_a_line_of_the_paper(self):
        text = " ".join(page.extract_text() for page in self.pdf("a4").pages)
        rows = takedown.work_out(takedown.scene_of(self.beech), takedown.plan_for(self.beech).picks)
        for row in rows:
            mass = f"{row.step.piece.mass.value:.0f}"
            if len(mass) < 4:
                self.assertIn(f"{mass} kg, up to", text.replace("\xa0", " "))

    def test_made_beside_the_request_and_only_for_who_asked(self):
        begun = self.client.post(
            reverse("job-brief-make", args=[self.job.pk, "a4"]), headers={"X-Requested-With": "fetch"}
        )
        address = begun.headers["Location"]
        self.assertEqual(self.client.get(address).json()["state"] in ("making", "there", "failed"), True)
        other = Person.objects.create_user("ned", password="x", crew=self.crew, role="hand")
        self.client.force_login(other)
        self.assertEqual(self.client.get(address).status_code, 404)
        self.assertEqual(self.client.get(address + "file/").status_code, 404)

    def test_longest_need_of_a_rope_by_hand(self):
        """The most any pick asks of it, read off the picks one by one."""
        found = job_planner.brief_of(self.job)
        rows = takedown.work_out(takedown.scene_of(self.beech), takedown.plan_for(self.beech).picks)
        needs = {n: r.held.forces.needed for n, r in enumerate(rows, 1) if r.held and "rope" in r.held.pick.gear}
        blue = next(p for p in found.packing.items if p.item.name == "Blue line")
        self.assertEqual((blue.of_pick, blue.longest), max(needs.items(), key=lambda pair: pair[1]))
        self.assertAlmostEqual(blue.spare, 60.0 - max(needs.values()))
        self.assertEqual(list(blue.picks), sorted(needs))

    def test_what_nobody_chose_is_said(self):
        plan = takedown.plan_for(self.beech)
        bare = [{k: v for k, v in pick.items() if k != "sling"} for pick in plan.picks]
        takedown.keep(plan, bare)
        page = self.client.get(reverse("job-brief", args=[self.job.pk])).content.decode()
        self.assertIn("Not chosen: sling at the point for pick 2, 3,", page)

    def test_lists_hold_the_cores_numbers_in_both_units(self):
        rows = takedown.work_out(takedown.scene_of(self.beech), takedown.plan_for(self.beech).picks)
        for units, kilograms, metres in (("metric", 1.0, 1.0), ("us", 0.45359237, 0.3048)):
            self.client.post(reverse("units"), {"units": units})
            text = self.client.get(reverse("pick-list", args=[*self.keys, "csv"])).content.decode("utf-8-sig")
            lines = list(csv.reader(io.StringIO(text)))
            self.assertEqual(len(lines), len(rows) + 1)
            for line, row in zip(lines[1:], rows, strict=True):
                self.assertAlmostEqual(float(line[4]) * kilograms, row.step.piece.mass.value, delta=0.001)
                self.assertAlmostEqual(float(line[2]) * metres, row.entry["at_m"], delta=0.001)
            content = self.client.get(reverse("pick-list", args=[*self.keys, "xlsx"])).content
            book = load_workbook(io.BytesIO(content)).active
            self.assertEqual([book.cell(2, 5).value, book.max_row], [float(lines[1][4]), len(rows) + 1])

    def test_no_cell_is_a_formula(self):
        plan = takedown.plan_for(self.beech)
        takedown.keep(plan, [plan.picks[0] | {"landing": "=1+1"}, *plan.picks[1:]])
        text = self.client.get(reverse("pick-list", args=[*self.keys, "csv"])).content.decode("utf-8-sig")
        self.assertIn("'=1+1", text)

    def test_drawings_are_read_by_others(self):
        for view, layers in (("plan", {"stem", "swing", "recoil", "landing", "rope"}), ("elevation", {"stem", "cuts"})):
            with self.subTest(view):
                content = self.client.get(reverse("drawing-file", args=[*self.keys, view, "dxf"])).content
                found = ezdxf.read(io.StringIO(content.decode()))
                self.assertLessEqual(layers, {entity.dxf.layer for entity in found.modelspace()})
                self.assertFalse(found.audit().errors)
                svg = self.client.get(reverse("drawing-file", args=[*self.keys, view, "svg"])).content
                self.assertEqual(ElementTree.fromstring(svg).tag, "{http://www.w3.org/2000/svg}svg")
        scene = takedown.scene_of(self.beech)
        space = ezdxf.read(io.StringIO(content.decode())).modelspace()
        stem = next(e for e in space if e.dxf.layer == "stem")
        self.assertAlmostEqual(
            stem.dxf.end.y, float(scene.members.base[0][2] + scene.members.way[0][2] * scene.members.end[0])
        )
        self.assertEqual(self.client.get(reverse("drawing-file", args=[*self.keys, "inside", "svg"])).status_code, 404)

    def test_paper_loads_nothing_from_elsewhere(self):
        made = paper.pdf('<img src="http://127.0.0.1:9/x.png"><img src="file:///etc/hostname"><p>still here</p>', "a4")
        reader = PdfReader(io.BytesIO(made))
        self.assertIn("still here", reader.pages[0].extract_text())
        self.assertFalse(list(reader.pages[0].images))
