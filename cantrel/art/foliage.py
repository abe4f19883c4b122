"""Foliage as flat masses: a shade with a broken outline, and a smaller light one up and to the left of it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from cantrel.art.paths import curve, line

if TYPE_CHECKING:
    from random import Random

Spot = tuple[float, float]
LIGHT, TOWARDS = 0.72, (-0.16, -0.2)  # the light mass: its size, and how far it lies up and left, by the radius


def mass(at: Spot, radius: float, draw: Random, leaf: str) -> tuple[str, str]:
    """The shade and the light of one mass of leaves, as paths."""
    squash = 0.55 if leaf == "plate" else 0.92
    shade = _ring(at, radius, squash, draw)
    if leaf == "hang":
        shade += _strands(at, radius, draw)
    middle = at[0] + TOWARDS[0] * radius, at[1] + TOWARDS[1] * radius
    return shade, _ring(middle, LIGHT * radius, squash, draw)


def _ring(at: Spot, radius: float, squash: float, draw: Random) -> str:
    """A scalloped ring of 9 to 11 points."""
    count = draw.randint(9, 11)
    turn = draw.random() * math.tau
    rim = [_on(at, radius * (0.86 + 0.28 * draw.random()), turn + math.tau * i / count, squash) for i in range(count)]
    places = [rim[0]]
    for a, b in zip(rim, rim[1:] + rim[:1], strict=True):
        middle = (a[0] + b[0]) / 2.0, (a[1] + b[1]) / 2.0
        out = 1.28 + 0.1 * draw.random()
        places += [(round(at[0] + (middle[0] - at[0]) * out), round(at[1] + (middle[1] - at[1]) * out)), b]
    return curve(places) + "z"


def _on(at: Spot, radius: float, turn: float, squash: float) -> Spot:
    return round(at[0] + radius * math.cos(turn)), round(at[1] + squash * radius * math.sin(turn))


def _strands(at: Spot, radius: float, draw: Random) -> str:
    """Hanging shoots under a mass."""
    out = []
    for i in range(3):
        x = at[0] + radius * (-0.7 + 0.7 * i)
        y = at[1] + 0.5 * radius
        long = radius * (0.7 + 0.7 * draw.random())
        out.append(
            curve([(x - 2.2, y), (x - 2.5, y + 0.6 * long), (x, y + long), (x + 2.5, y + 0.6 * long), (x + 2.2, y)])
            + "z"
        )
    return "".join(out)


def bough(foot: Spot, tip: Spot, draw: Random) -> tuple[str, str]:
    """A conifer's bough: a spray with hanging points along it, darker below, light along its top."""
    dx, dy = tip[0] - foot[0], tip[1] - foot[1]
    run = math.hypot(dx, dy) or 1.0
    deep = min(max(0.42 * run, 5.0), 26.0)
    count = min(max(int(run / 11.0), 3), 9)
    lower = []
    for i in range(count):
        share = 1.0 - (i + 0.5) / count
        x, y = foot[0] + dx * share, foot[1] + dy * share
        lower.append(
            (x + 0.06 * dx, y + deep * (0.8 + 0.5 * draw.random()) * (0.45 + 0.55 * math.sin(math.pi * share)))
        )
        lower.append((x - 0.5 * dx / count, y + 0.3 * deep))
    upper = [(foot[0] + dx * s, foot[1] + dy * s - 0.22 * deep * math.sin(math.pi * s)) for s in (0.0, 0.35, 0.7, 1.0)]
    lit = [
        *upper,
        *((foot[0] + dx * s, foot[1] + dy * s + 0.38 * deep * math.sin(math.pi * s)) for s in (0.75, 0.5, 0.25)),
    ]
    return line([*upper, *lower], closed=True), line(lit, closed=True)
