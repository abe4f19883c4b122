"""To-scale drawings: metres to picture points and back. Drawings have x to the right and y up in metres."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext_lazy

from cantrel import quantities
from cantrel.labels import Name, Placer, beside, named

if TYPE_CHECKING:
    from collections.abc import Container, Iterable, Sequence


@dataclass(frozen=True)
class Frame:
    """Where metres land on a picture: origin in picture points, points per metre."""

    width: int
    height: int
    x0: float
    y0: float
    scale: float

    def x(self, metres: float) -> float:
        return round(self.x0 + metres * self.scale, 1)

    def y(self, metres: float) -> float:
        return round(self.y0 - metres * self.scale, 1)

    def size(self, metres: float) -> float:
        return round(metres * self.scale, 1)

    def points(self, outline: list[Any] | tuple[Any, ...]) -> str:
        """Points of an SVG polygon."""
        return " ".join(f"{self.x(px)},{self.y(py)}" for px, py in outline)

    @property
    def text(self) -> str:
        """What a script sends back so that a point can be turned into metres."""
        return f"{self.x0:.3f},{self.y0:.3f},{self.scale:.5f}"

    def bar(self, system: str) -> dict[str, Any]:
        """A scale bar of a round length, about a fifth of the picture."""
        unit = quantities.LENGTH_UNIT[system]
        goal = self.width / 5.0 / self.scale / unit
        rounds = (0.05, 0.1, 0.2, 0.25, 0.5, 1, 2, 5, 10, 20, 50, 100)
        length = max((r for r in rounds if r <= goal), default=rounds[0])
        label = f"{length:g} {'m' if system == 'metric' else 'ft'}"
        if system == "metric" and length < 1:
            label = f"{length * 100:g} cm"
        return {"length": self.size(length * unit), "label": label, "x": 14, "y": self.height - 14}


def fitted(width: int, height: int, left: float, right: float, bottom: float, top: float, margin: int = 24) -> Frame:
    """A frame that shows a rectangle of metres as large as it goes, in the middle."""
    scale = min((width - 2 * margin) / (right - left), (height - 2 * margin) / (top - bottom))
    x0 = width / 2.0 - scale * (left + right) / 2.0
    y0 = height / 2.0 + scale * (bottom + top) / 2.0
    return Frame(width, height, x0, y0, scale)


def spaced(knobs: list[Any], width: int, height: int = 600) -> list[dict[str, Any]]:
    """Handles or marks with their labels where none lies on another: (name, label, (x, y), side tried first)."""
    return beside(Placer(width, height), knobs)


def marked(
    frame: Frame, targets: Iterable[Any], hit: Container[str], placer: Placer | None = None
) -> list[dict[str, Any]]:
    """Targets of a site from above: their outline, kind and name, whether they are touched, and where the name goes."""
    placer = placer or Placer(frame.width, frame.height)
    return [
        {
            "points": frame.points(t.outline),
            "kind": t.kind,
            "name": t.name,
            "hit": t.name in hit,
            "label": _named(frame, t.outline, t.name, placer),
        }
        for t in targets
    ]


SLIVER = 14.0  # what is seen of a cropped thing thinner than this is not named [points]


def _named(frame: Frame, outline: Sequence[tuple[float, float]], name: str, placer: Placer) -> Name | None:
    xs, ys = zip(*((frame.x(x), frame.y(y)) for x, y in outline), strict=True)
    box = (max(min(xs), 0.0), max(min(ys), 0.0), min(max(xs), frame.width), min(max(ys), frame.height))
    cropped = box != (min(xs), min(ys), max(xs), max(ys))
    if cropped and min(box[2] - box[0], box[3] - box[1]) < SLIVER:
        return None
    return named(placer, name, box)


def label(value: float, dimension: str, system: str) -> str:
    """A dimension label."""
    return quantities.text(value, dimension, system)


def compass(azimuth: float) -> str:
    """Compass name of a bearing [rad]."""
    return str(COMPASS[round(azimuth / 0.7853981633974483) % 8])


COMPASS = (
    gettext_lazy("north"),
    gettext_lazy("north-east"),
    gettext_lazy("east"),
    gettext_lazy("south-east"),
    gettext_lazy("south"),
    gettext_lazy("south-west"),
    gettext_lazy("west"),
    gettext_lazy("north-west"),
)
