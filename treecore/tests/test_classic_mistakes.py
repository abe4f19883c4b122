"""Twelve fellings, each with one classic mistake in an otherwise sound plan: the planner must name it first."""

import math
from dataclasses import replace
from unittest import TestCase

from treecore.estimate import Kind, plus_minus
from treecore.felling.evaluate import judged
from treecore.felling.notch import Cuts
from treecore.felling.sawing import Saw
from treecore.felling.wedges import Wedges
from treecore.rigging.line import Guy
from treecore.rigging.pulling import Part, PullSystem, Rope
from treecore.rigging.readymade import ready_made
from treecore.site import Site, Target
from treecore.tests.scenes import CUTS, PLAN, PULL, SHED, TACKLE, TREE, mirrored
from treecore.tree.stem import Cavity
from treecore.verdict import Verdict

LAY = PLAN.lay
RIGHT, LEFT = (LAY + math.pi / 2) % math.tau, (LAY - math.pi / 2) % math.tau


def leaning(tree, degrees, bearing):
    return replace(tree, lean=math.radians(degrees), lean_azimuth=bearing % math.tau)


def rope_system(owned=80.0, tie=13.5):
    """A redirect well out of the fall, with ratings that hold."""
    made = ready_made("redirect", (0.0, 0.0), (44.0 * math.sin(LAY), 44.0 * math.cos(LAY)), tie)
    block = replace(made.parts[0], rating=60e3)
    winch = Part(name="Hands", kind="winch", x=made.parts[1].x, y=made.parts[1].y, force=6000.0)
    return PullSystem(tie=tie, parts=(block, winch), ropes=(replace(made.ropes[0], owned=owned, strength=60e3),))


HOLD_RIGHT = replace(PLAN, tree=leaning(TREE, 4.0, LAY + math.pi / 2), pull=replace(PULL, azimuth=LAY))
POPLAR = replace(TREE, species="populus_tremuloides", lean=math.radians(2.4), lean_azimuth=LEFT)
SYSTEM = replace(PLAN, pull=None, system=rope_system())
WALL = Target(
    name="Barn roof", kind="building", height=9.0, outline=((33.0, 1.0), (38.0, 1.0), (38.0, 9.0), (33.0, 9.0))
)

MISTAKES = {
    # what is named first: the plan with the mistake, and the same plan without it
    "commit": (
        replace(PLAN, tree=leaning(replace(TREE, height=plus_minus(16.0, 0.3, Kind.MEASURED), crown_base=4.0), 18.0,
        LAY + math.pi),
                pull=replace(PULL, azimuth=LAY, tie=9.0, force=10e3, tackle=replace(TACKLE, strength=120e3)),
                wedges=Wedges(), cuts=replace(CUTS, opening=math.radians(31), depth=0.13), saw=Saw(bar=0.9,
                pattern="bore")),
        replace(PLAN, pull=replace(PULL, azimuth=LAY)),
    ),
    "wedge_dead": (replace(PLAN, tree=replace(TREE, state="dead")), replace(PLAN, tree=replace(TREE, state="dead"),
    wedges=Wedges())),
    "back_slope": (replace(PLAN, cuts=replace(CUTS, slope=math.radians(40))), PLAN),
    "guy_wanted": (replace(PLAN, tree=replace(POPLAR, lean=math.radians(7.0)), pull=replace(PULL, azimuth=LAY),
    wind=0.0), PLAN),
    "guy_out": (
        replace(HOLD_RIGHT, guy=Guy(tie=14.0, azimuth=(LAY - math.radians(125)) % math.tau, distance=20.0, limit=25e3)),
        replace(HOLD_RIGHT, guy=Guy(tie=14.0, azimuth=(LAY - math.radians(125)) % math.tau, distance=20.0, limit=25e3,
        tended=True)),
    ),
    "rope_short": (replace(PLAN, pull=None, system=rope_system(owned=45.0)), SYSTEM),
    "line_fouls": (replace(SYSTEM, site=Site(targets=(SHED, WALL))), SYSTEM),
    "bar": (replace(PLAN, saw=Saw(bar=0.45, pattern="straight")), replace(PLAN, saw=Saw(bar=0.45, pattern="halves"))),
    "bypass_lean": (
        replace(PLAN, tree=leaning(TREE, 2.0, RIGHT), pull=replace(PULL, azimuth=LAY), cuts=replace(CUTS, bypass=0.03,
        bypass_side="right")),
        replace(PLAN, tree=leaning(TREE, 2.0, RIGHT), pull=replace(PULL, azimuth=LAY)),
    ),
    "thick": (
        replace(PLAN, tree=replace(TREE, height=plus_minus(9.0, 0.2, Kind.MEASURED), lean=0.0, crown_base=3.0),
        pull=replace(PULL, tie=6.0, azimuth=LAY, force=2000.0),
                wedges=Wedges(), cuts=replace(CUTS, hinge=0.10)),
        PLAN,
    ),
    "escape_side": (replace(HOLD_RIGHT, cuts=replace(CUTS, depth=0.24), escape="right"), replace(HOLD_RIGHT,
    cuts=replace(CUTS, depth=0.24), escape="left")),
    "gust": (
        replace(PLAN, wind=4.0, wind_from=(LAY + math.radians(40)) % math.tau, wedges=Wedges(), pull=replace(PULL,
        azimuth=LAY, force=3000.0), saw=Saw(bar=0.9, pattern="bore")),
        replace(PLAN, wind=4.0, wind_from=(LAY + math.pi) % math.tau, wedges=Wedges(), pull=replace(PULL, azimuth=LAY,
        force=3000.0), saw=Saw(bar=0.9, pattern="bore")),
    ),
    "hinge_decay": (replace(PLAN, tree=replace(TREE, cavities=(Cavity(low=0.0, high=1.5, across=0.66),))), PLAN),
    "wedge_start": (replace(PLAN, wedges=Wedges(count=2, tip=0.012)), PLAN),
    "anchor_in_fall": (replace(PLAN, pull=replace(PULL, azimuth=LAY, distance=20.0)), PLAN),
    "people_place": (
        replace(SYSTEM, system=replace(rope_system(), parts=(rope_system().parts[0], Part(name="Hands", kind="winch",
        x=18.0, y=2.0, force=6000.0)))),
        SYSTEM,
    ),
    "guy_side": (
        replace(HOLD_RIGHT, guy=Guy(tie=14.0, azimuth=RIGHT, distance=20.0, limit=25e3)),
        replace(HOLD_RIGHT, cuts=replace(CUTS, depth=0.24)),
    ),
    "split": (
        replace(PLAN, pull=None, wedges=Wedges(), tree=leaning(replace(TREE, species="fraxinus_excelsior"), 11.0, LAY),
        cuts=replace(CUTS, opening=math.radians(45))),
        PLAN,
    ),
    "leans": (replace(PLAN, tree=replace(TREE, lean=math.radians(3.0), lean_azimuth=math.radians(0.0), crown_east=0.0,
    crown_north=-0.9), pull=replace(PULL, azimuth=LAY)), PLAN),
    "bypass": (
        replace(PLAN, tree=leaning(TREE, 2.0, LEFT), pull=replace(PULL, azimuth=LAY), cuts=replace(CUTS, bypass=0.004,
        bypass_side="right")), PLAN,
    ),
    "guy_slack": (
        replace(HOLD_RIGHT, wind=0.0, tree=leaning(TREE, 2.0, RIGHT), guy=Guy(tie=14.0,
        azimuth=(LAY - math.radians(70)) % math.tau, distance=20.0, limit=25e3, tackle=TACKLE)),
        PLAN,
    ),
    "position": (replace(PLAN, tree=replace(TREE, height=plus_minus(29.0, 0.5, Kind.MEASURED)), cuts=replace(CUTS,
    stump=0.8, along=0.75, across=0.7, depth=0.15)), PLAN),
}  # fmt: skip


