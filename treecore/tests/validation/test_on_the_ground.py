"""People, ropes, ways out and slopes under a plan, by other geometry; and every cell of the table
of hazards tripped.
"""

import math
from collections import Counter
from dataclasses import replace
from types import SimpleNamespace
from unittest import TestCase

import numpy as np
from scipy.optimize import minimize_scalar
from shapely.geometry import Point, Polygon

from treecore.felling.plan import evaluate
from treecore.findings import Seen, everywhere, on_felling, on_pick, undrawn_conductor
from treecore.hazards import hazards
from treecore.method import Scene, options, ways
from treecore.rigging.pulling import Leg
from treecore.schools import constant
from treecore.site import Site, Spot, Target
from treecore.takedown.ground import legs_of, longest_past, moves_over, recoil_of, stands_of, under_ground
from treecore.takedown.members import members_of
from treecore.takedown.pick_result import carried_along
from treecore.takedown.pieces import Cut
from treecore.tests.scenes import CUTS, PLAN, PULL, SITE, TACKLE, TREE
from treecore.tests.validation.test_takedown import OAK, PICK, worked
from treecore.units import GRAVITY
from treecore.verdict import Verdict


def rod(thick, foliage=0.0):
    return SimpleNamespace(piece=SimpleNamespace(diameter=thick, foliage=foliage))


def past_by_search(width, turn, thick):
    """Longest box of a thickness that gets round a corner: the shortest line through its inner edge, over all its
    ways.
    """
    inner, half = width / math.sin((math.pi - turn) / 2.0), (math.pi - turn) / 2.0
    one, two = np.array([1.0, 0.0]), np.array([math.cos(2 * half), math.sin(2 * half)])
    corner = inner * np.array([math.cos(half), math.sin(half)])

    def length(way):
        normal = np.array([math.cos(half + way), math.sin(half + way)])
        offset = float(normal @ corner) - thick
        ends = [offset / float(normal @ wall) * wall for wall in (one, two)]
        return float(np.linalg.norm(ends[0] - ends[1]))

    reach = math.pi / 2.0 - half - 0.02
    return minimize_scalar(length, bounds=(-reach, reach), method="bounded", options={"xatol": 1e-10}).fun


class WaysOut(TestCase):
    def test_a_corner_against_a_search_over_every_way_to_hold_it(self):
        for width, degrees, thick in ((1.2, 90.0, 0.0), (1.2, 90.0, 0.25), (0.9, 60.0, 0.1), (2.0, 120.0, 0.4)):
            found = longest_past(width, (math.radians(degrees),), rod(thick))
            self.assertAlmostEqual(found, past_by_search(width, math.radians(degrees), thick), places=5)
        # A thin rod at a right angle: the textbook's (w₁^⅔ + w₂^⅔)^(3/2).
        self.assertAlmostEqual(longest_past(1.2, (math.pi / 2,), rod(0.0)), (2 * 1.2 ** (2 / 3)) ** 1.5, places=9)

    def test_a_leafy_piece_is_wide_for_its_length_and_the_narrowest_corner_rules(self):
        leafy = constant("limb_width").value
        length = longest_past(1.5, (math.pi / 2,), rod(0.1, foliage=5.0))
        self.assertAlmostEqual(length, past_by_search(1.5, math.pi / 2, leafy * length), places=5)
        both = longest_past(1.2, (0.5, 1.4), rod(0.1))
        self.assertEqual(both, longest_past(1.2, (1.4,), rod(0.1)))
        self.assertEqual(longest_past(1.2, (0.01,), rod(0.1)), math.inf)
        self.assertEqual(longest_past(0.3, (), rod(0.4)), 0.0)
        self.assertEqual(longest_past(1.2, (), rod(0.1, foliage=1.0)), 1.2 / leafy)


