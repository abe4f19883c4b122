"""The ground under one pick, small enough for a phone or a line of a brief: keep-out, landing, rope, people."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.takedown.drawing_planner import ground_view
from apps.takedown.picture import STAND
from cantrel.drawing import fitted, marked
from cantrel.labels import Placer

if TYPE_CHECKING:
    from apps.takedown.planner import Row, Scene


def under(scene: Scene, row: Row, system: str, wide: int, tall: int) -> dict[str, Any]:
    """The ground under the pick: what it passes over, what its tight ropes may sweep, landing, rope and people."""
    site, drawn = scene.site, ground_view(scene, row)
    spots = [*drawn.moves, *drawn.keep, *(p for _, p, _ in drawn.people), *(c for strip in drawn.strips for c in strip)]
    xs, ys = [site.tree_x, *(s[0] for s in spots)], [site.tree_y, *(s[1] for s in spots)]
    frame = fitted(wide, tall, min(xs) - 1.0, max(xs) + 1.0, min(ys) - 1.0, max(ys) + 1.0, margin=10)
    at = lambda place: (frame.x(place[0]), frame.y(place[1]))  # noqa: E731
    placer = Placer(wide, tall)
    held = drawn.held
    return {
        "frame": frame,
        "bar": frame.bar(system),
        "stem": at((site.tree_x, site.tree_y)),
        "targets": marked(frame, site.targets, drawn.hit, placer),
        "swept": frame.points(drawn.moves) if drawn.moves else "",
        "strips": [frame.points(strip) for strip in drawn.strips],
        "rope": frame.points(held.rope) if held else "",
        "landing": at(held.landing) if held else None,
        "lands": row.entry.get("landing") or row.entry.get("landing_on") or gettext("lands here"),
        "people": [_person(role, at(place), wide) for role, place, _ in drawn.people],
        "climber": at(drawn.climber[1]) if drawn.climber else None,
    }


def _person(role: str, at: tuple[float, float], wide: int) -> dict[str, Any]:
    """A person on the ground, named on the side that has room."""
    right = at[0] < wide / 2.0
    return {
        "role": role,
        "at": at,
        "name": str(STAND[role]),
        "dx": 24 if right else -24,
        "side": "start" if right else "end",
    }
