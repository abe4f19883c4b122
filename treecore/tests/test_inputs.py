"""What stands in for what was not measured, and how much it is trusted."""

import math
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

import treecore
from treecore import typed, units
from treecore.errors import CoreError, OutOfRange
from treecore.estimate import Estimate, Kind, exactly, product, times, worst
from treecore.felling.inputs import default_diameter
from treecore.felling.plan import evaluate
from treecore.formats.plan_document import felling_of, site_of, tree_of
from treecore.kinds import worth_of
from treecore.tests.scenes import CUTS, PLAN, TREE
from treecore.tree.body import by_eye, said_measured, usual_spread
from treecore.tree.stem import Stem
from treecore.tree.weigh import weigh
from treecore.units import unit
from treecore.verdict import CLASSES, CONSEQUENCES, NOTHING, About, Limit, Verdict, held, limit_kinds, ruling

ENTRY = {
    "name": "Maple", "species": "acer_campestre", "diameter_m": 0.38, "height_m": 13.0, "spread_m": 8.0,
    "lean_deg": 6.0,
    "lean_azimuth_deg": 200.0,
}  # fmt: skip


class Trust(TestCase):
    def test_guesses_are_wider_than_what_is_said_to_be_measured(self):
        guess, tape = by_eye(20.0, "height"), said_measured(20.0, "height")
        self.assertEqual((guess.low, guess.high, guess.kind), (15.0, 25.0, Kind.ESTIMATED))
        self.assertAlmostEqual(tape.high, 21.6)
        self.assertIs(tape.kind, Kind.MEASURED)

    def test_used_readings_take_the_place_of_the_typed_height(self):
        reading = {
            "quantity": "height",
            "method": "rope",
            "arguments": {"length_m": 30, "on_ground_m": 2, "above_m": 1},
        }
        self.assertAlmostEqual(tree_of(ENTRY | {"readings": [reading]})[0].height.value, 15.0)
        self.assertAlmostEqual(tree_of(ENTRY | {"readings": [reading | {"used": False}]})[0].height.value, 13.0)

    def test_a_result_is_never_better_known_than_its_inputs(self):
        self.assertIs(worst([Kind.MEASURED, Kind.MEASURED]), Kind.ESTIMATED)
        self.assertIs(worst([Kind.MEASURED, Kind.ASSUMED]), Kind.ASSUMED)

    def test_better_readings_narrow_the_mass(self):
        def width(tree):
            e = weigh(tree).mass.estimate
            return e.high - e.low

        loose = replace(TREE, height=by_eye(27.0, "height"), diameter=by_eye(0.74, "diameter"))
        self.assertGreater(width(loose), width(TREE))

    def test_a_plumbed_lean_narrows_the_balance(self):
        def width(kind):
            e = weigh(replace(TREE, lean_kind=kind)).east
            return e.high - e.low

        self.assertLess(width(Kind.MEASURED), width(Kind.ESTIMATED))
        self.assertLess(width(Kind.ESTIMATED), width(Kind.ASSUMED))

    def test_products_and_scaling(self):
        got = product(Estimate(10, 9, 12, Kind.MEASURED), Estimate(2, 1.8, 2.0, Kind.ASSUMED))
        self.assertAlmostEqual(got.low, 20 * (1 - math.sqrt(0.02)))
        self.assertAlmostEqual(got.high, 24.0)
        self.assertIs(got.kind, Kind.ASSUMED)
        self.assertEqual(times(exactly(3.0), 2.0), exactly(6.0))
        with self.assertRaises(OutOfRange):
            product(exactly(0.0), exactly(1.0))
        with self.assertRaises(OutOfRange):
            Estimate(1.0, 2.0, 3.0, Kind.MEASURED)
        with self.assertRaises(OutOfRange):
            Estimate(math.nan, math.nan, math.nan, Kind.MEASURED)


