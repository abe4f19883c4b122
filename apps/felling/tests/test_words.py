"""Every limit has words, drawings are to scale, and the other pages keep what is typed."""

import math
from dataclasses import replace

from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from apps.crews.tests.scene import load_scene
from apps.felling import planner, presenter
from apps.felling.bench_planner import WorkedPlan
from apps.felling.crewsteps import steps
from cantrel.drawing import compass, fitted
from cantrel.limits import asked, limit_said
from cantrel.limitwords import CASES, WORDS
from cantrel.quantities import estimate, explain, text
from treecore.errors import NotSolvable, OutOfRange
from treecore.estimate import Estimate, Kind, exactly, plus_minus
from treecore.felling.evaluate import complete
from treecore.felling.plan import evaluate
from treecore.felling.suggest import by_school, suggest_cuts, take_school
from treecore.felling.wedges import Wedges
from treecore.site import Site
from treecore.tests.scenes import CUTS, PLAN, PULL, TACKLE, TREE
from treecore.tests.test_classic_mistakes import MISTAKES
from treecore.verdict import Limit, Verdict, limit_kinds


class Words(SimpleTestCase):
    def plans(self):
        yield PLAN
        yield replace(PLAN, pull=None, wedges=Wedges(count=2))
        yield replace(PLAN, tree=replace(TREE, state="dead"))
        yield replace(PLAN, site=Site())
        yield replace(
            PLAN, pull=replace(PULL, force=100.0), wedges=Wedges(count=1), cuts=replace(CUTS, hinge=0.03, rise=-0.01)
        )
        yield replace(
            PLAN,
            cuts=replace(CUTS, notch_school="open", depth_school="third", hinge=0.2),
            tree=replace(TREE, lean=0.15),
        )
        yield replace(PLAN, wind=9.0, wind_from=math.radians(250), tree=replace(TREE, lean=0.0), pull=None)
        yield replace(PLAN, wind=None, pull=replace(PULL, tackle=replace(TACKLE, gear=3e3)))
        yield from (plan for pair in MISTAKES.values() for plan in pair)

    def test_every_limit_reads_in_both_units_without_a_gap(self):
        seen = set()
        for plan in self.plans():
            for limit in complete(plan).result.limits:
                seen.add(limit.key + ("_shut" if limit.about.why == "shut" else ""))
                for system in ("metric", "us"):
                    words = limit_said(limit, system)
                    self.assertNotIn("{", words["sentence"])
                    self.assertNotIn("  ", words["sentence"])
                    self.assertNotIn("safe", (words["sentence"] + words["change"]).lower())
                    self.assertEqual(words["change"] == "", limit.verdict.value == "within")
        self.assertGreaterEqual(len(seen), 45)

    def test_every_limit_has_its_words_and_every_entry_its_limit(self):
        self.assertEqual(set(WORDS), set(limit_kinds()))
        self.assertLessEqual({key.split("/")[0] for key in CASES}, set(WORDS))

    def test_advice_follows_the_cause(self):
        heavy = replace(TREE, lean=math.radians(8.0), lean_azimuth=math.radians(263))
        for state, says in (("in_leaf", True), ("dead", False)):
            plan = replace(PLAN, tree=replace(heavy, state=state), pull=None, wedges=Wedges())
            tip = next(x for x in evaluate(plan).limits if x.key == "tip")
            change = limit_said(tip, "metric")["change"]
            self.assertEqual("Add wedges" in change, says)
            self.assertEqual("no wedges" in change, not says)

    def test_figures_that_would_read_alike_take_one_digit_more(self):
        row = Limit("thin", Verdict.OVER, exactly(0.04998), exactly(0.05012))
        self.assertEqual(asked(row, "metric"), ("5.00\u00a0cm", "5.01\u00a0cm"))
        same = Limit("thin", Verdict.NEAR, exactly(0.05), exactly(0.05))
        self.assertEqual(asked(same, "metric"), ("5.0\u00a0cm", "5.0\u00a0cm"))
        heavy = Limit("tip", Verdict.OVER, exactly(34_620.0), exactly(34_560.0))
        self.assertEqual(asked(heavy, "us"), ("25\u00a0530\u00a0ft·lbf", "25\u00a0490\u00a0ft·lbf"))

    def test_near_says_the_end_that_rules(self):
        most = Limit("wedge_force", Verdict.NEAR, Estimate(9e3, 4e3, 19e3, Kind.ESTIMATED), exactly(15e3))
        self.assertEqual(asked(most, "metric")[0], "9.0\u00a0kN (up to 19.0\u00a0kN)")
        least = Limit("thin", Verdict.NEAR, Estimate(0.06, 0.05, 0.07, Kind.ESTIMATED), exactly(0.055))
        self.assertIn("as little as 5.0", asked(least, "metric")[0])

    def test_steps_follow_what_was_chosen(self):
        pulled = " ".join(steps(WorkedPlan(PLAN, evaluate(PLAN)), "metric"))
        self.assertIn("5.0\u00a0kN", pulled)
        bare = replace(PLAN, pull=None, wedges=Wedges())
        plain = " ".join(steps(WorkedPlan(bare, evaluate(bare)), "us"))
        self.assertNotIn("Tie the line", plain)
        self.assertNotIn("wedge", plain)
        self.assertIn("2 3/4\u00a0in", plain)

    def test_errors_are_told_in_the_persons_unit(self):
        error = OutOfRange("height", 400.0, 1.0, 130.0, "the tallest", "length")
        self.assertEqual(explain(error, "metric"), "400\u00a0m is outside 1\u00a0m to 130\u00a0m: the tallest.")
        typed = OutOfRange("height", 1312.34 * 0.3048, 1.0, 130.0, "", "length")
        self.assertIn("1312.34\u00a0ft is outside", explain(typed, "us"))
        self.assertEqual(explain(NotSolvable("top", "look again"), "us"), "Look again.")

    def test_estimates_keep_three_figures(self):
        shown = estimate(Estimate(4612.0, 3318.0, 6104.0, Kind.ESTIMATED), "mass", "metric")
        self.assertEqual((shown["value"], shown["spread"]), ("4\u00a0610", "3\u00a0320 to 6\u00a0100"))
        self.assertEqual(estimate(Estimate(-0.001, -0.001, 0.0, Kind.ESTIMATED), "offset", "metric")["value"], "0.00")


