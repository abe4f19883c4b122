"""The pick list as a sheet, and plan and elevation as drawings of other programs' forms."""

from __future__ import annotations

import csv
import io
import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext
from ezdxf import units as dxf_units
from ezdxf.document import Drawing
from openpyxl import Workbook
from openpyxl.styles import Font

from apps.briefing.job_planner import outlined
from apps.takedown import wording
from apps.takedown.brief import worked_picks
from apps.takedown.drawing_planner import ground_view
from apps.takedown.planner import scene_of, turns_taken, usual_view
from cantrel import quantities
from treecore.takedown.members import Members
from treecore.units import unit

if TYPE_CHECKING:
    from apps.jobs.models import Tree
    from apps.takedown.planner import Row, Scene

Cell = str | float | int | None
COLUMNS = (
    ("pick", ""), ("cut on", ""), ("at", "length"), ("method", ""), ("mass", "mass"), ("mass, least", "mass"),
    ("mass, most", "mass"), ("length", "length"), ("wraps", ""), ("run", "length"), ("at the hand", "small_force"),
    ("on the point", "force"), ("rope", "length"), ("comes to", ""), ("verdict", ""), ("ruled by", ""),
)  # fmt: skip


def headings(system: str) -> list[str]:
    """Headings of the list, each with its unit."""
    return [f"{gettext(name)} [{quantities.symbol(dim, system)}]" if dim else gettext(name) for name, dim in COLUMNS]


def pick_rows(tree: Tree, system: str) -> list[list[Cell]]:
    """One row a pick, numbers in the reader's units."""
    worked = worked_picks(tree)
    rows = worked.rows if worked and worked.rows else []
    return [_cells(number, row, system) for number, row in enumerate(rows, start=1)]


def _cells(number: int, row: Row, system: str) -> list[Cell]:
    entry, piece = row.entry, row.step.piece if row.step else None
    forces, pick = (row.held.forces, row.held.pick) if row.held else (None, None)
    _, said = wording.verdict(row, system)
    found: list[Any] = [
        number, entry.get("member") or gettext("stem"), entry["at_m"],
        wording.method_name(entry.get("method", "butt")),
        piece and piece.mass.value, piece and piece.mass.low, piece and piece.mass.high, piece and piece.length,
        turns_taken(pick) if pick else None, pick.run if pick and pick.held == "run" else None,
        forces and forces.hand.value, forces and forces.on_point.value, forces and forces.needed,
        entry.get("landing") or entry.get("landing_on") or "", wording.verdict_word(row), said,
    ]  # fmt: skip
    return [_shown(value, dimension, system) for value, (_, dimension) in zip(found, COLUMNS, strict=True)]


def _shown(value: Any, dimension: str, system: str) -> Cell:
    if not dimension or value is None:
        return str(value) if value is not None and not isinstance(value, int | float) else value
    return round(value / unit(dimension, system).factor, 3)


def as_csv(tree: Tree, system: str) -> bytes:
    """The pick list as CSV, in UTF-8 with its mark, so that a spreadsheet knows."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(headings(system))
    writer.writerows([[_plain(cell) for cell in row] for row in pick_rows(tree, system)])
    return out.getvalue().encode("utf-8-sig")


def as_xlsx(tree: Tree, system: str) -> bytes:
    """The pick list as a workbook of one sheet."""
    book = Workbook()
    page = book.active
    page.title = gettext("Picks")
    page.append(headings(system))
    for row in pick_rows(tree, system):
        page.append([_plain(cell) for cell in row])
    for cell in page[1]:
        cell.font = Font(bold=True)
    page.freeze_panes = "C2"
    for column, width in zip("ABCDEFGHIJKLMNOP", (6, 20, 8, 18, 9, 9, 9, 9, 8, 8, 10, 10, 8, 20, 14, 34), strict=True):
        page.column_dimensions[column].width = width
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _plain(cell: Cell) -> Cell:
    """A cell no spreadsheet takes for a formula."""
    return f"'{cell}" if isinstance(cell, str) and cell[:1] in "=+-@\t\r" else cell


# --- drawings ----------------------------------------------------------------------------------------------------


def dxf(tree: Tree, view: str) -> bytes:
    """Plan or elevation as DXF in metres, each kind of thing on a layer of its own."""
    document = Drawing.new("R2010")
    document.units = dxf_units.M
    space = document.modelspace()
    scene, worked = scene_of(tree), worked_picks(tree)
    rows = worked.rows if worked and worked.rows else []
    if view == "plan":
        _plan(space, tree, scene, rows)
    else:
        _elevation(space, scene, rows, usual_view(scene.tree))
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _plan(space: Any, tree: Tree, scene: Scene, rows: list[Row]) -> None:
    for feature in outlined(tree.job):
        _closed(space, list(feature.outline), feature.kind)
        x, y = feature.outline[0]
        space.add_text(feature.name, height=0.4, dxfattribs={"layer": "names"}).set_placement((x, y))
    space.add_circle(
        (scene.site.tree_x, scene.site.tree_y), scene.tree.diameter.value / 2.0, dxfattribs={"layer": "stem"}
    )
    for number, row in enumerate(rows, start=1):
        seen = ground_view(scene, row)
        _closed(space, list(seen.moves), "swing" if seen.held else "drop")
        for strip in seen.strips:
            _closed(space, list(strip), "recoil")
        if seen.held:
            space.add_lwpolyline(list(seen.held.rope), dxfattribs={"layer": "rope"})
            space.add_circle(seen.held.landing, 0.3, dxfattribs={"layer": "landing"})
            space.add_text(str(number), height=0.3, dxfattribs={"layer": "landing"}).set_placement(seen.held.landing)
        for role, place, _ in seen.people:
            space.add_point(place, dxfattribs={"layer": f"person {role}"})


def _closed(space: Any, points: list[Any], layer: str) -> None:
    if len(points) > 1:
        space.add_lwpolyline([(p[0], p[1]) for p in points], close=True, dxfattribs={"layer": layer})


def _elevation(space: Any, scene: Scene, rows: list[Row], view: float) -> None:
    """Every member by its axis as it is looked at, and every cut with its number; heights over the stem's foot."""
    members: Members = scene.members
    right = math.cos(view), -math.sin(view)

    def on(place: Any) -> tuple[float, float]:
        return place[0] * right[0] + place[1] * right[1], place[2]

    for place, name in enumerate(members.names):
        foot = members.base[place]
        tip = foot + members.way[place] * members.end[place]
        space.add_line(on(foot), on(tip), dxfattribs={"layer": "limbs" if place else "stem"})
        if name:
            space.add_text(name, height=0.25, dxfattribs={"layer": "names"}).set_placement(on(tip))
    for number, row in enumerate(rows, start=1):
        if row.step:
            at = on(row.step.piece.butt)
            space.add_circle(at, 0.1, dxfattribs={"layer": "cuts"})
            space.add_text(str(number), height=0.25, dxfattribs={"layer": "cuts"}).set_placement((at[0] + 0.2, at[1]))
        if row.held:
            space.add_point(on(row.held.point), dxfattribs={"layer": "rigging points"})
    space.add_line((-10.0, 0.0), (10.0, 0.0), dxfattribs={"layer": "ground"})
