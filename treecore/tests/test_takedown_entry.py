"""A takedown's entries, touches on the drawn tree, proposed orders and changes: what is typed arrives, what helps is
true.
"""

import itertools
import json
import math
from dataclasses import replace
from datetime import date
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from treecore.errors import CoreError
from treecore.formats.takedown_entry import cut_of, item_of, others_of, pick_of, pick_row, takedown_json
from treecore.rigging.swing import drop_reach
from treecore.site import Site, Target
from treecore.takedown.access import Access, access_limits, fork_load
from treecore.takedown.aiming import aimed, along_at, changes, usual_point
from treecore.takedown.limits import pick_limits
from treecore.takedown.members import members_of, place_on
from treecore.takedown.order import order_rules
from treecore.takedown.pick import Pick, methods, point_place
from treecore.takedown.pick_result import drops, fall_energy, thrown_to, two_ties, work
from treecore.takedown.pieces import Cut, Standing, take, takedown, whole
from treecore.takedown.proposing import Move, Score, moves_of, proposed, usual_order
from treecore.tests.validation.test_takedown import AT_TOP, GEAR, OAK, PICK, TODAY
from treecore.tree.shaping import across_view
from treecore.verdict import Verdict

STORE = {item.name: item for item in GEAR.values()}
ENTRY = {
    "member": "Bough", "at_m": 0.3, "method": "both", "cut": "side", "tie_m": 0.6, "second_tie_m": 4.0, "slack_m": 0.2,
    "held": "run", "run_m": 3.0,
    "device_kind": "drum", "device_at": [0.3, 0.4, 1.1], "wraps": 2.5, "rope": "Blue line", "sling": "Dead-eye",
    "block": "Small block",
    "device": "Bollard", "knot": "timber_hitch", "sling_as": "basket", "design_school": "7", "point": {"member": "",
    "at_m": 13.0, "fork": True},
    "climber": {"tie_member": "", "tie_m": 15.0, "stance_member": "", "stance_m": 7.5, "line_m": 40.0, "based": True},
}  # fmt: skip
MEMBERS = members_of(OAK)


