"""The ground a lay needs, against direct geometry; handles, schools and outcomes against their inverses."""

import math
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import union_all
from shapely.affinity import rotate
from shapely.geometry import Polygon

from treecore.errors import CoreError, OutOfRange
from treecore.estimate import exactly
from treecore.felling.handles import STEPS, drag, nudge
from treecore.felling.notch import notch_outline
from treecore.felling.plan import evaluate
from treecore.felling.suggest import by_school, take_school
from treecore.learning.outcome import Outcome, lay_difference, outcome
from treecore.site import Silhouette, Site, Target, clear_path, lying, place, swept
from treecore.tests.scenes import CUTS, PLAN, PULL, SHED, SITE, TREE
from treecore.tree.chord import hinge_chord
from treecore.verdict import Verdict
from treecore.workzone import lay_ground


def box(name, x, y, wide=1.0, deep=1.0, **more):
    corners = ((x, y), (x + wide, y), (x + wide, y + deep), (x, y + deep))
    return Target(name=name, kind="building", outline=corners, **more)


def ground(site, lay=0.0, tree=TREE, aside=0.0):
    return lay_ground(site, math.radians(lay), tree, tree.height, exactly(aside), "1.5", 0.35)


class Covered(TestCase):
    def test_gap_straight_ahead_and_behind(self):
        # Upper height 28 m less the stump of 0.35 m: the tip reaches 27.65 m north.
        site = Site(targets=(box("Ahead", -0.5, 30.0), box("Behind", -0.5, -5.0)))
        gaps = {c.target.name: c.gap for c in ground(site, tree=replace(TREE, lean=0.0)).clearances}
        self.assertAlmostEqual(gaps["Ahead"], 30.0 - 27.65, delta=0.02)
        self.assertAlmostEqual(gaps["Behind"], 4.0, delta=0.06)  # the stump itself covers a little behind the centre

    @settings(max_examples=60, deadline=None)
    @given(
        st.floats(0, 6.2),
        st.floats(0.02, 0.2),
        st.floats(-1, 1),
        st.floats(1, 9),
        st.floats(0.3, 5),
        st.booleans(),
        st.floats(-1, 1),
    )
    def test_every_turn_within_the_scatter_is_covered(self, azimuth, scatter, part, base, half, cone, aside):
        tree = Silhouette(
            length=25.0, crown_from=base, half_crown=half, half_stem=0.3, aside=aside, form="cone" if cone else "oval"
        )
        whole = swept(Site(), azimuth, scatter, tree).buffer(0.15)
        turned = Polygon(lying(Site(), azimuth + part * scatter, tree)).buffer(0)
        self.assertLess(turned.difference(whole).area, 0.2)

    def test_all_turns_together_are_covered_and_nothing_beyond(self):
        for form, aside in (("cone", 0.8), ("oval", -0.6)):
            tree = Silhouette(length=25.0, crown_from=7.0, half_crown=3.0, half_stem=0.3, aside=aside, form=form)
            turns = [Polygon(lying(Site(), 1.1 + part / 40 * 0.2, tree)).buffer(0.1) for part in range(-40, 41)]
            covered = swept(Site(), 1.1, 0.2, tree)
            self.assertLess(covered.difference(union_all(turns)).area, 0.05)
            self.assertLess(union_all(turns).difference(covered.buffer(0.15)).area, 0.05)

    @settings(max_examples=25, deadline=None)
    @given(st.floats(1.0, 359.0))
    def test_rotating_the_site_rotates_every_result(self, degrees):
        turn = math.radians(degrees)
        spin = rotate(SHED.shape, -degrees, origin=(0, 0))
        shed = replace(SHED, outline=tuple(spin.exterior.coords)[:-1])
        turned = replace(
            PLAN,
            tree=replace(TREE, lean_azimuth=(TREE.lean_azimuth + turn) % math.tau),
            site=replace(SITE, targets=(shed,), downhill=(SITE.downhill + turn) % math.tau),
            lay=(PLAN.lay + turn) % math.tau,
            pull=replace(PULL, azimuth=(PULL.azimuth + turn) % math.tau),
            wind_from=(PLAN.wind_from + turn) % math.tau,
        )
        one, other = evaluate(PLAN), evaluate(turned)
        for key, figure in one.figures.items():
            self.assertAlmostEqual(
                other.figures[key].estimate.value,
                figure.estimate.value,
                delta=1e-6 * max(1.0, abs(figure.estimate.value)),
                msg=key,
            )
        self.assertAlmostEqual(one.ground.clearances[0].gap, other.ground.clearances[0].gap, places=6)

    def test_a_light_touch_is_near_and_a_hard_one_over(self):
        for tolerable, verdict in ((True, Verdict.NEAR), (False, Verdict.OVER)):
            lane = box("Lane", -5.0, 20.0, 10.0, 3.0, light_touch=tolerable)
            self.assertEqual(ground(Site(targets=(lane,))).clearances[0].verdict, verdict)

    def test_a_tip_that_stands_aside_lands_aside(self):
        self.assertAlmostEqual(ground(Site(), aside=1.5).tip[0], 1.5, places=9)
        self.assertAlmostEqual(ground(Site(), lay=90, aside=1.5).tip[1], -1.5, places=9)