class ClassicMistakes(TestCase):
    def test_named_first(self):
        for key, (plan, _) in MISTAKES.items():
            with self.subTest(mistake=key):
                got = judged(plan).result.ruling
                self.assertEqual(got.key, key, got)
                self.assertNotEqual(got.verdict, Verdict.WITHIN)

    def test_without_the_mistake_it_is_not_over(self):
        for key, (_, plan) in MISTAKES.items():
            with self.subTest(mistake=key):
                found = [x for x in judged(plan).result.limits if x.key == key]
                self.assertTrue(all(x.verdict is not Verdict.OVER for x in found), found)

    def test_a_systems_rope_breaks_at_its_knot(self):
        for strength, expected in ((90e3, Verdict.WITHIN), (20e3, Verdict.OVER)):
            made = rope_system()
            rope = replace(made.ropes[0], strength=strength)
            plan = replace(SYSTEM, system=replace(made, ropes=(rope,)))
            found = next(x for x in judged(plan).result.limits if x.key == "rope_strength")
            self.assertIs(found.verdict, expected)
            self.assertAlmostEqual(found.allowed.value, strength * 0.6 / 5.0, places=6)  # nobody said how it is tied

    def test_ropes_that_nobody_measured_are_not_known(self):
        loose = replace(
            SYSTEM, system=replace(rope_system(), ropes=(Rope(name="Pull line", path=rope_system().ropes[0].path),))
        )
        self.assertEqual(judged(loose).result.ruling.verdict, Verdict.NOT_KNOWN)
        self.assertIsInstance(PLAN.cuts, Cuts)

    def test_mirror_the_site_mirror_the_plan(self):
        turned = {
            "cg_across",
            "side_moment",
            "s_lean",
            "s_crown",
            "pull_across",
            "guy_across",
            "wedge_side",
            "crown_aside",
            "top_aside",
        }
        for key, (plan, other) in MISTAKES.items():
            for side in (plan, other):
                one, two = judged(side).result, judged(mirrored(side)).result
                with self.subTest(mistake=key):
                    self.assertEqual((one.ruling.key, one.ruling.verdict), (two.ruling.key, two.ruling.verdict))
                    for name, value in one.point._asdict().items():
                        sign = -1.0 if name in turned else 1.0
                        self.assertAlmostEqual(
                            sign * getattr(two.point, name), value, delta=1e-6 * abs(value) + 1e-6, msg=name
                        )
                    self.assertAlmostEqual(one.bend, -two.bend, places=9)
