"""Drawings are to scale, whichever side they are seen from; forms and pages of the body and site in both units."""

import math
from dataclasses import replace

from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from apps.crews import steps
from apps.crews.models import Person, Step
from apps.crews.tests.scene import load_scene
from apps.jobs import presenter
from apps.jobs.models import Limb, Target, Tree
from apps.jobs.planner import species_choices, tree_entry
from apps.site import presenter as plan
from apps.species.planner import save_row
from apps.survey import body_planner
from treecore.species import species_table
from treecore.tests.scenes import TREE
from treecore.tree.ladder import ladder
from treecore.tree.limb import Limb as CoreLimb
from treecore.tree.weigh import limb_rows, weigh

ARM = CoreLimb(name="Arm", at=9.0, azimuth=math.radians(90), rise=0.0, length=5.0, diameter=0.1)


def points(text):
    return [tuple(float(v) for v in pair.split(",")) for pair in text.split()]


class Elevation(SimpleTestCase):
    def drawn(self, view, **change):
        tree = replace(TREE, lean=0.0, limbs=(ARM,), **change)
        return tree, presenter.elevation(tree, weigh(tree), "metric", view, limb_rows(tree))

    def test_a_limb_is_as_long_as_it_looks_from_there(self):
        for view, share in ((0.0, 1.0), (math.pi, -1.0), (math.pi / 2, 0.0), (math.pi / 6, math.cos(math.pi / 6))):
            with self.subTest(view=view):
                _, d = self.drawn(view)
                (row,) = d["limbs"]
                self.assertAlmostEqual(row["tip"][0] - row["foot"][0], 5.0 * share * d["frame"].scale, delta=0.15)
                self.assertAlmostEqual(row["tip"][1], d["frame"].y(9.0), delta=0.11)

    def test_height_taper_and_scale_do_not_change_when_it_is_turned(self):
        frames = [self.drawn(view) for view in (0.0, 1.0, 4.0)]
        self.assertEqual(len({d["frame"] for _, d in frames}), 1)
        tree, d = frames[0]
        stem = points(d["stem"])
        foot, tip = stem[-1], stem[0]
        self.assertAlmostEqual(tip[0] - foot[0], tree.stem.diameter_at(0.0) * d["frame"].scale, delta=0.3)
        self.assertAlmostEqual(d["ground"] - d["tip"][1], 27.0 * d["frame"].scale, delta=0.2)

    def test_an_oval_stem_is_wider_from_one_side(self):
        widths = []
        for view in (0.0, math.pi / 2):
            tree, d = self.drawn(view, oval=1.5, oval_azimuth=math.pi / 2)
            stem = points(d["stem"])
            widths.append(stem[0][0] - stem[-1][0])
            self.assertAlmostEqual(
                widths[-1] / d["frame"].scale / tree.stem.diameter_at(0.0),
                1.5**0.5 if view == 0 else 1.5**-0.5,
                delta=0.05,
            )
        self.assertGreater(widths[0], widths[1])

    def test_the_ladder_stands_at_the_stems_own_heights(self):
        rows = ladder(TREE, 200.0)
        drawn = presenter.rungs(TREE, rows, 200.0, "metric")
        frame = presenter.frame_for(TREE)
        for rung, row in zip(drawn["rows"], rows, strict=True):
            self.assertAlmostEqual(rung["y"] + rung["tall"] + 1, frame.y(row.height), delta=0.2)
        ratios = {
            round(rung["wide"] / row.per_metre.value, 2)
            for rung, row in zip(drawn["rows"], rows, strict=True)
            if row.per_metre.value > 50
        }
        self.assertEqual(len(ratios), 1)

    def test_masses_are_written_once_a_level(self):
        tree = replace(TREE, lean=0.0)
        result = weigh(tree)
        rows = body_planner.assumed_limbs(tree, result.whole_crown)
        d = presenter.elevation(tree, result, "metric", 0.4, assumed=rows, masses=True)
        levels = {row["level"] for row in d["assumed"]}
        self.assertEqual(sum(1 for row in d["assumed"] if row["tag"]), len(levels))


