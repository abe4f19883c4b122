"""Site geometry against closed forms, shapely and the ellipsoid: tapes, catenaries, ways out, GeoJSON, tree lists."""

import json
import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
import pyproj
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from treecore.conductor import clearance
from treecore.errors import BadDocument, CoreError
from treecore.estimate import exactly
from treecore.features import Feature, site_with, triangulated, way_out
from treecore.felling.plan import evaluate
from treecore.formats import geojson, tree_list
from treecore.formats.plan_document import feature_of
from treecore.overhead import Conductor, sag_parameter
from treecore.places import laid, span, typed_place
from treecore.tests.scenes import PLAN, TREE
from treecore.verdict import Verdict

SHED = {
    "name": "Shed",
    "kind": "building",
    "shape": "area",
    "outline_m": [[4, 1], [9, 2], [8, 6], [3, 5]],
    "height_m": 3.0,
}
WIRE = {
    "name": "Wire",
    "kind": "conductor",
    "shape": "line",
    "outline_m": [[-20, 14], [25, 17]],
    "ends_m": [7, 9],
    "sag_m": 1.1,
}
SITE = {"slope_deg": 4.0, "downhill_deg": 200.0, "origin": {"lat_deg": 52.4, "lon_deg": -2.1}, "targets": [SHED, WIRE]}
FIR = {
    "name": "Fir", "species": "abies_grandis", "x_m": -3.5, "y_m": 2.25, "diameter_m": 0.5, "height_m": 20.0,
    "spread_m": 6.0,
    "lean_deg": 2.0, "lean_azimuth_deg": 40.0,
}  # fmt: skip


class Tapes(TestCase):
    def test_right_triangle_and_both_sides(self):
        left, right = triangulated((1.0, 1.0), (5.0, 1.0), 3.0, 5.0)
        self.assertTrue(np.allclose([*left, *right], [1.0, 4.0, 1.0, -2.0], atol=1e-12))

    @given(st.floats(-30, 30), st.floats(-30, 30), st.floats(-30, 30), st.floats(-30, 30))
    def test_leads_back_to_where_it_was_taped(self, x, y, px, py):
        first, second, spot = (0.0, 0.0), (x, y), (px, py)
        if math.dist(first, second) < 1.0 or min(math.dist(spot, first), math.dist(spot, second)) < 0.5:
            return
        found = triangulated(first, second, math.dist(spot, first), math.dist(spot, second))
        self.assertLess(min(math.dist(f, spot) for f in found), 0.25)

    def test_tapes_that_do_not_meet_are_refused(self):
        for a, b in ((1.0, 2.0), (9.0, 1.0)):
            with self.assertRaises(CoreError):
                triangulated((0.0, 0.0), (5.0, 0.0), a, b)


class Catenary(TestCase):
    def test_level_span_against_the_closed_form(self):
        # a = 50, span 40: sag = a·(cosh(20/50) − 1)
        self.assertAlmostEqual(sag_parameter(40.0, 50.0 * (math.cosh(0.4) - 1.0)), 50.0, places=6)

    def test_slope_of_the_hanging_line_is_a_catenary(self):
        curve = Conductor(name="w", start=(0, 0, 6.0), end=(60, 0, 11.0), sag=2.5).curve(2001)
        self.assertTrue(np.allclose(curve[[0, -1], 2], [6.0, 11.0]))
        self.assertAlmostEqual(8.5 - float(np.interp(30.0, curve[:, 0], curve[:, 2])), 2.5, places=6)
        # y'' = sqrt(1 + y'²)/a all along it
        slope = np.gradient(curve[:, 2], curve[:, 0])
        share = np.gradient(slope, curve[:, 0])[5:-5] / np.sqrt(1 + slope[5:-5] ** 2)
        self.assertLess(np.ptp(share) / share.mean(), 1e-3)

    def test_distance_to_the_crown(self):
        # A plumb pole-thin tree 27 m tall beside a level, taut line 10 m up and 8 m off: nearest is the lower edge of
        # the crown.
        tree = replace(TREE, lean=0.0, spread=exactly(4.0), height=exactly(27.0), crown_base=12.0)
        line = Conductor(name="w", start=(-40, 8, 10.0), end=(40, 8, 10.0), sag=0.0, approach=3.0)
        limit = clearance(line, tree, 0.0, 0.0)
        self.assertAlmostEqual(limit.demand.value, math.hypot(8.0 - 0.9 * 2.0, 3.2), delta=0.02)
        self.assertIs(limit.verdict, Verdict.WITHIN)
        self.assertIs(clearance(replace(line, approach=8.0), tree, 0.0, 0.0).verdict, Verdict.OVER)
        self.assertIs(
            clearance(replace(line, approach=None, start=(-40, 28, 10.0), end=(40, 28, 10.0)), tree, 0, 0).verdict,
            Verdict.NOT_KNOWN,
        )

    def test_refusals_name_the_line(self):
        for change in ({"sag_m": 9.0}, {"outline_m": [[0, 0], [5, 5], [9, 9]]}, {"ends_m": [0.1, 7]}):
            with self.assertRaises(CoreError) as caught:
                feature_of(WIRE | change)
            self.assertIn("Wire", caught.exception.field)


