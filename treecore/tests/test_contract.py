"""Promises of the core: units that come back, documents that are refused by name, docstrings that say units."""

import ast
import importlib
import inspect
import io
import json
import math
import pkgutil
import re
import shutil
import tempfile
import textwrap
import unittest.mock
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

import treecore
from treecore import units
from treecore.__main__ import main
from treecore.errors import BadDocument, CoreError
from treecore.estimate import Estimate, Kind, exactly, propagate
from treecore.formats.plan_document import evaluate_document, load
from treecore.hazards import Answer, Finding, gates
from treecore.kinds import COUNTS, kinds_that
from treecore.release import figures_version
from treecore.schools import constants, schools
from treecore.species import species_table
from treecore.tables import rows
from treecore.typed import parse
from treecore.verdict import Verdict, judge

DEMO = Path(treecore.__file__).parent.parent / "demo" / "kestrel_lane.json"


class Units(TestCase):
    @given(
        st.decimals("0.1", "9999", places=2), st.sampled_from(sorted(units.DIMENSIONS)), st.sampled_from(units.SYSTEMS)
    )
    def test_what_is_typed_comes_back(self, number, dimension, system):
        text = f"{number.normalize():f}"
        self.assertEqual(units.typed(parse(text, dimension, system), dimension, system), text)

    def test_units_typed_out(self):
        for text, system, metres in (
            ("24.5 in", "metric", 0.6223),
            ("7' 6\"", "us", 2.286),
            ("24,5", "metric", 0.245),
            ("62 cm", "us", 0.62),
        ):
            self.assertAlmostEqual(parse(text, "girth", system), metres, places=12, msg=text)

    def test_what_people_type_is_read(self):
        for text, dimension, system, value in (
            ("1,200", "mass", "us", 1200 * 0.45359237),
            ("1,200.5 lb", "mass", "metric", 1200.5 * 0.45359237),
            ("1.200,5", "mass", "metric", 1200.5),
            ("1\u00a0200", "mass", "metric", 1200.0),
            ("1,200,000", "mass", "metric", 1.2e6),
            ("24,5", "length", "us", 24.5 * 0.3048),
            ("0,125", "length", "us", 0.125 * 0.3048),
            ("5'6", "length", "us", 1.6764),
            ("5' 6", "length", "us", 1.6764),
            ("5 ft 6", "length", "metric", 1.6764),
            ("5’6”", "length", "us", 1.6764),
            ("5' 6 1/2\"", "length", "us", 66.5 * 0.0254),
            ("5′ 6½″", "length", "us", 66.5 * 0.0254),
            ("1 1/2", "girth", "us", 0.0381),
            ("½", "girth", "us", 0.0127),
            ("3/4 in", "thin", "metric", 0.01905),
            ('6 1/2"', "girth", "us", 6.5 * 0.0254),
            ("40'", "length", "metric", 12.192),
            ("2 yd", "length", "us", 1.8288),
            ("1.2 t", "mass", "us", 1200.0),
            ("1 short ton", "mass", "metric", 907.18474),
            ("2 long tons", "mass", "us", 2 * 1016.0469088),
            ("500 g", "mass", "us", 0.5),
            ("900 lb", "mass", "metric", 408.233133),
            ("900 lb", "force", "metric", 900 * 0.45359237 * 9.80665),
            ("120 kgf", "force", "us", 1176.798),
            ("12 daN", "small_force", "us", 120.0),
            ("36 km/h", "speed", "us", 10.0),
            ("10 mph", "speed", "metric", 4.4704),
            ("20 kt", "speed", "metric", 20 * 1852 / 3600),
            ("100 %", "fine_angle", "metric", math.pi / 4),
            ("S", "angle", "metric", math.pi),
            ("wsw", "angle", "us", math.radians(247.5)),
            ("NNE", "fine_angle", "us", math.radians(22.5)),
            ("N45E", "angle", "metric", math.pi / 4),
            ("s 30 w", "angle", "us", math.radians(210)),
            ("S10E", "angle", "us", math.radians(170)),
            ("N20°W", "angle", "us", math.radians(340)),
            ("−3.5", "angle", "metric", math.radians(-3.5)),
            ("12 N/mm²", "strength", "us", 12e6),
            ("8 %", "share", "metric", 0.08),
            ("2.5 ft lb", "moment", "metric", 2.5 * 0.3048 * 4.4482216152605),
        ):
            with self.subTest(text=text, dimension=dimension, system=system):
                self.assertAlmostEqual(parse(text, dimension, system) / value, 1.0, places=9)

    def test_what_may_be_two_numbers_is_asked_about(self):
        for text, dimension, system, said in (
            ("1,200", "mass", "metric", "1200 or 1.2"),
            ("2 ton", "mass", "us", "short"),
            ("2 tons", "mass", "metric", "long"),
            ("5' 14\"", "length", "us", "up to 11"),
            ("N120E", "angle", "us", "90°"),
            ("1/0", "girth", "us", "divides by nothing"),
            ("12 kg", "length", "metric", "does not fit"),
            ("3 kN", "mass", "us", "use lb"),
            ("1,2,3", "mass", "us", "not a number"),
            ("1.200.5", "mass", "metric", "not a number"),
            ("1,20.5", "mass", "us", "not a number"),
        ):
            with self.subTest(text=text), self.assertRaises(ValueError) as caught:
                parse(text, dimension, system)
            self.assertIn(said, str(caught.exception))

    def test_what_is_shown_can_be_pasted_back(self):
        for dimension in units.DIMENSIONS:
            for system in units.SYSTEMS:
                shown = units.unit(dimension, system)
                for number in (1.0, 37.0, 1234.0, 98765.0):
                    value = number * shown.factor
                    text = f"{units.show(value, dimension, system)}\u00a0{shown.symbol}"
                    with self.subTest(text=text, dimension=dimension):
                        step = 10.0**-shown.decimals + (0.01 * number if number >= 1000 else 0.0)
                        self.assertAlmostEqual(parse(text, dimension, system) / shown.factor, number, delta=step)

    def test_refused(self):
        for text in ("nan", "inf", "", "12 kg", "--3", "1.2.3"):
            with self.subTest(text=text), self.assertRaises(ValueError):
                parse(text, "length", "metric")