class Ropes(TestCase):
    def test_recoil_lies_along_beyond_both_ends_and_beside(self):
        leg = Leg("rope", "", "", (2.0, 1.0, 9.0), (12.0, 1.0, 1.0), 900.0, 900.0)
        strip, cone = recoil_of(leg), math.tan(math.radians(15.0))
        for x, y, inside in (
            (7.0, 1.9, True),
            (7.0, 2.1, False),
            (16.0, 1.0, True),
            (16.0, 1.0 + 3.9 * cone, True),
            (16.0, 1.0 + 4.3 * cone, False),
            (-3.0, 1.0, True),
            (-3.0, 1.0 - 4.8 * cone, True),
            (-8.2, 1.0, False),
            (22.1, 1.0, False),
        ):
            self.assertEqual(strip.contains(Point(x, y)), inside, (x, y))
        upright = recoil_of(leg._replace(end=(2.1, 1.0, 0.0)))
        self.assertAlmostEqual(upright.area, math.pi, delta=0.05)

    def test_legs_run_from_the_point_to_the_device_on_the_site(self):
        site = Site(tree_x=5.0, tree_y=-3.0)
        w, _ = worked(replace(PICK, device_place=(4.0, 2.0, 1.0)), site=site)
        (leg,) = legs_of(members_of(OAK), w, site)
        np.testing.assert_allclose(leg.start, np.array(w.point) + np.array([5.0, -3.0, 0.0]), atol=1e-12)
        self.assertEqual(leg.end, (9.0, -1.0, 1.0))
        self.assertEqual(leg.load, w.forces.control_leg.value)


class People(TestCase):
    def test_a_falling_piece_reaches_its_length_and_a_quarter_of_its_height(self):
        w, _ = worked(replace(PICK, method="free", point=None), Cut("Bough", 0.3))
        moves, piece = moves_over(w, Site()), w.piece
        for east, north in ((9.0, 4.0), (-7.0, 1.0)):
            far = math.hypot(east - piece.cg[0], north - piece.cg[1])
            gap = moves.gap(Point(east, north))
            self.assertAlmostEqual(gap, max(far - piece.reach - 0.25 * piece.cg[2], 0.0), places=9)

    def test_somebody_under_the_swing_is_over_and_beside_it_not(self):
        w, _ = worked()
        under = w.path.cg[w.path.rest]
        for place, verdict in (((under[0], under[1]), Verdict.OVER), ((-9.0, 9.0), None)):
            _, limits = worked(replace(PICK, device_from=place))
            found = [x.verdict for x in limits if x.key == "under_piece"]
            self.assertEqual(verdict in found if verdict else Verdict.OVER not in found, True)

    def test_the_place_proposed_at_the_device_is_clear_of_piece_and_rope(self):
        for device in ((0.3, 0.0, 1.0), (3.0, -2.0, 1.0), (-4.0, 5.0, 1.0)):
            members = members_of(OAK)
            w, _ = worked(replace(PICK, device_place=device))
            (stand,) = stands_of(members, w, Site())
            self.assertFalse(stand.said)
            self.assertGreaterEqual(moves_over(w, Site()).gap(Point(stand.place)), constant("under_clear").value)
            self.assertFalse(any(recoil_of(leg).contains(Point(stand.place)) for leg in legs_of(members, w, Site())))
            self.assertGreaterEqual(math.dist(stand.place, device[:2]), constant("device_stands").value - 1e-9)
        w, _ = worked(replace(PICK, device_from=(6.0, -6.0)))
        self.assertEqual(stands_of(members_of(OAK), w, Site())[0], ("device", (6.0, -6.0), True))

    def test_a_path_is_pressed_as_far_as_it_lies_from_the_work(self):
        lane = lambda x: Target(name="Lane", kind="people", outline=((x, -9.0), (x + 3, -9.0), (x + 3, 9.0), (x, 9.0)))  # noqa: E731
        w, _ = worked()
        reach = max(w.path.tip[:, 0].max(), w.path.butt[:, 0].max())
        for gap, over in ((0.2, True), (8.0, False)):
            limits = worked(site=Site(targets=(lane(reach + gap),)))[1]
            found = {x.verdict for x in limits if x.key == "under_piece" and x.about.name == "Lane"}
            self.assertEqual(Verdict.OVER in found, over)


