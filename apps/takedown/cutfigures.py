"""The cut of a pick as figures: its notch and hinge, where it parts, what pushes it over or snaps it off."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.utils.translation import gettext

from apps.takedown.planner import cut_of_pick
from cantrel.quantities import estimate, raw, text

if TYPE_CHECKING:
    from apps.takedown.planner import Row, Scene


def rows(scene: Scene, row: Row, system: str) -> list[dict[str, str]]:
    """Figures of a pick's cut; empty for one that has none of its own."""
    cut = cut_of_pick(scene, row.worked)
    found = []

    def say(label: str, value: float, dimension: str) -> None:
        found.append({"label": label, "value": text(value, dimension, system), "raw": raw(value)})

    def spread(label: str, value: float, dimension: str) -> None:
        parts = estimate(value, dimension, system)
        shown = f"{parts['value']} {parts['unit']} ({parts['spread']})"
        found.append({"label": label, "value": shown, "raw": raw(value.value)})

    if cut.turns[1] > 0.0:
        say(gettext("Parts at the earliest when turned"), cut.turns[0], "angle")
        say(gettext("at the latest"), cut.turns[1], "angle")
    if cut.aside:
        say(gettext("A tilted hinge sends it to the right by"), cut.aside, "angle")
    if cut.hinge:
        say(gettext("Notch deep"), cut.hinge.depth, "cut")
        say(gettext("Hinge thick"), cut.hinge.thick, "cut")
        say(gettext("Hinge long"), cut.hinge.length, "cut")
        spread(gettext("Turns over at"), cut.hinge.needed, "moment")
        spread(gettext("Push that takes, as high as a climber pushes"), cut.hinge.push, "small_force")
    if cut.step:
        say(gettext("The two cuts pass each other by"), cut.step.overlap, "cut")
        spread(gettext("The wood between holds"), cut.step.holds, "moment")
        spread(gettext("The piece pulls with"), cut.step.weight, "moment")
        spread(gettext("A hand or line gives"), cut.step.pushed, "moment")
    return found