class Defaults(TestCase):
    def test_stump_diameters_left_out_come_from_the_taper_curve(self):
        tree, _, _ = tree_of(ENTRY)
        cuts = {"lay_deg": 10, "depth_m": 0.08, "opening_deg": 45, "hinge_m": 0.035, "rise_m": 0.03, "stump_m": 0.4}
        plan = felling_of(cuts, tree, site_of({}, ENTRY))
        curve = 0.38 * ((13.0 - 0.4) / (13.0 - 1.3)) ** 0.8
        self.assertAlmostEqual(plan.cuts.across, curve, places=12)
        self.assertAlmostEqual(plan.cuts.along, curve, places=12)
        self.assertAlmostEqual(felling_of(cuts | {"across_m": 0.5}, tree, site_of({}, ENTRY)).cuts.along, 0.5)
        self.assertAlmostEqual(default_diameter(tree, 1.3), 0.38, places=12)

    def test_breast_height_is_a_school(self):
        metric, us = (tree_of(ENTRY | {"breast": b})[0] for b in ("metric", "us"))
        self.assertAlmostEqual(us.breast_height, 4.5 * 0.3048, places=12)
        self.assertGreater(weigh(us).mass.estimate.value, weigh(metric).mass.estimate.value)

    def test_usual_spread(self):
        self.assertAlmostEqual(usual_spread("acer_campestre", 0.4), 7.2)
        for species, diameter in (("acer_campestre", 0.0), ("dragon", 0.4)):
            with self.assertRaises(CoreError):
                usual_spread(species, diameter)

    def test_states(self):
        wet, dry = (weigh(replace(TREE, state=s)).mass.estimate for s in ("storm_wet", "dead"))
        fresh = weigh(TREE).mass.estimate
        self.assertGreater(wet.value, fresh.value)
        self.assertLess(dry.value, fresh.value)
        self.assertGreater((dry.high - dry.low) / dry.value, (fresh.high - fresh.low) / fresh.value)

    def test_a_dead_tree_gets_no_help_from_wedges(self):
        figures = evaluate(replace(PLAN, tree=replace(TREE, state="dead"))).figures
        self.assertEqual(figures["wedge_moment"].estimate.value, 0.0)
        self.assertGreater(evaluate(PLAN).figures["wedge_moment"].estimate.value, 0.0)

    def test_volume_is_what_such_stems_hold(self):
        # Form factors of over-bark stems lie about 0.35 to 0.55 of the breast-height cylinder.
        for height, diameter, taper in ((27.0, 0.74, 0.75), (19.0, 0.5, 0.8), (38.0, 1.1, 0.75)):
            factor = Stem(diameter, height, taper).volume_and_moment(0.0, height)[0] / (
                math.pi / 4 * diameter**2 * height
            )
            self.assertTrue(0.35 < factor < 0.55, factor)