class Entries(TestCase):
    def test_every_choice_arrives(self):
        pick = pick_of(ENTRY, STORE)
        self.assertEqual(
            (pick.method, pick.cut.key, pick.tie, pick.second_tie, pick.slack, pick.held, pick.run),
            ("both", "side", 0.6, 4.0, 0.2, "run", 3.0),
        )
        self.assertEqual(
            (pick.device, pick.device_place, pick.wraps, pick.knot, pick.sling, pick.design),
            ("drum", (0.3, 0.4, 1.1), 2.5, "timber_hitch", "basket", "7"),
        )
        self.assertEqual((pick.point.member, pick.point.at, pick.point.fork), ("", 13.0, True))
        self.assertEqual(
            (pick.climber.tie_at, pick.climber.stance_at, pick.climber.line, pick.climber.based),
            (15.0, 7.5, 40.0, True),
        )
        self.assertEqual(
            {role: item.name for role, item in pick.gear.items()},
            {"rope": "Blue line", "sling": "Dead-eye", "block": "Small block", "device": "Bollard"},
        )
        self.assertEqual(cut_of(ENTRY), Cut("Bough", 0.3))

    def test_other_trees_landings_and_lines_arrive(self):
        site = {
            "targets": [
                {
                    "name": "Ash",
                    "kind": "anchor_tree",
                    "outline_m": [[12.0, 3.0]],
                    "height_m": 15,
                    "diameter_m": 0.5,
                    "sound": True,
                },
                {"name": "Shed", "kind": "building", "outline_m": [[0, 0], [1, 0], [1, 1]], "height_m": 2},
            ]
        }
        others = others_of(site, {"x_m": 2.0, "y_m": 1.0})
        self.assertEqual(
            [(t.name, t.east, t.north, t.diameter, t.sound) for t in others], [("Ash", 10.0, 2.0, 0.5, True)]
        )
        more = {
            "point": {"tree": "Ash", "at_m": 11.0},
            "redirect": {"member": "", "at_m": 5.0},
            "far_anchor": {"tree": "Ash", "at_m": 9.0},
            "slack_m": 0.0,
            "pretension_N": 400.0,
            "head_m": 1.1,
            "sag": 0.2,
            "bearing_deg": 270,
            "landing_m": [1.5, -2.0],
            "bed": "logs",
            "bed_depth_m": 0.8,
            "bed_radius_m": 2.5,
            "base": "Base sling",
            "climber": {
                "tie_tree": "Ash",
                "tie_m": 12.0,
                "stance_member": "",
                "stance_m": 7.5,
                "lanyard": False,
                "side_deg": 90,
                "second": {"member": "High", "at_m": 1.0},
            },
        }
        pick = pick_of(ENTRY | more, STORE, others)
        self.assertEqual((pick.point.place, pick.point.diameter, pick.point.tree), ((10.0, 2.0, 11.0), 0.5, "Ash"))
        self.assertEqual((pick.redirect.member, pick.far_anchor.place, pick.sag), ("", (10.0, 2.0, 9.0), 0.2))
        self.assertEqual((pick.pretension, pick.head, pick.landing), (400.0, 1.1, (1.5, -2.0)))
        self.assertAlmostEqual(pick.bearing, 1.5 * math.pi, places=12)
        self.assertEqual(
            (pick.bed, pick.bed_depth, pick.bed_radius, pick.gear["base"].name), ("logs", 0.8, 2.5, "Base sling")
        )
        climber = pick.climber
        self.assertEqual(
            (climber.place, climber.second_member, climber.second_at, climber.lanyard),
            ((10.0, 2.0, 12.0), "High", 1.0, False),
        )
        self.assertAlmostEqual(climber.side, math.pi / 2, places=12)
        for wrong, field in (
            (({"point": {"tree": "Oak", "at_m": 3.0}}), "rigging_point"),
            ({"far_anchor": {"tree": "Ash", "at_m": 30.0}}, "far_anchor"),
        ):
            with self.assertRaises(CoreError) as caught:
                pick_of(ENTRY | more | wrong, STORE, others)
            self.assertEqual(caught.exception.field, field)

    def test_refusals_by_name(self):
        for change, field in (
            ({"rope": "Nobody's"}, "rope"),
            ({"sling": "Blue line"}, "sling"),
            ({"method": "throw"}, "method"),
            ({"held": "hope"}, "held"),
            ({"wraps": 9}, "wraps"),
            ({"slack_m": -1}, "slack"),
            ({"point": None}, "rigging_point"),
            ({"cut": "bite"}, "cut_type"),
            ({"device_kind": "tree"}, "device"),
        ):
            with self.subTest(field=field), self.assertRaises(CoreError) as caught:
                pick_of(ENTRY | change, STORE)
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(CoreError):
            item_of({"name": "Sling", "kind": "sling", "bought": "last May"})

    def test_a_refused_pick_leaves_the_tree_as_it_was(self):
        picks = [
            {"member": "Twig", "at_m": 0.1},
            {"member": "Spur", "at_m": 0.2, "method": "free"},
            {"member": "Spur", "at_m": 1.0, "method": "free"},
        ]
        out = takedown_json({"picks": picks}, OAK, Site(), STORE, TODAY)
        self.assertIn("no limb “Twig”", out["picks"][0]["refused"])
        self.assertEqual(out["picks"][2].get("refused", "")[:4], "cut:")
        total = takedown_json({"picks": []}, OAK, Site(), STORE, TODAY)["left_kg"]
        self.assertAlmostEqual(out["left_kg"] + out["picks"][1]["mass"]["value"], total, places=9)

    def test_worked_out_once_is_worked_out_alike(self):
        text, items = json.dumps(ENTRY, sort_keys=True), tuple(STORE.values())
        ends = whole(MEMBERS).ends
        one, two = (pick_row(OAK, Site(), text, ends, items, (), TODAY) for _ in range(2))
        self.assertIs(one, two)
        direct = work(MEMBERS, take(MEMBERS, Standing(ends), cut_of(ENTRY)), pick_of(ENTRY, STORE), Site())
        self.assertEqual(one.worked.forces.peaks, direct.forces.peaks)
        self.assertEqual([x.key for x in one.limits], [x.key for x in pick_limits(MEMBERS, direct, Site(), TODAY)])