class Places(TestCase):
    def test_offsets_and_coordinates(self):
        known = {"stem": (2.0, 3.0), "Pump house": (17.0, -9.0)}
        cases = {
            "7.5 m at 210° from the stem": (2 - 7.5 * 0.5, 3 - 7.5 * math.sqrt(3) / 2),
            "10 ft at west of Pump house": (17 - 3.048, -9),
            "4; -2,5": (4.0, -2.5),
            "4.5, -2": (4.5, -2.0),
            "pump house": (17.0, -9.0),
        }
        for text, spot in cases.items():
            with self.subTest(text=text):
                self.assertTrue(np.allclose(typed_place(text, known, "metric"), spot, atol=1e-12))
        for text in ("somewhere", "5 m at up from the stem", "5 m at 40 from the moon", "9999; 3"):
            with self.assertRaises(CoreError):
                typed_place(text, known, "metric")

    def test_a_picture_falls_on_its_two_points(self):
        lying = laid(((100.0, 50.0), (3.0, 4.0)), ((700.0, 350.0), (-9.0, 21.0)))
        self.assertTrue(np.allclose(lying.place(100, 50), (3, 4)))
        self.assertTrue(np.allclose(lying.place(700, 350), (-9, 21)))
        self.assertTrue(np.allclose(lying.pixel(*lying.place(123, 456)), (123, 456)))

    def test_span(self):
        self.assertAlmostEqual(span((0, 0), (-3, -3)).azimuth, math.radians(225), places=12)


class Shapes(TestCase):
    def test_what_can_not_be_drawn_is_refused_by_name(self):
        bad = (
            {"outline_m": [[0, 0], [4, 4], [4, 0], [0, 4]]},
            {"outline_m": [[0, 0], [1, 1]]},
            {"kind": "dragon"},
            {"height_m": -2.0},
        )
        for change in bad:
            with self.subTest(change=change), self.assertRaises(CoreError) as caught:
                feature_of(SHED | change)
            self.assertIn("target Shed", caught.exception.field)
        with self.assertRaises(CoreError):
            site_with((feature_of(SHED),), (6.0, 3.5))  # the stem stands inside it

    def test_nearest_point_gives_both_distance_and_bearing(self):
        shed = Feature(name="Shed", kind="building", shape="area", points=((4, 2), (9, 2), (9, 7), (4, 7)), height=3.0)
        cases = (
            ((0.0, 5.0), 4.0, 90.0),  # before its west wall
            ((1.0, -2.0), 5.0, math.degrees(math.atan2(3.0, 4.0))),  # off its south-west corner: 3, 4, 5
            ((6.0, 10.0), 3.0, 180.0),
            ((14.0, 7.0), 5.0, 270.0),
        )
        for place, gap, bearing in cases:
            with self.subTest(place=place):
                found = shed.nearest(*place)
                self.assertAlmostEqual(found[0], gap)
                self.assertAlmostEqual(math.degrees(found[1]), bearing)
        self.assertEqual(shed.nearest(5.0, 4.5)[0], 0.0)
        self.assertAlmostEqual(math.degrees(shed.nearest(5.0, 4.5)[1]), 90.0)  # inside: to its middle

    def test_a_conductor_is_as_near_as_its_line(self):
        line = Feature(name="Line", kind="conductor", shape="line", points=((-10, 6), (10, 6)), height=7.0)
        gap, bearing = line.nearest(3.0, 1.0)
        self.assertAlmostEqual(gap, 5.0)
        self.assertAlmostEqual(bearing, 0.0)

    def test_way_out_is_as_narrow_as_what_stands_beside_it(self):
        way = Feature(name="Way", kind="way_out", shape="line", points=((0, 0), (10, 0), (10, 8)), width=3.0)
        post = Feature(name="Post", kind="other", shape="area", points=((4, 0.6), (5, 0.6), (5, 2), (4, 2)), height=2.0)
        found = way_out(way, (way, post))
        self.assertAlmostEqual(found.length, 18.0)
        self.assertAlmostEqual(found.narrowest, 1.2)
        self.assertEqual(found.narrowed_by, "Post")
        self.assertAlmostEqual(found.corners[0], math.pi / 2)

    @settings(max_examples=15, deadline=None)
    @given(st.floats(0.01, 6.2))
    def test_turning_the_site_turns_every_result(self, turn):
        def spot(x, y):
            return x * math.cos(turn) + y * math.sin(turn), y * math.cos(turn) - x * math.sin(turn)

        def azimuth(a):
            return (a + turn) % math.tau

        targets = tuple(replace(t, outline=tuple(spot(*p) for p in t.outline)) for t in PLAN.site.targets)
        turned = replace(
            PLAN,
            lay=azimuth(PLAN.lay),
            wind_from=azimuth(PLAN.wind_from),
            tree=replace(PLAN.tree, lean_azimuth=azimuth(PLAN.tree.lean_azimuth)),
            site=replace(PLAN.site, targets=targets, downhill=azimuth(PLAN.site.downhill)),
            pull=replace(PLAN.pull, azimuth=azimuth(PLAN.pull.azimuth)),
        )
        one, two = evaluate(PLAN), evaluate(turned)
        for key, e in one.estimates.items():
            for a, b in (
                (e.value, two.estimates[key].value),
                (e.low, two.estimates[key].low),
                (e.high, two.estimates[key].high),
            ):
                self.assertAlmostEqual(a, b, delta=1e-7 * abs(a) + 1e-9, msg=key)
        for a, b in zip(one.ground.clearances, two.ground.clearances, strict=True):
            self.assertAlmostEqual(a.gap, b.gap, places=7)


