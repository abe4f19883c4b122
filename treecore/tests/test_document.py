"""The declarations of the plan document: decoded, encoded, published as a schema, held to their ranges."""

import dataclasses
import json
import math
import os
import subprocess
import sys
from copy import deepcopy
from pathlib import Path
from unittest import TestCase

import jsonschema
from hypothesis import given
from hypothesis import strategies as st

import treecore
from treecore.document import codec, results
from treecore.document.choices import keys
from treecore.document.felling import (
    FellingEntry,
    GuyEntry,
    LogEntry,
    PartEntry,
    PullEntry,
    RopeEntry,
    SystemEntry,
    TackleEntry,
    WedgesEntry,
)
from treecore.document.fields import ID, bare, for_core, from_si, of_core, specs, to_si, unit_of, usual
from treecore.document.gear import DeviceReadingEntry, GearEntry
from treecore.document.site import OriginEntry, SiteEntry, TargetEntry
from treecore.document.takedown import AccessEntry, ClimberEntry, PickEntry, SecondTieEntry
from treecore.document.tree import LimbEntry, ReadingEntry, TreeEntry
from treecore.document.versions import VERSION, upgraded
from treecore.document.whole import PlanDocument
from treecore.errors import BadDocument, CoreError, OutOfRange
from treecore.formats.felling_entry import felling_of, log_of, system_of
from treecore.formats.plan_document import evaluate_document, limb_of, load, site_of, tree_of
from treecore.formats.takedown_entry import access_of, item_of, pick_of, weighing_of
from treecore.ranges import ranges
from treecore.rigging.pulling import Part
from treecore.tests.sound_plans import FELLINGS, TAKEDOWNS
from treecore.units import DIMENSIONS

ROOT = Path(treecore.__file__).parent
SOUND = FELLINGS | TAKEDOWNS
DEMO = json.loads((ROOT.parent / "demo" / "kestrel_lane.json").read_text())


def entries():
    return codec._entries(PlanDocument)


FIRST_AT_ONCE = """
import json, sys, threading
sys.setswitchinterval(1e-6)
from treecore.document import codec
from treecore.document.tree import TreeEntry
from treecore.document.whole import PlanDocument
plan = json.load(open("demo/kestrel_lane.json", encoding="utf-8"))
start = threading.Barrier(12)
def read(number):
    start.wait()
    codec.decode(*((PlanDocument, plan) if number % 2 else (TreeEntry, plan["trees"][0])))
threads = [threading.Thread(target=read, args=(n,)) for n in range(12)]
[t.start() for t in threads]
[t.join() for t in threads]
"""


class Threads(TestCase):
    def test_the_first_plans_of_a_process_may_be_read_by_several_threads(self):
        done = subprocess.run(
            [sys.executable, "-c", FIRST_AT_ONCE],
            cwd=ROOT.parent,
            env=os.environ | {"PYTHONPATH": str(ROOT.parent)},
            capture_output=True,
            check=False,
        )
        self.assertEqual((done.returncode, done.stderr), (0, b""))


