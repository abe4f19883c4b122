"""What a line is made of besides its way: rope, knot at the tree, and what its far end is made fast to."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

from treecore.document.felling import TackleEntry
from treecore.document.fields import hold
from treecore.errors import none_of
from treecore.estimate import Estimate, Kind, exactly, times
from treecore.schools import constant, school
from treecore.tables import rows


@cache
def knots() -> dict[str, tuple[str, Estimate]]:
    """Return how a line is made fast to the tree, by key: its name, and the strength it keeps [-]."""
    return {
        r["key"]: (r["name"], Estimate(float(r["kept"]), float(r["kept_low"]), float(r["kept_high"]), Kind.ASSUMED))
        for r in rows("knots")
    }


PULLED_BY = {"": "not said", "people": "people", "winch": "a winch", "vehicle": "a vehicle"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Tackle:
    """Rope and anchor of one line. What nobody said is None, and counts as not known.

    ``strength`` new breaking strength of the rope [N], ``owned`` its length [m], ``knot`` at the tree, ``gear`` what
    the weakest piece between rope and anchor may carry [N], ``rating`` what the anchor may carry [N] or ``trunk`` the
    diameter of a tree it is [m], ``sling`` height of the sling on it [m], ``design`` school of the design factor.
    ``by`` is who or what pulls, ``people`` how many of them where it is people [-].
    """

    strength: float | None = None
    owned: float | None = None
    knot: str = "unknown"
    gear: float | None = None
    rating: float | None = None
    trunk: float | None = None
    sling: float = 0.5
    design: str = "5"
    by: str = ""
    people: int = 2

    def __post_init__(self) -> None:
        """Refuse what no line is made of."""
        hold(self, TackleEntry, said="tackle_{}")
        if self.knot not in knots():
            raise none_of(what="tackle_knot", given=self.knot, known=knots())
        if self.by not in PULLED_BY:
            raise none_of(what="tackle_by", given=self.by, known=(w for w in PULLED_BY if w))
        school("design", self.design)

    @property
    def rope_allowed(self) -> Estimate | None:
        """What the rope may carry, its knot and the design factor counted [N]; docs/methods.md, pulling (8)."""
        if self.strength is None:
            return None
        return times(knots()[self.knot][1], self.strength / school("design", self.design).usual)

    @property
    def anchor_allowed(self) -> Estimate | None:
        """What the anchor may carry [N]; docs/methods.md, pulling (9)."""
        return anchor_holds(self.rating, self.trunk, self.sling, self.design)


def anchor_holds(rating: float | None, trunk: float | None, sling: float, design: str) -> Estimate | None:
    """What an anchor may be loaded with, by its rating or as a stem bent at the ground [N]; docs/methods.md, pulling
    (9).

    Parameters
    ----------
    rating, trunk : float or None
        What it may carry [N], or the diameter of a tree [m]; not known without either.
    sling : float
        Height of the sling. [m]
    design : str
        School of the design factor.

    References
    ----------
    Rating as given; a trunk: bending strength times section modulus π·d³/32 over the sling's height and the factor.
    """
    if rating is not None:
        return exactly(rating, Kind.ESTIMATED)
    if trunk is None:
        return None
    factor = math.pi * trunk**3 / 32.0 / max(sling, 0.2) / school("design", design).usual  # (9)
    return times(constant("anchor_wood"), factor)