class Ruling(TestCase):
    def limit(self, key, verdict, demand=0.5, about=NOTHING):
        return Limit(key, verdict, exactly(demand), exactly(1.0), about)

    def test_what_blocks_then_who_is_hurt_then_how_full(self):
        near, over = self.limit("slip", Verdict.NEAR), self.limit("bed_small", Verdict.OVER)
        unknown, custom = self.limit("hook", Verdict.NOT_KNOWN), self.limit("hinge_school", Verdict.WITHIN, 0.99)
        full, grave = self.limit("tip", Verdict.WITHIN, 0.8), self.limit("split", Verdict.OVER)
        self.assertEqual(ruling([near, unknown, custom]).key, "hook")
        # What nobody said stands behind gear that is over and before roses; a danger nobody can judge before both.
        self.assertEqual(ruling([near, over, unknown]).key, "hook")
        self.assertEqual(ruling([unknown, self.limit("joined", Verdict.OVER)]).key, "joined")
        unsaid = [
            self.limit(k, Verdict.NOT_KNOWN) for k in ("not_isolated", "far_unknown", "rope_short", "fit_unknown")
        ]
        found = sorted(reversed(unsaid), key=lambda limit: limit.order, reverse=True)
        self.assertEqual([x.key for x in found], [x.key for x in unsaid])
        self.assertEqual(
            ruling([self.limit("bar", Verdict.OVER), self.limit("conductor", Verdict.NOT_KNOWN)]).key, "conductor"
        )
        self.assertEqual(ruling([self.limit("tip", Verdict.OVER), self.limit("leans", Verdict.NOT_KNOWN)]).key, "tip")
        self.assertEqual(ruling([over, grave]).key, "split")
        self.assertEqual(ruling([custom, full]).key, "tip")
        # A gap of nothing over roses is no hundredfold against a hinge that does not hold.
        self.assertEqual(
            ruling(
                [self.limit("clears", Verdict.OVER, 0.0, About(worth="goods")), self.limit("tip", Verdict.OVER, 1.1)]
            ).key,
            "tip",
        )
        fuller = [self.limit("tip", Verdict.OVER, 1.3), self.limit("gust", Verdict.OVER, 1.6)]
        self.assertEqual(ruling(fuller).key, "gust")

    def test_consequence_comes_before_kind(self):
        # Each graver than the next, whatever is fuller; a wedge many times over stands behind a house that is struck.
        rows = [
            self.limit("conductor", Verdict.OVER, 0.9),
            self.limit("piece_at_climber", Verdict.OVER, 0.1),
            self.limit("thin", Verdict.OVER, 0.9),
            self.limit("chance", Verdict.OVER, 99.85),
            self.limit("tip", Verdict.OVER, 9.0),
            self.limit("wedge_force", Verdict.OVER, 12.0),
            self.limit("clears", Verdict.OVER, 0.5, About(worth="building")),
            self.limit("clears", Verdict.OVER, 0.0, About(worth="goods")),
            self.limit("hinge_school", Verdict.OVER, 3.0),
        ]
        for mixed in (rows, rows[::-1], rows[4:] + rows[:4]):
            found = sorted(mixed, key=lambda limit: limit.order, reverse=True)
            self.assertEqual([x.key for x in found], [x.key for x in rows])
        # Struck, not passed too near: the same house half a metre off stands behind the wedge.
        struck = self.limit("clears", Verdict.OVER, 0.0, About(worth="building"))
        self.assertEqual(ruling([rows[4], struck]).key, "clears")
        self.assertEqual(ruling([rows[4], rows[6]]).key, "tip")
        # In one rank what is many times over is never behind what is one and a half times.
        bent, plate = self.limit("tie_breaks", Verdict.OVER, 54.0), self.limit("root_plate", Verdict.OVER, 14.0)
        self.assertEqual(ruling([plate, bent, self.limit("shear", Verdict.OVER, 1.6)]).key, "tie_breaks")
        self.assertEqual(ruling([plate, self.limit("shear", Verdict.OVER, 1.6)]).key, "root_plate")

    def test_intervals_that_meet_are_over_only_where_the_table_says_so(self):
        wide = Estimate(0.9, 0.5, 1.4, Kind.ESTIMATED)
        for key, says in (("split", Verdict.NEAR), ("slip", Verdict.OVER), ("tip", Verdict.NEAR)):
            self.assertIs(held(key, wide, exactly(1.0)).verdict, says, key)
            self.assertIs(held(key, exactly(0.9), exactly(1.0)).verdict, Verdict.WITHIN, key)
        for key, kind in limit_kinds().items():
            self.assertTrue(kind.group == "person" or not kind.near_is_over, key)
            self.assertIn(kind.consequence, ("", *CONSEQUENCES), key)

    def test_what_is_met_decides_its_class(self):
        rows = [
            self.limit("clears", Verdict.OVER, 0.0, About(name=w, worth=w)) for w in ("goods", "building", "person")
        ]
        self.assertEqual(ruling(rows).about.name, "person")
        self.assertEqual(ruling(rows[:2]).about.name, "building")
        self.assertEqual(
            [worth_of(kind) for kind in ("people", "building", "bed", "nobody knows")],
            ["person", "building", "goods", "building"],
        )

    def test_every_limit_has_its_row_and_every_row_its_limit(self):
        source = "".join(p.read_text() for p in Path(treecore.__file__).parent.rglob("*.py") if "tests" not in p.parts)
        for key, kind in limit_kinds().items():
            self.assertTrue(f'"{key}"' in source, key)
            self.assertIn(kind.group, CLASSES)
            self.assertIn(kind.side, ("most", "least", "range"))
            self.assertTrue(kind.source, key)
            unit(kind.dimension, "metric")

    def test_use_of_a_least_value(self):
        self.assertAlmostEqual(Limit("thin", Verdict.WITHIN, exactly(0.07), exactly(0.035)).use, 0.5)

    def test_a_plan_over_a_school_is_near_not_over(self):
        limits = {x.key: x for x in evaluate(replace(PLAN, cuts=replace(CUTS, depth=0.3))).limits}
        self.assertEqual(limits["depth_school"].verdict, Verdict.NEAR)


class FractionsOfInches(TestCase):
    """Saw cuts in US customary read as a tape does."""

    def test_to_a_sixteenth(self):
        for inches, said in (
            (2.75, "2 3/4"), (0.5, "1/2"), (3.0, "3"), (2.0625, "2 1/16"), (2.08, "2 1/16"), (2.1, "2 1/8"),
            (11.97, "12"), (-1.25, "−1 1/4"), (0.0, "0"),
        ):  # fmt: skip
            with self.subTest(inches=inches):
                self.assertEqual(units.show(inches * 0.0254, "cut", units.US), said)

    def test_finer_where_two_would_read_alike_and_decimals_where_it_is_next_to_nothing(self):
        self.assertEqual(units.show(2.03 * 0.0254, "cut", units.US, 1), "2 1/32")
        self.assertEqual(units.show(0.02 * 0.0254, "cut", units.US), "0.02")

    def test_what_is_shown_reads_back_within_a_thirty_second(self):
        for millimetres in range(1, 400, 7):
            shown = units.show(millimetres / 1000.0, "cut", units.US)
            back = typed.read(f"{shown} in", "cut", units.US).value if "/" in shown or shown.isdigit() else None
            if back is not None:
                self.assertAlmostEqual(back, millimetres / 1000.0, delta=0.0254 / 32.0 + 1e-9)

    def test_metric_and_other_dimensions_stay_decimal(self):
        self.assertEqual(units.show(0.07, "cut", units.METRIC), "7.0")
        self.assertNotIn("/", units.show(0.84, "girth", units.US))
