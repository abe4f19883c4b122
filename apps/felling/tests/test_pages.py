"""The bench through Django: the page's numbers are the core's, bad input lands on its field, undo and sign-off hold."""

import json
import math

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from apps.briefing import planner as briefing
from apps.crews.tests.scene import demo_text, load_scene
from apps.daybook.models import FellingRecord
from apps.felling import planner
from apps.felling.forms import FellForm
from apps.survey import planner as survey
from treecore.formats.plan_document import evaluate_document, load


class Bench(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.crew, cls.person, cls.tree = load_scene()
        cls.keys = {"job_id": cls.tree.job_id, "tree_id": cls.tree.pk}

    def setUp(self):
        self.client.force_login(self.person)
        self.tree.refresh_from_db()

    def url(self, name, **more):
        return reverse(name, kwargs=self.keys | more)

    def typed(self, units="metric", **change):
        plan = planner.plan_for(type(self.tree).objects.get(pk=self.tree.pk))
        form = FellForm(units=units, stored=planner.values_of(plan))
        data = {n: form[n].value() for n in form.fields}
        return {n: "" if v is None else v for n, v in data.items()} | {"revision": plan.revision} | change

    def post(self, **change):
        return self.client.post(self.url("fell"), self.typed(**change)).json()

    def test_import_then_export_gives_the_same_results(self):
        exported = self.client.get(self.url("export")).content.decode()
        first, second = (evaluate_document(load(t)) for t in (demo_text(), exported))
        for key, figure in first["trees"][0]["felling"]["figures"].items():
            self.assertAlmostEqual(
                second["trees"][0]["felling"]["figures"][key]["value"], figure["value"], places=6, msg=key
            )

    def test_what_a_line_is_made_of_and_a_wind_nobody_gave_are_kept_and_go_out(self):
        given = {
            "wind": "",
            "wind_from": "",
            "wedge_kind": "steel",
            "wedge_place": "-15",
            "wedge_rise": "",
            "pull_strength": "44",
            "pull_knot": "spliced",
            "pull_trunk": "52",
            "pull_rating": "",
            "guy_limit": "8",
            "guy_tie": "9",
            "guy_azimuth": "350",
            "guy_distance": "15",
            "guy_taut": "on",
            "guy_owned": "24",
            "guy_gear": "12",
            "line_design": "7",
        }
        answer = self.post(save="1", **given)
        self.assertEqual(answer["errors"], {})
        self.assertIn("Nobody gave the wind", answer["fragments"]["decided"])
        row = self.client.get(self.url("export")).json()["trees"][0]["felling"]
        self.assertEqual((row.get("wind_m_s"), row.get("wind_from_deg")), (None, None))
        self.assertEqual((row["wedges"]["kind"], row["wedges"].get("rise_m")), ("steel", None))
        self.assertAlmostEqual(row["wedges"]["place_deg"], -15.0)
        pull, guy = row["pull"]["tackle"], row["guy"]["tackle"]
        self.assertEqual((pull["knot"], pull.get("rating_N"), pull["design_school"]), ("spliced", None, "7"))
        self.assertAlmostEqual(pull["strength_N"], 44e3)
        self.assertAlmostEqual(pull["trunk_m"], 0.52)
        self.assertEqual((row["guy"]["taut"], guy["owned_m"], guy["gear_N"]), (True, 24.0, 12e3))

    def test_the_window_says_which_term_rules(self):
        self.assertContains(self.client.get(self.url("fell")), "Thin end ruled by")
        blown = self.post(wind="9", wind_from="173")
        self.assertIn("Thin end ruled by the side moment", blown["fragments"]["window"])

    def test_metric_and_us_give_the_same_plan(self):
        _, before = planner.evaluated(self.tree)
        self.person.units = "us"
        self.person.save()
        answer = self.client.post(self.url("fell"), self.typed("us", save="1")).json()
        self.assertEqual(answer["errors"], {})
        _, after = planner.evaluated(self.tree)
        self.assertEqual(before.figures["thick"].estimate, after.figures["thick"].estimate)

    def test_a_number_typed_in_inches_comes_back_after_switching_twice(self):
        self.person.units = "us"
        self.person.save()
        self.client.post(self.url("fell"), self.typed("us", across="24.5", save="1"))
        for units, shown in (("metric", "62.23"), ("us", "24.5")):
            self.client.post(reverse("units"), {"units": units, "next": "/"})
            self.assertContains(self.client.get(self.url("fell")), f'name="across" value="{shown}"')

    def with_one_line(self):
        """The plan pulled by its single line."""
        plan = planner.plan_for(self.tree)
        plan.system = None
        return plan

    def test_bad_input_lands_on_its_field_and_changes_nothing(self):
        planner.save_plan(self.with_one_line())
        cases = {
            "depth": "90",
            "hinge": "70",
            "opening": "nan",
            "stump": "",
            "lay": "inf",
            "wind": "-1",
            "pull_tie": "40",
            "wedge_count": "12",
            "taper": "14",
            "bypass_side": "",
            "bar": "9000",
            "back_slope": "80",
            "guy_tie": "",
        }
        for field, text in cases.items():
            with self.subTest(field=field):
                also = {"bypass": "2"} if field == "bypass_side" else {"guy_limit": "10"} if field == "guy_tie" else {}
                answer = self.post(**{field: text, "save": "1"}, **also)
                self.assertIn(field, answer["errors"])
                self.assertEqual(answer["fragments"], {})
        self.assertAlmostEqual(planner.plan_for(self.tree).depth, 0.17)

    def test_a_lay_of_365_is_taken_as_5_and_says_so(self):
        answer = self.post(lay="365", save="1")
        self.assertEqual(answer["values"]["lay"], "5")
        self.assertIn("5.0°", answer["notes"]["lay"])

    def test_a_lay_of_2655_is_a_slip_of_the_hand(self):
        before = planner.plan_for(self.tree).lay
        self.assertIn("2655° is outside", self.post(lay="2655", save="1")["errors"]["lay"][0])
        self.assertEqual(planner.plan_for(self.tree).lay, before)

    def test_a_guy_that_may_carry_nothing_is_refused_at_its_field(self):
        guy = {"guy_tie": "10", "guy_azimuth": "20", "guy_distance": "12"}
        answer = self.post(**guy, guy_limit="0", save="1")
        self.assertIn("0\xa0kN is outside 0.1\xa0kN to 500\xa0kN", answer["errors"]["guy_limit"][0])
        self.assertTrue(self.post(**guy, guy_limit="3", save="1")["saved"])

    def test_a_preview_saves_nothing_and_dragging_turns_a_point_into_a_value(self):
        answer = self.post(handle="depth", x="320", y="100", frame="200,165,400")
        # x = (320 − 200)/400 = 0.3 m from the middle; the front stands at 0.41
        self.assertEqual(answer["values"]["depth"], "11")
        self.assertAlmostEqual(planner.plan_for(self.tree).depth, 0.17)

    def test_taking_a_school_sets_its_usual_value(self):
        answer = self.post(handle="take depth third", save="1")
        self.assertEqual((answer["values"]["depth"], answer["values"]["depth_school"]), ("27.33", "third"))
        answer = self.post(handle="take thickness inches", save="1")
        self.assertEqual((answer["values"]["hinge"], answer["values"]["thickness_school"]), ("4.5", "inches"))

    def test_undo_steps_back_through_every_change(self):
        for depth in ("18", "19", "19"):
            self.post(depth=depth, save="1")
        for wanted in (0.18, 0.17, 0.17):
            self.client.post(self.url("undo"))
            self.tree.refresh_from_db()
            self.assertAlmostEqual(planner.plan_for(self.tree).depth, wanted)

    def test_every_page_opens_with_few_queries(self):
        for name, most in (
            ("walk-up", 20),
            ("measure", 26),
            ("method", 26),
            ("fell", 26),
            ("brief", 45),
            ("record", 40),
        ):
            with self.subTest(page=name), CaptureQueriesContext(connection) as queries:
                self.assertEqual(self.client.get(self.url(name)).status_code, 200)
            self.assertLessEqual(len(queries), most, name)

    def sign(self):
        seen = briefing.fingerprint(self.tree)
        data = {"sign-password": "kestrel-lane", "sign-stands": "on", "sign-seen": seen}
        return self.client.post(self.url("sign"), data)

    def test_an_open_gate_blocks_sign_off_and_a_change_needs_it_again(self):
        self.sign()
        self.assertFalse(self.tree.signoffs.exists())
        survey.answer(self.tree, "wind", {"finding": "present"}, self.person)
        self.sign()
        self.assertFalse(self.tree.signoffs.exists(), "present without a response still blocks")
        survey.answer(self.tree, "wind", {"finding": "absent"}, self.person)
        self.sign()
        self.assertTrue(briefing.signed_state(self.tree)["valid"])
        self.post(depth="18", save="1")
        self.tree.refresh_from_db()
        state = briefing.signed_state(self.tree)
        self.assertFalse(state["valid"])
        self.assertEqual(state["changes"], ["felling depth"])
        self.assertContains(self.client.get(self.url("brief")), "Changed after sign-off")

    def test_each_emergency_detail_and_role_blocks_while_it_is_empty(self):
        survey.answer(self.tree, "wind", {"finding": "absent"}, self.person)
        self.assertEqual(briefing.blocks(self.tree), [])
        job = self.tree.job
        for name, words in briefing.EMERGENCY.items():
            kept = getattr(job, name)
            setattr(job, name, "  ")
            job.save()
            self.tree.refresh_from_db()
            self.assertEqual(briefing.blocks(self.tree), [f"Emergency: no {words} is given"])
            setattr(job, name, kept)
            job.save()
        self.tree.refresh_from_db()
        job.roles.filter(role__startswith="Pull").update(name=" ")
        self.assertEqual(briefing.blocks(self.tree), ["Nobody is named at the pull line"])
        job.roles.all().delete()
        self.sign()
        self.assertFalse(self.tree.signoffs.exists())
        self.assertIn("Nobody is named in charge", briefing.blocks(self.tree))

    def test_a_signature_on_figures_since_corrected_has_lapsed(self):
        survey.answer(self.tree, "wind", {"finding": "absent"}, self.person)
        self.sign()
        self.assertTrue(briefing.signed_state(self.tree)["valid"])
        self.tree.signoffs.update(figures="1", results=None)  # as every signature from before is kept
        state = briefing.signed_state(self.tree)
        self.assertEqual((state["valid"], state["corrected"], state["changes"]), (False, True, []))
        self.assertContains(self.client.get(self.url("brief")), "Figures corrected, look again")
        self.sign()
        self.assertTrue(briefing.signed_state(self.tree)["valid"])

    def test_the_record_holds_the_estimate_beside_the_actual(self):
        self.client.post(
            self.url("record"), {"height": "26.2", "lay": "358", "hinge_left": "6", "notes": "Soft under the gate"}
        )
        record = FellingRecord.objects.get()
        self.assertAlmostEqual(math.degrees(record.lay), 358.0)
        page = self.client.get(self.url("record")).content.decode()
        self.assertIn("−85.0°", page)  # 358° against 83° is 85° to the left, not 275° to the right
        self.assertIn("outside the interval", page)
        refused = self.client.post(self.url("record"), {"height": "400", "notes": "typed"})
        self.assertContains(refused, "typed")
        self.assertContains(refused, "130")

    def test_readings_are_kept_combined_and_set_aside(self):
        before = survey.standing(self.tree)[0].height
        self.client.post(
            self.url("reading-new", method="sine"),
            {f"sine-{k}": v for k, v in {"to_top": "38", "top": "42", "to_base": "29", "base": "-3.2"}.items()},
        )
        reading = self.tree.readings.get(method="sine")
        by_hand = 38 * math.sin(math.radians(42)) + 29 * math.sin(math.radians(3.2))
        self.assertAlmostEqual(survey.result_of(reading).value, by_hand, places=6)
        self.assertLess(survey.standing(self.tree)[0].height.sd, before.sd)
        self.client.post(self.url("reading-use", reading_id=reading.pk), {"used": "0"})
        self.assertAlmostEqual(survey.standing(self.tree)[0].height.value, before.value, places=9)

    def test_a_refused_reading_keeps_what_was_typed(self):
        answer = self.client.post(
            self.url("reading-new", method="stick"),
            {
                "stick-distance": "0",
                "stick-stick": "0.66",
                "stick-reach": "0.7",
                "stick-sighted": "0",
                "stick-note": "from the lane",
            },
        )
        self.assertContains(answer, "from the lane")
        self.assertContains(answer, "a tree is sighted from 1")

    def test_five_numbers_make_a_tree_and_absurd_ones_do_not(self):
        five = {
            "name": "Ash",
            "species": "fraxinus_excelsior",
            "state": "bare",
            "diameter": "45",
            "diameter_kind": "measured",
            "height": "19",
            "height_kind": "estimated",
            "spread": "9",
            "lean": "4",
            "lean_azimuth": "370",
            "lean_kind": "estimated",
            "breast": "metric",
            "x": "5",
            "y": "4",
        }
        new = reverse("tree-new", args=[self.tree.job_id])
        for field, bad in (
            ("height", "400"),
            ("diameter", "900"),
            ("spread", "0"),
            ("lean", "80"),
            ("height", ""),
            ("diameter", "-4"),
        ):
            answer = self.client.post(new, five | {field: bad})
            self.assertEqual(answer.status_code, 200)
            self.assertIn(field, answer.context["form"].errors)
        self.assertRedirects(self.client.post(new, five), reverse("walk-up", args=[self.tree.job_id, self.tree.pk + 1]))
        tree = self.tree.job.trees.get(name="Ash")
        self.assertAlmostEqual(math.degrees(tree.lean_azimuth), 10.0)
        self.assertEqual(self.client.get(reverse("fell", args=[tree.job_id, tree.pk])).status_code, 200)

    def test_three_numbers_are_enough_and_it_stands_plumb_until_somebody_says_otherwise(self):
        new = reverse("tree-new", args=[self.tree.job_id])
        page = self.client.get(new).content.decode()
        species = page.split('<select name="species"')[1].split("</select>")[0]
        self.assertIn('<option value=""', species.split("</option>")[0])  # nobody is told what species it is
        self.assertNotIn("selected>", species.split("</option>", 1)[1])
        three = {"species": "fagus_sylvatica", "diameter": "60", "height": "22"}
        for left in three:
            answer = self.client.post(new, {k: v for k, v in three.items() if k != left})
            self.assertEqual(list(answer.context["form"].errors), [left])
        for name in ("Tree 1", "Tree 2"):
            self.assertEqual(self.client.post(new, three).status_code, 302)
            tree = self.tree.job.trees.get(name=name)
            self.assertEqual((tree.lean, tree.lean_kind, tree.state), (0.0, "assumed", "in_leaf"))
            self.assertGreater(tree.spread, 5.0)
        self.client.post(new, three | {"name": "Spar", "spar_top": "30", "height": "9"})
        self.assertAlmostEqual(self.tree.job.trees.get(name="Spar").spar_top, 0.3)

    def test_a_target_round_the_stem_is_refused(self):
        data = {
            "name": "Shed",
            "kind": "building",
            "x": "1",
            "y": "0",
            "long": "6",
            "wide": "3",
            "turned": "0",
            "height": "2",
        }
        answer = self.client.post(self.url("target-new"), {f"target-{k}": v for k, v in data.items()})
        self.assertContains(answer, "The stem stands inside it")
        self.assertFalse(self.tree.job.targets.filter(name="Shed").exists())

    def test_document_is_plain_json(self):
        json.dumps(briefing.document(self.tree), allow_nan=False)