class Drawings(SimpleTestCase):
    def test_a_frame_is_to_scale_and_fits(self):
        frame = fitted(400, 300, -10, 30, -5, 20)
        self.assertAlmostEqual(frame.x(30) - frame.x(-10), 40 * frame.scale, delta=0.11)
        self.assertAlmostEqual(frame.y(-5) - frame.y(20), 25 * frame.scale, delta=0.11)
        self.assertTrue(frame.x(-10) >= 0 and frame.x(30) <= 400 and frame.y(20) >= 0 and frame.y(-5) <= 300)
        for system in ("metric", "us"):
            bar = frame.bar(system)
            metres = float(bar["label"].split()[0]) * {"metric": 1.0, "us": 0.3048}[system]
            self.assertAlmostEqual(bar["length"], metres * frame.scale, delta=0.06)

    def test_the_stump_drawing_carries_the_cores_numbers(self):
        result = evaluate(PLAN)
        drawn = presenter.stump(WorkedPlan(PLAN, result), "metric")
        scale = drawn["frame"].scale
        self.assertAlmostEqual((drawn["front"] - drawn["apex"]) / scale, CUTS.depth, delta=0.001)
        self.assertAlmostEqual(
            (drawn["end_feet"][1][1] - drawn["end_feet"][0][1]) / scale,
            result.figures["hinge_length"].estimate.value,
            delta=0.001,
        )
        self.assertAlmostEqual(
            (drawn["pivot"] - drawn["cg"][0]) / scale, result.figures["back_offset"].estimate.value, delta=0.001
        )
        self.assertEqual(len(drawn["wedges"]), 2)

    def test_the_ledger_adds_up_to_what_is_left(self):
        result = evaluate(PLAN)
        left = result.figures["available"].estimate.value - result.figures["needed"].estimate.value
        drawn = presenter.ledger(result, "metric")
        along, across = drawn["along"], drawn["across"]
        self.assertEqual(along[-1]["value"].split("\u00a0")[0], f"{left / 1000:.1f}")
        self.assertEqual([b["back"] for b in along[:3]], [True, False, True])
        shown = {b["key"]: b["value"].split("\u00a0")[0] for b in across if b["total"]}
        for key in ("side_moment", "side_most"):
            self.assertEqual(shown[key], f"{getattr(result.point, key) / 1000:.1f}")
        calm = sum(result.estimates[b["key"]].value for b in across[:5])
        self.assertAlmostEqual(calm, result.point.side_moment, places=6)

    def test_compass(self):
        for degrees, name in ((0, "north"), (83, "east"), (248, "west"), (350, "north"), (135, "south-east")):
            self.assertEqual(compass(math.radians(degrees)), name)


