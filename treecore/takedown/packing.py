"""What to pack for a list of picks: every item by its uses, the longest need of every rope, what nobody chose."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from treecore.rigging.gear import Item
from treecore.takedown.pick_result import HeldPick, Worked

_ROPES = ("rope", "tag", "leg")
_ASKED = ("rope", "sling", "block")  # what every pick on a line is held by


class Packed(NamedTuple):
    """An item of the store: in which roles, for which picks by number, and of a rope its longest need [m], of which
    pick, and what is left of its own length then [m]; None where that is not known.
    """

    item: Item
    roles: tuple[str, ...]
    picks: tuple[int, ...]
    longest: float | None = None
    of_pick: int | None = None

    @property
    def spare(self) -> float | None:
        """What is left of a rope at its longest need [m]; below nothing it has to be joined, or another taken."""
        if self.longest is None or self.item.length is None:
            return None
        return self.item.length - self.longest


class Packing(NamedTuple):
    """What to pack, and what nobody chose: role and the numbers of its picks."""

    items: tuple[Packed, ...]
    lacking: tuple[tuple[str, tuple[int, ...]], ...]


def packing(picks: Sequence[Worked | None]) -> Packing:
    """Return what a list of picks takes from the store.

    Parameters
    ----------
    picks : sequence of Worked
        In their order; None for one that is refused.
    """
    uses: dict[str, tuple[Item, list[str], list[int]]] = {}
    needs: dict[str, tuple[float, int]] = {}
    lacking: dict[str, list[int]] = {}
    for number, worked in enumerate(picks, start=1):
        if not isinstance(worked, HeldPick):
            continue
        for role, item in worked.pick.gear.items():
            _, roles, numbers = uses.setdefault(item.name, (item, [], []))
            roles += [role] if role not in roles else []
            numbers += [number] if number not in numbers else []
        for role in _ASKED:
            if role not in worked.pick.gear and not (role != "rope" and worked.pick.on.fork):
                lacking.setdefault(role, []).append(number)
        rope = worked.pick.gear.get("rope")
        if rope is not None:
            needs[rope.name] = max(needs.get(rope.name, (0.0, 0)), (worked.forces.needed, number))
    items = [
        Packed(item, tuple(roles), tuple(numbers), *needs.get(name, (None, None)))
        for name, (item, roles, numbers) in uses.items()
    ]
    items.sort(key=lambda packed: (not set(packed.roles) & set(_ROPES), packed.item.kind, packed.item.name))
    return Packing(tuple(items), tuple((role, tuple(numbers)) for role, numbers in lacking.items()))