class Intervals(TestCase):
    def test_spread_of_a_product(self):
        s = propagate(lambda x: {"made": x["a"] * x["b"]}, {"a": Estimate(10, 9, 12, Kind.MEASURED), "b": exactly(3.0)})
        made = s["made"]
        self.assertEqual((made.low, made.value, made.high, made.widest), (27.0, 30.0, 36.0, "a"))

    def test_spread_adds_squares(self):
        s = propagate(
            lambda x: {"sum": x["a"] + x["b"]},
            {"a": Estimate(0, -3, 3, Kind.MEASURED), "b": Estimate(0, -4, 4, Kind.MEASURED)},
        )
        self.assertAlmostEqual(s["sum"].high, 5.0, places=12)

    def test_the_version_of_the_figures_goes_by_every_number_and_by_no_word(self):
        now = figures_version.__wrapped__()
        self.assertRegex(now, r"^\d+-[0-9a-f]{12}$")
        self.assertEqual(now, figures_version())
        with tempfile.TemporaryDirectory() as there:
            shutil.copytree(Path(treecore.__file__).parent / "data", Path(there) / "data")
            table = Path(there) / "data" / "constants.csv"
            with unittest.mock.patch("treecore.release.files", lambda _: Path(there)):
                self.assertEqual(figures_version.__wrapped__(), now)
                text = table.read_text(encoding="utf-8")
                table.write_text(text.replace("own choice", "our own choice"), encoding="utf-8")
                self.assertEqual(figures_version.__wrapped__(), now)
                table.write_text(text.replace("drag,0.6,", "drag,0.61,"), encoding="utf-8")
                self.assertNotEqual(figures_version.__wrapped__(), now)

    def test_verdicts(self):
        limit = Estimate(10, 9, 11, Kind.ESTIMATED)
        for demand, verdict in ((5, Verdict.WITHIN), (9.5, Verdict.NEAR), (10.5, Verdict.OVER)):
            self.assertEqual(judge(exactly(demand), limit), verdict)
        self.assertEqual(judge(exactly(9.5), limit, least=True), Verdict.OVER)


