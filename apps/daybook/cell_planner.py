"""Traces of load cells: one pick listened to at a time, whole seconds kept at once, a logger's file taken in."""

from __future__ import annotations

import csv
import io
import math
from datetime import timedelta
from typing import TYPE_CHECKING, Any, NamedTuple

from django.db import transaction
from django.db.models import Count, Max, Q, Sum
from django.utils import timezone

from apps.daybook.models import Trace, TraceSecond
from apps.takedown import planner as takedown
from treecore.errors import BadDocument, NotSolvable
from treecore.learning.cell import UNITS, CellReading, Gatherer, Second, hangs, peak_of, simulated
from treecore.takedown.peak_forces import motion_of
from treecore.units import GRAVITY

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from apps.crews.models import Crew, Person
    from apps.jobs.models import Tree

MOST_ROWS = 500_000  # of a logger's file
POINTS = 600  # that a trace is drawn with


FORCES = tuple(UNITS)  # units a cell or a logger may speak in


def gathered(lines: Iterable[str]) -> Iterator[Second]:
    """Whole seconds of a cell's lines, as they are over; the last one when the lines end."""
    gatherer = Gatherer()
    for line in lines:
        yield from gatherer.line(line)
    yield from gatherer.rest()


def line_of(at: float, force: float, unit: str) -> str:
    """What a cell says of a force [N] at a time [s]."""
    return f"{at:.3f},{force / UNITS[unit]:.5f},{unit}\n"


def played(at: float, trace: list[tuple[float, float]], still: float) -> float:
    """What a cell reads at a time since a computed motion began [N]."""
    return simulated(at, trace, still)


@transaction.atomic
def listen(tree: Tree, pick: str, where: str, person: Person) -> Trace:
    """Begin to listen to a pick; whatever else the yard listened to at that place ends."""
    for other in Trace.objects.filter(tree__job__crew=tree.job.crew_id, open=True, where=where):
        other.open = False
        other.save()
    return Trace.objects.create(
        tree=tree, pick=pick, where=where, open=True, began=timezone.now(), source="cell", by=person.shown_name()
    )


@transaction.atomic
def stop(trace: Trace) -> Trace:
    """Stop listening; what was read stays."""
    trace.open = False
    trace.save()
    return trace


def open_trace(crew: Crew, where: str) -> Trace | None:
    """What a yard listens to at a place now."""
    return Trace.objects.filter(tree__job__crew=crew, open=True, where=where).first()


@transaction.atomic
def write(trace: Trace, second: Second, number: int) -> TraceSecond:
    """Keep one whole second, all of it or nothing."""
    return TraceSecond.objects.create(
        trace=trace,
        number=number,
        readings=[[round(at, 4), round(force, 1)] for at, force in second.readings],
        peak=second.peak,
        rubbish=second.rubbish,
        silent=second.silent,
        jumped=second.jumped,
    )


class Listener:
    """Puts seconds of a running cell under what the yard listens to, numbered from when that began."""

    def __init__(self, crew: Crew, where: str) -> None:
        self.crew, self.where = crew, where
        self.trace: int | None = None
        self.shift = 0

    def hear(self, second: Second) -> TraceSecond | None:
        """Keep a second where somebody listens; None where nobody does."""
        trace = open_trace(self.crew, self.where)
        if trace is None:
            self.trace = None
            return None
        if trace.pk != self.trace:
            self.trace, self.shift = trace.pk, _next_number(trace) - second.number
        return write(trace, second, second.number + self.shift)


def _next_number(trace: Trace) -> int:
    """The number of a trace's next second by the clock, past all it has: a reader that was gone leaves a gap."""
    last = trace.seconds.aggregate(most=Max("number"))["most"]
    by_clock = math.floor((timezone.now() - trace.began).total_seconds()) - 1
    return max(by_clock, 0 if last is None else last + 1, 0)


class Now(NamedTuple):
    """What a trace says now: its last reading and its peak [N], how many seconds it has, how long it was silent in all
    [s], lines that were rubbish, whether a unit jumped, and how long ago the last second came [s].
    """

    value: float | None
    peak: float | None
    seconds: int
    silent: float
    rubbish: int
    jumped: bool
    ago: float | None


def now(trace: Trace) -> Now:
    """What a trace says now."""
    found = trace.seconds.aggregate(
        peak=Max("peak"),
        silent=Sum("silent"),
        rubbish=Sum("rubbish"),
        seconds=Count("pk"),
        jumped=Count("pk", filter=Q(jumped=True)),
    )
    last = trace.seconds.order_by("-number").first()
    missing = 0 if last is None else last.number + 1 - found["seconds"]
    ended = None if last is None else trace.began + timedelta(seconds=last.number + 1)
    return Now(
        value=last.readings[-1][1] if last and last.readings else None,
        peak=found["peak"],
        seconds=found["seconds"],
        silent=(found["silent"] or 0.0) + missing,
        rubbish=found["rubbish"] or 0,
        jumped=found["jumped"] > 0,
        ago=None if ended is None else max((timezone.now() - ended).total_seconds(), 0.0),
    )


def seconds_of(trace: Trace) -> list[Second]:
    """A trace's seconds, as the core has them."""
    return [
        Second(row.number, tuple((at, force) for at, force in row.readings), row.rubbish, row.silent, row.jumped)
        for row in trace.seconds.all()
    ]


