"""How trees of a kind grow, for the drawing alone: nothing computed stands on it."""

from __future__ import annotations

from typing import NamedTuple


class Habit(NamedTuple):
    """A kind's way of growing.

    ``bow`` raises (arches) or lowers (turns up) the middle of a limb, as a share of its length; ``crook`` bends it to
    and fro; ``shoots`` side shoots on a limb, leaving it by ``split`` [rad] and ``share`` of its length long; ``lift``
    turns their ends up or down; ``leaf`` is the way foliage is drawn.
    """

    bow: float
    crook: float
    shoots: int
    split: float
    share: float
    lift: float
    leaf: str


BROAD = Habit(-0.05, 0.03, 6, 0.75, 0.46, 0.12, "leaf")
OAK = Habit(-0.06, 0.05, 7, 0.95, 0.5, 0.1, "leaf")
FINE = Habit(0.05, 0.02, 7, 0.6, 0.42, -0.25, "fine")
WEEPING = Habit(0.06, 0.02, 6, 0.7, 0.4, -0.9, "hang")
UPRIGHT = Habit(-0.05, 0.02, 6, 0.5, 0.42, 0.3, "leaf")
SPRAY = Habit(0.05, 0.01, 8, 0.8, 0.3, -0.3, "spray")
PLATE = Habit(-0.06, 0.06, 6, 0.8, 0.42, 0.25, "plate")

BY_GENUS = {
    "Quercus": OAK, "Castanea": OAK, "Robinia": OAK, "Juglans": OAK, "Platanus": OAK,
    "Betula": FINE, "Alnus": FINE, "Gleditsia": FINE, "Sorbus": FINE, "Larix": FINE,
    "Salix": WEEPING, "Populus": UPRIGHT, "Carpinus": UPRIGHT, "Liriodendron": UPRIGHT,
    "Pinus": PLATE,
}  # fmt: skip


def habit_of(scientific: str, form: str) -> Habit:
    """The habit of a kind: its genus's, else its form's."""
    genus = scientific.split(" ", maxsplit=1)[0]
    return BY_GENUS.get(genus, SPRAY if form == "cone" else BROAD)