class Touches(TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.0, 6.28), st.sampled_from(["Bough", "High", "Dead one"]), st.floats(0.3, 0.9))
    def test_a_touch_on_a_limb_finds_it_where_it_was_touched(self, view, name, share):
        row = MEMBERS.rows[name]
        end = float(MEMBERS.end[row])
        x, y, z = place_on(MEMBERS, row, share * end)
        along, gap = along_at(MEMBERS, row, view, across_view(view, x, y), z, end)
        self.assertAlmostEqual(gap, 0.0, places=6)
        flat = math.hypot(across_view(view, *MEMBERS.way[row][:2]), MEMBERS.way[row][2])
        if flat > 0.5:  # not seen end on
            self.assertAlmostEqual(along, share * end, places=5)

    def test_beside_the_tree_there_is_nothing_and_what_is_gone_is_not_touched(self):
        with self.assertRaises(CoreError):
            aimed(MEMBERS, whole(MEMBERS), 0.0, 25.0, 8.0)
        (step,) = takedown(MEMBERS, [Cut("", 10.0)])
        x, y, z = place_on(MEMBERS, MEMBERS.rows["High"], 2.0)
        with self.assertRaises(CoreError):
            aimed(MEMBERS, step.after, 0.0, across_view(0.0, x, y), z)
        row, at = aimed(MEMBERS, step.after, 0.0, 0.0, 5.0)
        self.assertEqual((row, at), (0, 5.0))

    def test_proposed_order(self):
        cuts = [
            Cut("", 2.0),
            Cut("High", 0.2),
            Cut("Bough", 0.2),
            Cut("Bough", 3.2),
            Cut("Dead one", 0.1),
            Cut("", 12.0),
        ]
        self.assertEqual(
            [cuts[i] for i in usual_order(MEMBERS, cuts)], [cuts[4], cuts[3], cuts[2], cuts[1], cuts[5], cuts[0]]
        )
        self.assertEqual(len(takedown(MEMBERS, [cuts[i] for i in usual_order(MEMBERS, cuts)])), 6)

        def judged(order):
            return Score(0, 0, 0, sum(a > b for a, b in itertools.pairwise(order)), 0)

        # Nothing is proposed that is worse in anything, or has a refused pick.
        now = tuple(range(6))
        self.assertEqual(proposed(MEMBERS, cuts, judged).order, now)
        usual = usual_order(MEMBERS, cuts)
        refused = proposed(MEMBERS, cuts, lambda order: Score(int(order != now), 2, 0, 3, 0))
        self.assertEqual((refused.order, refused.moves), (now, ()))
        mended = proposed(MEMBERS, cuts, lambda order: Score(int(order != usual), int(order == usual), 0, 0, 0))
        self.assertEqual((mended.order, mended.before.refused), (usual, 1))
        at_a_cost = proposed(
            MEMBERS, cuts, lambda order: Score(0, int(order == usual), 0, 6 - 6 * int(order == usual), 0)
        )
        self.assertNotEqual(at_a_cost.order, usual)
        gains = proposed(
            MEMBERS, cuts, lambda order: Score(0, 0, 0, sum(a != b for a, b in zip(order, usual, strict=True)), 0)
        )
        self.assertEqual((gains.order, gains.after.rules), (usual, 0))
        self.assertEqual({(m.was, m.why) for m in gains.moves if m.why == "dead"}, {(5, "dead")})
        self.assertLessEqual(len(gains.moves), 5)

    def test_the_fewest_picks_move(self):
        cuts = [Cut("High", 3.0), Cut("High", 2.0), Cut("Dead one", 0.1), Cut("High", 1.0)]
        for order, moved in (
            ((2, 0, 1, 3), [Move(3, 1, "dead")]),
            ((0, 1, 3, 2), [Move(4, 3, "limb")]),
            ((0, 1, 2, 3), []),
        ):
            found = list(moves_of(MEMBERS, cuts, order))
            self.assertEqual(len(found), len(moved))
            if order[0] == 2:
                self.assertEqual(found, moved)