class Declarations(TestCase):
    def test_every_field_says_what_it_is_and_names_what_exists(self):
        for entry in entries():
            for key, spec in specs(entry).items():
                with self.subTest(field=f"{entry.__name__}.{key}"):
                    self.assertTrue(spec.label)
                    self.assertIn(spec.range, {"", *ranges()})
                    self.assertIn(spec.dimension, {"", *DIMENSIONS})
                    if spec.range and spec.dimension:
                        self.assertEqual(unit_of(key) != "" or spec.dimension == "share", True)
                    if spec.closed and spec.choices:
                        self.assertTrue(keys(spec.choices))

    def test_defaults_are_among_their_choices_and_in_their_ranges(self):
        for entry in entries():
            for field in dataclasses.fields(entry):
                spec, value = specs(entry)[field.name], field.default
                if value is dataclasses.MISSING or value is None:
                    continue
                with self.subTest(field=f"{entry.__name__}.{field.name}"):
                    if keys(spec.choices) and not (spec.choices == "constructions" or value == ""):
                        self.assertIn(value, keys(spec.choices))
                    if spec.range and isinstance(value, float | int):
                        row = ranges()[spec.range]
                        self.assertTrue(row.low <= to_si(field.name, value) <= row.high)

    def test_what_is_left_out_stands_for_what_it_always_did(self):
        """A file that leaves a field out must go on meaning the same: what it meant is written down here by hand."""
        for entry, meant in (
            (
                PickEntry,
                {
                    "method": "butt",
                    "cut": "hinge",
                    "tie_m": 0.5,
                    "slack_m": 0.0,
                    "held": "soft",
                    "run_m": 2.0,
                    "wraps": 2.0,
                    "knot": "running_bowline",
                    "sling_as": "choked",
                    "design_school": "5",
                    "pretension_N": 0.0,
                    "head_m": 1.5,
                    "sag": 0.1,
                    "bed": "none",
                    "bed_depth_m": 0.0,
                    "bed_radius_m": 3.0,
                    "device_kind": "bollard",
                    "setting": 2,
                },
            ),
            (ClimberEntry, {"line_m": 45.0, "lanyard": True}),
            (TackleEntry, {"knot": "unknown", "sling_m": 0.5, "design_school": "5", "people": 2}),
            (
                PartEntry,
                {"height_m": 0.5, "people": 2, "force_N": 0.0, "mass_kg": 2000.0, "ground": "grass", "turns": 0.0},
            ),
            (WedgesEntry, {"count": 0, "stacked": 1, "kind": "plastic", "place_deg": 0.0}),
            (GearEntry, {"wear": "good", "months": 6}),
        ):
            with self.subTest(entry=entry.__name__):
                self.assertEqual(usual(entry), meant)

    def test_units_by_the_keys_ending(self):
        for key, value, si, plain in (
            ("opening_deg", 90.0, math.pi / 2, "opening"),
            ("density_kg_m3", 900.0, 900.0, "density"),
            ("moe_GPa", 9.5, 9.5e9, "moe"),
            ("wind_m_s", 12.0, 12.0, "wind"),
            ("weighed_kg", 80.0, 80.0, "weighed"),
            ("people", 3.0, 3.0, "people"),
        ):
            self.assertAlmostEqual(to_si(key, value), si, places=9)
            self.assertEqual(bare(key), plain)
        self.assertEqual(from_si("opening_deg", math.radians(73.1)), 73.1)


class Codec(TestCase):
    def test_what_is_sound_comes_back_from_its_entries(self):
        for name, plan in SOUND.items():
            with self.subTest(plan=name):
                whole = codec.decode(PlanDocument, plan)
                self.assertEqual(codec.decode(PlanDocument, codec.encode(whole)), whole)
                self.assertEqual(evaluate_document(codec.encode(whole)), evaluate_document(plan))

    @given(st.builds(PickEntry, at_m=st.floats(0, 40), slack_m=st.floats(0, 5), sag=st.floats(0.05, 0.4)))
    def test_any_pick_comes_back_through_json(self, pick):
        self.assertEqual(codec.decode(PickEntry, json.loads(json.dumps(codec.encode(pick)))), pick)

    def test_defaults_are_left_out_and_nothing_else(self):
        self.assertEqual(codec.encode(PickEntry(at_m=3.0, tie_m=0.5, wraps=1.5)), {"at_m": 3.0, "wraps": 1.5})
        self.assertEqual(codec.encode(AccessEntry()), {})

    def test_null_counts_as_left_out(self):
        self.assertEqual(codec.decode(PickEntry, {"at_m": 3, "wraps": None}), PickEntry(at_m=3.0))

    def test_refused_by_name(self):
        for entry, row, field in (
            (PickEntry, {"at_m": "high"}, "at_m"),
            (PickEntry, {}, "at_m"),
            (PickEntry, {"at_m": 1.0, "girth": 2}, "girth"),
            (PickEntry, {"at_m": 1.0, "climber": {"stance_m": "x", "tie_m": 1}}, "climber.stance_m"),
            (GearEntry, {"name": "Rope", "kind": "rope", "months": 1.5}, "months"),
        ):
            with self.subTest(field=field), self.assertRaises(BadDocument) as caught:
                codec.decode(entry, row)
            self.assertEqual(caught.exception.field, field)

    def test_an_object_of_the_core_is_written_as_its_entry(self):
        part = Part(name="Block", kind="block", x=3.25, y=-1.5, height=2.0, trunk=0.4)
        self.assertEqual(Part(**for_core(of_core(PartEntry, part))), part)


