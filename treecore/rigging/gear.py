"""Gear: what each item breaks at, what wear, knots and configuration leave of it, and what may be used."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date
from functools import cache, lru_cache
from typing import NamedTuple

from treecore.document.fields import hold
from treecore.document.gear import GearEntry
from treecore.errors import NotSolvable, none_of
from treecore.estimate import Estimate, Kind
from treecore.ranges import believed
from treecore.rigging.friction import Reading, measured_friction
from treecore.rigging.rope import Stiffness, constructions, stiffness_of
from treecore.schools import school
from treecore.tables import rows

BENT_ROUND = ("block", "ring", "device")  # roles whose diameter is that of what the rope is bent round


@dataclass(frozen=True, slots=True)
class GearKind:
    """One kind of gear and what it is in the path: rope, leg, sling, connector, block, ring, device, winch, none."""

    key: str
    name: str
    role: str
    life: float
    source: str


@dataclass(frozen=True, slots=True)
class Factor:
    """What is left of a strength: by knot, wear or configuration [-]."""

    key: str
    name: str
    strength_reduction: Estimate
    source: str


@cache
def gear_kinds() -> dict[str, GearKind]:
    """Return kinds of gear by key; ``life`` years between being bought and retired."""
    return {
        r["key"]: GearKind(r["key"], r["name"], r["role"], float(r["life"]), r["source"]) for r in rows("gear_kinds")
    }


@cache
def factors(choice: str) -> dict[str, Factor]:
    """Return factors of one choice (knot, wear, sling) by key."""
    return {
        r["key"]: Factor(
            r["key"],
            r["name"],
            Estimate(float(r["kept"]), float(r["low"]), float(r["high"]), Kind.ASSUMED),
            r["source"],
        )
        for r in rows("gear_factors", "choice")
        if r["choice"] == choice
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """One item of the store. Strength [N], diameter and length [m], modulus EA [N]; dates; None where nobody knows.

    The diameter is a rope's own, and that of what the rope is bent round of a block, ring or device.
    ``inspected`` is the last inspection, ``months`` between two of them; ``retired`` says why, empty while in use.
    ``joined`` is a rope made of two, ``construction`` how a rope is made, empty where nobody knows; ``readings`` are
    what a crew read off a device of its own.
    """

    name: str
    kind: str
    strength: float | None
    diameter: float | None = None
    length: float | None = None
    axial_stiffness: float | None = None
    wear: str = "good"
    bought: date | None = None
    inspected: date | None = None
    months: int = 6
    retired: str = ""
    joined: bool = False
    construction: str = ""
    readings: tuple[Reading, ...] = ()

    def __post_init__(self) -> None:
        """Refuse what no item is; the error names it."""
        at = f"gear {self.name}"
        if not self.name.strip():
            raise NotSolvable(what="gear", why="an item needs a name")
        if self.kind not in gear_kinds():
            raise none_of(what=at, given=self.kind, known=gear_kinds())
        if self.wear not in factors("wear"):
            raise none_of(what=at, given=self.wear, known=factors("wear"))
        if self.construction and self.construction not in constructions():
            raise none_of(what=at, given=self.construction, known=constructions())
        hold(self, GearEntry, said=at)
        if self.diameter is not None:
            believed(at, self.diameter, "bent_round" if gear_kinds()[self.kind].role in BENT_ROUND else "rope_diameter")

    @property
    def stiffness(self) -> Stiffness:
        """How stiff a rope it is, and how that is known."""
        return stiffness_of(self.construction, self.diameter, self.axial_stiffness)

    @property
    def friction(self) -> Estimate | None:
        """Friction of rope on a device by the crew's own readings [-]; None without any."""
        return measured_friction(self.readings)

    @property
    def role(self) -> str:
        """What it is in the path."""
        return gear_kinds()[self.kind].role


class Refusal(NamedTuple):
    """Why an item may not be used: a key, what goes with it (a reason or a day), and years it is kept."""

    key: str
    note: str = ""
    years: float | None = None


def refused(item: Item, today: date) -> Refusal | None:
    """Return why an item may not be used today, or None; docs/methods.md, gear (1).

    Parameters
    ----------
    item : Item
        The item.
    today : date
        Day of use.

    References
    ----------
    Retired, marked poor, past its years, or past its inspection.
    """
    if item.retired:
        return Refusal("retired", item.retired)
    if item.wear == "poor":
        return Refusal("poor")
    life = gear_kinds()[item.kind].life
    if item.bought is not None and (today - item.bought).days > life * 365.25:
        return Refusal("old", item.bought.isoformat(), life)
    if item.inspected is None:
        return Refusal("uninspected")
    due = item.inspected.toordinal() + round(item.months * 30.44)
    if today.toordinal() > due:
        return Refusal("overdue", date.fromordinal(due).isoformat())
    return None


@lru_cache(maxsize=1024)
def working_load(
    item: Item, design: str, knot: str = "none", sling: str = "straight", angle: float = 0.0
) -> Estimate | None:
    """What an item may be loaded with [N], or None where nobody knows its strength; docs/methods.md, gear (2), (3).

    Parameters
    ----------
    item : Item
        The item.
    design : str
        School of the design factor.
    knot, sling : str
        Knot or hitch in it; configuration of a sling.
    angle : float
        Between the legs of a basket. [rad]

    Raises
    ------
    NotSolvable
        On a knot or configuration that is not in the tables.

    References
    ----------
    Strength times factors over the design factor; a basket carries twice the cosine of half its angle.
    """
    for choice, key in (("knot", knot), ("sling", sling)):
        if key not in factors(choice):
            raise none_of(what=choice, given=key, known=factors(choice))
    if item.strength is None:
        return None
    parts = [factors("wear")[item.wear].strength_reduction, factors("knot")[knot].strength_reduction]
    shape = factors("sling")[sling].strength_reduction
    spread = math.cos(angle / 2.0) if sling == "basket" else 1.0  # (3)
    base = item.strength / school("design", design).usual * spread
    value, low, high = base * shape.value, base * shape.low, base * shape.high
    for part in parts:
        value, low, high = value * part.value, low * part.low, high * part.high
    return Estimate(value, low, high, Kind.ESTIMATED)  # (2)


def grips(leg: Item, main: Item) -> bool | None:
    """Whether a bridle's leg line can grip the main line with a hitch: it must be thinner; None where unknown; gear
    (4).

    Parameters
    ----------
    leg, main : Item
        The two ropes.

    References
    ----------
    Practice: 10 mm on 13 mm, 13 mm on 16 mm; at most 0.85 of the main line, own choice between them.
    """
    if leg.diameter is None or main.diameter is None:
        return None
    return leg.diameter <= 0.85 * main.diameter  # (4)


def bend_ratio(round_what: Item, rope: Item) -> float | None:
    """Diameter of what a rope is bent round over its own [-]; None where either is unknown; gear (6).

    Parameters
    ----------
    round_what : Item
        Block, ring or device.
    rope : Item
        The rope.
    """
    if round_what.diameter is None or rope.diameter is None:
        return None
    return round_what.diameter / rope.diameter  # (6)
