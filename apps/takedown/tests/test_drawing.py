"""Labels lie on nothing, handles stand apart for a thumb, and trees are drawn where they were measured."""

import math
import random

from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from cantrel.art.axes import grown, outline
from cantrel.art.habits import BROAD, OAK, SPRAY, WEEPING, habit_of
from cantrel.art.tree import Wood, drawn
from cantrel.labels import APART, Placer, beside, fanned, meet, named

WORDS = ("Tie", "Rigging point", "Climber", "7.4 kN", "Number 4", "bends most: 3.2 MPa")
THINGS = st.lists(
    st.tuples(
        st.text("abc", min_size=1, max_size=3),
        st.sampled_from(WORDS[:3]),
        st.tuples(st.floats(40, 430), st.floats(20, 560)),
        st.sampled_from(["start", "end"]),
    ),
    max_size=8,
)


def scene(seed):
    """A crowded picture: a rope, some buildings, labels of every kind."""
    draw = random.Random(seed)
    placer = Placer(470, 590)
    spot = lambda: (draw.uniform(10, 460), draw.uniform(10, 580))  # noqa: E731
    placer.along([spot(), spot(), spot()])
    found = []
    for i in range(6):
        x, y = spot()
        box = (x, y, min(x + draw.uniform(20, 200), 469), min(y + draw.uniform(20, 200), 589))
        found.append(named(placer, f"Number {i}", box))
    rows = [(str(i), draw.choice(WORDS), spot(), draw.choice(["start", "end"])) for i in range(8)]
    return placer, fanned(placer, rows), found


