"""SVG paths in few signs: tenths of a point, each step from the one before."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

Spot = tuple[float, float]


def _tenths(places: Sequence[Spot]) -> list[tuple[int, int]]:
    return [(round(10.0 * x), round(10.0 * y)) for x, y in places]


def _said(n: int) -> str:
    return f"{n // 10}" if n % 10 == 0 else f"{n / 10:.1f}".replace("0.", ".", 1) if abs(n) < 10 else f"{n / 10:.1f}"


def _steps(places: Sequence[tuple[int, int]], start: tuple[int, int]) -> str:
    out, (x, y) = [], start
    for a, b in places:
        dx, dy = _said(a - x), _said(b - y)
        out.append(dx + (dy if dy.startswith("-") else f" {dy}"))
        x, y = a, b
    return "".join(part if i == 0 or part.startswith("-") else f" {part}" for i, part in enumerate(out))


def line(places: Sequence[Spot], closed: bool = False) -> str:
    """Straight pieces through places."""
    first, *rest = _tenths(places)
    return f"M{_said(first[0])} {_said(first[1])}l{_steps(rest, first)}" + ("z" if closed else "")


def curve(places: Sequence[Spot]) -> str:
    """A quadratic curve: start, then pairs of bend and end."""
    first, *rest = _tenths(places)
    out = [f"M{_said(first[0])} {_said(first[1])}q"]
    at = first
    for i in range(0, len(rest) - 1, 2):
        piece = []
        for a, b in rest[i : i + 2]:
            dx, dy = _said(a - at[0]), _said(b - at[1])
            piece.append(dx + (dy if dy.startswith("-") else f" {dy}"))
        out.append((" " if i else "") + " ".join(piece))
        at = rest[i + 1]
    return "".join(out)
