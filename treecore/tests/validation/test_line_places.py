"""Where the lines end and what each hand is told, against places and forces worked out by hand."""

import math
from dataclasses import replace
from unittest import TestCase

from treecore.felling.evaluate import evaluate
from treecore.felling.line_places import aim, guy_belongs, landmark, line_sheet, side_of
from treecore.rigging.line import Guy
from treecore.rigging.pulling import TREE, Part, PullSystem, Rope
from treecore.rigging.tackle import Tackle
from treecore.schools import constant
from treecore.site import Site, Target
from treecore.tests.scenes import PLAN, SHED, mirrored

# A truck pulls back past the tree: the rope turns by half at a block 30 m ahead, and a moving block on the stem halves
# what it has to give.
TRUCK = Part(name="Truck", kind="winch", x=28.0, y=-16.0, height=0.8, force=9000.0)
END = Part(name="Fixed end", kind="tie", x=40.0, y=3.0, height=0.5, rating=60e3)
STEM = Part(name="Stem block", kind="block", x=0.0, y=0.0, on=TREE)
DOUBLED = PullSystem(
    tie=12.0,
    parts=(TRUCK, END, STEM),
    ropes=(Rope(name="Winch rope", path=("Fixed end", "Stem block", "Truck"), owned=120.0, strength=90e3),),
)
GUY = Guy(
    tie=11.0,
    azimuth=math.radians(350.0),
    distance=26.0,
    anchor=0.4,
    tackle=Tackle(strength=60e3, owned=60.0, rating=5e4),
)


def sheet_of(plan):
    return line_sheet(plan, evaluate(plan))


class Places(TestCase):
    def test_the_truck_is_told_its_own_pull_and_not_what_the_tree_gets(self):
        plan = replace(PLAN, pull=None, system=DOUBLED, lay=math.radians(100.0))
        sheet = sheet_of(plan)
        hand = sheet.hands[0]
        self.assertEqual((hand.name, hand.kind), ("Truck", "winch"))
        self.assertAlmostEqual(hand.force.value, 9000.0)
        # Two legs of about the same tension, less what the block eats: well over one and a half of the truck's pull.
        self.assertGreater(sheet.on_tree.value, 1.5 * hand.force.value)
        self.assertLess(sheet.on_tree.value, 2.0 * hand.force.value)
        self.assertAlmostEqual(hand.distance, math.hypot(28.0, 16.0))
        self.assertAlmostEqual(hand.bearing, math.radians(90.0) + math.atan2(16.0, 28.0))
        self.assertAlmostEqual(hand.height, 0.8)
        self.assertEqual([p.name for p in sheet.parts], ["Fixed end"])

    def test_a_rope_is_as_long_as_its_legs_with_what_the_fall_takes_and_a_tail(self):
        sheet = sheet_of(replace(PLAN, pull=None, system=DOUBLED, lay=math.radians(100.0)))
        rope = sheet.ropes[0]
        self.assertEqual((rope.bends, rope.owned, rope.path), (1, 120.0, ("Fixed end", "Stem block", "Truck")))
        # Tie over the leaning stem's foot, within its lean of 1.3 degrees.
        legs = math.dist((40.0, 3.0, 0.5), (0.0, 0.0, 12.0)) + math.dist((0.0, 0.0, 12.0), (28.0, -16.0, 0.8))
        self.assertAlmostEqual(rope.way, legs, delta=1.3)
        self.assertGreater(rope.need, rope.way + 1.9)

    def test_a_guy_stands_left_of_the_lay_at_its_bearing_and_mirrors_to_the_right(self):
        plan = replace(PLAN, guy=GUY)
        guy = sheet_of(plan).guy
        self.assertAlmostEqual(math.degrees(guy.bearing), 350.0)
        self.assertAlmostEqual(guy.distance, 26.0)
        self.assertEqual(guy.side, "left")
        self.assertEqual(sheet_of(mirrored(plan)).guy.side, "right")
        self.assertEqual([r.name for r in sheet_of(plan).ropes], ["Pull line", "Guy line"])
        self.assertIsNone(sheet_of(PLAN).guy)

    def test_a_single_line_gives_the_tree_what_the_hand_gives(self):
        sheet = sheet_of(PLAN)
        hand, rope = sheet.hands[0], sheet.ropes[0]
        self.assertAlmostEqual(hand.force.value, sheet.on_tree.value)
        self.assertEqual((rope.bends, hand.kind, hand.people), (0, "winch", 0))
        tail = constant("rope_tail").value
        self.assertAlmostEqual(rope.need - rope.way, tail)
        guyed = sheet_of(replace(PLAN, guy=GUY)).ropes[1]
        self.assertGreater(guyed.need - guyed.way, tail)  # a guy grows longer while the stem turns away from it
        pulled = Tackle(by="people", people=4)
        self.assertEqual(sheet_of(replace(PLAN, pull=replace(PLAN.pull, tackle=pulled))).hands[0].people, 4)
        self.assertEqual(sheet_of(replace(PLAN, pull=replace(PLAN.pull, tackle=None))).hands[0].kind, "")

    def test_a_guy_belongs_on_the_side_away_from_where_the_tree_goes_by_itself(self):
        # It leans towards 248 degrees, which is to the right of a lay of 83.
        self.assertEqual(guy_belongs(evaluate(PLAN)), "left")
        self.assertEqual(guy_belongs(evaluate(mirrored(PLAN))), "right")

    def test_several_people_are_counted_and_pull_with_an_interval(self):
        hands = Part(name="Hands", kind="people", x=30.0, y=4.0, height=1.0, people=3)
        system = PullSystem(tie=10.0, parts=(hands,), ropes=(Rope(name="Line", path=(TREE, "Hands")),), takes=0.5)
        plan = replace(PLAN, pull=None, system=system)
        stand = sheet_of(plan).hands[0]
        self.assertEqual(stand.people, 3)
        self.assertLess(stand.force.low, stand.force.value)
        self.assertAlmostEqual(stand.force.value, plan.rigged.worked.effort)