class Slopes(TestCase):
    def test_a_swing_over_rising_ground(self):
        w, _ = worked(replace(PICK, slack=2.0))
        way = math.atan2(w.path.cg[w.path.rest, 0], w.path.cg[w.path.rest, 1])
        for slope in (0.0, 0.2, 0.5):
            site = Site(slope=slope, downhill=(way + math.pi) % math.tau)  # it rises the way the piece goes
            ends = np.concatenate([w.path.butt, w.path.tip])
            up = math.tan(slope) * (ends[:, 0] * math.sin(way) + ends[:, 1] * math.cos(way))
            soft = np.concatenate([np.zeros(len(w.path.butt)), np.full(len(w.path.tip), 0.1 * w.piece.length)])
            lowest = float((ends[:, 2] - up + soft).min())
            found = [x.demand.value for x in under_ground(members_of(OAK), w, site) if not x.about.name]
            self.assertEqual(bool(found), lowest < -0.05)
            if found:
                self.assertAlmostEqual(found[0], lowest, places=9)

    def test_a_load_on_a_line_hangs_as_the_parabola_does(self):
        w, _ = worked()
        far, point = (30.0, -4.0, 2.0), w.point
        path = carried_along(w.path, point, far, 0.08)
        span = math.hypot(30.0 - point[0], -4.0 - point[1])
        extra = path.cg[w.path.rest + 1 :] - w.path.cg[w.path.rest]
        for i, at in enumerate(np.arange(1, 13) / 12.0):
            chord = at * (np.array(far) - np.array(point))
            np.testing.assert_allclose(extra[i, :2], chord[:2], atol=1e-9)
            self.assertAlmostEqual(extra[i, 2], chord[2] - 4 * 0.08 * span * at * (1 - at), places=9)

    def test_escape_paths_fall_and_rise_with_the_ground(self):
        # Paths run 45° back from the lay; down the lay's back they fall by atan(tan s · cos 45°).
        for slope, down, key in ((30.0, PLAN.lay + math.pi, "downhill"), (40.0, PLAN.lay, "")):
            site = replace(SITE, slope=math.radians(slope), downhill=down % math.tau)
            found = [x for x in evaluate(replace(PLAN, site=site)).limits if x.key == "escape_slope"]
            expected = math.atan(math.tan(math.radians(slope)) * math.cos(math.pi / 4))
            self.assertEqual([x.about.why for x in found], [key, key])
            self.assertAlmostEqual(found[0].demand.value, expected, places=6)
            self.assertEqual({x.verdict for x in found}, {Verdict.OVER})


class Pulls(TestCase):
    def test_bending_under_the_tie_by_hand(self):
        plan = replace(PLAN, pull=replace(PULL, azimuth=PLAN.lay))
        found = next(x for x in evaluate(plan).limits if x.key == "tie_breaks")
        tie, stump = PULL.tie, CUTS.stump
        lean = math.tan(TREE.lean) * tie
        x, y = lean * math.sin(TREE.lean_azimuth), lean * math.cos(TREE.lean_azimuth)
        to = PULL.distance * math.sin(plan.lay), PULL.distance * math.cos(plan.lay)
        flat = math.hypot(to[0] - x, to[1] - y)
        level = flat / math.hypot(flat, tie - PULL.anchor)
        heights = np.linspace(stump, tie, 2001)[:-1]
        per = [(tie - h) / (math.pi * TREE.stem.diameter_at(float(h)) ** 3 / 32.0) for h in heights]
        force = plan.gain.value * PULL.force if hasattr(plan.gain, "value") else PULL.force
        self.assertAlmostEqual(found.demand.value / (force * level * max(per)), 1.0, delta=0.01)
        allowed = TREE.kind.mor.value * TREE.condition.strength.value * 0.33
        self.assertAlmostEqual(found.allowed.value, allowed, delta=1.0)

    def test_what_a_line_tears_out_by_hand(self):
        # A round bar sheared by the level part of the pull, 4/3 of the mean; a light line on thin wood is quiet.
        line = replace(PULL, azimuth=PLAN.lay, tie=25.0)
        found = {x.key: x for x in evaluate(replace(PLAN, pull=line)).limits}
        thick = TREE.stem.diameter_at(25.0)
        torn, bent = found["tie_tears"], found["tie_breaks"]
        self.assertLess(torn.demand.value, PULL.force * 4 / 3 / (math.pi / 4 * thick**2))
        self.assertGreater(torn.demand.value, 0.8 * PULL.force * 4 / 3 / (math.pi / 4 * thick**2))
        light = {x.key: x for x in evaluate(replace(PLAN, pull=replace(line, force=137.0))).limits}
        self.assertLess(thick, 0.12)
        self.assertEqual({light[k].verdict for k in ("tie_tears", "tie_breaks")}, {Verdict.WITHIN})
        self.assertEqual(torn.about.at, 25.0)
        self.assertGreater(bent.demand.value, torn.demand.value)

    def test_what_people_on_a_rope_give(self):
        for people, force, over in ((6, 1200.0, False), (2, 1200.0, True)):
            tackle = replace(TACKLE, by="people", people=people)
            plan = replace(PLAN, pull=replace(PULL, force=force, tackle=tackle))
            found = next(x for x in evaluate(plan).limits if x.key == "pullers")
            self.assertAlmostEqual(found.allowed.value, people * 0.3 * 80.0 * GRAVITY, places=6)
            self.assertEqual(found.verdict is Verdict.OVER, over)