class OtherPages(TestCase):
    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.tree = load_scene()
        cls.keys = [cls.tree.job_id, cls.tree.pk]

    def setUp(self):
        self.client.force_login(self.person)

    def test_a_method_needs_its_reason(self):
        answer = self.client.post(reverse("method", args=self.keys), {"method": "refer", "reason": " "})
        self.assertContains(answer, "Say why")
        self.client.post(
            reverse("method", args=self.keys),
            {"method": "refer", "reason": "Too near the line", "revision": planner.plan_for(self.tree).revision},
        )
        self.tree.refresh_from_db()
        self.assertEqual(self.tree.felling.method, "refer")
        self.assertContains(self.client.get(reverse("brief", args=self.keys)), "there is no felling to sign")

    def test_dragging_the_lay_on_the_method_page(self):
        answer = self.client.post(
            reverse("lay", args=self.keys),
            {
                "handle": "lay",
                "x": "300",
                "y": "100",
                "frame": "100,100,10",
                "save": "1",
                "lay": "83",
                "revision": planner.plan_for(self.tree).revision,
            },
        ).json()
        self.assertEqual(answer["values"]["lay"], "90")
        self.assertAlmostEqual(math.degrees(planner.plan_for(type(self.tree).objects.get()).lay), 90.0)
        move = {
            "handle": "anchor",
            "x": "100",
            "y": "-200",
            "frame": "100,100,10",
            "save": "1",
            "lay": "90",
            "revision": answer["values"]["revision"],
        }
        self.client.post(reverse("lay", args=self.keys), move)
        plan = planner.plan_for(type(self.tree).objects.get())
        self.assertAlmostEqual(plan.pull_distance, 30.0)
        self.assertAlmostEqual(plan.pull_azimuth, 0.0)
        self.client.post(reverse("undo", args=self.keys), {"back": "method"})
        self.assertAlmostEqual(planner.plan_for(type(self.tree).objects.get()).pull_distance, 44.0)
        refused = self.client.post(reverse("lay", args=self.keys), {"lay": "east", "save": "1"}).json()
        self.assertIn("lay", refused["errors"])

    def test_the_brief_carries_what_the_crew_needs(self):
        page = self.client.get(reverse("brief", args=self.keys))
        for words in (
            "Bram Tolliver",
            "East gate on Kestrel Lane",
            "tel:112",
            "tel:999",
            "Pulled out with a throw line",
            "bearing 308°",
            "Never cut through the hinge",
            "last word",
        ):
            self.assertContains(page, words)
        self.assertNotContains(page, " safe")

    def test_roles_that_are_none_stay_typed(self):
        before = self.tree.job.roles.count()
        answer = self.client.post(reverse("roles", args=self.keys), {"roles-roles": "Faller Mara"})
        self.assertContains(answer, "is not “role: name”")
        self.assertContains(answer, "Faller Mara")
        self.assertEqual(self.tree.job.roles.count(), before)

    def test_a_walk_up_answer_keeps_who_and_where(self):
        self.client.post(
            reverse("hazard-answer", args=[*self.keys, "root_plate"]),
            {"root_plate-finding": "present", "root_plate-side": "west", "root_plate-height": "0.4"},
        )
        kept = self.tree.answers.get(hazard="root_plate", by=self.person.shown_name())
        self.assertEqual((kept.side, kept.by, kept.person), ("west", "Mara", self.person))
        self.assertContains(self.client.get(reverse("walk-up", args=self.keys)), "nothing is said about what is done")
        refused = self.client.post(
            reverse("hazard-answer", args=[*self.keys, "wind"]),
            {"wind-finding": "present", "wind-height": "-3", "wind-note": "gusts"},
        )
        self.assertContains(refused, "gusts")
        self.assertFalse(self.tree.answers.filter(hazard="wind").exists())

    def test_jobs_by_page(self):
        for i in range(45):
            type(self.tree.job).objects.create(crew=self.person.crew, name=f"Job {i}")
        with self.assertNumQueries(5):  # session, person with crew, count, jobs, trees
            page = self.client.get("/")
        self.assertContains(page, "Page 1 of 2")


