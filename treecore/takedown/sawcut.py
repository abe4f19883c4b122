"""The cut of a piece as it is designed: its type, notch, hinge, overlap, and how far it lets the piece turn."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

from treecore.document.fields import hold
from treecore.document.takedown import PickEntry
from treecore.errors import between, none_of
from treecore.schools import constant, school, schools
from treecore.tables import rows


@dataclass(frozen=True, slots=True)
class CutType:
    """A type of cut: how far a piece has turned when it parts, least and most [rad], and whether a hinge holds it till
    then.

    ``level`` says that those are counted from where the piece lies level instead of from where it stands.
    """

    key: str
    name: str
    parts: tuple[float, float]
    on_hinge: bool
    level: bool
    reason: str


@cache
def cut_types() -> dict[str, CutType]:
    """Return every type of cut by key."""
    return {
        r["key"]: CutType(
            r["key"],
            r["name"],
            (float(r["parts_low"]), float(r["parts_high"])),
            r["on_hinge"] == "yes",
            r["from"] == "level",
            r["reason"],
        )
        for r in rows("pick_cuts")
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class SawCut:
    """A cut: its type, and of its design what was said.

    ``notch`` is a kind of the notch schools, ``opening`` of its mouth [rad]; ``tilt`` how far its hinge line rises to
    the right, seen the way the notch faces [rad]; ``depth`` of the notch, ``hinge`` its thickness and ``overlap`` of
    the two cuts of a step [m].
    """

    key: str = "hinge"
    notch: str = ""
    opening: float | None = None
    tilt: float = 0.0
    depth: float | None = None
    hinge: float | None = None
    overlap: float | None = None

    def __post_init__(self) -> None:
        """Refuse what no cut is."""
        if self.key not in cut_types():
            raise none_of(what="cut_type", given=self.key, known=cut_types())
        if self.notch and self.notch not in schools("notch"):
            raise none_of(what="notch", given=self.notch, known=schools("notch"))
        hold(self, PickEntry, "cut", "cut_{}")

    @property
    def type(self) -> CutType:
        """Its row in the table of cuts."""
        return cut_types()[self.key]

    @property
    def closes(self) -> float | None:
        """Turn at which its notch closes [rad]; None where nobody said how it opens."""
        if self.opening is not None:
            return self.opening
        return school("notch", self.notch).usual if self.notch else None

    def parts(self, slope: float) -> tuple[float, float]:
        """Turn of a piece on its hinge when it parts, least and most [rad]; docs/methods.md, aloft (7).

        Parameters
        ----------
        slope : float
            Of the piece before it is cut, upward along it. [rad]
        """
        low, high = self.type.parts
        if self.type.level:
            flat = max(slope, 0.0)
            low, high = max(flat + low, 0.0), flat + high
        closes = self.closes
        if closes is None or not self.type.on_hinge:
            return low, high
        # A notch that opens wider than the allowance lets it turn until it closes.
        return min(low, closes), min(high, closes) if self.type.level else closes  # (7)

    def aside(self) -> float:
        """How far to the right of the way its notch faces a tilted hinge sends an upright piece [rad]; aloft (8).

        References
        ----------
        An upright axis turned by f about a line that rises by t from level lies atan(sin t · tan(f/2)) off the way that
        line faces, towards its higher end.
        """
        closes = self.closes
        turned = sum(self.type.parts) / 2.0 if closes is None else closes
        return math.atan(math.sin(self.tilt) * math.tan(min(turned, 3.0) / 2.0))  # (8)

    def fits(self, thick: float) -> None:
        """Refuse a notch and hinge, or an overlap, that the wood has no room for.

        Parameters
        ----------
        thick : float
            Diameter at the cut. [m]

        Raises
        ------
        OutOfRange
            At the depth or the overlap, whichever is too large.
        """
        if self.type.on_hinge and (self.depth is not None or self.hinge is not None):
            most = 0.9 * thick - self.hinge_in(thick)
            between(
                "cut_depth", self.depth_in(thick), 0.0, most, "notch and hinge leave a tenth of the wood to saw", "cut"
            )
        if self.overlap is not None:
            between(
                "cut_overlap",
                self.overlap,
                0.0,
                0.5 * thick,
                "two cuts pass each other by half the wood at most",
                "cut",
            )

    def depth_in(self, thick: float) -> float:
        """Depth of its notch [m]: as said, else a third of the diameter.

        Parameters
        ----------
        thick : float
            Diameter at the cut. [m]
        """
        return self.depth if self.depth is not None else school("depth", "third").usual * thick

    def hinge_in(self, thick: float) -> float:
        """Thickness of its hinge [m]: as said, else a twentieth of the diameter, usual for short pieces.

        Parameters
        ----------
        thick : float
            Diameter at the cut. [m]
        """
        return self.hinge if self.hinge is not None else school("thickness", "twentieth").usual * thick

    def overlap_in(self, thick: float) -> float:
        """How far the two cuts of a step pass each other [m]: as said, else the usual share of the diameter.

        Parameters
        ----------
        thick : float
            Diameter at the cut. [m]
        """
        return self.overlap if self.overlap is not None else constant("step_overlap").value * thick