def weighed(trace: Trace) -> float | None:
    """What hung when the trace ended, as a mass [kg]; None where nothing did, or the cell did not hang between rope and
    piece: a block carries both legs of its rope.
    """
    force = hangs(seconds_of(trace)) if trace.where == Trace.Where.PIECE else None
    return None if force is None or force <= 0.0 else force / GRAVITY


def peak(trace: Trace) -> float | None:
    """The greatest force of a trace [N]."""
    found: float | None = trace.seconds.aggregate(peak=Max("peak"))["peak"]
    return found


def curve(trace: Trace) -> list[list[tuple[float, float]]]:
    """A trace to be drawn, time [s] and force [N], in runs without a gap; of many readings the least and greatest of
    each stretch.
    """
    runs: list[list[tuple[float, float]]] = []
    last: int | None = None
    for second in seconds_of(trace):
        if last is None or second.number != last + 1 or not runs:
            runs.append([])
        runs[-1] += [(second.number + at, force) for at, force in second.readings]
        last = second.number
    every = max(1, sum(len(run) for run in runs) // POINTS)
    return [list(_thinned(run, every)) for run in runs if run]


def _thinned(run: list[tuple[float, float]], every: int) -> Iterator[tuple[float, float]]:
    for start in range(0, len(run), every):
        part = run[start : start + every]
        ends = {min(part, key=lambda row: row[1]), max(part, key=lambda row: row[1])}
        yield from sorted(ends)


@transaction.atomic
def from_file(tree: Tree, pick: str, where: str, text: str, mapping: dict[str, str], person: Person) -> Trace:
    """Take a logger's file in: which column is the time [s], which the force, and the force's unit."""
    if mapping["unit"] not in UNITS:
        raise BadDocument(field="unit", why="a force is in {units}", units=", ".join(UNITS))
    trace = Trace.objects.create(
        tree=tree, pick=pick, where=where, began=timezone.now(), source=mapping["name"][:80], by=person.shown_name()
    )
    cell, kept = Gatherer(), []
    for reading in _readings(text, mapping):
        kept += list(cell.take(reading))
    kept += list(cell.rest())
    if peak_of(kept) is None:
        raise BadDocument(field="file", why="no line of it has a time and a force in these columns")
    for second in kept:
        write(trace, second, second.number)
    return trace


def _readings(text: str, mapping: dict[str, str]) -> Iterator[CellReading]:
    headings, rows = _sheet(text)
    for name in ("time", "force"):
        if mapping[name] not in headings:
            raise BadDocument(field=name, why="the file has no column “{name}”", name=mapping[name])
    at, force = headings.index(mapping["time"]), headings.index(mapping["force"])
    for number, row in enumerate(rows):
        if number >= MOST_ROWS:
            raise BadDocument(field="file", why="more than {most} lines", most=MOST_ROWS)
        found = _reading(row, at, force, mapping["unit"])
        if found is not None:
            yield found


def _sheet(text: str) -> tuple[list[str], Iterator[list[str]]]:
    """Headings of a logger's file, and the lines below them."""
    head = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(";\t,", key=head.count)
    if not head.count(separator):
        raise BadDocument(field="file", why="only one column: a trace has a time and a force")
    rows = csv.reader(io.StringIO(text[text.index(head) :]), delimiter=separator)
    return [cell.strip() for cell in next(rows)], rows


def _reading(row: list[str], at: int, force: int, unit: str) -> CellReading | None:
    try:
        when, size = (float(row[i].replace(",", ".")) for i in (at, force))
    except (IndexError, ValueError):
        return None
    finite = math.isfinite(when) and math.isfinite(size)
    return CellReading(when, size * UNITS[unit], unit) if finite and when >= 0.0 else None


def motion(tree: Tree, number: int, where: str) -> tuple[list[tuple[float, float]], float]:
    """The computed motion of a pick as a cell at a place would see it: times [s] and forces [N], and what hangs at the
    end [N].
    """
    scene = takedown.scene_of(tree)
    rows = takedown.work_out(scene, takedown.plan_for(tree).picks)
    if not 1 <= number <= len(rows):
        raise NotSolvable(what="pick", why="the takedown has {count} picks", count=len(rows))
    row = rows[number - 1]
    if row.error:
        raise row.error
    trace = motion_of(scene.members, row.step, row.pick, row.held.point) if row.held and row.step and row.pick else None
    if trace is None or row.held is None:
        raise NotSolvable(what="pick", why="this pick is not caught on a rope: nothing pulls on a cell")
    weight, found = row.held.piece.mass.value * GRAVITY, row.held.forces
    seen: dict[str, tuple[Any, float]] = {
        "piece": (trace.tension, weight),
        "point": ((trace.force**2).sum(axis=1) ** 0.5, found.on_point_still),
        "base": (trace.at_device, weight * found.tension_ratio),
    }
    forces, still = seen[where]
    return list(zip(trace.time.tolist(), forces.tolist(), strict=True)), still


def traces_of(tree: Tree, pick: str | None = None) -> list[Trace]:
    """Traces of a tree, or of one pick, newest first."""
    rows = Trace.objects.filter(tree=tree)
    return list(rows if pick is None else rows.filter(pick=pick))


def lines(stream: Iterable[bytes]) -> Iterator[str]:
    """Whole lines of a stream that comes in parts; a last one that never ended is not given out."""
    held = b""
    for part in stream:
        held += part
        *whole, held = held.split(b"\n")
        yield from (line.decode("ascii", "replace") for line in whole)
        if len(held) > 10_000:  # a stream without any end of line
            yield held[:200].decode("ascii", "replace")
            held = b""