class Echoes(TestCase):
    """Every bench says what it made of a quantity that was typed with a unit, feet, a fraction or a quadrant."""

    @classmethod
    def setUpTestData(cls):
        _, cls.person, cls.tree = load_scene()

    def setUp(self):
        self.client.force_login(self.person)

    def post(self, page, keys=2, /, **data):
        return self.client.post(reverse(page, args=[self.tree.job_id, self.tree.pk][:keys]), data).json()

    def test_log(self):
        form = {
            "log_from": "1 ft 4",
            "log_to": "12.4",
            "supports": "1.1; 8.2",
            "cuts": "10 ft; 6",
            "cross_slope": "5 %",
        }
        notes = self.post("down", **form)["notes"]
        self.assertEqual(notes["log_from"], "Taken as 0.4064\u00a0m.")
        self.assertEqual(notes["cross_slope"], "Taken as 2.86°.")
        self.assertIn("3.048; 6", notes["cuts"])
        self.assertNotIn("supports", notes)

    def test_the_fall_and_the_pull(self):
        notes = self.post("footprint", lay="N80E", wind="6 kt", wind_from="SX")
        self.assertIn("wind_from", notes["errors"])
        notes = self.post("footprint", lay="N80E", wind="6 kt", wind_from="S45W")["notes"]
        self.assertEqual((notes["lay"], notes["wind_from"]), ("Taken as 80°.", "Taken as 225°."))
        self.assertIn("3.09", notes["wind"])
        page = self.client.get(reverse("pull", args=[self.tree.job_id, self.tree.pk])).context["form"]
        data = {page.add_prefix(n): page[n].value() for n in page.fields}
        name = next(n for n in data if n == "tie_m")
        answer = self.post("pull", **({k: "" if v is None else v for k, v in data.items()} | {name: "44' 3\""}))
        self.assertEqual(answer["notes"][name], "Taken as 13.4874\u00a0m.")

    def test_the_body_and_where_it_is_looked_at_from(self):
        answer = self.post("tree-body-edit", view="N45E", low="3 ft", high="4.2", limit="", picked="", masses="")
        self.assertEqual(answer["values"]["view"], 45)
        self.assertEqual(answer["notes"]["view"], "Taken as 45°.")
        self.assertEqual(answer["notes"]["low"], "Taken as 0.9144\u00a0m.")
        limb = {
            "name": "Bough",
            "at": "20 ft",
            "azimuth": "S10E",
            "rise": "20",
            "length": "9' 6",
            "diameter": "7 in",
            "kind": "measured",
            "parent": "",
            "foliage": "full",
            "union": "sound",
        }
        limb = {f"limb-{name}": value for name, value in limb.items()}
        answer = self.post("tree-body-edit", act="limb-save", view="0", picked="", **limb)
        self.assertEqual(answer["errors"], {})
        self.assertEqual(answer["notes"]["limb-at"], "Taken as 6.096\u00a0m.")
        self.assertEqual(answer["notes"]["limb-azimuth"], "Taken as 170°.")

    def test_the_site(self):
        form = {"slope": "9 %", "downhill": "S8W", "prevailing_from": "", "wind": "8 mph", "wind_from": "west"}
        ground = {f"ground-{name}": value for name, value in form.items()}
        answer = self.post("site-edit", 1, act="ground", picked="ground", **ground)
        self.assertIn("ground-wind_from", answer["errors"])
        answer = self.post("site-edit", 1, act="ground", picked="ground", **ground | {"ground-wind_from": ""})
        self.assertEqual(answer["errors"], {})
        self.assertIn("taken as 188°", answer["echo"])
        self.assertIn("3.57632", answer["echo"])

    def test_a_schools_tenth_of_ten_inches_is_one_inch(self):
        tree = replace(TREE, diameter=plus_minus(10 * 0.0254, 0.002, Kind.MEASURED))
        self.assertEqual(text(suggest_cuts(tree).hinge, "cut", "us"), "1\u00a0in")
        plan = replace(PLAN, tree=tree, cuts=suggest_cuts(tree))
        tenth = next(v for v in by_school(plan)["thickness"] if v.school.key == "tenth")
        self.assertEqual(text(tenth.usual, "cut", "us"), "1\u00a0in")
        self.assertAlmostEqual(take_school("thickness", "tenth", plan)["hinge"], 0.0254, places=12)
