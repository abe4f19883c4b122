"""The ground of the whole takedown for the paper: buildings to scale, where every piece goes, where people stand."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from apps.takedown.drawing_planner import ground_view
from cantrel.drawing import fitted, marked
from cantrel.labels import Placer, beside

if TYPE_CHECKING:
    from apps.takedown.planner import Row, Scene
    from cantrel.drawing import Frame

Spot = tuple[float, float]
WIDE, TALL = 400, 400
STANDS = 2.0  # a person is not placed more closely than this [m]


def landings(scene: Scene, rows: list[Row], system: str) -> dict[str, Any]:
    """Where the pieces come to, numbered by pick, with the targets around and the people on the ground."""
    places: dict[Spot, list[int]] = {}
    people: dict[Spot, str] = {}
    hit: set[str] = set()
    for number, row in enumerate(rows, start=1):
        drawn = ground_view(scene, row)
        hit |= drawn.hit
        for role, place, _ in drawn.people:
            people.setdefault(_about(place, STANDS), role)
        if spot := drawn.held.landing if drawn.held else _middle(drawn.moves):
            places.setdefault(_about(spot), []).append(number)
    frame = _frame(scene, [*places, *people])
    labels = [(_run(numbers), _run(numbers), _at(frame, spot), "start") for spot, numbers in places.items()]
    placer = Placer(WIDE, TALL)
    placer.take((0.0, 0.0, 230.0, 24.0), (0.0, TALL - 30.0, 120.0, float(TALL)))
    numbered = beside(placer, labels, 6.0)
    return {
        "frame": frame,
        "targets": marked(frame, scene.site.targets, hit, placer),
        "stem": _at(frame, (scene.site.tree_x, scene.site.tree_y)),
        "places": numbered,
        "people": [{"at": _at(frame, spot), "role": role} for spot, role in people.items()],
        "bar": frame.bar(system),
    }


def _about(place: tuple[float, ...], grid: float = 0.5) -> Spot:
    """Places nearer than this are one on paper [m]."""
    return round(place[0] / grid) * grid, round(place[1] / grid) * grid


def _middle(moves: tuple[Spot, ...]) -> Spot | None:
    if not moves:
        return None
    return sum(x for x, _ in moves) / len(moves), sum(y for _, y in moves) / len(moves)


def _at(frame: Frame, spot: Spot) -> Spot:
    return frame.x(spot[0]), frame.y(spot[1])


def _frame(scene: Scene, spots: list[Spot]) -> Frame:
    site = scene.site
    far = max([6.0, *(max(abs(x - site.tree_x), abs(y - site.tree_y)) + 2.5 for x, y in spots)])
    return fitted(WIDE, TALL, site.tree_x - far, site.tree_x + far, site.tree_y - far, site.tree_y + far, margin=2)


def _run(numbers: list[int]) -> str:
    """Numbers in few signs: 1–4, 7."""
    runs: list[list[int]] = []
    for n in numbers:
        if runs and n == runs[-1][1] + 1:
            runs[-1][1] = n
        else:
            runs.append([n, n])
    return ", ".join(str(a) if a == b else f"{a}–{b}" for a, b in runs)
