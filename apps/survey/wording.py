"""What a finding of the walk-up closes or demands, in words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.utils.translation import gettext, gettext_lazy

from treecore.method import ways

if TYPE_CHECKING:
    from treecore.hazards import Hazard

EFFECTS = {
    "drawn": gettext_lazy("measure or draw it: a tick alone counts nowhere"),
    "answer": gettext_lazy("say what is done about it"),
    "zone": gettext_lazy("a zone of twice the height"),
    "no_wedge": gettext_lazy("no wedges"),
    "no_fell": gettext_lazy("not felled as it stands"),
    "no_climb": gettext_lazy("nobody climbs it"),
    "no_tie": gettext_lazy("no tie-in in it"),
    "no_point": gettext_lazy("nothing is rigged from it"),
    "no_tie_above": gettext_lazy("no tie-in from there up"),
    "no_point_above": gettext_lazy("nothing rigged from there up"),
    "not_modelled": gettext_lazy("every pick and cut not known: refer it, or wait"),
    "no_work": gettext_lazy("no work while it lasts"),
}


def binds(hazard: Hazard) -> str:
    """What a hazard that is present does to the plan, whatever is said in reply; empty for a crew's own line."""
    said = [str(EFFECTS[e]) for e in hazard.effects]
    closed = [gettext(ways()[key].name).lower() for key in hazard.closes]
    if len(closed) == len(ways()) - 1:
        said.append(gettext("closes every way but to refer or wait"))
    elif closed:
        said.append(gettext("closes {closed}").format(closed=", ".join(closed)))
    return "; ".join(said)