DEAD, LIVE = replace(OAK, state="dead"), OAK


class Findings(TestCase):
    """Every effect of every hazard: the finding trips its limit, without it nothing does; a reply
    does not reopen it.
    """

    TRIPS = {
        "no_work": ("work_seen", lambda s, t: everywhere(s, t)),
        "no_fell": ("felled_seen", lambda s, t: on_felling(s, "2.0", 0, 20.0)),
        "no_wedge": ("wedge_seen", lambda s, t: on_felling(s, "2.0", 2, 20.0)),
        "zone": ("zone_seen", lambda s, t: on_felling(s, "1.5", 0, 20.0)),
        "no_climb": ("climb_seen", lambda s, t: on_pick(s, t, True, (), ())),
        "no_tie": ("tie_seen", lambda s, t: on_pick(s, t, False, (6.0,), ())),
        "no_point": ("point_seen", lambda s, t: on_pick(s, t, False, (), (6.0,))),
        "no_tie_above": ("tie_seen", lambda s, t: on_pick(s, t, False, (6.0,), ())),
        "no_point_above": ("point_seen", lambda s, t: on_pick(s, t, False, (), (6.0,))),
    }

    def test_every_effect_but_answers_and_drawings(self):
        done = Counter()
        for key, hazard in hazards().items():
            for effect in hazard.effects:
                if effect not in self.TRIPS:
                    continue
                limit, held = self.TRIPS[effect]
                with self.subTest(hazard=key, effect=effect):
                    there = (Seen(hazard=key, response="We will be careful", height=5.0),)
                    self.assertIn((limit, Verdict.OVER), {(x.key, x.verdict) for x in held(there, LIVE)})
                    self.assertNotIn(limit, {x.key for x in held((), LIVE)})
                    done[effect] += 1
        self.assertEqual(set(done), set(self.TRIPS))

    def test_what_holds_something_is_not_known_until_somebody_models_it(self):
        # Held, spring-loaded, braced: whatever is said in reply, felled or in pieces; every way but refer is closed.
        held = {key for key, h in hazards().items() if "not_modelled" in h.effects}
        self.assertEqual(held, {"neighbours", "spring", "cables"})
        for key in held:
            there = (Seen(hazard=key, response="We will be careful"),)
            found = [(x.verdict, x.group) for x in everywhere(there, LIVE) if x.key == "held_seen"]
            self.assertEqual(found, [(Verdict.NOT_KNOWN, "person")])
            self.assertEqual(set(ways()) - set(hazards()[key].closes), {"refer", "lift", "crane"})
        self.assertFalse([x for x in everywhere((Seen(hazard="footing", response="x"),), LIVE) if x.key == "held_seen"])

    def test_an_answer_is_asked_for_and_given(self):
        asked = [key for key, hazard in hazards().items() if "answer" in hazard.effects]
        self.assertGreater(len(asked), 8)
        for key in asked:
            silent, answered = Seen(hazard=key), Seen(hazard=key, response="Done")
            self.assertIn("unanswered", {x.key for x in everywhere((silent,), LIVE)}, key)
            self.assertNotIn("unanswered", {x.key for x in everywhere((answered,), LIVE)}, key)

    def test_what_was_seen_has_to_be_drawn(self):
        self.assertEqual([x.about.why for x in undrawn_conductor((Seen(hazard="conductors"),), False)], ["undrawn"])
        self.assertEqual(list(undrawn_conductor((Seen(hazard="conductors"),), True)), [])
        for key in ("decay", "included", "dead_tree"):
            seen = (Seen(hazard=key, response="Seen"),)
            self.assertIn("not_measured", {x.key for x in everywhere(seen, LIVE)}, key)
        cracked = replace(OAK, limbs=tuple(replace(b, union="cracked") for b in OAK.limbs))
        for key, tree in (("dead_tree", DEAD), ("decay", cracked), ("included", cracked)):
            self.assertNotIn("not_measured", {x.key for x in everywhere((Seen(hazard=key, response="x"),), tree)}, key)

    def test_a_dead_top_closes_from_its_height_up_and_everywhere_where_nobody_said(self):
        for height, at, verdict in ((8.0, 6.0, None), (8.0, 8.0, Verdict.OVER), (None, 3.0, Verdict.NOT_KNOWN)):
            found = list(on_pick((Seen(hazard="dead_top", height=height),), LIVE, False, (at,), ()))
            self.assertEqual([x.verdict for x in found if x.key == "tie_seen"], [verdict] if verdict else [])

    def test_a_dead_state_binds_whatever_the_walk_up_says(self):
        found = {x.key for x in on_pick((), DEAD, True, (6.0,), (6.0,))}
        self.assertEqual(found, {"climb_seen", "tie_seen", "point_seen"})

    def test_closed_ways_are_stopped_on_the_method_page(self):
        for key, hazard in hazards().items():
            result = evaluate(replace(PLAN, seen=(Seen(hazard=key, response="x"),)))
            found = options(Scene(result, (), (), ()))
            stopped = {o.way.key for o in found if any(s.key == f"seen {key}" for s in o.stops)}
            self.assertEqual(stopped, set(hazard.closes), key)