class Schema(TestCase):
    def test_the_published_one_is_current(self):
        self.assertEqual((ROOT / codec.FILE).read_text(encoding="utf-8"), codec.write())

    def test_it_is_a_schema_and_the_demo_and_every_sound_plan_follow_it(self):
        jsonschema.Draft202012Validator.check_schema(codec.published())
        check = jsonschema.Draft202012Validator(codec.published())
        for document in (DEMO, *SOUND.values()):
            self.assertEqual([e.message for e in check.iter_errors(document)], [])

    def test_quantities_say_their_unit_and_the_ends_believed(self):
        picks = codec.published()["$defs"]["pick"]["properties"]
        self.assertEqual((picks["opening_deg"]["minimum"], picks["opening_deg"]["maximum"]), (10, 120))
        self.assertIn("[deg]", picks["opening_deg"]["description"])
        self.assertEqual((picks["throat_m"]["minimum"], picks["throat_m"]["maximum"]), (0.05, 1.5))
        for part in codec.published()["$defs"].values():
            for key, shape in part["properties"].items():
                self.assertTrue(not unit_of(key) or "description" in shape, key)

    def test_every_end_that_is_published_is_refused_beyond_by_the_core(self):
        """What the schema says is what the core refuses: one range for one number."""
        for entry, (plain, build) in BUILT.items():
            for key, spec in specs(entry).items():
                for end, beyond in zip(ranges().get(spec.range, ())[:2], (-1.0, 1.0), strict=False):
                    with self.subTest(field=f"{entry.__name__}.{key}", end=end):
                        wrong = from_si(key, end + beyond * max(abs(end) * 0.01, 1e-3))
                        whole = isinstance(specs_default(entry, key), int)
                        with self.assertRaises(CoreError):
                            build(plain | {key: int(end + beyond) if whole else wrong})

    def test_no_range_is_left_out_of_that(self):
        ranged = {e for e in entries() if any(s.range for s in specs(e).values())}
        self.assertEqual({e.__name__ for e in ranged - set(BUILT)}, {"WoodEntry"})


def specs_default(entry, key):
    return next(f.default for f in dataclasses.fields(entry) if f.name == key)


TREE_ROW = {
    "name": "Maple", "species": "acer_campestre", "diameter_m": 0.38, "height_m": 13.0, "spread_m": 8.0,
    "lean_deg": 6.0,
    "lean_azimuth_deg": 200.0,
}  # fmt: skip
FELLING = {"lay_deg": 200.0, "depth_m": 0.1, "opening_deg": 60.0, "hinge_m": 0.04, "rise_m": 0.03}
LINE = {"tie_m": 5.0, "azimuth_deg": 200.0, "distance_m": 20.0}
LIMB = {"name": "Bough", "at_m": 5.0, "azimuth_deg": 80.0, "rise_deg": 30.0, "length_m": 3.0, "diameter_m": 0.1}
PULL = {
    "tie_m": 6.0,
    "parts": [{"name": "Hands", "kind": "people", "x_m": 20.0, "y_m": 3.0}],
    "ropes": [{"name": "Line", "path": ["tree", "Hands"]}],
}
TREE = tree_of(TREE_ROW)[0]
CLIMBER = {"stance_m": 4.0, "tie_m": 7.0}
READING = {"quantity": "height", "method": "rope", "arguments": {"length_m": 30, "on_ground_m": 2, "above_m": 1}}


def felled(**more):
    return felling_of(FELLING | more, TREE, site_of({}, {}))


def plan(**more):
    return evaluate_document(load(json.dumps({"schema": "cantrel-plan", "version": 4, "trees": [TREE_ROW]} | more)))


