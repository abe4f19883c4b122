"""Pieces add up to the tree; picks against hand computation; classic mistakes of rigging, each named first."""

import math
from dataclasses import replace
from datetime import date
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from treecore.errors import CoreError
from treecore.estimate import Kind, times
from treecore.rigging.climbing import Climber, two_anchors
from treecore.rigging.friction import Reading, devices
from treecore.rigging.gear import Item
from treecore.rigging.motion import Scene, moved
from treecore.site import Site, Target
from treecore.takedown.catching import body_of, caught, grip_of, starts_of
from treecore.takedown.chain import chain
from treecore.takedown.limits import pick_limits, ruling_of
from treecore.takedown.loads import held, standing_above, union_stress
from treecore.takedown.members import members_of, thickness
from treecore.takedown.obstacles import bars
from treecore.takedown.order import order_rules
from treecore.takedown.peak_forces import wraps_on
from treecore.takedown.pick import Pick, RigPoint, hold_place
from treecore.takedown.pick_result import two_ties, work
from treecore.takedown.pieces import Cut, left_over, take, takedown, whole
from treecore.takedown.route import route_of
from treecore.takedown.sawcut import SawCut
from treecore.takedown.weights import within
from treecore.tests.scenes import TREE
from treecore.tree.crown import SLOTS
from treecore.tree.limb import Limb
from treecore.tree.stem import Cavity
from treecore.tree.weigh import weigh
from treecore.verdict import Verdict

TODAY = date(2026, 11, 23)
LIMBS = (
    Limb(name="Bough", at=7.0, azimuth=1.2, rise=0.2, length=6.0, diameter=0.16, kind=Kind.MEASURED),
    Limb(name="Spur", parent="Bough", at=3.0, azimuth=1.9, rise=0.5, length=2.2, diameter=0.06),
    Limb(name="High", at=14.0, azimuth=4.0, rise=0.6, length=4.0, diameter=0.1),
    Limb(name="Dead one", at=9.0, azimuth=3.0, rise=-0.1, length=3.0, diameter=0.08, dead=True, foliage="none"),
)
OAK = replace(TREE, species="quercus_robur", lean=0.0, limbs=LIMBS, replaced=frozenset(range(SLOTS)))


def item(name, kind, **more):
    usual = {"strength": 80e3, "inspected": date(2026, 9, 1), "bought": date(2024, 5, 1)}
    return Item(name=name, kind=kind, **(usual | more))


GEAR = {
    "rope": item("Blue line", "rope", diameter=0.014, length=60.0, axial_stiffness=180e3), "sling": item("Dead-eye",
    "sling"),
    "block": item("Small block", "block", strength=120e3, diameter=0.12), "device": item("Bollard", "device",
    strength=100e3, diameter=0.12),
    "base": item("Base sling", "sling", strength=110e3),
}  # fmt: skip
AT_TOP = RigPoint(member="", at=13.0)
CLIMBER = Climber(tie_member="", tie_at=15.0, stance_member="", stance_at=7.6)
PICK = Pick(
    name="1", method="butt", tie=0.6, point=AT_TOP, gear=GEAR, wraps=2.0, device_place=(0.3, 0.0, 1.0), lift=True
)


def worked(pick=PICK, cut=None, tree=OAK, site=None, before=()):
    members = members_of(tree)
    steps = takedown(members, [*before, cut or Cut("Bough", 0.3)])
    w = work(members, steps[-1], pick, site or Site())
    return w, pick_limits(members, w, site or Site(), TODAY)


class Conservation(TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.permutations(["Bough", "High", "Dead one", ""]), st.floats(0.2, 2.5), st.floats(2.0, 12.0))
    def test_pieces_add_up_to_the_tree_in_mass_and_moment(self, order, out, high):
        members = members_of(OAK)
        start = whole(members)
        total = left_over(members, start)
        self.assertAlmostEqual(total, weigh(OAK).mass.estimate.value, places=6)
        standing, mass, moment = start, 0.0, np.zeros(3)
        for name in order:
            try:
                step = take(members, standing, Cut(name, high if name == "" else out))
            except CoreError:
                continue  # it went with an earlier piece
            mass, moment = mass + step.piece.mass.value, moment + step.piece.mass.value * np.array(step.piece.cg)
            standing = step.after
        last = take(members, standing, Cut("", 0.0)).piece
        everything = take(members, start, Cut("", 0.0)).piece
        self.assertAlmostEqual(mass + last.mass.value, total, places=6)
        np.testing.assert_allclose(
            moment + last.mass.value * np.array(last.cg), total * np.array(everything.cg), atol=1e-6
        )

    def test_a_length_of_limb_against_slices(self):
        members = members_of(OAK)
        row = members.rows["High"]
        s = np.linspace(0.0, 1.0, 400001)
        axis = members.axis[row] * 2.6 * (1 - s) ** 1.6
        side, leaf = (members.side[row] * n * s ** (n - 1) for n in (0.68 / 0.32,)), 0.76 / 0.24
        density = axis + next(side) + members.leaves[row] * leaf * s ** (leaf - 1)
        part = (s >= 0.25) & (s <= 0.8)
        mass, at = within(members, row, 1.0, 3.2)
        self.assertAlmostEqual(mass, np.trapezoid(density[part], s[part]), places=3)
        self.assertAlmostEqual(
            at, 4.0 * np.trapezoid(density[part] * s[part], s[part]) / np.trapezoid(density[part], s[part]), places=4
        )

    def test_a_limb_takes_what_grows_beyond_its_cut(self):
        members = members_of(OAK)
        (inner,) = takedown(members, [Cut("Bough", 1.0)])
        self.assertEqual({members.names[p.row] for p in inner.piece.parts}, {"Bough", "Spur"})
        outer, rest = takedown(members, [Cut("Bough", 3.5), Cut("Bough", 1.0)])
        self.assertEqual({members.names[p.row] for p in outer.piece.parts}, {"Bough"})
        self.assertAlmostEqual(outer.piece.mass.value + rest.piece.mass.value, inner.piece.mass.value, places=9)

    def test_refusals_name_the_pick(self):
        members = members_of(OAK)
        for cuts, said in (
            ([Cut("Bough", 1.0), Cut("Spur", 0.0)], "gone already"),
            ([Cut("Bough", 1.0), Cut("Bough", 2.0)], "nothing of"),
            ([Cut("Twig", 0.0)], "no limb"),
            ([Cut("High", 3.97)], "is none"),
            ([Cut("", 6.0), Cut("High", 0.0)], "gone already"),
        ):
            with self.subTest(said=said), self.assertRaises(CoreError) as caught:
                takedown(members, cuts)
            self.assertIn(said, str(caught.exception))
            self.assertEqual(caught.exception.field, f"pick {len(cuts)}")

    def test_foliage_of_the_pieces_is_the_trees(self):
        members = members_of(OAK)
        steps = takedown(members, [Cut("Bough", 3.1), Cut("Bough", 0.4), Cut("High", 1.5), Cut("", 0.0)])
        self.assertAlmostEqual(sum(s.piece.foliage for s in steps), float(members.leaves.sum()), places=6)
        self.assertGreater(
            steps[0].piece.foliage / steps[0].piece.mass.value, steps[1].piece.foliage / steps[1].piece.mass.value
        )


