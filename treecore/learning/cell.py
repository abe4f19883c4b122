"""What a load cell says, line by line, gathered to whole seconds; its peak, and where it was silent.

A cell sends one reading a line, its parts with commas: seconds since it was switched on, the force, the unit
(``12.340,4.512,kN``), ended by a newline. Lines are ASCII; one longer than 80 characters is no reading.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import NamedTuple

from treecore.errors import BadDocument
from treecore.ranges import ranges
from treecore.units import GRAVITY, POUND_FORCE

UNITS = {"N": 1.0, "daN": 10.0, "kN": 1000.0, "kgf": GRAVITY, "lbf": POUND_FORCE, "klbf": 1000.0 * POUND_FORCE}
LONGEST_LINE = 80
_SILENT = 0.25  # without a reading for so long, there is a gap [s]
_FURTHEST = 10.0 * 24 * 3600.0  # a cell is not switched on for longer [s]


class CellReading(NamedTuple):
    """One reading: when, by the cell's own clock [s], the force [N], and the unit it came in."""

    at: float
    force: float
    unit: str


def read_line(line: str) -> CellReading:
    """Read one line of a cell.

    Parameters
    ----------
    line : str
        Without its end.

    Raises
    ------
    BadDocument
        Where it is no reading.
    """
    parts = line.strip().split(",")
    if len(line) > LONGEST_LINE or len(parts) != 3 or parts[2].strip() not in UNITS:
        raise BadDocument(field="reading", why="“{line}” is no reading of a cell", line=line[:40])
    try:
        at, said = float(parts[0]), float(parts[1])
    except ValueError:
        raise BadDocument(field="reading", why="“{line}” is no reading of a cell", line=line[:40]) from None
    force, most = said * UNITS[parts[2].strip()], ranges()["recorded_peak"].high
    if not (0.0 <= at <= _FURTHEST and math.isfinite(force) and abs(force) <= most):
        raise BadDocument(field="reading", why="“{line}” is beyond what a cell reads", line=line[:40])
    return CellReading(at, force, parts[2].strip())


@dataclass(frozen=True, slots=True)
class Second:
    """A whole second of a trace: which, counted from the first; its readings as (when within it [s], force [N]); how
    many lines of it were rubbish, how long it was silent [s], and whether the unit changed in it.
    """

    number: int
    readings: tuple[tuple[float, float], ...]
    rubbish: int = 0
    silent: float = 0.0
    jumped: bool = False

    @property
    def peak(self) -> float | None:
        """Greatest force [N]; None where it was silent throughout."""
        return max((force for _, force in self.readings), default=None)


@dataclass
class Gatherer:
    """Gathers readings to whole seconds; a second is given out once a later one has begun."""

    first: float | None = None
    number: int = 0
    held: list[tuple[float, float]] = field(default_factory=list)
    rubbish: int = 0
    unit: str = ""
    jumped: bool = False
    last: float | None = None

    def line(self, line: str) -> Iterator[Second]:
        """Take one line in.

        Parameters
        ----------
        line : str
            Without its end.
        """
        try:
            reading = read_line(line)
        except BadDocument:
            self.rubbish += 1
            return
        yield from self.take(reading)

    def take(self, reading: CellReading) -> Iterator[Second]:
        """Take one reading in; one that is older than the last, by a clock that was set back, counts as rubbish.

        Parameters
        ----------
        reading : CellReading
            As it came.
        """
        if self.last is not None and reading.at < self.last:
            if self.last - reading.at < 1.0:
                self.rubbish += 1
                return
            self.first = (
                None if self.first is None else self.first - (self.last - reading.at)
            )  # it was switched on anew
        self.first = reading.at if self.first is None else self.first
        self.last = reading.at
        since = reading.at - self.first
        number = math.floor(since)
        if number > self.number:
            yield from self.rest()
            self.number = number  # seconds that are not there were silent
        self.jumped = self.jumped or bool(self.unit and reading.unit != self.unit)
        self.unit = reading.unit
        self.held.append((since - number, reading.force))

    def rest(self) -> Iterator[Second]:
        """What is left when a stream ends."""
        if self.held or self.rubbish:
            yield self._whole()

    def _whole(self) -> Second:
        found = Second(self.number, tuple(self.held), self.rubbish, silent_in(self.held), self.jumped)
        self.held, self.rubbish, self.jumped = [], 0, False
        return found


def silent_in(readings: Sequence[tuple[float, float]]) -> float:
    """How long a second was silent: what its gaps without a reading are together.

    Parameters
    ----------
    readings : sequence of tuple
        When within the second [s], and the force [N].
    """
    times = [0.0, *(at for at, _ in readings), 1.0]
    gaps = [later - at for at, later in pairwise(times)]
    return sum(gap for gap in gaps if gap > _SILENT)


def peak_of(seconds: Sequence[Second]) -> float | None:
    """Return the greatest force of a trace [N]; None where nothing was read.

    Parameters
    ----------
    seconds : sequence of Second
        Of the trace.
    """
    return max((second.peak for second in seconds if second.peak is not None), default=None)


def hangs(seconds: Sequence[Second], tail: int = 3) -> float | None:
    """Return the force of what hangs still at the end of a trace: the middle of its last seconds [N].

    Parameters
    ----------
    seconds : sequence of Second
        Of the trace.
    tail : int
        Seconds looked at. [-]
    """
    forces = sorted(force for second in seconds[-tail:] for _, force in second.readings)
    return forces[len(forces) // 2] if forces else None


def simulated(at: float, trace: Sequence[tuple[float, float]], still: float) -> float:
    """Return what a cell reads at a time of a computed motion: nothing before it, what hangs after it [N].

    Parameters
    ----------
    at : float
        Since the motion began. [s]
    trace : sequence of tuple
        Its times [s] and forces [N].
    still : float
        What hangs when it is over. [N]
    """
    if at < 0.0 or not trace:
        return 0.0
    if at >= trace[-1][0]:
        return still
    before = max((row for row in trace if row[0] <= at), default=trace[0])
    after = next((row for row in trace if row[0] > at), trace[-1])
    span = after[0] - before[0]
    share = (at - before[0]) / span if span > 0.0 else 0.0
    return before[1] + share * (after[1] - before[1])
