"""A lead laid out in pieces, where its picks begin, and changes that pass: each held against a search by hand."""

import json
import math
from datetime import date
from itertools import islice
from pathlib import Path
from unittest import TestCase

from shapely.geometry import Point, Polygon

from treecore.day.work import Ground, takedown_work
from treecore.errors import CoreError
from treecore.formats.plan_document import site_of, tree_of
from treecore.formats.takedown_entry import (
    cut_of,
    on_places,
    others_of,
    pick_of,
    pick_row,
    steps_of,
    store_of,
    worked_at,
)
from treecore.formats.takedown_start import as_method, begun, mends, scored, taken
from treecore.site import Site, Spot
from treecore.takedown.laying_out import laid_out, stance_for
from treecore.takedown.members import members_of, place_on, thickness
from treecore.takedown.order import order_rules
from treecore.takedown.pieces import Cut, left_over, take, whole
from treecore.verdict import Verdict

DEMO = json.loads((Path(__file__).parents[2] / "demo" / "kestrel_lane.json").read_text(encoding="utf-8"))
BEECH = next(t for t in DEMO["trees"] if t.get("takedown"))
TREE = tree_of(BEECH)[0]
MEMBERS = members_of(TREE)
SITE, OTHERS, STORE = site_of(DEMO["site"], BEECH), others_of(DEMO["site"], BEECH), store_of(DEMO)
GEAR = {"rope": "Blue line", "sling": "Red sling", "block": "Big block", "device": "Stem bollard", "base": "Base sling"}
TODAY = date(2026, 11, 26)


def place_of(standing):
    return worked_at(standing, TREE, SITE, STORE, OTHERS, TODAY)


def begin(member, longest, heaviest):
    """Every pick of a member as it begins, with what stands before it."""
    found, standing = [], whole(MEMBERS)
    for cut, _ in laid_out(MEMBERS, standing, member, longest, heaviest):
        step = take(MEMBERS, standing, cut)
        found.append((begun(MEMBERS, step, [e for e, _, _ in found], GEAR), standing, step))
        standing = step.after
    return found


class LaidOut(TestCase):
    def test_no_piece_is_longer_or_heavier_than_asked_and_none_could_be_cut_a_tenth_nearer(self):
        for longest, heaviest in ((5.5, 150.0), (2.3, 120.0), (4.0, 110.0)):
            standing = whole(MEMBERS)
            for cut, piece in laid_out(MEMBERS, standing, "North lead", longest, heaviest):
                self.assertLessEqual(piece.length, longest)
                self.assertLessEqual(piece.mass.value, heaviest)
                if cut.at > 0.3:
                    nearer = take(MEMBERS, standing, Cut(cut.member, round(cut.at - 0.1, 2))).piece
                    self.assertTrue(nearer.length > longest or nearer.mass.value > heaviest, cut)
                standing = take(MEMBERS, standing, cut).after

    def test_nothing_is_lost_and_the_rules_of_order_hold(self):
        standing, masses = whole(MEMBERS), 0.0
        cuts = laid_out(MEMBERS, standing, "South lead", 3.0, 100.0)
        steps = []
        for cut, piece in cuts:
            self.assertAlmostEqual(take(MEMBERS, standing, cut).piece.mass.value, piece.mass.value)
            steps.append(take(MEMBERS, standing, cut))
            masses, standing = masses + sum(part.mass for part in piece.parts), steps[-1].after
        self.assertAlmostEqual(left_over(MEMBERS, whole(MEMBERS)) - masses, left_over(MEMBERS, standing), places=6)
        self.assertLess(standing.ends[MEMBERS.rows["South lead"]], 0.3 + 0.5)
        self.assertTrue(all(standing.ends[MEMBERS.rows[f"South limb {n}"]] < 0.5 for n in range(1, 7)))
        self.assertGreater(standing.ends[MEMBERS.rows["North lead"]], 14.0)  # the other lead is left alone
        picks = tuple(pick_of({"member": c.member, "at_m": c.at, "method": "free"}, {}) for c, _ in cuts)
        self.assertEqual(order_rules(MEMBERS, tuple(steps), picks), ())
        lowest = [c.member for c, _ in cuts if c.member.startswith("South limb") and c.at == 0.3]
        self.assertEqual(lowest, [f"South limb {n}" for n in range(1, 7)])

    def test_the_stem_takes_its_leads_first_and_leaves_a_spar(self):
        cuts = laid_out(MEMBERS, whole(MEMBERS), "", 3.0, 800.0)
        names = [c.member for c, _ in cuts]
        self.assertEqual(set(names[-2:]) - {""}, set(names[-2:]) - {"", "x"})
        self.assertEqual(names.index(""), len(names) - names.count(""))
        self.assertAlmostEqual(cuts[-1][0].at, 2.0, delta=0.55)

    def test_what_cant_be_laid_out_is_said(self):
        for member, longest, heaviest, field in (
            ("Nobody", 3.0, 100.0, "member"),
            ("North lead", 0.1, 100.0, "longest"),
            ("North lead", 3.0, math.inf, "heaviest"),
            ("", 3.0, 10.0, "heaviest"),
        ):
            with self.subTest(member=member, longest=longest), self.assertRaises(CoreError) as caught:
                laid_out(MEMBERS, whole(MEMBERS), member, longest, heaviest)
            self.assertEqual(caught.exception.field, field)