class Chains(TestCase):
    def demands(self, pick, cut=None):
        w, limits = worked(pick, cut)
        return w, {link.role: link for link in chain(w, TODAY)}, limits

    def test_a_bridles_leg_carries_its_share_of_the_peak(self):
        legs = GEAR | {"leg": item("Leg line", "leg", diameter=0.01, length=6.0)}
        w, links, _ = self.demands(replace(PICK, method="bridle", tie=1.0, second_tie=4.5, gear=legs))
        weight = w.piece.mass.value * 9.80665
        shares = two_ties(w.piece, w.pick)
        self.assertAlmostEqual(
            links["leg"].demand.value, w.forces.peaks.governing.value * max(shares[:2]) / weight, places=6
        )
        self.assertAlmostEqual(links["leg"].allowed.value, 80e3 * 0.9 * 0.6 / 5, places=6)

    def test_a_leg_that_grips_and_one_that_no_bridle_uses_are_not_named(self):
        thin, thick = (GEAR | {"leg": item("Leg line", "leg", diameter=d, length=9.0)} for d in (0.010, 0.013))
        bridle = replace(PICK, method="bridle", tie=1.0, second_tie=4.5)
        keys = [{x.key for x in worked(replace(bridle, gear=g))[1]} for g in (thin, thick)]
        self.assertEqual([("leg_slips" in k, "leg_short" in k) for k in keys], [(False, True), (True, True)])
        self.assertFalse({"leg_slips", "leg_short"} & {x.key for x in worked(replace(PICK, gear=thick))[1]})

    def test_a_point_below_the_work_and_its_mended_twin(self):
        below, above = (
            {x.key: x for x in worked(replace(PICK, point=RigPoint(member="", at=at)))[1]}.get("point_below")
            for at in (6.5, 9.0)
        )
        self.assertEqual((below.verdict, below.demand.value, above), (Verdict.OVER, 6.5, None))

    def test_a_rope_of_unknown_thickness_is_not_known_to_bend_well(self):
        thin = GEAR | {"rope": replace(GEAR["rope"], diameter=None)}
        bent = [x.verdict for x in worked(replace(PICK, gear=thin))[1] if x.key == "bent_sharply"]
        self.assertEqual(bent, [Verdict.NOT_KNOWN] * 2)
        with self.assertRaises(CoreError):
            replace(GEAR["rope"], construction="string")

    def test_how_sharply_the_rope_is_bent_round_each_thing_it_meets(self):
        lead = RigPoint(member="High", at=1.0, fork=True)
        limits = worked(replace(PICK, redirect=lead, device_place=(3.0, 0.0, 1.0)))[1]
        bent = {x.about.other: x.demand.value for x in limits if x.key == "bent_sharply"}
        thick = thickness(members_of(OAK), members_of(OAK).rows["High"], 1.0)
        expected = {"Small block": 0.12 / 0.014, "the fork": thick / 0.014, "Bollard": 0.12 / 0.014}
        self.assertEqual(set(bent), set(expected))
        for name, ratio in expected.items():
            self.assertAlmostEqual(bent[name], ratio, places=9)

    def test_parts_that_are_there_and_parts_that_are_not(self):
        _w, links, limits = self.demands(replace(PICK, point=replace(AT_TOP, fork=True)))
        self.assertEqual(set(links), {"rope", "device", "base"})
        bent = next(x for x in limits if x.key == "bent_sharply" and "fork" in x.about.other)
        self.assertAlmostEqual(bent.demand.value, thickness(members_of(OAK), 0, 13.0) / 0.014, places=9)
        _w, links, _ = self.demands(replace(PICK, device="trunk", gear={}))
        self.assertEqual({r for r, link in links.items() if link.allowed is None}, {"rope", "sling", "block"})
        lead = replace(PICK, redirect=RigPoint(member="", at=5.0), landing=(4.0, 0.0))
        w, links, _ = self.demands(lead)
        self.assertEqual([links[r].name for r in ("redirect_sling", "redirect_block", "tag")], [""] * 3)
        self.assertEqual(links["redirect_block"].demand.value, w.forces.redirect.load.value)
        self.assertEqual((links["tag"].demand.low, links["tag"].demand.high), (w.put.least, w.put.drawn.high))
        heavier = w.piece.mass.high / w.piece.mass.low
        self.assertAlmostEqual(w.put.drawn.high, heavier * w.put.least, delta=1e-9 * w.put.drawn.high)

    def test_a_hook_that_nobody_rated_is_not_known(self):
        _w, links, limits = self.demands(Pick(name="c", method="crane", gear=GEAR, lift=True))
        weight = worked()[0].piece.mass.value * 9.80665
        self.assertAlmostEqual(links["sling"].demand.value, 1.25 * weight, places=6)
        self.assertEqual((ruling_of(limits).key, ruling_of(limits).verdict), ("hook", Verdict.NOT_KNOWN))

    def test_wraps_by_the_capstan_equation_at_the_unfavourable_ends(self):
        w, _ = worked(replace(PICK, slack=0.6, held="lock"))
        f, mu = w.forces, devices()["bollard"].friction
        for wraps, load, hand, friction in (
            (f.wraps.hold, f.peaks.static.high, 250.0, mu.low),
            (f.wraps.run, f.peaks.static.low, 60.0, mu.high),
            (f.wraps.lock, max(f.peaks.elastic.high, f.peaks.governing.high), 250.0, mu.low),
        ):
            self.assertAlmostEqual(load * f.tension_ratio * math.exp(-math.tau * friction * wraps), hand, places=6)
        drum = wraps_on(f.peaks, f.tension_ratio, devices()["drum"])
        self.assertAlmostEqual(drum.lock, f.wraps.lock - 0.25, places=9)  # its lead-in counts a quarter wrap at least
        self.assertAlmostEqual(drum.run, max(f.wraps.run - 0.5, 0.0), places=9)  # and half a wrap at most

    def test_a_device_with_settings_holds_by_them(self):
        light = worked(replace(PICK, device="intree", setting=2))[0].forces
        setting = devices()["intree"].settings[1].turns
        weight = worked()[0].piece.mass
        need = weight.value * 9.80665 * light.tension_ratio * math.exp(-math.tau * 0.2 * setting.value)
        self.assertAlmostEqual(light.hand.value, need, places=6)
        # 68 kg needs ln(W·passed/250)/(2π·0.12) turns: more than setting two holds like at its least.
        self.assertEqual((light.wraps.hold, light.wraps.lock), (math.inf, math.inf))
        small = worked(replace(PICK, device="intree", setting=1), Cut("High", 2.4))[0].forces
        self.assertEqual(small.wraps.hold, 1.0)  # 6 kg is less than a hand holds
        with self.assertRaises(CoreError):
            replace(PICK, device="intree", setting=3)

    def test_a_crews_own_reading_goes_before_the_table(self):
        # 1 kN creeps over 1.5 wraps against 150 N: μ = ln(1000/150)/(3π) = 0.2013.
        own = replace(GEAR["device"], readings=(Reading(1000.0, 1.5, 150.0),))
        f = worked(replace(PICK, gear=GEAR | {"device": own}))[0].forces
        mu = math.log(1000.0 / 150.0) / (3 * math.pi)
        self.assertAlmostEqual(own.friction.value, mu, places=12)
        weight = f.peaks.static.value * f.tension_ratio
        self.assertAlmostEqual(f.hand.value, weight * math.exp(-math.tau * mu * 2.0), places=6)
        table = worked()[0].forces
        self.assertLess(f.hand.high / f.hand.low, table.hand.high / table.hand.low)
        self.assertLess(f.wraps.hold, table.wraps.hold)

    def test_wraps_that_hold_a_piece_meant_to_run_count_as_locked(self):
        runs, held, locked = (
            worked(replace(PICK, tie=2.2, held=h, wraps=n, run=0.5))[0]
            for h, n in (("run", 0.8), ("run", 4.0), ("lock", 4.0))
        )
        self.assertFalse(runs.forces.course.locked)
        self.assertTrue(held.forces.course.locked)
        self.assertAlmostEqual(held.forces.peaks.governing.value / locked.forces.peaks.governing.value, 1.0, places=6)
        self.assertAlmostEqual(held.forces.control_leg.value / locked.forces.control_leg.value, 1.0, places=6)
        self.assertIn("stops_dead", {x.key for x in pick_limits(members_of(OAK), held, Site(), TODAY)})

    def test_what_nothing_stops_is_said_and_its_mended_twin_is_not(self):
        loose, limits = worked(replace(PICK, held="run", wraps=0.5, run=3.0))
        self.assertFalse(loose.forces.course.stops)
        self.assertEqual({x.key: x.verdict for x in limits}["runs_away"], Verdict.OVER)
        held, limits = worked(replace(PICK, tie=2.2, held="soft", wraps=3.0))
        self.assertTrue(held.forces.course.always_stops)
        self.assertNotIn("runs_away", {x.key for x in limits})