class Helps(TestCase):
    def test_changes_do_what_they_say(self):
        step = take(MEMBERS, whole(MEMBERS), Cut("Bough", 0.3))
        slack = replace(PICK, slack=1.2, held="lock", wraps=2.0)
        base = work(MEMBERS, step, slack, Site()).forces.peaks.governing.value
        found = {(c.key, c.amount): c for c in changes(MEMBERS, step, slack, Site(), TODAY)}
        less = work(MEMBERS, step, replace(slack, slack=0.2), Site()).forces.peaks.governing.value
        self.assertAlmostEqual(found[("slack", 1.0)].peak, less / base - 1.0, places=12)
        self.assertLess(found[("slack", 1.0)].peak, 0.0)
        self.assertEqual(found[("wraps", 1.0)].peak, 0.0)
        self.assertTrue(all(c.peak < 0.0 for c in found.values() if c.key == "shorter"))
        for change in found.values():
            if change.key == "wraps" and change.mends:
                more = replace(slack, wraps=slack.wraps + change.amount)
                limits = pick_limits(MEMBERS, work(MEMBERS, step, more, Site()), Site(), TODAY)
                self.assertTrue(all(x.verdict is not Verdict.OVER for x in limits))

    def test_two_ties_by_moments_and_legs_by_a_triangle(self):
        piece = take(MEMBERS, whole(MEMBERS), Cut("Bough", 0.3)).piece
        weight, cg = piece.mass.value * 9.80665, piece.balance.value
        lines = two_ties(piece, replace(PICK, method="both", tie=0.6, second_tie=4.0))
        self.assertAlmostEqual(lines.first + lines.second, weight, places=9)
        self.assertAlmostEqual(lines.second * 3.4, weight * (cg - 0.6), places=9)
        legs = two_ties(piece, replace(PICK, method="bridle", tie=cg - 1.0, second_tie=cg + 2.0))
        # The head hangs 1.5 m above the balance; forces along both legs add up to the weight, straight up.
        slope = piece.slope
        ways = [np.array([d * math.cos(slope), d * math.sin(slope) - 1.5]) for d in (-1.0, 2.0)]
        for way, length in zip(ways, (legs.first_leg, legs.second_leg), strict=True):
            self.assertAlmostEqual(float(np.linalg.norm(way)), length, places=9)
        pull = sum(t * w / np.linalg.norm(w) for t, w in zip((legs.first, legs.second), ways, strict=True))
        np.testing.assert_allclose(pull, [0.0, -weight], atol=1e-6)
        with self.assertRaises(CoreError):
            two_ties(piece, replace(PICK, method="bridle", tie=cg + 0.5, second_tie=cg + 2.0))
        self.assertIsNone(two_ties(piece, PICK))

    def test_free_fall(self):
        piece = take(MEMBERS, whole(MEMBERS), Cut("High", 0.2)).piece
        self.assertAlmostEqual(fall_energy(piece), piece.mass.value * 9.80665 * piece.cg[2], places=9)
        near = Target(name="Bench", kind="people", outline=((1.0, 1.0), (2.0, 1.0), (2.0, 2.0), (1.0, 2.0)), height=1.0)
        far = Target(
            name="Barn", kind="building", outline=((40.0, 0.0), (50.0, 0.0), (50.0, 9.0), (40.0, 9.0)), height=6.0
        )
        found = {p.name: p.gap for p in drops(piece, Pick(name="f", method="free"), Site(targets=(near, far)))}
        self.assertEqual(found["Bench"], 0.0)
        level = math.hypot(40.0 - piece.cg[0], max(0.0 - piece.cg[1], 0.0))
        self.assertAlmostEqual(found["Barn"], level - drop_reach(piece.reach, piece.cg[2]), delta=0.05)
        # Thrown, it lies where it is thrown: said, or the freest place within two metres of where it hangs.
        glass = Target(
            name="Glass", kind="building", outline=((3.0, 3.0), (5.0, 3.0), (5.0, 6.0), (3.0, 6.0)), height=2.0
        )
        lies = 0.5 * piece.length + 0.1 * piece.cg[2]
        into = drops(piece, Pick(name="t", method="toss", landing=(4.0, 4.0)), Site(targets=(glass, far)))
        self.assertEqual({p.name: p.gap for p in into}["Glass"], 0.0)
        aside = drops(piece, Pick(name="t", method="toss", landing=(4.0, -4.0)), Site(targets=(glass, far)))
        self.assertAlmostEqual({p.name: p.gap for p in aside}["Glass"], 7.0 - lies, delta=0.01)
        place = thrown_to(piece, Pick(name="t", method="toss"), Site(targets=(glass, far)))
        self.assertAlmostEqual(math.dist(place, piece.cg[:2]), 2.0, places=6)
        self.assertGreater(
            glass.shape.distance(shapely.Point(place)), glass.shape.distance(shapely.Point(piece.cg[:2]))
        )

    def test_a_notch_sends_it_one_way_on_soft_ground(self):
        # A ring of a metre, two metres up, faced east: a wall a metre and a half behind it is out of its bounce.
        piece = take(MEMBERS, whole(MEMBERS), Cut("", 12.0)).piece
        ring = piece._replace(butt=(0.0, 0.0, 1.5), tip=(0.0, 0.0, 2.5), cg=(0.0, 0.0, 2.0), length=1.0, reach=1.0)

        def gaps(faces, *more):
            walls = [
                Target(
                    name=n, kind="building", outline=((x, -2.0), (x + 0.3, -2.0), (x + 0.3, 2.0), (x, 2.0)), height=2.0
                )
                for n, x in (("West", -1.8), ("East", 1.4))
            ]
            there = Pick(name="r", method="free", bearing=faces)
            return {p.name: p.gap for p in drops(ring, there, Site(targets=(*walls, *more)))}

        east, west = gaps(math.pi / 2), gaps(1.5 * math.pi)
        self.assertGreater(east["West"], 1.0)
        self.assertEqual(east["East"], 0.0)
        self.assertEqual(west["West"], 0.0)
        self.assertGreater(west["East"], 0.9)
        # Nobody said which way, or it comes down on paving: all round.
        yard = Target(
            name="Yard", kind="lane", outline=((-3.0, -3.0), (3.0, -3.0), (3.0, 3.0), (-3.0, 3.0)), height=0.0
        )
        for found in (gaps(None), gaps(math.pi / 2, yard)):
            self.assertEqual((found["West"], found["East"]), (0.0, 0.0))

    def test_other_trees_are_not_known_and_days_count(self):
        elsewhere = replace(PICK, point=replace(AT_TOP, member=None, place=(6.0, 2.0, 14.0)))
        step = take(MEMBERS, whole(MEMBERS), Cut("Bough", 0.3))
        keys = {x.key: x.verdict for x in pick_limits(MEMBERS, work(MEMBERS, step, elsewhere, Site()), Site(), TODAY)}
        self.assertEqual(keys["anchor_other"], Verdict.NOT_KNOWN)
        later = pick_limits(MEMBERS, work(MEMBERS, step, PICK, Site()), Site(), date(2027, 6, 1))
        self.assertEqual({x.about.name for x in later if x.key == "gear_refused"}, set(STORE))