class Paths(TestCase):
    def test_clear_length_to_a_wall(self):
        # A wall 3 m south stops a path south-west after 3·√2 less what half its width sticks out
        site = Site(targets=(box("Wall", -20.0, -4.0, 40.0, 1.0),))
        clear, name = clear_path(site, math.radians(225), 10.0, width=0.001)
        self.assertEqual(name, "Wall")
        self.assertAlmostEqual(clear, 3.0 * math.sqrt(2.0), places=2)

    def test_paths_run_45_degrees_back_and_one_blocked_is_near(self):
        paths = ground(Site(targets=(box("Hut", 2.0, -4.0, 1.0, 1.0),))).escapes
        self.assertEqual([round(math.degrees(p.azimuth)) for p in paths], [225, 135])
        self.assertEqual([bool(p.stopped_by) for p in paths], [False, True])
        hut = box("Hut", *(v - 0.5 for v in place(Site(), PLAN.lay + math.radians(135), 3.0, 0.0)))
        limits = evaluate(replace(PLAN, site=Site(targets=(hut,)))).limits
        self.assertEqual(next(x for x in limits if x.key == "escape").verdict, Verdict.NEAR)

    def test_outlines_that_are_none(self):
        crossed = ((0.0, 0.0), (4.0, 4.0), (4.0, 0.0), (0.0, 4.0))
        for outline in (crossed, ((0.0, 0.0), (1.0, 1.0)), ((0.0, 0.0), (1.0, 1.0), (2.0, 2.0))):
            with self.assertRaises(CoreError) as caught:
                Target(name="Knot", kind="bed", outline=outline)
            self.assertIn("Knot", str(caught.exception))
        with self.assertRaises(CoreError):
            Site(targets=(box("Round it", -1.0, -1.0, 2.0, 2.0),))
        with self.assertRaises(OutOfRange):
            Target(name="Far", kind="bed", outline=((math.nan, 0.0), (1.0, 0.0), (1.0, 1.0)))