class GeoJson(TestCase):
    def test_round_trip_in_both_frames(self):
        for lat_lon in (False, True):
            with self.subTest(lat_lon=lat_lon):
                taken = geojson.read(json.dumps(geojson.write(SITE, [FIR], lat_lon=lat_lon)))
                self.assertEqual(taken.refused, ())
                self.assertEqual(taken.site, {k: v for k, v in SITE.items() if k != "targets"})
                self.assertEqual(list(taken.trees), [FIR])
                self.assertEqual(
                    [dict(t) for t in taken.targets], [{**t, "shape": t["shape"]} for t in SITE["targets"]]
                )

    def test_area_and_distance_against_the_ellipsoid(self):
        written = geojson.write(SITE, [FIR], lat_lon=True)
        ring = written["features"][0]["geometry"]["coordinates"][0]
        area, _ = pyproj.Geod(ellps="WGS84").geometry_area_perimeter(shapely.Polygon(ring))
        self.assertAlmostEqual(abs(area), shapely.Polygon(SHED["outline_m"]).area, delta=1e-3)
        (x0, y0), (x1, y1) = written["features"][1]["geometry"]["coordinates"]
        distance = pyproj.Geod(ellps="WGS84").inv(x0, y0, x1, y1)[2]
        self.assertAlmostEqual(distance, math.dist(*WIRE["outline_m"]), delta=1e-3)

    def test_wrong_files_are_refused_whole(self):
        good = geojson.write(SITE, [FIR], lat_lon=True)
        swapped = json.loads(json.dumps(good))
        for row in swapped["features"]:
            row["geometry"] = {"type": "Point", "coordinates": [51.2, 171.4]}
        far = json.loads(json.dumps(good))
        for row in far["features"]:
            row["geometry"] = {"type": "Point", "coordinates": [52.4, -2.1]}
        metres = json.loads(json.dumps(good))
        metres["features"][0]["geometry"] = {"type": "Point", "coordinates": [412345.0, 5812345.0]}
        cases = {
            "swapped": (swapped, "longitude, latitude"),
            "projection": (metres, "projection"),
            "far_anchor": (far, "swapped"),
            "crs": (good | {"crs": {"type": "name", "properties": {"name": "urn:ogc:def:crs:EPSG::27700"}}}, "27700"),
        }
        for name, (data, word) in cases.items():
            with self.subTest(case=name), self.assertRaises(BadDocument) as caught:
                geojson.read(json.dumps(data), (52.4, -2.1))
            self.assertIn(word, str(caught.exception))

    def test_bad_features_are_refused_one_by_one(self):
        data = geojson.write(SITE, [FIR])
        data["features"].append(
            {"type": "Feature", "geometry": {"type": "MultiPolygon", "coordinates": []}, "properties": {}}
        )
        data["features"].append(None)
        taken = geojson.read(json.dumps(data))
        self.assertEqual((len(taken.targets), len(taken.trees), len(taken.refused)), (2, 1, 2))


LIST = (
    "Tree ID;Botanical name;DBH (cm);Height (m);Crown spread;X;Y\n1;Abies grandis;62,5;24,0;7,2;-3,5;12\n2;Fagus "
    "sylvatica;80;22;;0;0\n"
)


