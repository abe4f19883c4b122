"""A line to the tree: one that pulls it over, and a guy that holds it against side lean."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.felling import GuyEntry, PullEntry
from treecore.document.fields import hold
from treecore.rigging.tackle import Tackle


@dataclass(frozen=True, slots=True, kw_only=True)
class Pull:
    """One pull line: tie height above the ground [m], anchor by bearing [rad], distance and height [m], tension [N].

    ``tackle`` is what it is made of, None for a leg of a system, whose parts say that.
    """

    tie: float
    azimuth: float
    distance: float
    anchor: float
    force: float
    tackle: Tackle | None = None

    def __post_init__(self) -> None:
        """Refuse a line that goes nowhere."""
        hold(self, PullEntry, said="pull_{}")


_UNSAID = Tackle()


@dataclass(frozen=True, slots=True, kw_only=True)
class Guy:
    """A guy line: tie above the ground [m], anchor by bearing [rad], distance and height [m], what it may carry [N].

    ``tended`` means someone lets it out on the plan's word; ``taut`` that it is set before the back cut. ``tackle`` is
    what it is made of.
    """

    tie: float
    azimuth: float
    distance: float
    anchor: float = 0.0
    limit: float = 10e3
    tended: bool = False
    taut: bool = False
    tackle: Tackle = _UNSAID

    def __post_init__(self) -> None:
        """Refuse a line that goes nowhere."""
        hold(self, GuyEntry, said="guy_{}")

    def line(self, force: float) -> Pull:
        """Return it as a line under a tension.

        Parameters
        ----------
        force : float
            Tension. [N]
        """
        return Pull(
            tie=self.tie,
            azimuth=self.azimuth,
            distance=self.distance,
            anchor=self.anchor,
            force=force,
            tackle=self.tackle,
        )