class Documents(TestCase):
    def run_on(self, text):
        with tempfile.NamedTemporaryFile("w", suffix=".json") as file:
            file.write(text)
            file.flush()
            out, err = io.StringIO(), io.StringIO()
            with redirect_stdout(out), redirect_stderr(err):
                status = main(["evaluate", file.name])
        return status, out.getvalue(), err.getvalue()

    def test_every_refusal_is_named(self):
        plan = json.loads(DEMO.read_text())
        plan["trees"][0]["lean_deg"], plan["trees"][1]["spread_m"] = 80.0, 900.0
        status, out, err = self.run_on(json.dumps(plan))
        self.assertEqual((status, out, len(err.splitlines())), (2, "", 2))
        self.assertIn("lean", err.splitlines()[0])
        self.assertIn("spread", err.splitlines()[1])
        plan["trees"][0] |= {"spread_m": "wide", "limbs": 4}
        self.assertEqual(len(self.run_on(json.dumps(plan))[2].splitlines()), 2)
        plan = json.loads(DEMO.read_text())
        plan["trees"][1]["takedown"]["picks"][2]["at_m"] = 60.0
        status, out, err = self.run_on(json.dumps(plan))
        self.assertEqual(status, 0)
        self.assertIn("pick 3: ", err)

    def test_the_demo_evaluates(self):
        status, out, _ = self.run_on(DEMO.read_text())
        self.assertEqual(status, 0)
        tree = json.loads(out)["trees"][0]
        self.assertEqual(tree["gates_open"], ["wind"])
        self.assertEqual(tree["felling"]["figures"]["hinge_length"]["unit"], "m")
        self.assertAlmostEqual(
            tree["felling"]["figures"]["hinge_length"]["value"],
            2 * 0.78 * math.sqrt(17 / 82 - (17 / 82) ** 2),
            places=12,
        )

    def test_bad_documents_name_the_field_and_exit_2(self):
        text = DEMO.read_text()
        cases = [
            ('"height_m": 26,', '"height_m": "tall",', "height_m"),
            ('"depth_m": 0.17', '"depth_m": 1.7', "depth"),
            ('"opening_deg": 70', '"opening_deg": NaN', "NaN"),
            ('"species": "abies_grandis"', '"species": "money_tree"', "species"),
            ('"version": 4', '"version": 7', "version"),
            ('"hazard": "decay"', '"hazard": "dragons"', "dragons"),
            ('"girth_m": 2.335', '"girth_m": 0', "girth"),
            ('"lay_deg": 83', '"lay_dgr": 83', "lay_dgr"),
            ('"toward_m": 0}', '"towards_m": 0}', "towards"),
        ]
        for old, new, named in cases:
            with self.subTest(named=named):
                self.assertIn(old, text)
                status, out, err = self.run_on(text.replace(old, new, 1))
                self.assertEqual((status, out), (2, ""))
                self.assertIn(named, err)

    def test_nothing_evaluates_to_nan(self):
        json.dumps(evaluate_document(load(DEMO.read_text())), allow_nan=False)
        with self.assertRaises(BadDocument):
            load("[]")


class Gates(TestCase):
    def test_not_looked_at_and_unanswered_are_open(self):
        def state(answer):
            return next(g.open for g in gates({"root_plate": answer}) if g.hazard.key == "root_plate")

        self.assertTrue(state(Answer(Finding.NOT_LOOKED)))
        self.assertTrue(state(Answer(Finding.PRESENT)))
        self.assertFalse(state(Answer(Finding.PRESENT, "referred")))
        self.assertFalse(state(Answer(Finding.ABSENT)))
        self.assertTrue(all(g.open for g in gates({})))
        with self.assertRaises(CoreError):
            gates({"dragons": Answer(Finding.ABSENT)})


class Tables(TestCase):
    def test_what_a_kind_of_thing_counts_as_is_said_once(self):
        for row in rows("site_kinds"):
            for count in COUNTS:
                self.assertIn(row[count], ("yes", "no"), f"{row['key']} {count}")
        self.assertEqual(kinds_that("carries"), {"tree", "anchor_tree"})
        self.assertEqual(kinds_that("walked"), {"lane", "people", "conductor", "line"})
        self.assertFalse({"people", "conductor"} & kinds_that("lightly"))
        self.assertLess({"building", "people", "water"}, kinds_that("dropped_on"))
        self.assertFalse({"lane", "water"} & kinds_that("passed"))

    def test_every_figure_has_a_source_and_recalled_ones_are_wide(self):
        for row in species_table().values():
            for estimate, source in (
                (row.density, row.density_source),
                *((getattr(row, n), row.sources[n]) for n in ("mor", "moe", "compression", "shear")),
            ):
                self.assertTrue(source, row.key)
                if "recalled" in source:
                    self.assertGreaterEqual((estimate.high - estimate.low) / estimate.value, 0.2, row.key)
        self.assertTrue(all(c.source for c in constants().values()))
        for choice in ("notch", "depth", "thickness", "backcut", "zone", "breast"):
            self.assertTrue(all(s.reason and s.low <= s.usual <= s.high for s in schools(choice).values()))


