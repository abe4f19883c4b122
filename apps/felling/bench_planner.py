"""An evaluated felling, and what its pages ask of it besides: each worked out by the core when first asked for."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

from apps.jobs.drawing_planner import TreeView, across_lean, tree_view
from apps.survey.planner import limbs_of
from treecore.errors import CoreError
from treecore.felling.evaluate import Opening, Thinning, chance_limit, thinning, to_open
from treecore.felling.fall import Fall, Path, fall, fall_course
from treecore.felling.footprint import Chance, Footprint, footprint
from treecore.felling.guying import GuyWay
from treecore.felling.inputs import FellingInput
from treecore.felling.limits import thickness_range
from treecore.felling.line_places import Aim, LineSheet, aim, guy_belongs, line_sheet
from treecore.felling.notch import notch_outline
from treecore.felling.oval import Marks, Peg, bark_marks, hinge_aside, peg
from treecore.felling.plan import FellingResult
from treecore.felling.sawing import SawCut, cut_sequence, longest_cut
from treecore.felling.standing import guy_course
from treecore.felling.suggest import SchoolValue, by_school, suggest_pattern
from treecore.rigging.line import Guy
from treecore.schools import School, schools
from treecore.site import place
from treecore.tree.weigh import weigh
from treecore.verdict import Limit, Verdict, ruling
from treecore.workzone import OpenLay, open_lays


def end_of(given: FellingInput, line: Guy) -> tuple[float, float]:
    """Where a line from the stem ends, on the site [m]."""
    return place(given.site, line.azimuth, line.distance, 0.0)


class _Evaluated(NamedTuple):
    given: FellingInput
    result: FellingResult


class WorkedPlan(_Evaluated):
    """A plan as the core takes it, and its result; the rest is worked out when a page asks for it."""

    @cached_property
    def notch(self) -> tuple[tuple[float, float], ...]:
        """Apex and both corners of the notch from the side [m]."""
        return notch_outline(self.given.cuts)

    @cached_property
    def lays(self) -> tuple[OpenLay, ...]:
        """Every bearing tried for a whole felling."""
        return open_lays(self.given.site, self.given.tree, self.given.cuts.stump)

    @cached_property
    def seen(self) -> TreeView:
        """The tree as it stands, seen across its lean; what it is drawn from when it lies."""
        tree = self.given.tree
        standing = weigh(tree)
        return tree_view(tree, standing, across_lean(tree), *limbs_of(tree, standing))

    @cached_property
    def aside(self) -> float:
        """How far the middle of the hinge lies to the left of the stem's middle [m]."""
        return -hinge_aside(self.given.cuts)

    @cached_property
    def peg(self) -> Peg:
        """The peg to sight to."""
        return peg(self.given.site, self.given.lay, self.given.cuts, self.result.estimates["length"].value)

    @cached_property
    def line_sheet(self) -> LineSheet:
        """Where every end of the lines stands, and what each rope and hand is asked."""
        return line_sheet(self.given, self.result)

    @cached_property
    def guy_side(self) -> str:
        """Side of the lay a guy belongs on."""
        return guy_belongs(self.result)

    @cached_property
    def aim(self) -> Aim | None:
        """What there is to look along the lay at, beyond where the peg stands."""
        return aim(self.given.site, self.given.lay, self.peg.out)

    @cached_property
    def marks(self) -> Marks:
        """What is marked on the bark before a cut is made."""
        return bark_marks(self.given.cuts)

    @cached_property
    def schools(self) -> dict[str, tuple[SchoolValue, ...]]:
        """What every school gives here, by choice."""
        return by_school(self.given)

    @cached_property
    def thickness(self) -> tuple[float, float]:
        """Range the chosen school gives for the hinge's thickness [m]."""
        return thickness_range(self.given)

    @cached_property
    def thinned(self) -> tuple[Thinning, ...]:
        """What may come off either end of the hinge at the stop part way through the pull."""
        return thinning(self.result)

    @cached_property
    def opening(self) -> Opening | None:
        """What would open a hinge window that is shut."""
        return to_open(self.result)

    @property
    def escape(self) -> str:
        """Side the faller leaves to: as chosen, else the better one."""
        return self.given.escape or self.result.ground.better_escape

    @cached_property
    def cuts(self) -> tuple[SawCut, ...]:
        """The saw cuts in order."""
        heavy_right = self.result.point.side_moment >= 0.0
        return cut_sequence(self.given.cuts, self.given.saw, heavy_right, self.escape == "left")

    @cached_property
    def longest(self) -> SawCut:
        """The cut that asks most of the bar."""
        return longest_cut(self.cuts)

    @cached_property
    def pattern(self) -> tuple[str, str]:
        """The order of cuts the plan itself speaks for, and why, as keys."""
        return suggest_pattern(self.given, self.result.point.side_moment, self.result.point.split_straight)

    @cached_property
    def fall(self) -> Fall | CoreError:
        """The fall; the error where nothing brings the tree over."""
        try:
            return fall(self.given)
        except CoreError as error:
            return error

    @cached_property
    def course(self) -> Path:
        """The central fall in time."""
        return fall_course(self.given)

    @cached_property
    def guy(self) -> GuyWay | None:
        """The way from the guy line's tie to its anchor while the stem turns; None without one."""
        return None if self.given.guy is None else guy_course(self.given, self.given.guy)

    def footprint(self, count: int) -> Footprint:
        """Where the top may come to lie, in so many samples."""
        return footprint(self.given, self.result.bend, count)

    def ruling_of(self, keys: Sequence[str]) -> Limit | None:
        """The limit to name first of those with these keys; None where none of them applies."""
        rows = [limit for limit in self.result.limits if limit.key in keys]
        return ruling(rows) if rows else None


def chance_verdict(chance: Chance) -> Verdict:
    """How the chance that a target is hit stands."""
    return chance_limit(chance).verdict


def named_schools(choice: str) -> tuple[School, ...]:
    """Schools of a choice, in the table's order."""
    return tuple(schools(choice).values())