class TreeList(TestCase):
    def read(self, text, **more):
        table = tree_list.sheet(text)
        return list(tree_list.lines(table, tree_list.guessed(table.headings), "metric", **more))

    def test_decimal_commas_units_in_headings_and_usual_spread(self):
        first, second = self.read(LIST)
        self.assertEqual(first.entry["diameter_m"], 0.625)
        self.assertEqual((first.entry["height_m"], first.entry["x_m"]), (24.0, -3.5))
        self.assertAlmostEqual(second.entry["spread_m"], 18 * 0.8)
        self.assertEqual(second.entry["species"], "fagus_sylvatica")

    def test_encodings(self):
        for encoding, name in (("utf-8-sig", "UTF-8"), ("utf-16", "UTF-16"), ("cp1252", "Windows-1252")):
            self.assertEqual(tree_list.decoded("Name;Höhe\n".encode(encoding)), ("Name;Höhe\n", name))
        with self.assertRaises(BadDocument):
            tree_list.decoded(b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR")

    def test_every_bad_line_says_why_and_the_others_stand(self):
        bad = {
            "3;Money tree;50;20;;;": "species",
            "4;Abies grandis;50;400;;;": "height",
            "1;Abies grandis;50;20;;;": "name",
            "5;Abies grandis;;20;;;": "diameter",
            "6;Abies grandis;fat;20;;;": "diameter",
        }
        rows = self.read(LIST + "\n".join(bad))
        self.assertEqual([bool(r.entry) for r in rows], [True, True, *[False] * 5])
        for row, field in zip(rows[2:], bad.values(), strict=True):
            self.assertEqual(row.refused.field, field)
        fixed = self.read(LIST + "\n".join(bad), corrections={4: ("3", "Quercus robur", "50", "20")})
        self.assertEqual(fixed[2].entry["species"], "quercus_robur")

    def test_written_lists_are_read_again(self):
        row = self.read(tree_list.write([FIR, FIR | {"name": "=cmd()"}]))
        self.assertEqual([r.entry["name"] for r in row], ["Fir", "=cmd()"])
        for key in ("diameter_m", "height_m", "spread_m", "x_m", "y_m"):
            self.assertAlmostEqual(row[0].entry[key], FIR[key], places=9)
        self.assertAlmostEqual(row[0].entry["lean_azimuth_deg"], 40.0, places=9)

    def test_what_a_spreadsheet_would_run_is_made_text_and_comes_back_as_it_was(self):
        names = (
            "=1+1",
            "+1",
            "-2+3|cmd",
            "@SUM(A1)",
            "'=1",
            "''-1",
            "|calc",
            "%1",
            "＝1",
            "'quoted'",
            "' x",
            "a=b",
            "Fir",
        )
        text = tree_list.write([FIR | {"name": name} for name in names])
        cells = [cells[0] for _, cells in tree_list.sheet(text).lines]
        self.assertEqual([c for c in cells if c[0] in "=+-@|%＝"], [])
        self.assertEqual([r.entry["name"] for r in self.read(text)], list(names))
        blank = tree_list.write([FIR | {"name": "\t=1"}, FIR | {"name": " =1"}])
        self.assertEqual([line[:2] for line in blank.splitlines()[1:]], ["'\t", "' "])

    def test_a_diameter_of_nought_is_refused_at_its_line(self):
        rows = self.read(
            "name,species,dbh cm,girth cm,height m\nA,English oak,0,,18\nB,English oak,,0,18\nC,English oak,40,,0\n"
        )
        self.assertEqual([r.refused.field for r in rows], ["diameter", "diameter", "height"])

    def test_what_the_columns_still_lack_is_named(self):
        self.assertEqual(
            tree_list.missing({"a": "spread", "b": "species"}), ["Name or number", "Height", "Diameter or girth"]
        )
        self.assertEqual(tree_list.missing({"a": "name", "b": "species", "c": "height", "d": "girth"}), [])

    def test_a_lean_that_is_given_was_looked_at_and_one_that_is_not_is_assumed(self):
        head = "name,species,dbh cm,height m,lean\n"
        leaning, plain = self.read(head + "A,English oak,40,18,6\nB,English oak,40,18,\n")
        self.assertEqual(leaning.entry["lean_kind"], "estimated")
        self.assertAlmostEqual(leaning.entry["lean_deg"], 6.0, places=9)
        self.assertEqual((plain.entry["lean_kind"], plain.entry["lean_deg"]), ("assumed", 0.0))

    def test_girth_is_turned_into_diameter(self):
        row = self.read("name,species,girth cm,height m\nA,English oak,157.08,18\n")
        self.assertAlmostEqual(row[0].entry["diameter_m"], 0.5, places=4)