class Labels(SimpleTestCase):
    def test_fifty_random_scenes_overlap_nowhere(self):
        for seed in range(50):
            with self.subTest(seed=seed):
                placer, _, _ = scene(seed)
                boxes = [b for b in placer.taken if b[2] - b[0] > 30.0]  # labels; what was taken before is smaller
                for i, box in enumerate(boxes):
                    self.assertTrue(box[0] >= 0 and box[2] <= 470 and box[1] >= 0 and box[3] <= 590)
                    self.assertFalse([other for other in boxes[:i] if meet(box, other)])
                self.assertEqual(placer.lost, [])

    @settings(deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(THINGS)
    def test_a_label_is_placed_beside_its_own_thing_or_not_at_all(self, things):
        placer = Placer(470, 590)
        rows = beside(placer, things)
        self.assertEqual([r["at"] for r in rows], [t[2] for t in things])
        self.assertEqual([r["label"] for r in rows if not r["shown"]], placer.lost)
        for row in rows:
            self.assertLess(math.hypot(row["dx"], row["dy"]), 320)
            self.assertEqual(row["led"], bool(row["shown"]) and row["led"])

    @settings(deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(THINGS)
    def test_handles_are_a_thumb_apart_and_know_their_place(self, things):
        rows = fanned(Placer(470, 590), things)
        for (_, _, at, _), row in zip(things, rows, strict=True):
            self.assertAlmostEqual(row["at"][0] + row["off"][0], at[0], delta=0.11)
            self.assertAlmostEqual(row["at"][1] + row["off"][1], at[1], delta=0.11)
        if len(things) <= 5:
            for i, row in enumerate(rows):
                for other in rows[:i]:
                    self.assertGreaterEqual(math.dist(row["at"], other["at"]), APART - 0.01)

    def test_a_name_stands_in_its_shape_upright_in_a_tall_one_beside_a_small_one(self):
        placer = Placer(400, 400)
        wide, tall = named(placer, "Glasshouse", (20, 20, 180, 80)), named(placer, "Gravel lane", (250, 40, 280, 380))
        self.assertEqual((wide.at, wide.turned), ((100, 50), False))
        self.assertEqual((tall.at, tall.turned), ((265, 210), True))
        small = named(placer, "Tool shed", (60, 300, 80, 320))
        self.assertFalse(60 < small.at[0] < 80 and 300 < small.at[1] < 320)
        self.assertLess(math.dist(small.at, (70, 310)), 34)  # it begins beside its shape, however wide it is
        self.assertIsNone(named(placer, "Off the picture", (500, 20, 400, 80)))


LIMBS = [
    Wood(name="", foot=(200, 500), tip=(205, 100), widths=(30, 24, 15, 4), style="stem", straight=True),
    Wood(name="North", foot=(202, 300), tip=(320, 180), widths=(14, 8, 1), style="measured", leafy=True),
    Wood(name="South", foot=(201, 260), tip=(90, 200), widths=(12, 7, 1), style="assumed", leafy=True, deep=2.0),
    Wood(name="Cut", foot=(203, 350), tip=(300, 330), widths=(10, 6, 1), style="measured", high=0.2),
    Wood(name="Cut", foot=(203, 350), tip=(300, 330), widths=(10, 6, 1), style="off", low=0.2, leafy=True),
]


class Trees(SimpleTestCase):
    def test_an_axis_begins_at_its_union_and_ends_at_its_tip_and_stays_near_its_chord(self):
        for foot, tip in (((10, 400), (140, 320)), ((300, 200), (120, 260)), ((50, 300), (50, 100))):
            for lean in (-1.0, -0.3, 0.0, 1.0):
                for habit in (BROAD, OAK, WEEPING, SPRAY):
                    axis = grown(foot, tip, habit, lean)
                    self.assertEqual(axis.at(0.0), foot)
                    self.assertAlmostEqual(math.dist(axis.at(1.0), tip), 0.0, places=9)
                    across = axis.across()
                    for i in range(11):
                        x, y = axis.at(i / 10.0)
                        off = (x - foot[0]) * across[0] + (y - foot[1]) * across[1]
                        self.assertLess(abs(off), 8.0)  # about as far as a sign is wide: nothing stands beside its wood

    def test_wood_is_as_thick_as_it_was_measured(self):
        edge = outline(grown((100, 300), (100, 100), BROAD, 0.0), (20.0, 10.0, 2.0), steps=4)
        left, right = edge[:5], edge[5:][::-1]
        for (a, b), thick in zip(zip(left, right, strict=True), (20.0, 15.0, 10.0, 6.0, 2.0), strict=True):
            self.assertAlmostEqual(math.dist(a, b), thick, delta=0.4)

    def test_the_same_tree_is_drawn_the_same_and_another_otherwise(self):
        first, again, other = (drawn(LIMBS, BROAD, seed) for seed in ("a", "a", "b"))
        self.assertEqual(first, again)
        self.assertNotEqual(first, other)

    def test_what_is_known_comes_off_or_hangs_dead_is_told_apart(self):
        art = drawn(LIMBS, BROAD, "a")
        styles = {row.style for row in art.wood}
        self.assertLessEqual({"wood stem", "wood measured", "wood assumed", "wood off"}, styles)
        leaves = [row.style for row in art.behind]
        self.assertEqual(leaves[0], "shade assumed")  # the furthest behind is drawn first
        self.assertTrue({"shade kept", "light kept", "shade off"} <= set(leaves))
        self.assertIn("sawn", [row.style for row in art.marks])
        bare = drawn([w if w.style == "stem" else Wood(**{**vars(w), "leafy": False}) for w in LIMBS], BROAD, "a")
        self.assertEqual(bare.behind, ())

    def test_a_tree_of_a_hundred_limbs_stays_within_sixty_kilobytes(self):
        draw = random.Random(3)
        many = [LIMBS[0]]
        for i in range(100):
            foot = (203.0, draw.uniform(120, 400))
            tip = (foot[0] + draw.uniform(-160, 160), foot[1] - draw.uniform(-20, 120))
            many.append(Wood(name=f"{i}", foot=foot, tip=tip, widths=(9, 5, 1), style="measured", leafy=True))
        for habit in (BROAD, OAK, WEEPING, SPRAY):
            self.assertLess(drawn(many, habit, "a").size, 60_000)

    def test_habits_go_by_genus_then_by_form(self):
        self.assertEqual(habit_of("Quercus robur", "oval"), OAK)
        self.assertEqual(habit_of("Abies alba", "cone"), SPRAY)
        self.assertEqual(habit_of("Fagus sylvatica", "oval"), BROAD)
        self.assertEqual(habit_of("Salix alba", "oval"), WEEPING)