class Handles(TestCase):
    """A handle left where it stands changes nothing; arrows move it the way they point."""

    def test_dragging_to_where_it_stands(self):
        cuts, front = CUTS, CUTS.along / 2
        self.assertAlmostEqual(drag("depth", front - cuts.depth, 0.0, PLAN)["depth"], cuts.depth, places=9)
        self.assertAlmostEqual(drag("hinge", front - cuts.depth - cuts.hinge, 0.0, PLAN)["hinge"], cuts.hinge, places=9)
        self.assertAlmostEqual(drag("rise", 0.0, cuts.stump + cuts.rise, PLAN)["rise"], cuts.rise, places=9)
        self.assertAlmostEqual(drag("stump", 0.0, cuts.stump, PLAN)["stump"], cuts.stump, places=9)
        x, y = place(PLAN.site, PLAN.lay, 20.0, 0.0)
        self.assertAlmostEqual(drag("lay", x, y, PLAN)["lay"], PLAN.lay, places=9)
        x, y = place(PLAN.site, PULL.azimuth, PULL.distance, 0.0)
        self.assertAlmostEqual(drag("anchor", x, y, PLAN)["pull_distance"], PULL.distance, places=9)

    def test_the_mouth_gives_the_opening_back_for_every_kind(self):
        for kind in ("conventional", "reversed", "open"):
            plan = replace(PLAN, cuts=replace(CUTS, notch_school=kind, opening=math.radians(64)))
            corner = notch_outline(plan.cuts)[1 if kind == "reversed" else 2]
            self.assertAlmostEqual(math.degrees(drag("opening", *corner, plan)["opening"]), 64.0, places=6, msg=kind)

    def test_arrows(self):
        self.assertAlmostEqual(nudge("depth", 1, 0, PLAN)["depth"], CUTS.depth - STEPS["depth"])
        self.assertAlmostEqual(nudge("hinge", -2, 0, PLAN)["hinge"], CUTS.hinge + 2 * STEPS["hinge"])
        self.assertAlmostEqual(nudge("opening", 0, 1, PLAN)["opening"], CUTS.opening + math.radians(1))
        self.assertAlmostEqual(nudge("lay", 1, 0, replace(PLAN, lay=math.tau - 1e-9))["lay"], math.radians(1), places=6)
        self.assertEqual(drag("nothing", 0.0, 0.0, PLAN), {})
        self.assertEqual(nudge("anchor", 1, 0, replace(PLAN, pull=None)), {})


class Schools(TestCase):
    def test_what_the_schools_give(self):
        depth = {v.school.key: v for v in by_school(PLAN)["depth"]}
        self.assertAlmostEqual(depth["chord80"].usual, 0.164)  # a fifth of 0.82 m
        self.assertAlmostEqual(depth["chord80"].hinge_length, 0.8 * 0.78, places=9)
        self.assertAlmostEqual(depth["third"].hinge_length, hinge_chord(0.2733, 0.82, 0.78), places=9)
        thickness = {v.school.key: v for v in by_school(PLAN)["thickness"]}
        self.assertAlmostEqual(thickness["tenth"].usual, 0.074)
        self.assertAlmostEqual(thickness["twentieth"].usual, 0.037)
        self.assertEqual((thickness["inches"].low, thickness["inches"].high), (0.04, 0.05))
        self.assertEqual([v.school.key for v in by_school(PLAN)["depth"] if v.chosen], ["chord80"])

    def test_taking_one(self):
        self.assertEqual(take_school("thickness", "inches", PLAN), {"hinge": 0.045, "thickness_school": "inches"})
        self.assertEqual(take_school("depth", "dragons", PLAN), {})


class Outcomes(TestCase):
    def test_the_shorter_way_round(self):
        for planned, actual, turned in ((83, 358, -85), (358, 3, 5), (3, 358, -5), (90, 90, 0)):
            self.assertAlmostEqual(
                math.degrees(lay_difference(math.radians(planned), math.radians(actual))), turned, places=9
            )

    def test_beside_the_plan(self):
        rows = {r.key: r for r in outcome(PLAN, Outcome(height=26.2, lay=math.radians(95), hinge_left=0.05))}
        self.assertAlmostEqual(rows["height"].difference, -0.8)
        self.assertTrue(rows["height"].inside)
        self.assertFalse(rows["lay"].inside)  # 12° off, against two standard deviations of 5°
        self.assertAlmostEqual(rows["hinge_left"].difference, -0.02)
        self.assertIsNone(rows["hinge_left"].inside)
        self.assertIsNone(rows["hinge_right"].actual)
        with self.assertRaises(OutOfRange):
            Outcome(height=400.0)