class Marks(TestCase):
    def test_sides_of_a_lay_across_north(self):
        lay = math.radians(350.0)
        sides = {
            side: side_of(lay, math.radians(b)) for side, b in (("a", 10.0), ("b", 80.0), ("c", 175.0), ("d", 260.0))
        }
        self.assertEqual(sides, {"a": "ahead", "b": "right", "c": "behind", "d": "left"})

    def test_the_nearest_named_thing_is_the_landmark_and_none_far_off(self):
        site = Site(targets=(SHED, square("Well", 30.0, 0.0)))
        found = landmark(site, 12.0, -9.0)
        self.assertEqual((found.name, found.off), ("Shed", 2.0))
        self.assertEqual(landmark(site, 15.0, -9.0).off, 0.0)
        self.assertIsNone(landmark(site, 12.0, 60.0))

    def test_the_aim_is_what_lies_nearest_to_the_lay_by_bearing_beyond_the_peg(self):
        site = Site(
            tree_x=2.0,
            tree_y=1.0,
            targets=(square("Left", 40.0, 8.0), square("Right", 42.0, -4.0), square("Near", 6.0, 1.0)),
        )
        found = aim(site, math.radians(90.0), 10.0)
        self.assertEqual(found.name, "Right")
        self.assertAlmostEqual(found.right, math.atan2(5.0, 40.0))
        self.assertAlmostEqual(found.distance, math.hypot(40.0, 5.0))
        self.assertLess(aim(site, math.radians(110.0), 10.0).right, 0.0)
        self.assertIsNone(aim(site, math.radians(270.0), 10.0))


def square(name, x, y):
    return Target(name=name, kind="building", outline=((x - 1, y - 1), (x + 1, y - 1), (x + 1, y + 1), (x - 1, y + 1)))