class Handbook(TestCase):
    def test_spot_values_of_green_wood(self):
        # FPL-GTR-190 (2010) table 5-3a, green: specific gravity; MOR, compression and shear parallel [MPa], MOE [GPa].
        spots = {
            "pseudotsuga_menziesii": (0.45, 53, 26.1, 6.2, 10.8),
            "robinia_pseudoacacia": (0.66, 95, 46.9, 12.1, 12.8),
            "acer_saccharum": (0.56, 65, 27.7, 10.1, 10.7),
            "populus_tremuloides": (0.35, 35, 14.8, 4.6, 5.9),
            "quercus_alba": (0.60, 57, 24.5, 8.6, 8.6),
            "thuja_plicata": (0.31, 36, 19.1, 5.3, 6.5),
        }
        for key, (gravity, mor, compression, shear, moe) in spots.items():
            with self.subTest(species=key):
                row = species_table()[key]
                self.assertAlmostEqual(row.basic, 1000 * gravity, delta=5)
                for figure, value in ((row.mor, mor), (row.compression, compression), (row.shear, shear)):
                    self.assertAlmostEqual(figure.value / 1e6, value, delta=0.5)
                self.assertAlmostEqual(row.moe.value / 1e9, moe, delta=0.05)
                # Green density = basic density times 1 + moisture: living wood holds 30 to 200 % water.
                self.assertTrue(0.3 <= row.moisture <= 2.0, row.moisture)

    def test_at_least_sixty_species_of_both_continents(self):
        rows = species_table().values()
        self.assertGreaterEqual(len(rows), 60)
        for region in ("Europe", "North America"):
            self.assertGreaterEqual(sum(r.region == region for r in rows), 25)
        self.assertTrue(
            all(set(r.sources) == {"density", "basic", "mor", "moe", "compression", "shear", "habit"} for r in rows)
        )


class Docstrings(TestCase):
    """Signature and docstring agree, and numbers carry a unit."""

    def functions(self):
        for info in pkgutil.walk_packages(treecore.__path__, "treecore."):
            if ".tests" in info.name:
                continue
            module = importlib.import_module(info.name)
            for name, member in vars(module).items():
                if inspect.isfunction(member) and member.__module__ == info.name and not name.startswith("_"):
                    yield f"{info.name}.{name}", member

    def test_every_public_function(self):
        for name, function in self.functions():
            doc = inspect.getdoc(function) or ""
            taken = list(inspect.signature(function).parameters.items())
            with self.subTest(function=name):
                self.assertTrue(doc)
                if len(taken) > 1 or "Parameters" in doc:
                    section = doc.partition("Parameters\n")[2]
                    named = {n.strip() for line in re.findall(r"^([\w, ]+) : ", section, re.M) for n in line.split(",")}
                    self.assertEqual({n for n, _ in taken}, named & {n for n, _ in taken})
                for parameter, told in taken:
                    if re.search(r"\b(float|Column|Array)\b", str(told.annotation)) and "Parameters" in doc:
                        self.assertIn("[", self.said(doc).get(parameter, ""), parameter)

    @staticmethod
    def said(doc):
        """What the docstring says of each parameter."""
        section, found, named = re.split(r"\n\n(?=\w+\n-+)", doc.partition("Parameters\n")[2])[0], {}, ()
        for line in section.splitlines()[1:]:
            entry = re.match(r"^([\w, ]+) : ", line)
            named = [n.strip() for n in entry.group(1).split(",")] if entry else named
            found |= {name: found.get(name, "") + line for name in named}
        return found

    def test_what_raises_says_so(self):
        for name, function in self.functions():
            tree = ast.parse(textwrap.dedent(inspect.getsource(function)))
            caught = {id(n) for t in ast.walk(tree) if isinstance(t, ast.Try) for b in t.body for n in ast.walk(b)}
            raised = [n.exc for n in ast.walk(tree) if isinstance(n, ast.Raise) and id(n) not in caught]
            if any(isinstance(e, ast.Call) for e in raised):
                with self.subTest(function=name):
                    self.assertIn("Raises", inspect.getdoc(function))
