"""What a felling is computed from, and the quantities computed for one set of inputs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from treecore.document.felling import FellingEntry
from treecore.document.fields import hold
from treecore.errors import NotSolvable, between
from treecore.estimate import Estimate
from treecore.felling.notch import SIDES, Cuts
from treecore.felling.oval import Turned, turned_to
from treecore.felling.sawing import Saw
from treecore.felling.wedges import Wedges
from treecore.findings import Seen
from treecore.overhead import Conductor
from treecore.ranges import believed
from treecore.rigging.line import Guy, Pull
from treecore.rigging.pull_on_site import Rigged, rig
from treecore.rigging.pulling import PullSystem
from treecore.schools import constant, school
from treecore.site import Site
from treecore.tree.body import TreeInput

_UNSAID, _UNWEDGED = Saw(), Wedges()


@dataclass(frozen=True, slots=True, kw_only=True)
class FellingInput:
    """Everything a felling is computed from; angles [rad], mean wind [m/s] at crown height, ``wind_from`` a bearing.

    A wind nobody gave is None and not known; from where is None where it may come from anywhere. It is pulled by one
    line, by a system, or not at all. ``escape`` is the path chosen: left, right, or the better one. ``seen`` is what
    the walk-up found present.
    """

    tree: TreeInput
    site: Site
    lay: float
    cuts: Cuts
    wedges: Wedges = _UNWEDGED
    pull: Pull | None = None
    wind: float | None = None
    wind_from: float | None = None
    zone: str = "1.5"
    conductors: tuple[Conductor, ...] = ()
    saw: Saw = _UNSAID
    guy: Guy | None = None
    system: PullSystem | None = None
    escape: str = ""
    seen: tuple[Seen, ...] = ()

    def __post_init__(self) -> None:
        """Refuse what the model does not cover."""
        hold(self, FellingEntry, "plan")
        school("zone", self.zone)
        top = 0.5 * self.tree.stands.low
        between("stump", self.cuts.stump, 0.0, top, "the cut lies below half the tree", "cut")
        if self.escape not in SIDES:
            raise NotSolvable(what="escape", why="an escape path is the left or the right one")
        if self.pull is not None and self.system is not None:
            raise NotSolvable(what="pull", why="a plan is pulled by one line or by a system, not by both")
        self._check_ties()

    def _check_ties(self) -> None:
        ties = (("pull_tie", self.pull), ("pull_tie", self.system), ("guy_tie", self.guy))
        for name, line in ties:
            if line is None:
                continue
            between(
                name,
                line.tie,
                self.cuts.stump + 0.1,
                self.tree.stands.low,
                "between the cut and the lowest credible tip",
                "length",
            )

    @property
    def rigged(self) -> Rigged | None:
        """The pulling system worked out on the site, if there is one."""
        return rig(self.system, self.site, self.tree) if self.system is not None else None

    @property
    def lines(self) -> tuple[Pull, ...]:
        """Every line that pulls on the tree, the guy line left out."""
        if self.system is not None:
            return rig(self.system, self.site, self.tree).lines
        return (self.pull,) if self.pull is not None else ()

    @property
    def gain(self) -> Estimate:
        """Interval on the force of the lines [-]: a line's by how well its tension is kept, a system's as it turns
        out.
        """
        rigged = self.rigged
        return rigged.gain if rigged is not None else constant("pull_tension")

    @property
    def cavity(self) -> float:
        """Diameter of a hollow or decayed core at the cut [m]."""
        found = [c.across for c in self.tree.cavities if c.low <= self.cuts.stump <= c.high]
        return max(found, default=0.0)


class Point(NamedTuple):
    """Every computed quantity for one set of inputs, by the names of ``ledger.columns_of``; SI."""

    mass: float
    cg_height: float
    cg_along: float
    cg_across: float
    back_offset: float
    weight_moment: float
    wind_along: float
    wind_with: float
    wind_across: float
    pull_along: float
    pull_across: float
    guy_along: float
    guy_across: float
    guy_wanted: float
    guy_tension: float
    wedge_moment: float
    wedge_side: float
    hinge_moment: float
    needed: float
    available: float
    margin: float
    tip_margin: float
    m_lean: float
    m_crown: float
    m_pivot: float
    s_lean: float
    s_crown: float
    s_oval: float
    side_moment: float
    side_most: float
    side_ends: float
    side_holds: float
    twist: float
    hold_turn: float
    thin: float
    thin_joint: float
    thin_twist: float
    use_side: float
    use_press: float
    use_twist: float
    use_shear: float
    thick: float
    lift: float
    wedge_force: float
    wedge_each: float
    commit: float
    closing: float
    commit_margin: float
    parts_margin: float
    length: float
    top_aside: float
    crown_up: float
    crown_aside: float
    gust: float
    gust_here: float
    gale: float
    root_moment: float
    stem_mass: float
    level_pull: float
    shear: float
    split_moment: float
    split: float
    split_straight: float
    held_back: float


def oval_at(tree: TreeInput, stump: float, lay: float) -> Turned:
    """A tree's oval stem at a cut, turned to the lay, by the taper curve; docs/methods.md, notch (6).

    Parameters
    ----------
    tree : TreeInput
        The tree.
    stump : float
        Height of the cut above the ground. [m]
    lay : float
        The lay. [rad]
    """
    return turned_to(default_diameter(tree, stump), tree.oval, tree.oval_azimuth, lay)


def default_diameter(tree: TreeInput, stump: float) -> float:
    """Stem diameter at a cut by the taper curve, where it was not measured [m].

    Parameters
    ----------
    tree : TreeInput
        The tree.
    stump : float
        Height of the cut above the ground. [m]

    Raises
    ------
    OutOfRange
        If the cut is not on the stem.

    References
    ----------
    Ormerod (1973, 1986).
    """
    believed("stump", stump, "stump")
    return tree.stem.diameter_at(stump)