class Rows(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()

    def setUp(self):
        self.client.force_login(self.person)

    def test_the_plan_is_drawn_in_metres_north_up(self):
        row = Target(pk=1, name="x", kind="building", shape="area", outline=[[1.5, 2], [4, 2], [4, 7.25]])
        self.assertEqual(points(plan.feature(row)["points"]), [(1.5, -2), (4, -2), (4, -7.25)])
        left, top, wide, high = (float(v) for v in plan.drawing(self.tree.job)["box"].split())
        for x, y in (p for t in self.tree.job.targets.all() for p in t.outline):
            self.assertTrue(left <= x <= left + wide and top <= -y <= top + high)

    def test_steps_are_kept_apart_for_the_site_and_each_tree(self):
        job = self.tree.job
        body_planner.drop_slot(self.tree, 3)
        with steps.recorded("site", job, "hedge off"):
            Target.objects.get(name="North hedge").delete()
        self.assertEqual(steps.state("body", self.tree)["undo"], "assumed limb 4 taken off")
        self.assertEqual(steps.back("body", self.tree), "")
        self.assertFalse(Target.objects.filter(name="North hedge").exists())
        self.assertEqual(steps.back("site", job), "")
        self.assertIn("Nothing left", steps.back("site", job))
        self.assertTrue(Target.objects.filter(name="North hedge").exists())

    def test_a_new_change_forgets_what_could_have_been_done_again(self):
        for number in (3, 4):
            body_planner.drop_slot(self.tree, number)
        steps.back("body", self.tree)
        body_planner.drop_slot(Tree.objects.get(pk=self.tree.pk), 7)
        self.assertIn("Nothing left", steps.forth("body", self.tree))
        self.assertEqual(Tree.objects.get(pk=self.tree.pk).replaced, [3, 7, 15])

    def test_an_error_leaves_no_step_and_no_change(self):
        before = tree_entry(self.tree)
        with self.assertRaises(ZeroDivisionError), steps.recorded("body", self.tree, "half a change"):
            Limb.objects.filter(tree=self.tree).delete()
            raise ZeroDivisionError
        self.assertEqual(tree_entry(Tree.objects.get(pk=self.tree.pk)), before)
        self.assertFalse(Step.objects.exists())

    def test_deleting_a_limb_takes_and_brings_back_what_grows_on_it(self):
        parent = self.tree.limbs.get(name="Second leader")
        Limb.objects.create(
            tree=self.tree, name="Side", parent=parent, at=2, azimuth=1, rise=0.5, length=1.2, diameter=0.04
        )
        entry = tree_entry(Tree.objects.get(pk=self.tree.pk))
        body_planner.delete(self.tree, "Second leader")
        self.assertEqual([b.name for b in self.tree.limbs.all()], ["Snapped limb"])
        steps.back("body", self.tree)
        self.assertEqual(tree_entry(Tree.objects.get(pk=self.tree.pk)), entry)

    def test_the_yards_rows_come_first_and_stay_chosen(self):
        row = save_row(self.crew, {"common": "Our fir", "like": "abies_grandis", "source": "us"})
        self.assertEqual(species_choices(self.crew)[0][0], f"yard:{row.pk}")
        self.assertEqual(len(species_choices(self.crew)), len(species_table()) + 1)
        Tree.objects.filter(pk=self.tree.pk).update(yard=row)
        page = self.client.get(reverse("measure", args=[self.tree.job_id, self.tree.pk])).content.decode()
        self.assertIn(f'<option value="yard:{row.pk}" selected>', page)

    def test_us_units_in_and_out(self):
        Person.objects.filter(pk=self.person.pk).update(units="us")
        page = self.client.get(reverse("tree-body", args=[self.tree.job_id, self.tree.pk])).content.decode()
        self.assertIn("lb/ft", page)
        address = reverse("site-edit", args=[self.tree.job_id])
        data = {"add-kind": "tree", "add-name": "Far", "add-where": "20 at 90 from the stem", "add-long": "6"}
        self.assertEqual(self.client.post(address, data | {"act": "type-in", "picked": ""}).json()["errors"], {})
        far = Target.objects.get(name="Far")
        self.assertAlmostEqual(far.outline[0][0], 20 * 0.3048, places=3)
        self.assertAlmostEqual(far.radius, 6 * 0.3048, places=9)

    def test_a_ground_worker_may_look_round_but_not_change(self):
        self.client.force_login(Person.objects.create_user("ned", password="x", crew=self.crew, role="hand"))
        address = reverse("tree-body-edit", args=[self.tree.job_id, self.tree.pk])
        turned = self.client.post(address, {"view": "40", "picked": "", "limit": "100"})
        self.assertIn("elevation", turned.json()["fragments"])
        self.assertNotIn('data-act="take"', turned.json()["fragments"]["elevation"])
        page = self.client.get(reverse("site", args=[self.tree.job_id])).content.decode()
        self.assertNotIn('data-tool="draw"', page)