class Spanned(TestCase):
    FAR = RigPoint(place=(14.0, 3.0, 13.0), tree="Ash", diameter=0.5, sound=True)

    def test_a_speed_line_pulls_by_its_sag(self):
        w, limits = worked(replace(PICK, method="speed", far_anchor=self.FAR, sag=0.08))
        weight = w.piece.mass.value * 9.80665
        first, second = (np.array(p) for p in (w.point, (14.0, 3.0, 13.0)))
        dip = 0.08 * np.linalg.norm(second - first)
        load = (first + second) / 2 - [0.0, 0.0, dip]
        # Both halves of the line and the weight close at the load.
        ways = np.array([(p - load) / np.linalg.norm(p - load) for p in (first, second)])
        level = ways[:, :2] @ (second - first)[:2]
        pulls = np.linalg.solve(np.array([level, ways[:, 2]]), [0.0, weight])
        self.assertAlmostEqual(w.forces.peaks.static.value, pulls[0], delta=1e-3 * pulls[0])
        self.assertAlmostEqual(w.forces.peaks.governing.value, 2.25 * pulls[0], delta=3e-3 * pulls[0])
        self.assertAlmostEqual(w.forces.far_anchor.load.value, 2.25 * pulls[1], delta=3e-3 * pulls[1])
        # On the first point: the line's pull along its own way, and what goes on down to the device.
        device = np.array([0.3, 0.0, 1.0]) - first
        along, down = (load - first) / np.linalg.norm(load - first), device / np.linalg.norm(device)
        turn = math.pi - math.acos(float(along @ down))
        both = w.forces.peaks.governing.value * (along + 0.95 ** (turn / math.pi) * down)
        np.testing.assert_allclose(w.forces.force, both, rtol=1e-6)
        self.assertAlmostEqual(w.forces.on_point.value, float(np.linalg.norm(both)), delta=1e-3)
        # The far tree: a cantilever pulled towards the load in the middle of the sagging line, at its bark.
        way = (load - second) / np.linalg.norm(load - second)
        east, north, up = w.forces.far_anchor.load.value * way
        moment = math.hypot(east, north) * 13.0 - up * 0.25
        stress = moment / (math.pi / 32 * 0.5**3) - up / (math.pi / 4 * 0.5**2)
        self.assertAlmostEqual(w.forces.far_anchor.wood.stress.value / stress, 1.0, places=6)
        self.assertIn("Ash", {x.about.name for x in limits if x.key == "anchor_bends"})
        unsure = worked(replace(PICK, method="speed", far_anchor=replace(self.FAR, diameter=None)))[1]
        self.assertIn("anchor_other", {x.key for x in unsure})
        # Pulled level, the stem bends far more than under a rope that hangs.
        self.assertGreater(w.forces.anchor.across, 3 * worked()[0].forces.anchor.across)

    def test_the_far_trees_roots_are_judged_by_its_thickness_and_height(self):
        tall = replace(self.FAR, high=18.0)
        w, limits = worked(replace(PICK, method="speed", far_anchor=tall, sag=0.08))
        mass = 900.0 * 0.45 * math.pi / 4 * 0.5**2 * 18.0
        roots = [x for x in limits if x.key == "root_plate" and x.about.name == "Ash"]
        self.assertAlmostEqual(roots[0].allowed.value, 140.0 * mass, places=3)
        self.assertEqual(roots[0].demand, w.forces.far_anchor.wood.turning)
        short = worked(replace(PICK, method="speed", far_anchor=self.FAR))[1]
        self.assertEqual(
            [x.verdict for x in short if x.key == "root_plate" and x.about.name == "Ash"], [Verdict.NOT_KNOWN]
        )

    def test_a_drift_is_at_least_the_weight_and_goes_out_between_the_points(self):
        w, _ = worked(replace(PICK, method="drift", far_anchor=self.FAR))
        self.assertGreaterEqual(w.forces.peaks.governing.value, w.piece.mass.value * 9.80665)
        below, level = w.point[2] - w.piece.cg[2], math.dist(w.point[:2], (14.0, 3.0))
        worst = max(
            math.sin(r) / math.sin(left + r)
            for left, r in (
                (math.atan2(x * level, below), math.atan2((1 - x) * level, below)) for x in np.linspace(0.02, 0.98, 20)
            )
        )
        self.assertAlmostEqual(w.forces.peaks.static.value, w.piece.mass.value * 9.80665 * max(worst, 1.0), delta=1.0)
        with self.assertRaises(CoreError):
            worked(replace(PICK, method="drift", far_anchor=RigPoint(member="", at=12.0)))


