"""Wedges behind the hinge: their kinds, how far they lift and where they bear."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

from treecore.document.felling import WedgesEntry
from treecore.document.fields import hold
from treecore.errors import none_of
from treecore.estimate import Estimate, Kind
from treecore.felling.balance import wedge_drive
from treecore.tables import rows

_ROUND = math.radians(80.0)


@dataclass(frozen=True, slots=True)
class WedgeKind:
    """One kind: lift and tip [m], angle between its faces [rad], friction [-], load one takes [N], whether it is
    struck.
    """

    key: str
    name: str
    rise: float
    tip: float
    taper: float
    friction: Estimate
    force: Estimate
    struck: bool
    source: str

    @property
    def drive(self) -> Estimate:
        """Driving force over the load on it [-]; docs/methods.md, balance (4)."""
        low, value, high = (
            wedge_drive(1.0, self.taper, mu) for mu in (self.friction.low, self.friction.value, self.friction.high)
        )
        return Estimate(value, low, high, Kind.ASSUMED)


@cache
def wedge_kinds() -> dict[str, WedgeKind]:
    """Return every kind of wedge by key."""

    def three(row: dict[str, str], name: str) -> Estimate:
        value, low, high = (float(row[n]) for n in (name, f"{name}_low", f"{name}_high"))
        return Estimate(value, low, high, Kind.ASSUMED)

    return {
        r["key"]: WedgeKind(
            r["key"],
            r["name"],
            float(r["rise"]),
            float(r["tip"]),
            float(r["taper"]),
            three(r, "friction"),
            three(r, "force"),
            r["strikes"] == "yes",
            r["source"],
        )
        for r in rows("wedge_kinds")
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class Wedges:
    """Wedges side by side, how many lie one on another, their kind, and where round the cut they are driven.

    ``rise`` and ``tip`` of one's own wedge, else the kind's [m]. ``place`` from straight behind, to the right positive
    [rad].
    """

    count: int = 0
    stacked: int = 1
    kind: str = "plastic"
    rise: float | None = None
    tip: float | None = None
    place: float = 0.0

    def __post_init__(self) -> None:
        """Refuse a pile nobody can drive."""
        hold(self, WedgesEntry, said="wedge_{}")
        if self.kind not in wedge_kinds():
            raise none_of(what="wedge_kind", given=self.kind, known=wedge_kinds())

    @property
    def sort(self) -> WedgeKind:
        """The kind's row."""
        return wedge_kinds()[self.kind]

    @property
    def reach(self) -> float:
        """Lift of the stack driven home [m]."""
        return (self.sort.rise if self.rise is None else self.rise) * self.stacked

    @property
    def starts(self) -> float:
        """Thickness of the tip that must enter the kerf [m]."""
        return self.sort.tip if self.tip is None else self.tip