class Proposed(TestCase):
    def test_points_to_begin_from_stand_and_lie_where_the_method_wants_them(self):
        for cut, method in (
            (Cut("", 12.0), "negative"),
            (Cut("Bough", 0.3), "butt"),
            (Cut("Spur", 0.2), "tip"),
            (Cut("High", 0.5), "bridle"),
        ):
            point = usual_point(MEMBERS, cut, methods()[method])
            step = take(MEMBERS, whole(MEMBERS), cut)
            place = point_place(MEMBERS, step.after, point)
            self.assertEqual(place[2] > step.piece.butt[2], method != "negative", (cut, point))
        self.assertIsNone(usual_point(MEMBERS, Cut("", 12.0), methods()["butt"]))
        self.assertIsNone(usual_point(MEMBERS, Cut("", 12.0), methods()["free"]))


class WayUp(TestCase):
    def test_the_first_line_and_what_nobody_said(self):
        good = Access(member="", at=14.0, line=45.0, isolated=True, tested=True)
        self.assertEqual({x.verdict for x in access_limits(MEMBERS, good)}, {Verdict.WITHIN})
        self.assertAlmostEqual(fork_load(replace(good, anchor="base")).value, 2 * 100 * 9.80665, places=6)
        asked = {
            x.key: x.verdict for x in access_limits(MEMBERS, replace(good, isolated=False, tested=False, line=25.0))
        }
        self.assertEqual(
            (asked["not_isolated"], asked["not_tested"], asked["access_line"]),
            (Verdict.NOT_KNOWN, Verdict.NOT_KNOWN, Verdict.OVER),
        )
        dead = {x.key: x.verdict for x in access_limits(MEMBERS, replace(good, member="Dead one", at=0.5))}
        self.assertEqual((dead["fork_weak"], dead["fork_thin"]), (Verdict.OVER, Verdict.OVER))
        with self.assertRaises(CoreError):
            access_limits(MEMBERS, replace(good, member="High", at=9.0))
        self.assertEqual(access_limits(MEMBERS, replace(good, way="lift")), ())


class Balance(TestCase):
    def test_taking_all_of_one_side_first_is_said(self):
        cuts = [Cut("Dead one", 0.0), Cut("Bough", 0.0), Cut("High", 0.0)]
        steps = takedown(MEMBERS, cuts)
        free = Pick(name="f", method="free")
        heavy = replace(
            OAK, limbs=tuple(replace(b, diameter=0.4, length=9.0) if b.name == "High" else b for b in OAK.limbs)
        )
        members = members_of(heavy)
        found = order_rules(members, takedown(members, [Cut("Dead one", 0.0), Cut("Bough", 0.0)]), (free, free))
        self.assertEqual([o.rule for o in order_rules(MEMBERS, steps, (free,) * 3)], [])
        left = take(members, takedown(members, [Cut("Dead one", 0.0), Cut("Bough", 0.0)])[-1].after, Cut("", 0.0)).piece
        first = take(members, takedown(members, [Cut("Dead one", 0.0)])[-1].after, Cut("", 0.0)).piece
        moved = math.hypot(*left.cg[:2]) - math.hypot(*first.cg[:2])
        self.assertEqual([o.number for o in found if o.rule == "off_balance"], [2] if moved > 0.5 else [])