class Picks(TestCase):
    def test_forces_by_hand(self):
        w, _ = worked(replace(PICK, slack=0.4))
        f, weight = w.forces, w.piece.mass.value * 9.80665
        tie = np.array(w.piece.butt) + 0.6 * np.array(w.piece.way)
        # The block hangs against the bark, on the side of the tie.
        out, side = thickness(members_of(OAK), 0, 13.0) / 2, math.atan2(tie[0], tie[1])
        point = np.array([out * math.sin(side), out * math.cos(side), 13.0])
        self.assertAlmostEqual(f.drop_height, 0.4, places=9)
        down = np.array([0.3, 0.0, 1.0]) - point
        turn = math.pi - math.acos(-down[2] / np.linalg.norm(down))
        passed = 0.95 ** (turn / math.pi)
        k = 180e3 / (np.linalg.norm(tie - point) + 0.4 + np.linalg.norm(down) * passed)
        energy = weight * (1 + math.sqrt(1 + 2 * 0.4 * k / weight))
        self.assertAlmostEqual(f.peaks.elastic.value, energy, places=6)
        self.assertAlmostEqual(f.stiffness.value, k, places=6)
        self.assertAlmostEqual(f.hand.value, weight * passed * math.exp(-0.4 * math.pi * 2), places=6)

    def test_the_motion_of_a_pick_is_that_of_its_scene(self):
        # The same limb as a scene of its own, worst of the two ends at which its hinge may part.
        w, _ = worked(replace(PICK, slack=0.4, held="lock"))
        piece, point = w.piece, np.array(w.point)
        tie = np.array(piece.butt) + 0.6 * np.array(piece.way)
        down = np.array([0.3, 0.0, 1.0]) - point
        turn = math.pi - math.acos(-down[2] / np.linalg.norm(down))
        level = np.array(piece.way[:2]) / np.linalg.norm(piece.way[:2])
        scene = Scene(
            mass=piece.mass.value,
            inertia=piece.inertia,
            balance=piece.balance.value,
            tie=0.6,
            length=piece.length,
            butt=piece.butt,
            way=piece.way,
            point=w.point,
            beyond=tuple(down / np.linalg.norm(down)),
            axial_stiffness=180e3,
            damping=0.06,
            lengths=(np.linalg.norm(tie - point) + 0.4, np.linalg.norm(down)),
            tension_ratios=(0.95 ** (turn / math.pi),),
            level=tuple(level),
            slope=piece.slope,
            foot_arm=w.point,
        )
        ends = [moved(replace(scene, parts=math.radians(d)).rows(1)) for d in (20.0, 70.0)]
        f = w.forces
        self.assertAlmostEqual(f.peaks.governing.value / max(float(e.peak[0]) for e in ends), 1.0, places=3)
        self.assertAlmostEqual(f.control_leg.value / max(float(e.at_device[0]) for e in ends), 1.0, places=3)
        self.assertAlmostEqual(f.on_point.value, np.linalg.norm(f.force), places=6)
        self.assertLess(f.peaks.lever.value, f.peaks.governing.value + 1e-6)
        self.assertIsNone(worked(replace(PICK, cut=SawCut(key="step")))[0].forces.peaks.lever)

    def test_how_a_piece_may_lie_when_it_parts(self):
        level = worked()[0].piece
        hangs = level._replace(way=(0.6, 0.0, -0.8))
        turns = [[math.degrees(s.parts) for s in starts_of(piece, PICK)] for piece in (level, hangs)]
        np.testing.assert_allclose(turns[0], [20.0, 70.0], atol=0.01)
        np.testing.assert_allclose(turns[1], [20.0, 85.0 - math.degrees(math.asin(0.8))], atol=0.01)
        self.assertEqual(starts_of(level, replace(PICK, cut=SawCut(key="step"))), ((level.way, 0.0),))
        self.assertEqual(starts_of(level, replace(PICK, method="bridle", second_tie=4.0)), ((level.way, 0.0),))
        # A side notch turns it level, by a quarter turn at most: towards where it faces, to either side where nobody
        # said.
        lies = math.atan2(level.way[0], level.way[1])
        for faces, expected in (
            (lies + 0.7, [0.0, 0.7]),
            (lies - 2.0, [0.0, -math.pi / 2]),
            (None, [0.0, math.pi / 2, -math.pi / 2]),
        ):
            pick = replace(PICK, cut=SawCut(key="side"), bearing=None if faces is None else faces % math.tau)
            ways = [s.way for s in starts_of(level, pick)]
            got = [math.remainder(math.atan2(w[0], w[1]) - lies, math.tau) for w in ways]
            np.testing.assert_allclose(got, expected, atol=1e-4)
            np.testing.assert_allclose([w[2] for w in ways], level.way[2], atol=1e-12)
            np.testing.assert_allclose([np.linalg.norm(w) for w in ways], 1.0, atol=1e-9)

    def test_a_butt_tie_is_worse_than_one_near_the_balance(self):
        cut = replace(PICK, cut=SawCut(key="step"), held="lock")
        peaks = [worked(replace(cut, tie=t))[0].forces.peaks.governing.value for t in (0.1, 0.6, 1.2, 2.0)]
        self.assertEqual(peaks, sorted(peaks, reverse=True))

    def test_negative_falls_twice_and_the_chain_names_every_part(self):
        pick = replace(PICK, method="negative", tie=0.3, point=RigPoint(member="", at=11.6), held="lock", wraps=3.0)
        w, _ = worked(pick, Cut("", 12.0))
        c = w.piece.balance.value - 0.3
        apart = math.hypot(0.7, thickness(members_of(OAK), 0, 11.6) / 2)  # tie on the axis, its block on the bark
        self.assertAlmostEqual(w.forces.drop_height, 0.7 + apart + 2 * c, places=9)  # tie 0.7 m above its block
        self.assertEqual([link.role for link in chain(w, TODAY)], ["rope", "sling", "block", "device", "base"])

    def test_a_stem_that_loses_its_top_springs(self):
        pick = replace(
            PICK, method="negative", tie=0.3, point=RigPoint(member="", at=19.4), held="soft", wraps=2.0, bearing=1.0
        )
        w, limits = worked(pick, Cut("", 20.0))
        members, f = members_of(OAK), w.forces
        still = held(members, w.after, pick.point, w.point, np.array([[f.force]]), 1.0)
        sprung = held(members, w.after, pick.point, w.point, np.array([[f.force]]), 1.6)
        standing = standing_above(OAK, w.after.ends, (0.0,))
        weight = math.hypot(float(standing.east[0]), float(standing.north[0]))
        self.assertAlmostEqual(sprung.turning.value, 1.6 * still.turning.value, delta=1.7 * weight)
        self.assertGreaterEqual(f.wood.turning.value, sprung.turning.value - 1e-6)
        self.assertAlmostEqual(sprung.turning.high / sprung.turning.value, 2.0 / 1.6, places=9)
        self.assertAlmostEqual(sprung.turning.low / sprung.turning.value, 1.3 / 1.6, places=9)
        self.assertNotIn("top_large", {x.key for x in limits})
        _w, limits = worked(replace(pick, point=RigPoint(member="", at=15.4)), Cut("", 16.0))
        large = next(x for x in limits if x.key == "top_large")
        self.assertEqual((large.verdict, round(large.demand.value, 3)), (Verdict.NOT_KNOWN, round(11.0 / 27.0, 3)))

    def test_a_force_on_a_leaning_stem_is_split_along_its_axis(self):
        lean = replace(OAK, lean=math.radians(9.0), lean_azimuth=0.8)
        members, force = members_of(lean), np.array([400.0, 100.0, -3000.0])
        axis = np.array([math.sin(0.8) * math.tan(lean.lean), math.cos(0.8) * math.tan(lean.lean), 1.0])
        axis = axis / np.linalg.norm(axis)
        got = held(members, whole(members), RigPoint(member="", at=11.0), (1.2, 1.2, 11.0), force[None, None, :]).anchor
        self.assertAlmostEqual(got.along, -float(force @ axis), places=6)
        self.assertAlmostEqual(got.across, float(np.linalg.norm(force - axis * (force @ axis))), places=6)

    def test_standing_wood_as_bars(self):
        members = members_of(OAK)
        standing = bars(members, whole(members))
        i = standing.rows.index(members.rows["High"])
        way, base = members.way[members.rows["High"]], members.base[members.rows["High"]]
        np.testing.assert_allclose(standing.low[i], base + 0.5 * way, atol=1e-12)
        np.testing.assert_allclose(standing.high[i], base + 4.0 * way, atol=1e-12)
        self.assertAlmostEqual(float(standing.half[i]), 0.05 * 0.5**0.8, places=12)

    def test_what_stands_above_is_the_trees_weight_and_lean(self):
        lean = replace(OAK, lean=math.radians(4.0), lean_azimuth=2.1)
        members = members_of(lean)
        ends = whole(members).ends
        standing = standing_above(lean, ends, (0.0, 9.5))
        tree = take(members, whole(members), Cut("", 0.0)).piece
        weight = tree.mass.value * 9.80665
        self.assertAlmostEqual(float(standing.weight[0]), weight, places=3)
        self.assertAlmostEqual(float(standing.east[0]), weight * tree.cg[0], places=3)
        self.assertAlmostEqual(float(standing.north[0]), weight * tree.cg[1], places=3)
        top = take(members, whole(members), Cut("", 9.5)).piece
        out = 9.5 * math.tan(lean.lean) * math.sin(2.1)
        self.assertAlmostEqual(float(standing.weight[1]), top.mass.value * 9.80665, places=3)
        self.assertAlmostEqual(float(standing.east[1]), top.mass.value * 9.80665 * (top.cg[0] - out), places=3)

    def test_moving_the_tie_past_the_balance_flips_the_verdict(self):
        w, _ = worked()
        low, middle = w.piece.balance.low, w.piece.balance.value
        for tie, verdict in (
            (0.9 * low, Verdict.WITHIN),
            (0.5 * (low + middle), Verdict.NEAR),
            (1.02 * middle, Verdict.OVER),
        ):
            limits = {x.key: x.verdict for x in worked(replace(PICK, tie=tie))[1]}
            self.assertEqual(limits["tie_past"], verdict)

    def test_in_leaf_a_tie_up_to_two_thirds_is_lifted_first(self):
        for state, verdict in (("in_leaf", Verdict.NEAR), ("bare", Verdict.OVER)):
            tree = replace(OAK, state=state)
            piece = worked(cut=Cut("High", 0.3), tree=tree)[0].piece
            between = 0.5 * (piece.balance.value + 2.0 / 3.0 * piece.length)
            for tie, expected in ((between, verdict), (0.7 * piece.length, Verdict.OVER)):
                found = worked(replace(PICK, tie=tie), Cut("High", 0.3), tree)[1]
                self.assertIs({x.key: x.verdict for x in found}["tie_past"], expected, (state, tie))

    def test_a_rope_led_over_another_place_by_hand(self):
        lead = RigPoint(member="", at=6.0)
        w, _ = worked(replace(PICK, redirect=lead, device_place=(4.0, 0.0, 1.0)))
        f, point = w.forces, np.array(w.point)
        led, device = (
            np.array([thickness(members_of(OAK), 0, 6.0) / 2, 0.0, 6.0]),
            np.array([4.0, 0.0, 1.0]),
        )  # on its bark
        down, away = (led - point) / np.linalg.norm(led - point), (device - led) / np.linalg.norm(device - led)
        first = 0.95 ** ((math.pi - math.acos(-down[2])) / math.pi)
        second = 0.95 ** ((math.pi - math.acos(float(-down @ away))) / math.pi)
        self.assertAlmostEqual(f.tension_ratio, first * second, places=9)
        # What reaches the device went over the second place: legs before and after it.
        both = f.control_leg.value * (-down / second + away)
        self.assertAlmostEqual(f.redirect.load.value, np.linalg.norm(both), delta=1e-6 * f.redirect.load.value)
        length = math.dist(
            w.point,
            (
                w.piece.butt[0] + 0.6 * w.piece.way[0],
                w.piece.butt[1] + 0.6 * w.piece.way[1],
                w.piece.butt[2] + 0.6 * w.piece.way[2],
            ),
        )
        in_play = length + np.linalg.norm(led - point) * first + np.linalg.norm(device - led) * first * second
        self.assertAlmostEqual(f.stiffness.value, 180e3 / in_play, places=6)
        self.assertAlmostEqual(
            f.needed, 13.0 + np.linalg.norm(led - point) + np.linalg.norm(device - led) + 3.0, places=6
        )

    def test_a_tight_line_takes_its_share_without_a_jerk(self):
        weight = worked()[0].forces.peaks.static.value
        still, tight = (worked(replace(PICK, pretension=p))[0].forces for p in (0.0, 0.4 * weight))
        self.assertAlmostEqual(still.peaks.elastic.value, 2 * weight, places=6)  # suddenly on a slackless rope
        self.assertAlmostEqual(tight.peaks.elastic.value, 1.6 * weight, places=6)
        level = math.hypot(*worked()[0].piece.way[:2])
        self.assertGreater(tight.lever, weight * level, "tied short of its balance the line holds more than the piece")
        with self.assertRaises(CoreError):
            replace(PICK, pretension=500.0, slack=0.2)

    def test_wood_of_a_limb_turns_about_its_union(self):
        # By hand about the union of “High”: the rope's force 2 m out, and the weight of the limb itself.
        members, force, row = members_of(OAK), np.array([600.0, -900.0, -3000.0]), members_of(OAK).rows["High"]
        way, base = members.way[row], members.base[row]
        mass, along = within(members, row, 0.0, 4.0)
        moment = np.cross(way * 2.0, force) + np.cross(way * along, [0.0, 0.0, -mass * 9.80665])
        twist = moment @ way
        bends = np.linalg.norm(moment - way * twist) / (math.pi / 32 * 0.1**3)
        got = union_stress(members, whole(members), row, tuple(base + 2.0 * way), np.array([force]))
        self.assertAlmostEqual(float(got.stress[0]) / bends, 1.0, places=9)
        # A block hung 0.3 m beside the limb turns it about its own axis: 16·T/πd³.
        aside = base + 2.0 * way + [0.3, 0.1, 0.0]
        twist = (np.cross(aside - base, force) + np.cross(way * along, [0.0, 0.0, -mass * 9.80665])) @ way
        got = union_stress(members, whole(members), row, tuple(aside), np.array([force]))
        self.assertAlmostEqual(float(got.twist[0]) / (16 * abs(twist) / (math.pi * 0.1**3)), 1.0, places=9)
        w, _ = worked(replace(PICK, point=RigPoint(member="High", at=2.0)))
        own = union_stress(members, w.after, row, w.point, np.array([w.forces.force]))
        self.assertGreaterEqual(w.forces.wood.stress.value, float(own.stress[0]) - 1e-6)

    def test_another_tree_carries_what_its_thickness_lets_it(self):
        there = RigPoint(place=(5.0, 1.0, 12.0), tree="Ash", diameter=0.4, sound=True, high=15.0)
        force = np.array([700.0, 500.0, -4000.0])
        got = held(members_of(OAK), whole(members_of(OAK)), there, there.place, force[None, None, :])
        moment = math.hypot(700.0, 500.0) * 12.0 + 4000.0 * 0.2
        stress = moment / (math.pi / 32 * 0.4**3) + 4000.0 / (math.pi / 4 * 0.4**2)
        self.assertAlmostEqual(got.stress.value, stress, places=3)
        self.assertAlmostEqual(got.turning.value, moment, places=6)
        # Half and twice the force, and the thickness to 6 %: swings in squares, stress going with thickness to the
        # third.
        spread = held(
            members_of(OAK), whole(members_of(OAK)), there, there.place, np.array([[force], [0.5 * force], [2 * force]])
        )
        down, up = math.hypot(0.5, 1 - 1.06**-3), math.hypot(1.0, 0.94**-3 - 1)
        self.assertAlmostEqual(spread.stress.low / stress, 1 - down, places=9)
        self.assertAlmostEqual(spread.stress.high / stress, 1 + up, places=9)
        self.assertAlmostEqual(spread.turning.high / moment, 2.0, places=9)
        _w, limits = worked(replace(PICK, point=there, device_place=(5.2, 1.0, 1.0)))
        self.assertEqual({x.about.name for x in limits if x.key == "root_plate"}, {"Ash"})
        _w, unsure = worked(replace(PICK, point=replace(there, sound=False)))
        self.assertEqual(next(x.verdict for x in unsure if x.key == "anchor_other"), Verdict.NOT_KNOWN)

    def test_included_unions_keep_less_and_decayed_ones_nobody_knows(self):
        for union, key in (("included", "anchor_bends"), ("decayed", "anchor_union")):
            tree = replace(OAK, limbs=tuple(replace(b, union=union) if b.name == "High" else b for b in LIMBS))
            _w, limits = worked(replace(PICK, point=RigPoint(member="High", at=2.0)), tree=tree)
            found = next(x for x in limits if x.key == key)
            self.assertEqual(union, found.about.union)
        sound = next(
            x for x in worked(replace(PICK, point=RigPoint(member="High", at=2.0)))[1] if x.key == "anchor_bends"
        )
        tree = replace(OAK, limbs=tuple(replace(b, union="included") if b.name == "High" else b for b in LIMBS))
        less = next(
            x
            for x in worked(replace(PICK, point=RigPoint(member="High", at=2.0)), tree=tree)[1]
            if x.key == "anchor_bends"
        )
        self.assertAlmostEqual(less.allowed.value, 0.7 * sound.allowed.value, places=3)

    def test_put_down_beside_its_point_by_the_triangle(self):
        w, limits = worked(replace(PICK, landing=(3.0, -2.0)))
        aside = math.hypot(3.0 - w.point[0], -2.0 - w.point[1])
        below = w.point[2] - w.piece.diameter / 2
        self.assertAlmostEqual(w.put.least, w.piece.mass.low * 9.80665 * aside / below, places=6)
        self.assertGreater(w.put.most, w.put.least)
        self.assertIn("tag", {x.key for x in limits})
        # Where it hangs first: main rope off plumb, tag line from 6 m beyond its landing at the height of hands.
        first = w.point[2] - float(w.path.cg[w.path.rest, 2])
        steep = math.atan2(aside, first) + math.atan2(w.point[2] - first - 1.0, 6.0)
        self.assertAlmostEqual(w.put.steep[1], steep, places=9)
        far = worked(replace(PICK, landing=(3.0, -2.0), tag_place=(3.0, -30.0)))[0]
        self.assertLess(far.put.steep[1], w.put.steep[1])

    def test_a_tag_line_that_pulls_down_and_its_mended_twin(self):
        close = replace(PICK, landing=(6.0, 3.0), tag_place=(6.4, 3.2))
        steep = {x.key: x for x in worked(close)[1]}["tag_steep"]
        self.assertEqual(steep.verdict, Verdict.NEAR)  # let down first it can still be drawn in
        mended = {x.key: x for x in worked(replace(close, tag_place=(40.0, 20.0), landing=(1.6, 0.8)))[1]}["tag_steep"]
        self.assertEqual(mended.verdict, Verdict.WITHIN)

    def test_what_the_piece_comes_against_and_how_fast(self):
        w, limits = worked(PICK, Cut("Bough", 2.0))
        met = next(m for m in w.meets if m.carries)
        reach = 0.5 * OAK.diameter.value * 0.5**0.8 + 0.25 * w.piece.diameter  # the stem as a bar, and the piece
        first = next(
            k
            for k in range(1, len(w.path.cg))
            if min(math.hypot(*p[:2]) for p in np.linspace(w.path.butt[k], w.path.tip[k], 4000)) <= reach + 1e-4
        )
        drop = w.path.cg[0, 2] - w.path.cg[first, 2]
        self.assertAlmostEqual(met.speed, math.sqrt(2 * 9.80665 * drop), places=9)
        self.assertEqual(len(w.path.butt), w.path.rest + 1, "nothing swings through the stem that carries it")
        self.assertIn("meets_stem", {x.key for x in limits})
        out = worked(replace(PICK, point=RigPoint(member="High", at=2.0)))[0]
        self.assertGreater(len(out.path.butt), out.path.rest + 1, "under a limb it swings on")

    def test_a_tie_in_out_on_a_limb_bends_its_union(self):
        climber = Climber(tie_member="High", tie_at=2.0, stance_member="", stance_at=9.5, side=1.0)
        w, limits = worked(Pick(name="f", method="free", climber=climber))
        bends = next(x for x in limits if x.key == "tie_in_bends")
        members, stand = members_of(OAK), w.stand
        way = members.way[members.rows["High"]]
        down = np.array(stand.stance) - np.array(stand.tie)
        angle = math.atan2(math.hypot(*down[:2]), -down[2])
        pull = 980.665 * (3 - 2 * math.cos(angle)) * down / np.linalg.norm(down)
        moment = np.cross(2.0 * way, pull)
        mass, along = within(members, members.rows["High"], 0.0, 4.0)
        moment = moment + np.cross(way * along, [0.0, 0.0, -mass * 9.80665])  # and what the limb weighs itself
        stress = np.linalg.norm(moment - way * (moment @ way)) / (math.pi / 32 * 0.1**3)
        self.assertAlmostEqual(bends.demand.value / stress, 1.0, places=6)

    def test_a_cracked_union_further_down_is_a_weak_tie_in(self):
        tree = replace(OAK, limbs=tuple(replace(b, union="cracked") if b.name == "Bough" else b for b in LIMBS))
        climber = Climber(tie_member="Spur", tie_at=0.3, stance_member="", stance_at=6.0)
        _w, limits = worked(Pick(name="f", method="free", climber=climber), Cut("High", 0.5), tree=tree)
        self.assertIn(("Bough", "cracked"), {(x.about.name, x.about.why) for x in limits if x.key == "tie_in_weak"})

    def test_a_bed_too_small_and_targets_at_the_landing(self):
        free = Pick(name="f", method="free", bed="brush", bed_depth=0.6, bed_radius=2.0)
        limits = {x.key: x for x in worked(free)[1]}
        self.assertEqual(limits["bed_small"].verdict, Verdict.NEAR)
        w, limits = worked(replace(PICK, landing=(6.0, 1.5)), site=SHED)
        gap = next(x for x in limits if x.key == "put_on")
        self.assertAlmostEqual(gap.demand.value, 4.0 - w.piece.length / 2, places=9)  # 4 m from the shed's east wall

    def test_a_climber_on_no_limb_of_this_tree_is_refused(self):
        for where, said in (({"stance_member": "Twig"}, "stance"), ({"tie_member": "Twig"}, "tie_in")):
            with self.assertRaises(CoreError) as caught:
                worked(replace(PICK, climber=replace(CLIMBER, **where)))
            self.assertEqual(caught.exception.field, said)

    def test_tie_ins_are_refused_where_nobody_ties_in(self):
        for field in ("place", "second_place"):
            for height in (0.4, 101.0):
                with self.assertRaises(CoreError):
                    replace(CLIMBER, **{field: (1.0, 0.0, height)})
            for height in (0.5, 100.0):
                self.assertEqual(getattr(replace(CLIMBER, **{field: (1.0, 0.0, height)}), field)[2], height)

    def test_a_second_tie_in_opposite_holds_a_slipping_climber(self):
        climber = Climber(tie_member="", tie_at=15.0, stance_member="Bough", stance_at=3.0)
        free = Pick(name="f", method="free", climber=climber)
        slips = {x.key: x for x in worked(free, Cut("Bough", 3.6))[1]}["slip"]
        self.assertEqual(slips.about.name, "the stem")
        far = tuple(3.0 * v for v in members_of(OAK).way[1])
        held = replace(free, climber=replace(climber, second_place=(far[0], far[1], 16.0), second_tree="Ash"))
        self.assertEqual({x.key: x for x in worked(held, Cut("Bough", 3.6))[1]}["slip"].demand.value, 0.0)
        self.assertEqual(two_anchors((0, 0, 15), (0.1, 0, 14), (3, 0, 8)), (980.665, 980.665))

    def test_more_slack_never_lowers_the_peak(self):
        peaks = [worked(replace(PICK, slack=s))[0].forces.peaks.elastic.value for s in (0.0, 0.2, 1.0, 2.0)]
        self.assertEqual(peaks, sorted(peaks))

    def test_a_fork_loads_the_stem_less_and_stiffens_a_catch(self):
        block, fork = (worked(replace(PICK, slack=0.5, point=replace(AT_TOP, fork=f)))[0].forces for f in (False, True))
        self.assertLess(
            fork.on_point.value / fork.peaks.governing.value, block.on_point.value / block.peaks.governing.value
        )
        self.assertGreater(fork.stiffness.value, block.stiffness.value)

    def test_mirrored(self):
        flip = tuple(replace(limb, azimuth=math.tau - limb.azimuth) for limb in LIMBS)
        one = worked()[0]
        two = worked(replace(PICK, device_place=(-0.3, 0.0, 1.0)), tree=replace(OAK, limbs=flip))[0]
        self.assertAlmostEqual(one.forces.on_point.value, two.forces.on_point.value, places=6)
        self.assertAlmostEqual(one.piece.cg[0], -two.piece.cg[0], places=9)

    def test_what_no_pick_is_is_refused_at_its_ends(self):
        for field, good, bad in (
            ("bed_radius", (0.5, 30.0), (0.45, 31.0)),
            ("sag", (0.01, 0.5), (0.009, 0.51)),
            ("head", (0.2, 10.0), (0.19, 10.1)),
            ("run", (0.05, 60.0), (0.04, 61.0)),
            ("slack", (0.0, 30.0), (-0.1, 31.0)),
            ("wraps", (0.0, 4.0), (-0.1, 4.1)),
            ("capacity", (10.0, 1e5), (9.0, 1.1e5)),
            ("pretension", (0.0, 100e3), (-1.0, 101e3)),
        ):
            for value in good:
                self.assertEqual(getattr(replace(PICK, **{field: value}), field), value)
            for value in bad:
                with self.subTest(field=field, value=value), self.assertRaises(CoreError):
                    replace(PICK, **{field: value})

    def test_a_block_on_a_lead_hangs_on_the_side_of_its_tie(self):
        leads = tuple(
            Limb(name=n, at=6.0, azimuth=a, rise=1.35, length=12.0, diameter=0.3, codominant=True)
            for n, a in (("East", 1.5), ("West", 4.6))
        )
        bough = Limb(name="Bough", parent="East", at=5.0, azimuth=0.4, rise=0.1, length=4.0, diameter=0.12)
        forked = replace(OAK, limbs=(*leads, bough), fork=6.0)
        members = members_of(forked)
        w, _ = worked(replace(PICK, point=RigPoint(member="East", at=8.0)), Cut("Bough", 0.2), tree=forked)
        axis = members.base[members.rows["East"]] + 8.0 * members.way[members.rows["East"]]
        tie = np.array(w.piece.butt) + 0.6 * np.array(w.piece.way)
        side = math.atan2(tie[0] - axis[0], tie[1] - axis[1])
        out = thickness(members, members.rows["East"], 8.0) / 2
        np.testing.assert_allclose(w.point, axis + out * np.array([math.sin(side), math.cos(side), 0.0]), atol=1e-9)

    def test_how_well_a_grip_is_known(self):
        # Setting two holds like 0.6 to 1.1 turns of a bollard: friction, turns and hand as logarithms, in squares.
        got = grip_of(devices()["intree"], replace(PICK, device="intree", setting=2), devices()["intree"].friction)
        down = math.hypot(math.tau * 0.85 * 0.08, math.tau * 0.2 * 0.25, math.log(250 / 150))
        up = math.hypot(math.tau * 0.85 * 0.1, math.tau * 0.2 * 0.25, math.log(400 / 250))
        self.assertAlmostEqual(got.down, down, places=9)
        self.assertAlmostEqual(got.up, up, places=9)
        self.assertAlmostEqual(got.closed / got.loose, 250 / 60, places=9)

    def test_a_bridles_rope_is_measured_to_its_head(self):
        legs = GEAR | {"leg": item("Leg line", "leg", diameter=0.01, length=9.0)}
        w, _ = worked(replace(PICK, method="bridle", tie=1.0, second_tie=4.5, gear=legs, slack=0.25))
        piece, point = w.piece, np.array(w.point)
        head = np.array(piece.butt) + piece.balance.value * np.array(piece.way) + [0.0, 0.0, 1.5]
        down = np.array([0.3, 0.0, 1.0]) - point
        turn = math.pi - math.acos(-down[2] / np.linalg.norm(down))
        play = np.linalg.norm(head - point) + 0.25 + np.linalg.norm(down) * 0.95 ** (turn / math.pi)
        self.assertAlmostEqual(w.forces.stiffness.value, 180e3 / play, places=6)

    def test_a_better_grip_slides_at_more(self):
        pick = replace(PICK, tie=2.0, slack=1.5, wraps=1.2)
        w, _ = worked(pick)
        route = route_of(members_of(OAK), w.after, pick, hold_place(w.piece, pick), w.point)
        body, x = body_of(w.piece, {}, 1), {"modulus": 180e3}
        closed = 250.0 * math.exp(math.tau * 0.2 * 1.2)
        for grip in (-0.4, 0.0, 0.4):
            got = caught(w.piece, pick, route, body, x | {"grip": grip, "stick": 1.1})
            self.assertAlmostEqual(float(got.device[0]) / (1.1 * closed * math.exp(grip)), 1.0, delta=0.01)

    def test_a_lying_limbs_notch_does_not_move_its_block_round_the_stem(self):
        plain, faces = (worked(replace(PICK, bearing=b))[0].point for b in (None, 3.0))
        self.assertEqual(plain, faces)
        top = worked(
            replace(PICK, method="negative", tie=0.3, point=RigPoint(member="", at=19.5), bearing=3.0), Cut("", 20.0)
        )[0]
        self.assertAlmostEqual(math.atan2(top.point[0], top.point[1]), 3.0, places=9)

    def test_what_falls_freely_is_told_by_where_the_tree_stands(self):
        # The tree 3 m east and 5 m south of the site's origin; a shed 16 m east of the foot.
        shed = Target(
            name="Shed", kind="building", height=2.0, outline=((19.0, -9.0), (22.0, -9.0), (22.0, 2.0), (19.0, 2.0))
        )
        w, limits = worked(Pick(name="f", method="free"), site=Site(tree_x=3.0, tree_y=-5.0, targets=(shed,)))
        reach = w.piece.reach + 0.25 * w.piece.cg[2]
        gap = next(x for x in limits if x.key == "drops_on").demand.value
        self.assertAlmostEqual(gap, max(19.0 - (3.0 + w.piece.cg[0]) - reach, 0.0), places=9)
        self.assertGreater(gap, 0.0)

    def test_a_pick_that_unbalances_what_stands_is_named(self):
        heavy = (
            Limb(name="East", at=9.0, azimuth=1.5, rise=0.1, length=9.0, diameter=0.3, kind=Kind.MEASURED),
            Limb(name="West", at=9.5, azimuth=4.7, rise=0.1, length=9.0, diameter=0.3, kind=Kind.MEASURED),
        )
        members = members_of(replace(OAK, limbs=heavy, diameter=times(OAK.diameter, 0.6)))
        steps = takedown(members, [Cut("East", 0.2), Cut("West", 0.2)])
        found = [(o.number, o.rule) for o in order_rules(members, steps, (PICK, PICK)) if o.rule == "off_balance"]
        rest = take(members, steps[0].after, Cut("", 0.0)).piece
        self.assertGreater(math.hypot(rest.cg[0], rest.cg[1]), 0.5)
        self.assertEqual(found, [(1, "off_balance")])

    def test_order_rules(self):
        members = members_of(OAK)
        steps = takedown(members, [Cut("High", 0.0), Cut("Dead one", 0.0), Cut("Bough", 0.0)])
        picks = (PICK, PICK, replace(PICK, point=RigPoint(member="", at=5.0)))
        found = order_rules(members, steps, picks)
        self.assertEqual([(o.number, o.rule) for o in found], [(1, "dead_first"), (1, "point_low"), (3, "point_low")])


