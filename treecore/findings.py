"""What the walk-up saw binds the plan: what each hazard that is present closes or demands,
whatever is said in reply.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from treecore.errors import NotSolvable
from treecore.estimate import Kind, exactly
from treecore.hazards import hazards
from treecore.schools import school
from treecore.tree.body import TreeInput
from treecore.verdict import About, Limit, Verdict

WIDER_ZONE = "2.0"  # school of the work zone's radius round what may drop its dead wood far out


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """A hazard that somebody found present: what is done about it, and from how high up it is,
    where someone said [m].
    """

    hazard: str
    response: str = ""
    height: float | None = None

    def __post_init__(self) -> None:
        """Refuse a height on no tree."""
        if self.height is not None and not 0.0 <= self.height <= 130.0:
            raise NotSolvable(what="walk_up", why="a hazard on a tree is 0 to 130 m up")

    def does(self, effect: str) -> bool:
        """Whether it closes or demands something; a crew's own line does nothing but be answered.

        Parameters
        ----------
        effect : str
            A word of the column ``effects`` of ``data/hazards.csv``.
        """
        listed = hazards().get(self.hazard)
        return listed is not None and effect in listed.effects


def everywhere(seen: tuple[Seen, ...], tree: TreeInput) -> Iterator[Limit]:
    """What findings ask of any plan for a tree: none today, something drawn, an answer; docs/methods.md, findings (1).

    Parameters
    ----------
    seen : tuple of Seen
        What is present.
    tree : TreeInput
        The tree, with what was measured of it.

    References
    ----------
    docs/methods.md, findings; own rules from usual practice.
    """
    for row in seen:
        if row.does("no_work"):
            yield _over("work_seen", row)
        if row.does("not_modelled"):
            yield Limit("held_seen", Verdict.NOT_KNOWN, None, None, About(why=row.hazard))
        if row.does("answer") and not row.response.strip():
            yield Limit("unanswered", Verdict.NOT_KNOWN, None, None, About(why=row.hazard))
        if row.does("drawn") and row.hazard in _MEASURED and not _MEASURED[row.hazard](tree):
            yield Limit("not_measured", Verdict.NOT_KNOWN, None, None, About(why=row.hazard))


# Findings that a tree's body has to hold as measures: nothing can be computed on what is only ticked.
_MEASURED = {
    "decay": lambda tree: bool(tree.cavities) or any(b.union in ("decayed", "cracked") for b in tree.limbs),
    "included": lambda tree: any(b.union != "sound" for b in tree.limbs),
    "dead_tree": lambda tree: not tree.condition.climbs,
}


def undrawn_conductor(seen: tuple[Seen, ...], drawn: bool) -> Iterator[Limit]:
    """A conductor that was seen and is on no plan: how near it comes is not known; docs/methods.md, findings (2).

    Parameters
    ----------
    seen : tuple of Seen
        What is present.
    drawn : bool
        Whether a conductor is drawn on the site.
    """
    if not drawn and any(row.hazard == "conductors" for row in seen):
        yield Limit("conductor", Verdict.NOT_KNOWN, None, None, About(why="undrawn"))


def on_felling(seen: tuple[Seen, ...], zone: str, wedges: int, height: float) -> Iterator[Limit]:
    """What findings close in a felling: the felling itself, wedges, a zone too small; docs/methods.md, findings (3).

    Parameters
    ----------
    seen : tuple of Seen
        What is present.
    zone : str
        School of the work zone's radius.
    wedges : int
        Wedges in the plan. [-]
    height : float
        Height of the tree, at its upper end. [m]
    """
    radius, wider = school("zone", zone).usual * height, school("zone", WIDER_ZONE).usual * height
    for row in seen:
        if row.does("no_fell"):
            yield _over("felled_seen", row)
        if row.does("no_wedge") and wedges:
            yield _over("wedge_seen", row)
        if row.does("zone") and radius < wider - 1e-6:
            yield Limit(
                "zone_seen",
                Verdict.OVER,
                exactly(radius, Kind.ESTIMATED),
                exactly(wider, Kind.ESTIMATED),
                About(why=row.hazard),
            )


def on_pick(
    seen: tuple[Seen, ...], tree: TreeInput, stance: bool, ties: tuple[float, ...], points: tuple[float, ...]
) -> Iterator[Limit]:
    """What findings and the tree's state close in a pick: climbing, tying in, rigging; docs/methods.md, findings (4).

    Parameters
    ----------
    seen : tuple of Seen
        What is present.
    tree : TreeInput
        The tree.
    stance : bool
        Whether a climber stands in this tree.
    ties, points : tuple of float
        Heights of tie-ins and of places that carry a rope in this tree. [m]
    """
    state = Seen(hazard="dead_tree")
    if not tree.condition.climbs and not any(row.hazard == state.hazard for row in seen):
        seen = (*seen, state)  # what the state says stands, whatever the list says
    for row in seen:
        if row.does("no_climb") and stance:
            yield _over("climb_seen", row)
        for key, effect, places in (("tie_seen", "no_tie", ties), ("point_seen", "no_point", points)):
            if places and row.does(effect):
                yield _over(key, row)
            if places and row.does(f"{effect}_above"):
                yield from _above(key, row, max(places))


def _above(key: str, row: Seen, highest: float) -> Iterator[Limit]:
    """What is closed from a height up; not known where nobody said from how high."""
    if row.height is None:
        yield Limit(key, Verdict.NOT_KNOWN, None, None, About(why=row.hazard))
    elif highest >= row.height:
        yield Limit(key, Verdict.OVER, None, None, About(why=row.hazard, at=row.height))


def _over(key: str, row: Seen) -> Limit:
    return Limit(key, Verdict.OVER, None, None, About(why=row.hazard))
