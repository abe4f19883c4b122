"""Documents, lists and GeoJSON nobody would send on purpose: refused by name or taken, never a failure, never NaN."""

import contextlib
import io
import json
import os
import tempfile
from copy import deepcopy
from pathlib import Path
from unittest import TestCase

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from treecore.__main__ import main
from treecore.errors import BadDocument, CoreError
from treecore.formats import geojson, tree_list
from treecore.formats.plan_document import evaluate_document, load
from treecore.formats.reading import DEEPEST, read_json
from treecore.formats.refusals import refusals

DEMO = json.loads((Path(__file__).parents[2] / "demo" / "kestrel_lane.json").read_text(encoding="utf-8"))
SMALL = DEMO | {"trees": DEMO["trees"][:1]}
COUNT = int(os.environ.get("CANTREL_FUZZ", "150"))
often = settings(max_examples=COUNT, deadline=None, suppress_health_check=list(HealthCheck))

# What a field is given that it was not made for.
ODD = st.one_of(
    st.sampled_from(
        [None, True, False, "", " ", "0", "NaN", "\x00", "\ud800", "..", "1e999", [], {}, [[]], [None], -1, 0, 1]
    ),
    st.sampled_from([-1, 0, 1, 1e-300, 1e300, -1e300, 2**63, 10**30, 0.5, -0.0, 359.9999, 720, "x" * 5000, ["a"] * 50]),
    st.floats(allow_nan=False, allow_infinity=False),
    st.integers(),
    st.text(max_size=12),
)


NESTED = st.recursive(ODD, lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner))
CELL = st.one_of(st.text(max_size=9), st.sampled_from(["Oak", "English oak", "40", "15", "0"]))


def places(data, path=()):
    """Every place of plain data."""
    yield path
    rows = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    for key, value in rows:
        yield from places(value, (*path, key))


PLACES = [path for path in places(SMALL) if path]


def changed(path, odd, how):
    """The demo with something odd at a place: put there, taken away, or put beside."""
    whole = deepcopy(SMALL)
    inner = whole
    for key in path[:-1]:
        inner = inner[key]
    if how == "away":
        del inner[path[-1]]
    elif how == "beside" and isinstance(inner, dict):
        inner["other"] = odd
    elif how == "twice" and isinstance(inner, list):
        inner.append(deepcopy(inner[path[-1]]))
    else:
        inner[path[-1]] = odd
    return whole


class Documents(TestCase):
    @often
    @given(st.sampled_from(PLACES), ODD, st.sampled_from(["put", "put", "put", "away", "beside", "twice"]))
    def test_a_plan_is_refused_by_name_or_worked_out(self, path, odd, how):
        text = json.dumps(changed(path, odd, how))
        told = refusals(text)
        try:
            results = evaluate_document(load(text))
        except CoreError as error:
            self.assertTrue(error.field)
            self.assertTrue(told, "what stops the plan is told beforehand")
        else:
            json.dumps(results, allow_nan=False)

    @often
    @given(
        st.one_of(
            st.text(), st.binary(), st.recursive(ODD, lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner))
        )
    )
    def test_whatever_is_read_can_be_stored(self, thing):
        text = thing if isinstance(thing, str | bytes) else json.dumps(thing)
        with contextlib.suppress(BadDocument):
            json.dumps(read_json(text), allow_nan=False).encode("utf-8")

    def test_what_is_null_counts_as_left_out(self):
        place = ("site", "targets", 0, "height_m")
        null, away = (json.dumps(changed(place, None, how)) for how in ("put", "away"))
        self.assertEqual(load(null), load(away))
        evaluate_document(load(null))

    def test_numbers_words_and_depths_no_plan_has(self):
        for text, why in (
            ('{"a": NaN}', "NaN is no number"),
            ('{"a": [1, -Infinity]}', "-Infinity is no number"),
            ('{"a": 1e999}', "inf is no number"),
            ('{"a": ' + "9" * 5000 + "}", "too long"),
            ('{"a": 10000000000000000000000000000000}', "too long"),
            ("[" * 100_000, "nested deeper"),
            ("[" * (DEEPEST + 1) + "]" * (DEEPEST + 1), "nested deeper"),
            ('{"a": "\\u0000"}', "no text"),
            ('{"\\ud800": 1}', "no text"),
            (b"\xff\xfe{", "not JSON|letters"),
            ("{", "not JSON"),
        ):
            with self.subTest(text=text[:20]):
                self.assertRaisesRegex(BadDocument, why, read_json, text)
        for text, where in (('["a", {"b": "\\u0000"}]', "[1].b"), ('"\\u0000"', "plan file")):
            with self.assertRaises(BadDocument) as caught:
                read_json(text, "plan file")
            self.assertEqual(caught.exception.field, where)
        self.assertEqual(read_json('{"a": ["\\n°", 1e300, -0.0]}'), {"a": ["\n°", 1e300, -0.0]})


class Files(TestCase):
    @often
    @given(st.sampled_from([p for p in places(geojson.write(DEMO["site"], DEMO["trees"])) if p]), ODD)
    def test_geojson(self, path, odd):
        whole = deepcopy(geojson.write(DEMO["site"], DEMO["trees"]))
        inner = whole
        for key in path[:-1]:
            inner = inner[key]
        inner[path[-1]] = odd
        with contextlib.suppress(CoreError):
            found = geojson.read(json.dumps(whole))
            json.dumps([found.site, found.targets, found.trees], allow_nan=False)

    @often
    @given(
        st.lists(
            st.lists(
                st.one_of(st.text(max_size=9), st.sampled_from(["Oak", "English oak", "40", "15", "0"])),
                min_size=4,
                max_size=5,
            ),
            max_size=4,
        )
    )
    def test_lists(self, rows):
        text = "\n".join(["No;Species;DBH (cm);Height (m);X", *(";".join(row) for row in rows)])
        with contextlib.suppress(CoreError):
            table = tree_list.sheet(text)
            for line in tree_list.lines(table, tree_list.guessed(table.headings), "metric"):
                self.assertTrue((line.entry is None) != (line.refused is None))


class Command(TestCase):
    def test_bad_files_end_with_2_and_a_line_that_says_why(self):
        with tempfile.TemporaryDirectory() as where:
            folder = Path(where)
            files = {
                "none.json": None,
                "latin.json": b'{"a": "\xe9"}',
                "nan.json": b'{"a": NaN}',
                "deep.json": b"[" * 99_999,
            }
            files |= {
                "odd.json": json.dumps(SMALL | {"trees": [[]]}).encode(),
                "empty.json": b"",
                "nul.json": b'"\\u0000"',
            }
            for name, content in files.items():
                if content is not None:
                    folder.joinpath(name).write_bytes(content)
                for command in ("evaluate", "limits"):
                    said, out = io.StringIO(), io.StringIO()
                    with self.subTest(name=name), contextlib.redirect_stderr(said), contextlib.redirect_stdout(out):
                        self.assertEqual(main([command, str(folder / name)]), 2)
                    self.assertIn(name, said.getvalue())
                    self.assertEqual(out.getvalue(), "")