# An entry of each declaration that is sound, and what builds the core's object of it.
BUILT = {
    PickEntry: ({"at_m": 5.0, "method": "free"}, lambda row: (pick_of(row, {}), weighing_of(row))),
    ClimberEntry: (CLIMBER, lambda row: pick_of({"at_m": 5.0, "method": "free", "climber": row}, {})),
    SecondTieEntry: ({"at_m": 6.0}, lambda row: pick_of({"at_m": 5.0, "method": "free",
    "climber": CLIMBER | {"second": row}}, {})),
    AccessEntry: ({}, access_of),
    GearEntry: ({"name": "Rope", "kind": "rope"}, item_of),
    DeviceReadingEntry: (
        {"load_N": 900.0, "wraps": 1.0, "hand_N": 200.0},
        lambda row: item_of({"name": "Bollard", "kind": "bollard", "readings": [row]}),
    ),
    FellingEntry: (FELLING, lambda row: plan(trees=[TREE_ROW | {"felling": row}])),
    WedgesEntry: ({}, lambda row: felled(wedges=row)),
    PullEntry: (LINE | {"force_N": 900.0}, lambda row: felled(pull=row)),
    GuyEntry: (LINE | {"limit_N": 900.0}, lambda row: felled(guy=row)),
    TackleEntry: ({}, lambda row: felled(guy=LINE | {"limit_N": 900.0, "tackle": row})),
    SystemEntry: (PULL, system_of),
    PartEntry: (PULL["parts"][0], lambda row: system_of(PULL | {"parts": [row]})),
    RopeEntry: (PULL["ropes"][0], lambda row: system_of(PULL | {"ropes": [row]})),
    LogEntry: ({"from_m": 1.0, "to_m": 5.0, "supports_m": [0.5, 3.0]}, lambda row: log_of(row, TREE)),
    LimbEntry: (LIMB, limb_of),
    TreeEntry: (TREE_ROW, lambda row: plan(trees=[row])),
    ReadingEntry: (READING, lambda row: tree_of(TREE_ROW | {"readings": [row]})),
    TargetEntry: (
        {"name": "Wire", "kind": "anchor_tree", "shape": "spot", "outline_m": [[9.0, 9.0]]},
        lambda row: plan(site={"targets": [row]}),
    ),
    SiteEntry: ({}, lambda row: plan(site=row)),
    OriginEntry: ({"lat_deg": 5.0, "lon_deg": 6.0}, lambda row: plan(site={"origin": row})),
}  # fmt: skip


class Ids(TestCase):
    def test_what_can_be_edited_has_a_name_that_stays(self):
        named = {e.__name__ for e in entries() if "id" in specs(e)}
        wanted = {
            "PickEntry",
            "TargetEntry",
            "LimbEntry",
            "PartEntry",
            "RopeEntry",
            "ReadingEntry",
            "AnswerEntry",
            "GearEntry",
        }
        self.assertEqual(wanted - named, set())
        self.assertRegex("p01ab", ID)
        self.assertNotRegex("7", ID)

    def test_an_id_of_another_form_is_refused(self):
        wrong = deepcopy(DEMO)
        wrong["trees"][0].setdefault("takedown", {"picks": []})["picks"] = [{"id": "7", "at_m": 5.0}]
        with self.assertRaises(CoreError) as caught:
            load(json.dumps(wrong))
        self.assertIn("picks[0].id", caught.exception.field)
        self.assertNotIsInstance(caught.exception, OutOfRange)


class Versions(TestCase):
    """One file of every version there was is kept beside the tests, and opens as today's."""

    FILES = sorted((Path(__file__).parent / "versions").glob("*.json"), key=lambda path: int(path.stem))

    def test_a_file_of_every_version_is_kept(self):
        self.assertEqual([int(path.stem) for path in self.FILES], list(range(1, VERSION + 1)))

    def test_each_opens_and_comes_to_the_same(self):
        results = []
        for path in self.FILES:
            with self.subTest(version=path.stem):
                document = load(path.read_text())
                self.assertEqual(document["version"], VERSION)
                results.append(evaluate_document(document))
        self.assertTrue(all(found == results[-1] for found in results))

    def test_a_setting_told_by_wraps_is_said(self):
        picks = load(self.FILES[0].read_text())["trees"][0]["takedown"]["picks"]
        self.assertEqual([pick.get("setting") for pick in picks], [1, 2, None])
        self.assertEqual(picks[2]["wraps"], 2.5)

    def test_shapes_that_are_no_plan_are_left_for_the_schema_to_name(self):
        for trees in (5, [5], [{"takedown": 5}], [{"takedown": {"picks": 5}}], [{"takedown": {"picks": [5]}}]):
            with self.subTest(trees=trees), self.assertRaises(BadDocument) as caught:
                load(json.dumps({"schema": "cantrel-plan", "version": 1, "trees": trees}))
            self.assertTrue(caught.exception.field.startswith("trees"))


class ResultsSchema(TestCase):
    def test_the_published_one_is_current(self):
        self.assertEqual((ROOT / results.FILE).read_text(encoding="utf-8"), results.write())

    def test_every_plan_comes_to_what_it_says(self):
        check = jsonschema.Draft202012Validator(results.published())
        for name, plan in (SOUND | {"demo": DEMO}).items():
            with self.subTest(plan=name):
                found = json.loads(json.dumps(evaluate_document(upgraded(plan))))
                self.assertEqual([f"{e.json_path}: {e.message}"[:200] for e in check.iter_errors(found)][:3], [])