class WhoElse(TestCase):
    def test_a_truck_and_the_chipper_are_places_where_people_work(self):
        w, _ = worked()
        far = max(w.path.tip[:, 0].max(), w.path.butt[:, 0].max())
        for kind, outline, name in (
            ("anchor_vehicle", ((far + 0.5, 1.0), (far + 2.5, 1.0), (far + 2.5, 3.0)), "Truck"),
            ("way_out", ((-9.0, 0.0), (far + 0.5, 1.5)), "Chipper at the end of Truck"),
        ):
            spot = Spot(
                name="Truck", kind=kind, shape=Polygon([*outline, (far + 1.0, 5.0)]), outline=outline, width=2.0
            )
            found = {
                x.about.name
                for x in worked(site=Site(places=(spot,)))[1]
                if x.key == "under_piece" and x.verdict is Verdict.OVER
            }
            self.assertEqual(found, {name})
            away = replace(spot, shape=Polygon([(60, 60), (62, 60), (62, 62)]), outline=((50.0, 50.0), (60.0, 60.0)))
            limits = worked(site=Site(places=(away,)))[1]
            self.assertFalse([x for x in limits if x.key == "under_piece" and x.verdict is Verdict.OVER])

    def test_a_rope_into_a_bank(self):
        for slope, over in ((0.0, False), (0.6, True)):
            site = Site(slope=slope, downhill=math.pi)  # it rises to the north, where the device is
            pick = replace(PICK, device_place=(0.0, 6.0, 1.0))
            limits = [x for x in worked(pick, site=site)[1] if x.key == "ground" and x.about.why == "rope"]
            self.assertEqual(bool(limits), over)
        self.assertAlmostEqual(limits[0].demand.value, 1.0 - 6.0 * math.tan(0.6), places=6)
