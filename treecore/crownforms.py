"""Forms of a crown, from ``data/crown_forms.csv``: the one place that says how wide a crown is at a height."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import cache

from treecore.tables import rows


@dataclass(frozen=True, slots=True)
class CrownForm:
    """One form: assumed limbs in ``levels`` of ``whorl`` each, their rise at the foot and at the top [rad].

    ``fill`` is the share of depth times spread the outline covers, ``middle`` the height of its middle over the depth
    [-]; ``outline`` height over the depth and half width over half the spread, from the foot up [-].
    """

    key: str
    name: str
    levels: int
    whorl: int
    rise: tuple[float, float]
    fill: float
    middle: float
    outline: tuple[tuple[float, float], ...]
    source: str

    def half_width(self, share: float) -> float:
        """Half width over half the spread at a height in the crown [-].

        Parameters
        ----------
        share : float
            Height over the crown's depth, 0 at its foot. [-]
        """
        for (low, narrow), (high, wide) in itertools.pairwise(self.outline):
            if share <= high:
                return narrow + (wide - narrow) * (max(share, low) - low) / (high - low)
        return self.outline[-1][1]


@cache
def crown_forms() -> dict[str, CrownForm]:
    """Return every form by key."""
    return {
        r["key"]: CrownForm(
            r["key"],
            r["name"],
            int(r["levels"]),
            int(r["whorl"]),
            (float(r["rise_low"]), float(r["rise_high"])),
            float(r["fill"]),
            float(r["middle"]),
            _outline(r["outline"]),
            r["source"],
        )
        for r in rows("crown_forms")
    }


def _outline(text: str) -> tuple[tuple[float, float], ...]:
    pairs = (pair.split(":") for pair in text.split())
    return tuple((float(height), float(width)) for height, width in pairs)
