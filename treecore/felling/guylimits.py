"""The limits of a guy line: whether it is wanted, which side it is on, what it carries, and its way to the ground."""

from __future__ import annotations

import math
from collections.abc import Iterator

from treecore.estimate import Estimate, Kind, exactly
from treecore.felling.hinge import HingeWood
from treecore.felling.inputs import FellingInput
from treecore.felling.standing import guy_course
from treecore.rigging.line import Guy
from treecore.schools import constant
from treecore.verdict import About, Limit, Verdict, held

Figures = dict[str, Estimate]


def guy_limits(plan: FellingInput, e: Figures, wood: HingeWood) -> Iterator[Limit]:
    """Hold a guy line, or the want of one, against its limits; docs/methods.md, guy (1) to (4).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    e : dict of Estimate
        Its computed quantities by name. [SI]
    wood : HingeWood
        What is left of the hinge.
    """
    guy = plan.guy
    if guy is None:
        yield from _wanted(plan, e, wood)
        return
    calm = e["s_lean"].value + e["s_crown"].value + e["s_oval"].value + e["pull_across"].value
    pulls = math.sin(guy.azimuth - plan.lay)
    if calm * pulls > 0.0 and abs(calm) > e["side_moment"].sd:
        yield Limit("guy_side", Verdict.OVER, None, None)
        return
    limit = exactly(guy.limit, Kind.ESTIMATED)
    yield held("guy_force", e["guy_wanted"], limit)
    yield from _way(plan, guy)


def _wanted(plan: FellingInput, e: Figures, wood: HingeWood) -> Iterator[Limit]:
    weak = plan.tree.kind.hinge == "snaps early"
    share = abs(e["side_moment"].value) / max(e["side_holds"].value, 1.0)
    if weak and share > constant("side_share").value:
        fails = e["thin"].value > wood.mean
        yield Limit(
            "guy_wanted", Verdict.OVER if fails else Verdict.NEAR, exactly(min(share, 99.0)), constant("side_share")
        )


def _way(plan: FellingInput, guy: Guy) -> Iterator[Limit]:
    """How the line's way changes until the tree is down; guy (3)."""
    way = guy_course(plan, guy)
    most = constant("guy_tight").value * way.start
    for key, size, verdict in (
        ("guy_out", way.out, Verdict.NEAR if guy.tended else Verdict.OVER),
        ("guy_slack", way.slack, Verdict.NEAR),
    ):
        if size > most:
            yield Limit(
                key,
                verdict,
                exactly(size, Kind.ESTIMATED),
                exactly(most, Kind.ASSUMED),
                About(name="Guy line", turn=way.at),
            )
