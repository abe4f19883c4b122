"""What a finding of the walk-up closes or demands, in words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from treecore.method import ways

if TYPE_CHECKING:
    from treecore.hazards import Hazard

EFFECTS = {
    "drawn": "asks for it to be measured or drawn: what is only ticked is counted nowhere",
    "answer": "asks for an answer: what is done about it",
    "zone": "asks for a zone of twice the height",
    "no_wedge": "no wedges",
    "no_fell": "not felled as it stands",
    "no_climb": "nobody climbs it",
    "no_tie": "no tie-in in it",
    "no_point": "nothing is rigged from it",
    "no_tie_above": "no tie-in from there up",
    "no_point_above": "nothing rigged from there up",
    "no_work": "no work while it lasts",
}


def binds(hazard: Hazard) -> str:
    """What a hazard that is present does to the plan, whatever is said in reply; empty for a crew's own line."""
    said = [EFFECTS[e] for e in hazard.effects]
    closed = [ways()[key].name.lower() for key in hazard.closes]
    if len(closed) == len(ways()) - 1:
        said.append("closes every way but to refer or wait")
    elif closed:
        said.append(f"closes {', '.join(closed)}")
    return "; ".join(said)
