"""Uneven inputs the tests share: an oval, leaning grand fir on a slope with a pull line off the lay."""

import math
from dataclasses import replace

from treecore.estimate import Kind, plus_minus
from treecore.felling.inputs import FellingInput
from treecore.felling.notch import Cuts
from treecore.felling.sawing import Saw
from treecore.felling.wedges import Wedges
from treecore.rigging.line import Pull
from treecore.rigging.tackle import Tackle
from treecore.site import Site, Target
from treecore.tree.body import TreeInput

TREE = TreeInput(
    species="abies_grandis",
    diameter=plus_minus(0.74, 0.008, Kind.MEASURED),
    height=plus_minus(27.0, 0.5, Kind.MEASURED),
    spread=plus_minus(7.2, 0.7, Kind.ESTIMATED),
    lean=math.radians(1.3),
    lean_azimuth=math.radians(248.0),
    lean_kind=Kind.MEASURED,
    crown_base=5.5,
)
CUTS = Cuts(along=0.82, across=0.78, stump=0.35, depth=0.17, opening=math.radians(70.0), hinge=0.07, rise=0.03)
SHED = Target(
    name="Shed", kind="building", outline=((14.0, -11.0), (20.0, -11.0), (20.0, -6.0), (14.0, -6.0)), height=3.0
)
SITE = Site(targets=(SHED,), slope=math.radians(3.0), downhill=math.radians(262.0))
TACKLE = Tackle(strength=60e3, owned=90.0, knot="bowline", rating=40e3, by="winch")
PULL = Pull(tie=13.5, azimuth=math.radians(90.0), distance=44.0, anchor=0.6, force=5000.0, tackle=TACKLE)
PLAN = FellingInput(
    tree=TREE, site=SITE, lay=math.radians(83.0), cuts=CUTS, wedges=Wedges(count=2), pull=PULL, wind=3.0,
    wind_from=math.radians(240.0), saw=Saw(bar=0.9),
)  # fmt: skip


OTHER = {"": "", "left": "right", "right": "left"}


def mirrored(plan):
    """The same scene in a mirror that keeps north and swaps east with west."""
    turn = lambda a: (math.tau - a) % math.tau  # noqa: E731
    flip = tuple(replace(t, outline=tuple((-x, y) for x, y in t.outline)) for t in plan.site.targets)
    return replace(
        plan,
        tree=replace(plan.tree, lean_azimuth=turn(plan.tree.lean_azimuth)),
        site=replace(plan.site, targets=flip, downhill=turn(plan.site.downhill)),
        lay=turn(plan.lay),
        pull=plan.pull and replace(plan.pull, azimuth=turn(plan.pull.azimuth)),
        guy=plan.guy and replace(plan.guy, azimuth=turn(plan.guy.azimuth)),
        system=plan.system and replace(plan.system, parts=tuple(replace(p, x=-p.x) for p in plan.system.parts)),
        escape=OTHER[plan.escape],
        cuts=replace(plan.cuts, taper=-plan.cuts.taper, bypass_side=OTHER[plan.cuts.bypass_side]),
        wind_from=None if plan.wind_from is None else turn(plan.wind_from),
        wedges=replace(plan.wedges, place=-plan.wedges.place),
    )