class Begun(TestCase):
    def test_climber_and_point_by_hand(self):
        begun = begin("North lead", 5.5, 150.0)
        limb, section = next(b for b in begun if b[0]["member"] == "North limb 1"), begun[-3]
        entry = limb[0]  # North limb 1 grows 2.2 m up the lead
        self.assertEqual((entry["member"], entry["method"], entry["cut"]), ("North limb 1", "butt", "hinge"))
        self.assertEqual((entry["climber"]["stance_member"], entry["climber"]["stance_m"]), ("North lead", 1.9))
        self.assertEqual(entry["point"], {"member": "North lead", "at_m": 5.2})  # 3 m above the union
        at = entry["climber"]["tie_m"]
        row = MEMBERS.rows["North lead"]
        self.assertGreaterEqual(thickness(MEMBERS, row, at), 0.12)
        self.assertLess(thickness(MEMBERS, row, at + 0.1), 0.12)
        entry, _, step = section
        self.assertEqual(entry["method"], "negative")
        self.assertAlmostEqual(entry["at_m"] - entry["point"]["at_m"], 0.5)
        self.assertAlmostEqual(entry["at_m"] - entry["climber"]["stance_m"], 0.8)
        lies = math.degrees(math.atan2(step.piece.way[0], step.piece.way[1])) % 360
        self.assertAlmostEqual(entry["bearing_deg"], lies, delta=0.5)

    def test_dead_wood_is_laid_out_first(self):
        dead = {limb.name for limb in MEMBERS.tree.limbs if limb.dead}
        laid = [entry["member"] in dead for entry, _, _ in begin("North lead", 5.5, 150.0)]
        self.assertEqual(laid, sorted(laid, reverse=True))
        self.assertTrue(laid[0] and not laid[-1])

    def test_a_small_piece_goes_by_hand(self):
        stub = next(e for e, _, _ in begin("North lead", 5.5, 150.0) if e["member"] == "Dead stub")
        self.assertEqual((stub["method"], stub["cut"]), ("toss", "top"))
        self.assertNotIn("point", stub)

    def test_it_is_taken_as_the_last_of_its_kind_was_with_places_of_its_own(self):
        before = {
            **BEECH["takedown"]["picks"][8], "wraps": 3.5, "run_m": 0.7, "note": "mind the fence", "weighed_kg": 80,
            "bearing_deg": 200, "handlers": "Ned, Olga",
        }  # fmt: skip
        toss = {"member": "Dead stub", "at_m": 0.1, "method": "toss", "wraps": 1.0}
        standing = take(MEMBERS, whole(MEMBERS), cut_of(before)).after
        entry = begun(MEMBERS, take(MEMBERS, standing, Cut("North limb 2", 0.3)), [before, toss], {})
        for key in ("method", "wraps", "run_m", "rope", "tag", "landing_m", "device_at", "handlers"):
            self.assertEqual(entry[key], before[key], key)
        self.assertEqual(entry["point"], before["point"])  # 9.5 m up: still more than 3 m above this union
        self.assertFalse({"note", "weighed_kg", "id"} & set(entry))
        self.assertEqual((entry["climber"]["stance_m"], entry["climber"]["line_m"]), (3.3, 45))

    def test_a_piece_by_hand_follows_the_last_one_by_hand(self):
        line = {**BEECH["takedown"]["picks"][8], "handlers": "Ned"}
        hand = {"member": "Dead stub", "at_m": 0.1, "method": "free", "cut": "snap", "handlers": "Olga", "bed": "brush"}
        step = take(MEMBERS, whole(MEMBERS), Cut("Dead stub", 0.9))
        entry = begun(MEMBERS, step, [hand, line], GEAR)
        self.assertEqual([entry[k] for k in ("method", "cut", "handlers", "bed")], ["free", "snap", "Olga", "brush"])
        self.assertNotIn("point", entry)

    def test_the_last_piece_of_a_lead_hangs_from_under_its_union_and_the_last_of_the_stem_from_nothing(self):
        standing = take(MEMBERS, whole(MEMBERS), Cut("North lead", 1.0)).after
        entry = begun(MEMBERS, take(MEMBERS, standing, Cut("North lead", 0.3)), [], GEAR)
        self.assertEqual(entry["point"], {"member": "", "at_m": 4.1})  # the fork is 4.6 m up
        for lead in ("North lead", "South lead"):
            standing = take(MEMBERS, whole(MEMBERS) if lead == "North lead" else standing, Cut(lead, 0.0)).after
        standing = take(MEMBERS, standing, Cut("", 1.5)).after
        last = begun(MEMBERS, take(MEMBERS, standing, Cut("", 0.4)), [], GEAR)
        self.assertEqual((last["method"], "point" in last), ("free", False))

    def test_the_last_of_a_lead_stands_on_the_other_lead_or_under_its_own_cut(self):
        step = take(MEMBERS, whole(MEMBERS), Cut("North lead", 13.0))
        found = stance_for(MEMBERS, step.after, step.piece)
        self.assertEqual(found.member, "North lead")
        self.assertAlmostEqual(found.at, 12.2)
        feet = place_on(MEMBERS, MEMBERS.rows["North lead"], found.at)[2]
        tied = place_on(MEMBERS, MEMBERS.rows[found.tie_member], found.tie_at)[2]
        self.assertGreater(tied, feet)
        self.assertLess(found.tie_at, 13.0)


