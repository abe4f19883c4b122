"""Ten sound plans stay quiet: none over or not known, few near; and a mistake put into one is loud."""

import copy
import json
from unittest import TestCase

from treecore.formats.plan_document import evaluate_document, load
from treecore.tests.sound_plans import FELLINGS, TAKEDOWNS

BAD = ("over", "not_known")


def evaluated(plan):
    return evaluate_document(load(json.dumps(plan)))["trees"][0]


class Quiet(TestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.fellings = {name: evaluated(plan)["felling"]["limits"] for name, plan in FELLINGS.items()}
        cls.picks = {name: evaluated(plan)["takedown"]["picks"] for name, plan in TAKEDOWNS.items()}

    def test_nothing_is_over_or_not_known(self):
        rows = [(name, x) for name, limits in self.fellings.items() for x in limits]
        rows += [(name, x) for name, picks in self.picks.items() for p in picks for x in p["limits"]]
        self.assertEqual([(name, x["key"], x["about"]) for name, x in rows if x["verdict"] in BAD], [])
        self.assertTrue(all("refused" not in p for picks in self.picks.values() for p in picks))

    def test_six_picks_at_least_and_few_of_them_near(self):
        picks = [p for rows in self.picks.values() for p in rows]
        near = [p for p in picks if p["ruling"]["verdict"] == "near"]
        self.assertTrue(all(6 <= len(rows) <= 12 for rows in self.picks.values()))
        self.assertLessEqual(6 * len(near), len(picks))

    def test_few_limits_are_near(self):
        limits = [x for rows in self.fellings.values() for x in rows]
        limits += [x for rows in self.picks.values() for p in rows for x in p["limits"]]
        near = [x["key"] for x in limits if x["verdict"] == "near"]
        self.assertLessEqual(15 * len(near), len(limits), near)

    def test_gates_are_answered(self):
        for name, plan in (FELLINGS | TAKEDOWNS).items():
            self.assertEqual(evaluated(plan)["gates_open"], [], name)


class Loud(TestCase):
    """One thing changed in a sound plan: that one is named."""

    FELLED = {
        "wedges under a dead top": ("spruce", ("walk_up", {"hazard": "dead_top", "finding": "present"}), "wedge_seen"),
        "vines between crowns": ("birch", ("walk_up", {"hazard": "vines", "finding": "present"}), "felled_seen"),
        "a plate that moves": ("pine", ("walk_up", {"hazard": "root_plate", "finding": "present"}), "felled_seen"),
        "a hinge cut to nothing": ("oak", ("felling", {"hinge_m": 0.012}), "thin"),
        "no pull on a back leaner": ("pine", ("felling", {"pull": None}), "tip"),
        "a wind nobody gave": ("ash", ("felling", {"wind_m_s": None}), "wind_unknown"),
        "cut past the apex on the lean side": (
            "oak",
            ("felling", {"bypass_m": 0.04, "bypass_side": "right"}),
            "bypass_lean",
        ),
    }

    def test_a_felling(self):
        for said, (name, (where, change), key) in self.FELLED.items():
            with self.subTest(mistake=said):
                plan = copy.deepcopy(FELLINGS[name])
                tree = plan["trees"][0]
                if where == "walk_up":
                    tree["walk_up"] = [a for a in tree["walk_up"] if a["hazard"] != change["hazard"]] + [change]
                else:
                    tree["felling"] |= change
                ruling = evaluated(plan)["felling"]["ruling"]
                self.assertEqual(ruling["key"], key)
                self.assertIn(ruling["verdict"], BAD)

    PICKED = {
        "a limb tied past its balance": ("cherry", 0, {"tie_m": 2.8}, "tie_past"),
        "a metre of slack on a locked rope": ("long", 0, {"slack_m": 2.5, "held": "lock", "wraps": 4.0}, "meets_stem"),
        "a climber on the limb's own side": ("long", 0, {"climber": {"side_deg": 40}}, "line_at_cut"),
        "a stance above the tie-in": ("cherry", 2, {"climber": {"tie_m": 5.0}}, "above_tie_in"),
        "no lanyard and one line": ("rings", 5, {"climber": {"lanyard": False}}, "one_attachment"),
        "nobody said who cuts": ("lifted", 1, {"lift": False}, "climber_unsaid"),
        "a machine nobody rated": ("crane", 3, {"capacity_kg": None}, "hook"),
        "a person under it": ("long", 2, {"device_from_m": [-2.0, 2.0]}, "under_piece"),
    }

    def test_a_pick(self):
        for said, (name, number, change, key) in self.PICKED.items():
            with self.subTest(mistake=said):
                plan = copy.deepcopy(TAKEDOWNS[name])
                pick = plan["trees"][0]["takedown"]["picks"][number]
                climber = change.get("climber")
                pick |= change if climber is None else {"climber": pick["climber"] | climber}
                ruling = evaluated(plan)["takedown"]["picks"][number]["ruling"]
                self.assertEqual(ruling["key"], key)
                self.assertIn(ruling["verdict"], BAD)
