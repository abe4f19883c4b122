"""Every limit there is: tripped by a change to a sound plan, quiet in its mended twin, the same in a mirror."""

import json
from functools import cache
from unittest import TestCase

from treecore.formats.plan_document import evaluate_document, load
from treecore.tests.every_limit import BAD, FELLED, LIMITS, TAKEN, cut, mirrored, plan_of, square, target
from treecore.verdict import CLASSES, Verdict, limit_kinds


@cache
def _results(text):
    return evaluate_document(load(text))["trees"][0]


def limits_of(plan, pick):
    tree = _results(json.dumps(plan))
    if pick is None:
        return tree["felling"]["limits"]
    if pick < 0:
        return [*tree["weak_places"], *tree["takedown"]["way_up"]]
    row = tree["takedown"]["picks"][pick]
    return row.get("limits") or row["refused"]


def verdicts(plan, key, pick):
    return {x["verdict"] for x in limits_of(plan, pick) if x["key"] == key}


class EveryLimit(TestCase):
    def test_the_table_has_them_all(self):
        self.assertEqual(set(LIMITS), set(limit_kinds()))

    def test_each_is_tripped(self):
        for key, trip in LIMITS.items():
            with self.subTest(limit=key):
                found = verdicts(plan_of(trip.base, trip.pick, trip.steps), key, trip.pick)
                self.assertTrue(found & set(trip.says), found)

    def test_its_mended_twin_is_quiet_about_it(self):
        for key, trip in LIMITS.items():
            with self.subTest(limit=key):
                found = verdicts(plan_of(trip.base, trip.pick, trip.mend), key, trip.pick)
                self.assertFalse(found & set(trip.says), found)

    def test_a_mirror_says_the_same(self):
        for key, trip in LIMITS.items():
            with self.subTest(limit=key):
                plan = plan_of(trip.base, trip.pick, trip.steps)
                one, two = (verdicts(p, key, trip.pick) for p in (plan, mirrored(plan)))
                self.assertEqual(one, two)


def ruling(plan, pick):
    tree = _results(json.dumps(plan))
    return tree["felling"]["ruling"] if pick is None else tree["takedown"]["picks"][pick]["ruling"]


class NamedFirst(TestCase):
    """With roses under the piece, or a bar a centimetre short, what can hurt a person or loses the tree comes first."""

    def _named(self, key, trip, lesser, extra):
        plan = plan_of(trip.base, trip.pick, (*trip.steps, *extra))
        here = limits_of(plan, trip.pick)
        if isinstance(here, str) or not any(x["key"] == key and x["verdict"] in BAD for x in here):
            return 0
        if limit_kinds()[key].unsaid and "bar" in lesser:
            return 0  # a figure nobody gave stands behind a bar that is too short
        self.assertTrue(any(x["key"] in lesser and x["verdict"] == Verdict.OVER.value for x in here), here)
        graver = CLASSES[: CLASSES.index("building")] if trip.pick is not None else CLASSES[: CLASSES.index("gear")]
        first = ruling(plan, trip.pick)
        struck = first["class"] == "building" and first["key"] in ("chance", "clears", "put_on", "drops_on")
        if struck:  # what the planned course strikes stands before a loss of control that nobody is in reach of
            kind = limit_kinds()[key]
            self.assertNotIn(kind.consequence or kind.group, ("first", "person", "reach"), (key, first["key"]))
            return 1
        self.assertIn(first["class"], graver, (key, first["key"]))
        return 1

    def test_a_felling_with_a_bar_a_centimetre_short_and_roses_in_the_lay(self):
        count = 0
        for key, trip in FELLED.items():
            if (
                limit_kinds()[key].group not in ("person", "control")
                or trip.says != BAD
                or key in ("fit_unknown", "bar")
            ):
                continue
            with self.subTest(limit=key):
                count += self._named(key, trip, ("bar",), (cut(bar_m=0.2, pattern_school="straight"),))
        self.assertGreater(count, 20)

    def test_a_pick_with_roses_where_it_comes_down(self):
        count, bed = 0, target("Roses", "bed", *square(0.0, 0.0, 7.0), height_m=0.6)
        for key, trip in TAKEN.items():
            if trip.pick == -1 or limit_kinds()[key].group not in ("person", "control", "gear"):
                continue
            with self.subTest(limit=key):
                count += self._named(key, trip, ("put_on", "clears", "drops_on"), (bed,)) if trip.base == "long" else 0
        self.assertGreater(count, 20)