class Mends(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.rows = begin("North lead", 5.5, 150.0)

    def failing(self):
        for entry, standing, _ in self.rows:
            row = place_of(standing)(entry)
            if scored(row)[0]:
                yield entry, standing, row

    def test_what_is_offered_passes_when_it_is_worked_out_anew_and_the_cheapest_stands_first(self):
        offered = 0
        for entry, standing, row in islice(self.failing(), 4):
            found = mends(MEMBERS, entry, row, place_of(standing))
            self.assertEqual([w.cost for w in found], sorted(w.cost for w in found))
            for way in found:
                offered += 1
                again = place_of(standing)(json.loads(json.dumps(way.entry)))
                self.assertIsNone(again.error)
                self.assertFalse([x.key for x in again.limits if x.verdict in (Verdict.OVER, Verdict.NOT_KNOWN)])
                named = [(key, str(amount)) for key, amount in way.changes]
                self.assertEqual(taken(MEMBERS, entry, row, named), way.entry)
            self.assertEqual(len({frozenset(k for k, _ in w.changes) for w in found}), len(found))
        self.assertGreaterEqual(offered, 8)

    def test_wraps_that_mend_are_found_by_hand_too(self):
        mended = 0
        for entry, standing, _ in (row for row in self.rows if row[0]["method"] == "negative"):
            loose = {**entry, "wraps": 1.5}
            row = place_of(standing)(loose)
            by_hand = [
                more for more in (0.5, 1.0, 1.5) if not scored(place_of(standing)({**loose, "wraps": 1.5 + more}))[0]
            ]
            if scored(row)[0] and by_hand:
                offered = [dict(w.changes) for w in mends(MEMBERS, loose, row, place_of(standing))]
                self.assertTrue(any(w.get("wraps") in {1.5 + more for more in by_hand} for w in offered if len(w) == 1))
                mended += 1
        self.assertGreaterEqual(mended, 2)

    def test_laid_out_and_mended_nearly_the_whole_lead_passes(self):
        entries, standing = [], whole(MEMBERS)
        for cut, _ in laid_out(MEMBERS, standing, "North lead", 5.5, 150.0):
            step = take(MEMBERS, standing, cut)
            entry = begun(MEMBERS, step, entries, GEAR)
            row = place_of(standing)(entry)
            found = mends(MEMBERS, entry, row, place_of(standing), most=1) if scored(row)[0] else ()
            entries.append(found[0].entry if found else entry)
            standing = step.after
        rows = steps_of(entries, TREE, SITE, STORE, OTHERS, TODAY)
        self.assertFalse([r.done.error for r in rows if r.done.error])
        self.assertLessEqual(sum(scored(r.done)[0] > 0 for r in rows), 1)

    def test_a_way_nobody_offered_any_more_is_refused(self):
        entry, _, row = next(self.failing())
        with self.assertRaises(CoreError):
            taken(MEMBERS, entry, row, [("wraps", "77.0")])

    def test_none_where_nothing_is_cut(self):
        gone = pick_row(TREE, SITE, json.dumps({"member": "Nobody", "at_m": 1.0}), whole(MEMBERS).ends, (), (), TODAY)
        self.assertEqual(mends(MEMBERS, {"member": "Nobody", "at_m": 1.0}, gone, place_of(whole(MEMBERS))), ())


class OtherMethod(TestCase):
    """What another method of a pick begins with, against the piece it is of."""

    def setUp(self):
        self.piece = take(MEMBERS, whole(MEMBERS), Cut("North limb 1", 0.3)).piece
        self.butt = {
            "member": "North limb 1",
            "at_m": 0.3,
            "method": "butt",
            "point": {"member": "North lead", "at_m": 8},
        }

    def asked(self, method, entry=None, piece=None):
        return as_method(MEMBERS, piece or self.piece, entry or self.butt, method)

    def test_near_balance_ties_a_tenth_or_less_below_the_lowest_balance(self):
        low = self.piece.balance.low
        tie = self.asked("balance")["tie_m"]
        self.assertTrue(low - 0.1 < tie <= low)
        self.assertAlmostEqual(tie * 10.0, round(tie * 10.0))

    def test_legs_of_a_bridle_by_hand(self):
        balance, long = self.piece.balance, self.piece.length
        patch = self.asked("bridle")
        self.assertEqual(patch["tie_m"], math.floor(10.0 * 0.6 * balance.low) / 10.0)
        self.assertEqual(patch["second_tie_m"], math.floor(10.0 * (balance.high + 0.4 * (long - balance.high))) / 10.0)
        self.assertEqual(patch["cut"], "step")
        self.assertNotIn("point", patch)  # it hangs from above already

    def test_ends_of_long_pieces_and_of_short_ones(self):
        long = self.piece.length
        self.assertEqual(self.asked("tip")["tie_m"], math.floor(8.0 * long) / 10.0)
        self.assertEqual(self.asked("both"), {"tie_m": 0.5, "second_tie_m": math.floor(8.0 * long) / 10.0})
        end = take(MEMBERS, whole(MEMBERS), Cut("North limb 1", round(0.3 + long - 0.7, 2))).piece
        self.assertEqual(self.asked("butt", self.butt | {"method": "tip"}, end)["tie_m"], 0.3)

    def test_a_second_line_goes_with_its_method(self):
        two = self.butt | {"method": "both", "second_tie_m": 3.0}
        self.assertIsNone(self.asked("butt", two)["second_tie_m"])
        self.assertIsNotNone(self.asked("bridle", two)["second_tie_m"])
        self.assertNotIn("second_tie_m", self.asked("butt"))

    def test_a_section_hangs_half_a_metre_under_its_cut_and_back_up_again(self):
        piece = take(MEMBERS, whole(MEMBERS), Cut("South lead", 6.0)).piece
        entry = {"member": "South lead", "at_m": 6.0, "method": "butt"}
        below = self.asked("negative", entry, piece)
        self.assertEqual(below["point"], {"member": "South lead", "at_m": 5.5})
        self.assertEqual((below["tie_m"], below["held"], below["run_m"], below["cut"]), (0.4, "run", 0.5, "hinge"))
        limb = self.butt | {"method": "negative", "point": {"member": "North limb 1", "at_m": 0.1}}
        self.assertEqual(self.asked("butt", limb)["point"]["member"], "North lead")

    def test_by_hand_and_by_hook(self):
        self.assertEqual(self.asked("toss"), {"cut": "top"})
        self.assertEqual(self.asked("free"), {})
        self.assertEqual(self.asked("crane")["tie_m"], math.floor(10.0 * self.piece.balance.value) / 10.0)


class NamedPlaces(TestCase):
    """Places a pick names on the site, from the foot of a stem that stands off the origin."""

    SITE = Site(
        tree_x=-2.0,
        tree_y=5.0,
        places=(
            Spot(name="Plot", kind="landing_zone", shape=Polygon([(2, 1), (6, 1), (6, 3), (2, 3)]), outline=()),
            Spot(
                name="Corner",
                kind="landing_zone",
                shape=Polygon([(0, 0), (9, 0), (9, 1), (1, 1), (1, 9), (0, 9)]),
                outline=(),
            ),
        ),
    )

    def test_where_it_is(self):
        found = on_places({"landing_on": "Plot", "device_on": "Plot", "device_at": [1.0, 1.0, 2.2]}, self.SITE)
        self.assertEqual(found["landing_m"], [6.0, -3.0])
        self.assertEqual(found["device_at"], [6.0, -3.0, 2.2])
        self.assertEqual(on_places({"device_on": "Plot"}, self.SITE)["device_at"][2], 1.0)

    def test_people_and_what_is_not_named_stays_as_typed(self):
        entry = {"tag_from_on": "Plot", "device_from_on": "Plot", "landing_m": [1.0, 2.0]}
        found = on_places(entry, self.SITE)
        self.assertEqual((found["tag_from_m"], found["device_from_m"]), ([6.0, -3.0], [6.0, -3.0]))
        self.assertEqual(found["landing_m"], [1.0, 2.0])
        self.assertNotIn("tag_from_m", entry)

    def test_of_a_bent_place_it_lies_inside(self):
        east, north = on_places({"landing_on": "Corner"}, self.SITE)["landing_m"]
        self.assertTrue(self.SITE.places[1].shape.covers(Point(east - 2.0, north + 5.0)))

    def test_one_that_is_gone_is_named(self):
        with self.assertRaises(CoreError) as said:
            on_places({"landing_on": "Nowhere"}, self.SITE)
        self.assertEqual(said.exception.field, "landing_on")


class WorkOfPicks(TestCase):
    """The day's work of two picks of the beech, each amount by hand from the pick."""

    @classmethod
    def setUpClass(cls):
        cls.rows = [s.done for s in steps_of(BEECH["takedown"]["picks"][:4], TREE, SITE, STORE, OTHERS, TODAY)]
        cls.work = takedown_work(MEMBERS, [row.worked for row in cls.rows], Ground(30.0, None, 0.15, False))

    def amounts(self, pick, part):
        return {task.key: task.amount for task in getattr(self.work[pick], part)}

    def test_amounts_of_a_held_pick(self):
        row = self.rows[2]
        piece, stands = row.step.piece, [r.worked.stand.stance for r in self.rows[1:3]]
        before = self.amounts(2, "before")
        self.assertAlmostEqual(before["climb"], math.dist(*stands))
        self.assertEqual((before["set_up"], before["rig"]), (1.0, 1.0))
        self.assertAlmostEqual(self.amounts(2, "cut")["cut"], math.pi / 4.0 * piece.diameter**2 * 1.35)
        self.assertEqual(self.amounts(2, "tie"), {"tie": 1.0})
        self.assertAlmostEqual(self.amounts(2, "lower")["lower"], piece.cg[2])
        self.assertAlmostEqual(self.amounts(2, "back")["rope_back"], row.worked.point[2])
        self.assertAlmostEqual(self.amounts(2, "drag")["drag"], math.ceil(piece.mass.value / 25.0) * 30.0)
        hard = next(task.hard for task in self.work[2].cut if task.key == "cut")
        self.assertAlmostEqual(hard, TREE.kind.density.value / 800.0)

    def test_nothing_is_tied_or_lowered_of_what_is_thrown(self):
        self.assertEqual(BEECH["takedown"]["picks"][0]["method"], "toss")
        found = [self.amounts(0, part) for part in ("tie", "lower", "untie", "back")]
        self.assertEqual(found, [{"tie": 0.0}, {"lower": 0.0}, {"untie": 0.0}, {"rope_back": 0.0}])

    def test_thin_wood_is_chipped_whole_and_nothing_of_it_cut_to_length(self):
        piece = self.rows[0].step.piece
        self.assertLess(piece.diameter, 0.15)
        self.assertAlmostEqual(self.amounts(0, "chip")["chip"], piece.mass.value, delta=0.02 * piece.mass.value)
        self.assertEqual(self.amounts(0, "log")["log"], 0.0)
