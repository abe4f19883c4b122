"""Pulling systems: purchases counted by hand, forces as vectors, ropes over roofs, people in the way."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from treecore.errors import CoreError
from treecore.rigging.pull_on_site import anchor_allowed, people_places, places_of, rig, rope_needs, travel
from treecore.rigging.pulling import TREE, Part, PullSystem, Rope, effort_of, work_out
from treecore.rigging.readymade import NAMES, ready_made
from treecore.site import Site, Target
from treecore.tests.scenes import TREE as FIR
from treecore.workzone import covered_ground

UPRIGHT = replace(FIR, lean=0.0)


def line_up(parts, ropes, at):
    """A system whose parts stand in one level line: purchases are then whole numbers."""
    system = PullSystem(tie=10.0, parts=parts, ropes=ropes)
    return system, {name: (float(x), 0.0, 10.0) for name, x in at.items()} | {TREE: (0.0, 0.0, 10.0)}


def part(name, kind="block", on=""):
    return Part(name=name, kind=kind, x=1.0, y=0.0, on=on)


HANDS = part("Hands", "people")
E = 0.95  # tension a bearing block passes on over half a turn


def arrangements():
    """Name, system with places, ideal purchase, and the purchase with every block passing on E of its tension."""

    def rope(*path, name="Line"):
        return Rope(name=name, path=path)

    a, b, g, h, m, n = (part(x) for x in ("A", "B", "G", "H", "M", "N"))
    g, h = replace(g, on="Line"), replace(h, on="Line")
    fixed, tree_block = part("Fixed", "tie"), part("Stem block", on=TREE)
    part("S", on="Line")
    yield "straight", line_up((HANDS,), (rope(TREE, "Hands"),), {"Hands": 40}), 1, 1
    yield "turned back", line_up((a, HANDS), (rope(TREE, "A", "Hands"),), {"A": 40, "Hands": 5}), 1, E
    yield (
        "two turns",
        line_up((a, b, HANDS), (rope(TREE, "A", "B", "Hands"),), {"A": 40, "B": 20, "Hands": 60}),
        1,
        E**2,
    )
    yield (
        "moving block on the stem",
        line_up(
            (fixed, tree_block, HANDS),
            (rope("Fixed", "Stem block", "Hands"),),
            {"Fixed": 40, "Stem block": 0, "Hands": 40},
        ),
        2,
        1 + E,
    )
    yield (
        "2 to 1 on the line",
        line_up(
            (part("Back", "tie"), m, HANDS),
            (rope(TREE, "M"), rope("Back", "M", "Hands", name="Second")),
            {"Back": 60, "M": 30, "Hands": 60},
        ),
        2,
        1 + E,
    )
    yield (
        "3 to 1",
        line_up((a, g, HANDS), (rope(TREE, "A", "G", "Hands"),), {"A": 40, "G": 25, "Hands": 60}),
        3,
        1 + E + E**2,
    )
    yield (
        "3 to 1 turned back",
        line_up((a, g, b, HANDS), (rope(TREE, "A", "G", "B", "Hands"),), {"A": 40, "G": 25, "B": 45, "Hands": 10}),
        3,
        E * (1 + E + E**2),
    )
    yield (
        "5 to 1",
        line_up(
            (a, g, b, h, HANDS),
            (rope(TREE, "A", "G", "B", "H", "Hands"),),
            {"A": 40, "G": 25, "B": 41, "H": 24, "Hands": 60},
        ),
        5,
        1 + E + E**2 + E**3 + E**4,
    )
    yield (
        "2 on 3",
        line_up(
            (a, g, m, part("Back", "tie"), HANDS),
            (rope(TREE, "A", "G", "M"), rope("Back", "M", "Hands", name="Second")),
            {"A": 40, "G": 25, "M": 35, "Back": 60, "Hands": 60},
        ),
        6,
        (1 + E) * (1 + E + E**2),
    )
    n = part("N")
    yield (
        "2 on 2",
        line_up(
            (m, n, part("Back", "tie"), HANDS),
            (rope(TREE, "M"), rope("Back", "M", "N", name="Second"), rope("Back", "N", "Hands", name="Third")),
            {"M": 20, "N": 30, "Back": 60, "Hands": 60},
        ),
        4,
        (1 + E) ** 2,
    )


class Purchase(TestCase):
    def test_ten_arrangements_with_and_without_friction(self):
        rows = list(arrangements())
        self.assertEqual(len(rows), 10)
        for name, (system, places), ideal, real in rows:
            with self.subTest(arrangement=name):
                self.assertAlmostEqual(work_out(system, places, "ideal").purchase, ideal, places=9)
                self.assertAlmostEqual(work_out(system, places).purchase, real, places=9)

    def test_a_turn_round_a_trunk_is_the_capstan_equation(self):
        trunk = replace(part("A", "trunk"), turns=1.0)
        system, places = line_up((trunk, HANDS), (Rope(name="Line", path=(TREE, "A", "Hands")),), {"A": 40, "Hands": 5})
        # Half a turn by its geometry and one more, friction 0.35.
        self.assertAlmostEqual(work_out(system, places).purchase, math.exp(-0.35 * 3 * math.pi), places=9)

    def test_moving_block_pulls_between_its_parts(self):
        # 2·T·cos(γ/2), halfway between the legs; 60° between them, no friction.
        fixed, block = part("Fixed", "tie"), part("Stem block", on=TREE)
        system = PullSystem(
            tie=10.0, parts=(fixed, block, HANDS), ropes=(Rope(name="Line", path=("Fixed", "Stem block", "Hands")),)
        )
        at = {
            n: (30 * math.cos(a), 30 * math.sin(a), 10.0) for n, a in (("Fixed", math.pi / 6), ("Hands", -math.pi / 6))
        }
        at |= {TREE: (0, 0, 10.0), "Stem block": (0, 0, 10.0)}
        got = work_out(system, at, "ideal", {"Hands": 1000.0})
        self.assertAlmostEqual(got.tree[0], 2000.0 * math.cos(math.pi / 6), places=6)
        self.assertAlmostEqual(got.tree[1], 0.0, places=6)

    def test_redirect_block_carries_the_vector_sum(self):
        system, places = line_up(
            (part("A"), HANDS), (Rope(name="Line", path=(TREE, "A", "Hands")),), {"A": 40, "Hands": 0}
        )
        places["Hands"] = (40.0, -30.0, 10.0)  # square to the line: root of two without friction
        got = work_out(system, places, "ideal", {"Hands": 1000.0})
        load = next(x for x in got.loads if x.part == "A")
        self.assertAlmostEqual(load.force, 1000.0 * math.sqrt(2.0), places=6)
        # Pulled halfway between the legs, back to the tree and off to the hands.
        for found, expected in zip(load.direction, (-math.sqrt(0.5), -math.sqrt(0.5), 0.0), strict=True):
            self.assertAlmostEqual(found, expected, places=9)

    def test_a_turn_in_space_counts_all_three_ways(self):
        # Down at 45° to a block at the foot and away level: 135° turned off, so E to the power of three quarters... by
        # hand.
        system, _ = line_up((part("A"), HANDS), (Rope(name="Line", path=(TREE, "A", "Hands")),), {"A": 0, "Hands": 0})
        for hands, turned in (
            ((30.0, 0.0, 0.0), 45.0),
            ((0.0, 20.0, 0.0), 90.0),
            ((10.0, 0.0, 10.0), 90.0),
            ((10.0, 0.0, -10.0), 0.0),
        ):
            places = {TREE: (-10.0, 0.0, 10.0), "A": (0.0, 0.0, 0.0), "Hands": hands}
            got = work_out(system, places).purchase
            self.assertAlmostEqual(got, E ** (turned / 180.0), places=9, msg=str(hands))

    def test_ready_made_grips_lie_on_the_line(self):
        tree, anchor = (3.0, -2.0), (33.0, 14.0)
        way = math.dist(tree, anchor)
        for kind in NAMES:
            for made in ready_made(kind, tree, anchor, 11.0).parts:
                if made.on not in ("", TREE):
                    out = math.dist((made.x, made.y), tree)
                    self.assertTrue(0.75 * way < out < way, (kind, made.name))
                    off = (made.x - 3.0) * 16.0 - (made.y + 2.0) * 30.0
                    self.assertAlmostEqual(off / way, 0.0, delta=0.01)

    def test_a_grip_lies_on_its_line_in_space(self):
        made = ready_made("three", (0.0, 0.0), (40.0, 0.0), 12.0)
        places = places_of(made, Site(), UPRIGHT)
        tie, anchor, grip = (np.array(places[n]) for n in (TREE, "Anchor turn", "Grip"))
        share = np.linalg.norm(grip - tie) / np.linalg.norm(anchor - tie)
        np.testing.assert_allclose(grip, tie + share * (anchor - tie), atol=1e-9)
        self.assertTrue(0.02 < share < 0.98)

    def test_an_anchor_at_the_stem_is_refused(self):
        for away in (3.1, 4.0):
            ready_made("straight", (0.0, 0.0), (away, 0.0), 12.0)
        with self.assertRaises(CoreError):
            ready_made("straight", (0.0, 0.0), (2.9, 0.0), 12.0)

    def test_hands(self):
        self.assertAlmostEqual(effort_of(replace(HANDS, people=3)).value, 3 * 0.3 * 80 * 9.80665, places=6)
        truck = Part(name="Truck", kind="vehicle", x=0, y=0, mass=3000.0, ground="wet")
        self.assertAlmostEqual(effort_of(truck).value, 0.25 * 3000 * 9.80665, places=6)
        self.assertEqual(effort_of(replace(truck, force=5000.0)).value, 5000.0)

    @given(st.floats(0.05, 1.0), st.sampled_from(sorted(NAMES)))
    def test_half_the_effort_is_half_the_pull(self, share, kind):
        system = ready_made(kind, (0.0, 0.0), (38.0, 6.0), 12.0)
        whole, part_ = (rig(replace(system, takes=t), Site(), UPRIGHT) for t in (1.0, share))
        self.assertAlmostEqual(part_.pull.value, share * whole.pull.value, places=6)
        self.assertLessEqual(whole.purchase.value, whole.ideal)
        self.assertTrue(whole.purchase.low <= whole.purchase.value <= whole.purchase.high)


class OnTheSite(TestCase):
    SHED = Target(
        name="Shed", kind="building", outline=((15.0, -3.0), (20.0, -3.0), (20.0, 3.0), (15.0, 3.0)), height=5.0
    )

    def test_a_line_over_a_roof_edge(self):
        # Tie 12 m up, hands 1 m up at 40 m: over the far edge at 20 m it passes at 12 - 11·20/40 = 6.5 m: clear by
        # more than 0.3.
        system = ready_made("straight", (0.0, 0.0), (40.0, 0.0), 12.0)
        site = Site(targets=(self.SHED,))
        self.assertEqual(rig(system, site, UPRIGHT).fouls, ())
        lower = replace(system, tie=9.0)  # 9 - 8·20/40 = 5.0 m: no room over 5 m and 0.3
        (foul,) = rig(lower, site, UPRIGHT).fouls
        self.assertEqual((foul.target, foul.leg.rope), ("Shed", "Pull line"))
        self.assertAlmostEqual(foul.passes, 5.0, places=9)
        self.assertAlmostEqual(foul.wanted, 5.3, places=9)

    def test_the_slope_lowers_what_stands_down_it(self):
        site = Site(slope=math.radians(10.0), downhill=math.radians(90.0))
        places = places_of(ready_made("straight", (0.0, 0.0), (40.0, 0.0), 12.0), site, UPRIGHT)
        self.assertAlmostEqual(places["Hands"][2], 1.0 - 40.0 * math.tan(math.radians(10.0)), places=9)

    def test_people_in_bight_recoil_fall_and_line(self):
        covered = covered_ground(Site(), math.radians(90.0), UPRIGHT, UPRIGHT.height, 0.0, 0.3)

        def stands(system):
            return [(s.part, s.verdict.value, s.why) for s in people_places(rig(system, Site(), UPRIGHT), covered)]

        redirect = ready_made("redirect", (0.0, 0.0), (40.0, 0.0), 12.0)
        self.assertEqual(stands(redirect), [])
        bight = replace(redirect, parts=(*redirect.parts, Part(name="Helper", kind="people", x=36.0, y=-1.5)))
        self.assertEqual(stands(bight)[0][2], "bight")
        near = replace(redirect, parts=(redirect.parts[0], replace(redirect.parts[1], x=15.0, y=1.0)))
        self.assertEqual(stands(near)[0][2], "fall")
        self.assertEqual("in_line", stands(ready_made("straight", (0.0, 0.0), (40.0, 0.0), 12.0))[0][2])

    def test_rope_needed_is_way_travel_and_tail(self):
        system = ready_made("straight", (0.0, 0.0), (40.0, 0.0), 12.0)
        found = rig(system, Site(), UPRIGHT)
        # Turning 10° towards the hands the tie goes 12·sin 10° ahead and 12·(1 - cos 10°) down.
        turn = math.radians(10.0)
        before = math.hypot(40.0, 11.0)
        after = math.hypot(40.0 - 12.0 * math.sin(turn), 12.0 * math.cos(turn) - 1.0)
        gone = travel(system, found.places, (0.0, 0.0), math.radians(90.0), turn)
        self.assertAlmostEqual(gone, before - after, places=9)
        (need,) = rope_needs(found, gone)
        self.assertAlmostEqual(need.need, before + gone + 3.0, places=9)

    def test_an_anchor_stem_bent_at_the_ground(self):
        # 30 MPa · π·0.4³/32 / 0.8 m / 5
        got = anchor_allowed(Part(name="Oak", kind="tie", x=40, y=0, height=0.8, trunk=0.4), "5")
        self.assertAlmostEqual(got.value, 30e6 * math.pi * 0.064 / 32.0 / 0.8 / 5.0, places=6)

    def test_mirrored(self):
        system = ready_made("moving", (0.0, 0.0), (38.0, 6.0), 12.0)
        lean = replace(FIR, lean_azimuth=math.tau - FIR.lean_azimuth)
        flip = replace(system, parts=tuple(replace(p, x=-p.x) for p in system.parts))
        one, two = rig(system, Site(), FIR).worked.tree, rig(flip, Site(), lean).worked.tree
        self.assertAlmostEqual(one[0], -two[0], places=6)
        self.assertAlmostEqual(one[1], two[1], places=6)

    def test_refusals_name_the_part(self):
        line = Rope(name="Line", path=(TREE, "A", "Hands"))
        cases = {
            "rope Line": ((HANDS,), (line,)),
            "part A": ((part("A"), HANDS), (line, Rope(name="Other", path=(TREE, "A", "Hands")))),
            "pull": ((part("A"),), ()),
        }
        for field, (parts, ropes) in cases.items():
            with self.subTest(field=field), self.assertRaises(CoreError) as caught:
                rig(PullSystem(tie=10.0, parts=parts, ropes=ropes), Site(), UPRIGHT)
            self.assertEqual(caught.exception.field, field)

    def test_a_system_that_closes_on_itself(self):
        # Each rope is hauled by the block the other runs through.
        a, b = Part(name="A", kind="block", x=20, y=0), Part(name="B", kind="block", x=30, y=2)
        ropes = (
            Rope(name="One", path=(TREE, "A", "B")),
            Rope(name="Two", path=(TREE, "B", "A")),
            Rope(name="Hauled", path=(TREE, "Hands")),
        )
        with self.assertRaises(CoreError) as caught:
            rig(
                PullSystem(tie=10.0, parts=(a, b, Part(name="Hands", kind="people", x=40, y=1)), ropes=ropes),
                Site(),
                UPRIGHT,
            )
        self.assertIn("closes on itself", str(caught.exception))
