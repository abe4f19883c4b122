"""Bodies and sites in the plan document: the command prints them, names what is wrong, and yard rows travel along."""

import copy
import json
import math
from unittest import TestCase

from treecore.errors import BadDocument, CoreError
from treecore.formats.plan_document import evaluate_document, load
from treecore.tests.validation.test_odd_oak import DOCUMENT
from treecore.tree.limb import UNIONS

LIMB = {"name": "Bough", "at_m": 7.2, "azimuth_deg": 110, "rise_deg": 25, "length_m": 6.5, "diameter_m": 0.19}
CHILD = {
    "name": "Fork",
    "parent": "Bough",
    "at_m": 3.0,
    "azimuth_deg": 90,
    "rise_deg": 40,
    "length_m": 3,
    "diameter_m": 0.08,
}
YARD = {"common": "Our oak", "density_kg_m3": [1120, 1060, 1180], "source": "Weighed at the yard"}


def document(**tree):
    made = copy.deepcopy(DOCUMENT)
    made["trees"][0] |= tree
    return made


def evaluated(made):
    return evaluate_document(load(json.dumps(made)))["trees"][0]


class Bodies(TestCase):
    def test_limbs_are_printed_with_balance_tie_and_rule(self):
        out = evaluated(document(limbs=[LIMB, CHILD], replaced=[0, 4]))
        bough, fork = out["limbs"]
        self.assertEqual((bough["name"], fork["name"]), ("Bough", "Fork"))
        self.assertGreater(bough["mass"]["value"], fork["mass"]["value"])
        self.assertAlmostEqual(bough["two_thirds_m"], 6.5 * 2 / 3, delta=1e-3)
        self.assertEqual(bough["tie_up_to_m"], bough["balance"]["low"])
        self.assertEqual(bough["mass"]["unit"], "kg")

    def test_oval_points_hollows_and_forks_change_the_stem(self):
        base = evaluated(document())["standing"]["stem_mass"]["value"]
        for change, heavier in (
            ({"diameter_across_m": 0.8}, False),
            ({"points": [{"height_m": 0.1, "diameter_m": 1.5}]}, True),
            ({"cavities": [{"low_m": 0.5, "high_m": 4.0, "across_m": 0.4}]}, False),
            ({"fork_m": 9.0, "limbs": [LIMB | {"codominant": True, "at_m": 8.8}]}, False),
        ):
            with self.subTest(change=change):
                got = evaluated(document(**change))["standing"]["stem_mass"]["value"]
                self.assertEqual(got > base, heavier)

    def test_an_oval_stem_without_stump_diameters_takes_them_along_and_across_the_lay(self):
        felling = {k: v for k, v in DOCUMENT["trees"][0]["felling"].items() if k not in ("along_m", "across_m")}
        round_, oval = (
            evaluated(
                document(
                    felling=felling,
                    diameter_m=0.9 * math.sqrt(r),
                    diameter_across_m=0.9 / math.sqrt(r),
                    oval_azimuth_deg=331,
                )
            )
            for r in (1.0, 1.2)
        )
        rooms = [t["felling"]["figures"]["room"]["value"] for t in (round_, oval)]
        self.assertGreater(rooms[1], rooms[0])
        lengths = [t["felling"]["figures"]["hinge_length"]["value"] for t in (round_, oval)]
        self.assertLess(lengths[1], lengths[0])

    def test_a_yards_own_row_weighs_the_tree(self):
        plain, own = evaluated(document()), evaluated(document(yard=YARD))
        ratio = own["standing"]["stem_mass"]["value"] / plain["standing"]["stem_mass"]["value"]
        self.assertAlmostEqual(ratio, 1120 / 1010, places=9)

    def test_weak_places_are_printed(self):
        for union in UNIONS:
            out = evaluated(document(limbs=[LIMB | {"union": union}]))
            self.assertEqual(len(out["weak_places"]), 0 if union == "sound" else 1)


class Refused(TestCase):
    def test_each_names_its_tree_and_field(self):
        cases = {
            "limb Bough diameter": {"limbs": [LIMB | {"diameter_m": 2.0}]},
            "limb Fork parent": {"limbs": [CHILD]},
            "limb Bough": {"limbs": [LIMB, LIMB]},
            "cavity_across": {"cavities": [{"low_m": 0.5, "high_m": 4.0, "across_m": 2.0}]},
            "cavity_low": {"cavities": [{"low_m": 5.5, "high_m": 4.0, "across_m": 0.2}]},
            "fork": {"fork_m": 9.0},
            "diameter_across": {"diameter_across_m": 44.0},
            "density": {"yard": YARD | {"density_kg_m3": [9000, 8000, 9900]}},
            "hinge": {"yard": YARD | {"hinge": "never"}},
            "point_diameter": {"points": [{"height_m": 5, "diameter_m": 2.0}]},
        }
        for field, change in cases.items():
            with self.subTest(field=field), self.assertRaises(BadDocument) as caught:
                evaluated(document(**change))
            self.assertIn("Odd oak", caught.exception.field)
            self.assertTrue(caught.exception.why.startswith(field), caught.exception.why)

    def test_the_schema_refuses_what_it_does_not_know(self):
        for change in (
            {"limbs": [{"name": "x"}]},
            {"limbs": [LIMB | {"union": "glued"}]},
            {"replaced": ["one"]},
            {"yard": {"mor_MPa": [1]}},
        ):
            with self.subTest(change=change), self.assertRaises(BadDocument) as caught:
                evaluated(document(**change))
            self.assertTrue(caught.exception.field.startswith("trees[0]"))

    def test_sites(self):
        def with_targets(*targets):
            made = document()
            made["site"]["targets"] = list(targets)
            return made

        wire = {
            "name": "Wire",
            "kind": "conductor",
            "shape": "line",
            "outline_m": [[-30, 20], [30, 20]],
            "ends_m": [7, 7],
            "voltage": "low",
        }
        limits = evaluated(with_targets(wire))["felling"]["limits"]
        self.assertEqual(
            [row["about"] for row in limits if row["key"] == "conductor"], [{"name": "Wire", "role": "standing"}]
        )
        with self.assertRaises(CoreError) as caught:
            evaluated(with_targets(wire | {"voltage": "1"}))
        self.assertIn("Wire voltage", str(caught.exception))
        for text in ("[" * 100_000, '{"version": ' + "9" * 5000 + "}"):
            with self.assertRaises(CoreError):
                load(text)
        crossed = {"name": "Bow", "outline_m": [[0, 0], [9, 9], [9, 0], [0, 9]]}
        round_stem = {"name": "Ring", "kind": "building", "outline_m": [[-9, -9], [9, -9], [9, 9], [-9, 9]]}
        for bad, word in (
            (crossed, "crosses itself"),
            (round_stem, "stem stands inside"),
            (wire | {"sag_m": 15}, "sag"),
        ):
            with self.subTest(word=word), self.assertRaises(BadDocument) as caught:
                evaluated(with_targets(bad))
            self.assertIn(word, caught.exception.why)
        lawn = evaluated(with_targets(round_stem | {"kind": "bed"}))
        self.assertEqual(lawn["felling"]["clearances"][0]["gap_m"], 0.0)