GLASS = Site(
    targets=(
        Target(
            name="Glasshouse", kind="building", height=7.0, outline=((0.5, -2.0), (6.0, -2.0), (6.0, 4.0), (0.5, 4.0))
        ),
    )
)
SHED = Site(
    targets=(
        Target(name="Shed", kind="building", height=2.2, outline=((0.2, 0.4), (2.0, 0.4), (2.0, 3.0), (0.2, 3.0))),
    )
)
FRAME = replace(SHED, targets=(replace(SHED.targets[0], name="Cold frame", height=0.3),))
SLOW = replace(PICK, held="run", wraps=3.0)
MISTAKES = {
    "tie_past": (replace(PICK, tie=4.2), {}),
    "anchor_bends": (replace(PICK, point=RigPoint(member="High", at=3.4), device_place=(12.0, 0.0, 1.0)), {}),
    "fork_caught": (replace(PICK, point=replace(AT_TOP, fork=True), slack=0.5, wraps=4.0, gear={k: replace(v,
    strength=9e5) for k, v in GEAR.items()}), {}),
    "hand": (replace(PICK, wraps=1.0), {"cut": Cut("", 12.0), "pick": {"method": "negative", "tie": 0.3,
    "point": RigPoint(member="", at=11.6)}}),
    "locked_fall": (replace(PICK, held="lock", slack=1.6, wraps=4.0, gear={k: replace(v, strength=9e5) for k,
    v in GEAR.items()}), {}),
    "rope_short": (replace(PICK, gear=GEAR | {"rope": replace(GEAR["rope"], length=25.0)}), {}),
    "piece_at_climber": (replace(PICK, climber=replace(CLIMBER, stance_member="Bough", stance_at=2.3)),
    {"cut": Cut("Bough", 3.2)}),
    "clears": (PICK, {"site": GLASS}),
    "connector_drop": (replace(PICK, slack=0.6, wraps=3.0, gear=GEAR | {"connector": item("Karabiner", "karabiner",
    strength=40e3)}), {}),
    "bent_sharply": (replace(PICK, gear=GEAR | {"block": replace(GEAR["block"], diameter=0.05)}), {}),
    "leg_slips": (replace(PICK, method="bridle", gear=GEAR | {"leg": item("Leg line", "leg", diameter=0.013)}), {}),
    "line_at_cut": (Pick(name="f", method="free", climber=Climber(tie_member="", tie_at=16.0, stance_member="",
    stance_at=13.6, side=4.0)), {"cut": Cut("High", 0.6)}),
    "gear_refused": (replace(PICK, gear=GEAR | {"sling": replace(GEAR["sling"], retired="burnt")}), {}),
    "tie_in_gone": (replace(PICK, climber=replace(CLIMBER, tie_member="Spur", tie_at=1.0)), {}),
    "chain": (replace(PICK, wraps=2.5, slack=0.0, gear=GEAR | {"rope": replace(GEAR["rope"], strength=9e3)}), {}),
    "joined": (replace(PICK, gear=GEAR | {"rope": replace(GEAR["rope"], joined=True)}), {}),
    "leg_short": (replace(PICK, method="bridle", tie=1.0, second_tie=4.5, gear=GEAR | {"leg": item("Leg line", "leg",
    diameter=0.01, length=2.0)}), {}),
    "second_tie": (replace(PICK, method="both"), {}),
    "way_unknown": (replace(PICK, method="negative", tie=0.3, held="soft", wraps=2.0, gear={k: replace(v,
    strength=9e5) for k, v in GEAR.items()}, point=RigPoint(member="", at=23.6)), {"cut": Cut("", 24.0)}),
    "lifted_early": (replace(PICK, tie=1.2, pretension=9e3, wraps=4.0, gear={k: replace(v, strength=9e5) for k,
    v in GEAR.items()}), {}),
    "catches": (replace(PICK, point=RigPoint(member="", at=15.5), landing=(1.6, 0.6), gear=GEAR | {"tag": item("Tag",
    "tag")}), {"cut": Cut("High", 0.4)}),
    "rope_through": (replace(PICK, tie=1.0, point=RigPoint(member="High", at=1.2)), {}),
    "put_on": (PICK, {"site": FRAME}),
    "one_attachment": (replace(SLOW, climber=replace(CLIMBER, lanyard=False)), {}),
    "above_tie_in": (replace(SLOW, climber=replace(CLIMBER, tie_at=6.8)), {}),
    "tie_in_weak": (replace(SLOW, climber=replace(CLIMBER, tie_member="Dead one", tie_at=0.4)), {}),
    "slip": (Pick(name="s", method="free", climber=Climber(tie_member="", tie_at=9.5, stance_member="Bough",
    stance_at=3.0)), {"cut": Cut("Bough", 3.6)}),
    "far_unknown": (replace(PICK, method="drift"), {}),
    "hook": (Pick(name="c", method="crane", capacity=80.0, gear=GEAR), {}),
    "toss_heavy": (Pick(name="t", method="toss"), {}),
}  # fmt: skip


