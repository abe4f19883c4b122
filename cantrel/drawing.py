"""To-scale drawings: metres to picture points and back. Drawings have x to the right and y up in metres."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext_lazy

from cantrel import quantities

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


def spaced(knobs: list[Any], width: int, gap: int = 17, letter: int = 8) -> list[dict[str, Any]]:
    """Places for the labels of handles so that none lies on another or on a handle: side, text offset, whether led.

    ``knobs`` are (name, label, (x, y), side) with side "start" (right of it) or "end" (left), taken where it has room.
    """
    out, boxes = [], [(x - 9, x + 9, y + 4) for _, _, (x, y), _ in knobs]
    for name, text, (x, y), wanted in sorted(knobs, key=lambda k: k[2][1]):
        wide = letter * len(text)
        spans = {"start": (x + 13, x + 13 + wide), "end": (x - 13 - wide, x - 13)}
        fits = {"start": spans["start"][1] <= width, "end": spans["end"][0] >= 0}
        other = "end" if wanted == "start" else "start"
        side = wanted if fits[wanted] or not fits[other] else other
        at = _free(spans[side], y + 4, boxes, gap)
        boxes.append((*spans[side], at))
        place = {"dx": 13 if side == "start" else -13, "dy": round(at - y, 1), "led": abs(at - y - 4) > 6}
        out.append({"name": name, "label": text, "at": (x, y), "side": side} | place)
    return out


def _free(span: tuple[Any, ...], at: float, boxes: list[Any], gap: int) -> float:
    """First height from one downward at which a label meets none of the boxes."""
    while hit := [b for b in boxes if b[0] < span[1] and b[1] > span[0] and abs(b[2] - at) < gap - 1]:
        at = max(at + 1, max(b[2] for b in hit) + gap)
    return at


def marked(frame: Frame, targets: Iterable[Any], hit: Container[str]) -> list[dict[str, Any]]:
    """Targets of a site from above: their outline, kind and name, whether they are touched, and where the name goes."""
    return [
        {
            "points": frame.points(t.outline),
            "kind": t.kind,
            "name": t.name,
            "hit": t.name in hit,
            "at": _named_at(frame, t.outline),
        }
        for t in targets
    ]


def _named_at(frame: Frame, outline: Sequence[tuple[float, float]]) -> tuple[float, float] | None:
    """The middle of an outline, where a name there stays inside the picture."""
    xs, ys = zip(*outline, strict=True)
    x, y = frame.x(sum(xs) / len(xs)), frame.y(sum(ys) / len(ys))
    return (x, y) if 28 < x < frame.width - 28 and 14 < y < frame.height - 14 else None


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