def mirrored(pick):
    """A pick seen in a mirror that swaps east and west."""
    climber, landing = pick.climber, pick.landing
    if climber is not None:
        # Where nobody says it they stand right of a limb; in the mirror that is left of it.
        way = worked(pick)[0].piece.way if climber.side is None else (0.0, 0.0)
        side = math.atan2(way[0], way[1]) + math.pi / 2 if climber.side is None else climber.side
        climber = replace(climber, side=(math.tau - side) % math.tau)
    return replace(
        pick,
        climber=climber,
        landing=landing and (-landing[0], landing[1]),
        device_place=(-pick.device_place[0], *pick.device_place[1:]),
        bearing=None if pick.bearing is None else (math.tau - pick.bearing) % math.tau,
    )


def mirrored_site(site):
    turned = (replace(t, outline=tuple((-x, y) for x, y in t.outline)) for t in site.targets)
    return replace(site, tree_x=-site.tree_x, targets=tuple(turned))


class ClassicMistakes(TestCase):
    def test_named_first(self):
        for key, (pick, more) in MISTAKES.items():
            with self.subTest(mistake=key):
                pick = replace(pick, **more.get("pick", {}))
                _w, limits = worked(pick, more.get("cut"), site=more.get("site"))
                got = ruling_of(limits)
                self.assertEqual(
                    got.key, key, [(x.key, x.verdict.value) for x in limits if x.verdict is not Verdict.WITHIN]
                )

    def test_mirrored_they_are_the_same_mistakes(self):
        # The scene and the plan seen in a mirror: every limit reads the same.
        flat = replace(OAK, limbs=tuple(replace(limb, azimuth=math.tau - limb.azimuth) for limb in LIMBS))
        for key, (pick, more) in MISTAKES.items():
            with self.subTest(mistake=key):
                pick = replace(pick, **more.get("pick", {}))
                site = more.get("site")
                limits, other = (
                    worked(p, more.get("cut"), tree=tree, site=s)[1]
                    for p, tree, s in ((pick, OAK, site), (mirrored(pick), flat, site and mirrored_site(site)))
                )
                self.assertEqual([(x.key, x.verdict) for x in limits], [(x.key, x.verdict) for x in other])
                for one, two in zip(limits, other, strict=True):
                    if one.demand is not None:
                        self.assertAlmostEqual(one.demand.value, two.demand.value, delta=1e-6 * (1 + one.demand.value))

    def test_a_stem_damaged_below_bends_there_first(self):
        rotten = replace(OAK, cavities=(Cavity(low=2.0, high=4.0, across=0.66, decayed=True),))
        gear = {k: replace(v, strength=9e5) for k, v in GEAR.items()}
        top = replace(
            PICK,
            method="negative",
            tie=0.3,
            bearing=1.0,
            held="run",
            run=8.0,
            wraps=4.0,
            gear=gear,
            device_place=(14.0, 0.0, 1.0),
            point=RigPoint(member="", at=11.6),
        )
        w, limits = worked(top, Cut("", 12.0), tree=rotten)
        bends = next(x for x in limits if x.key == "anchor_bends")
        self.assertTrue(2.0 <= w.forces.anchor.height <= 4.0)
        self.assertEqual("hollow", bends.about.why)
        # Nobody is in the tree: a cut that closes, fuller still, stands beside it in one rank.
        others = tuple(x for x in limits if x.key != "kerf_closes")
        self.assertEqual((bends.verdict, ruling_of(others).key), (Verdict.OVER, "anchor_bends"), bends)

    def test_a_point_above_what_stands_is_refused(self):
        with self.assertRaises(CoreError) as caught:
            worked(PICK, Cut("", 12.0))
        self.assertEqual(caught.exception.field, "rigging_point")

    def test_unknown_strength_is_not_known(self):
        _w, limits = worked(replace(PICK, gear=GEAR | {"sling": replace(GEAR["sling"], strength=None)}))
        self.assertEqual(ruling_of(limits).verdict, Verdict.NOT_KNOWN)
