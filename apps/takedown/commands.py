"""What a button, a drag, an arrow key or typing on the takedown bench does to the picks; each pick
is named by its id.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.takedown import planner
from apps.takedown.forms import CutForm, PickForm, as_typed
from cantrel.border import Unreadable, finite, metres, number, place, whole_number, word
from cantrel.forms import filled
from cantrel.revisions import merged

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import QueryDict

    from apps.takedown.planner import Scene

DRAGS = ("tie", "cut", "point", "stance", "tie_in", "redirect", "second_in", "landing", "device", "faces")


class Gone(Exception):
    """A pick that somebody else took off the list, or changed since, so that it can't be taken off unseen."""


class Clash(Exception):
    """Keys of a pick that two people changed in different ways, and the form one of them sent."""

    def __init__(self, form: PickForm, keys: tuple[str, ...]) -> None:
        super().__init__("two people changed the same field")
        self.form, self.keys = form, keys


def whole(data: QueryDict, scene: Scene, base: list[dict[str, Any]], system: str) -> QueryDict:
    """What a page sent, with the fields of its pick that nobody touched there as it showed them."""
    place = index_of(base, _named(data.get("pick") or data.get("picked", ""), base))
    if "changed" not in data or place is None:
        return data
    return filled(data, PickForm(units=system, choices=scene.choices, entry=base[place]))


def changed(
    data: QueryDict, scene: Scene, stored: list[dict[str, Any]], base: list[dict[str, Any]], view: float, system: str
) -> tuple[Any, ...]:
    """What a page's change comes to, with what it changes of the set-ups the picks are taken on."""
    found = _changed(data, scene, stored, base, view, system)
    return found if isinstance(found[0], PickForm | CutForm) else (planner.on_setups(stored, found[0]), *found[1:])


def _changed(
    data: QueryDict, scene: Scene, stored: list[dict[str, Any]], base: list[dict[str, Any]], view: float, system: str
) -> tuple[Any, ...]:
    """Picks, the id of the picked one, from where it is scene, and whether its panel is drawn anew; a form where typing
    is refused.

    ``base`` are the picks as the page that was sent knew them.
    """
    picks = [dict(p) for p in stored]
    picked = _named(data.get("pick") or data.get("picked", ""), base)
    act, _, rest = data.get("handle", "").partition(" ")
    if act in (*ORDERS, "pick") and act != "lay-take":
        rest = " ".join(_named(name, base) for name in rest.split())
    if act in LOOKS:
        return (picks, *LOOKS[act](picked, rest, view))
    if act in ORDERS:
        return (*ORDERS[act](scene, picks, base, picked, rest), view, True)
    if act == "add":
        return (*_added(data, scene, picks, system), view, True)
    place, panel = index_of(picks, picked), False
    if place is None and picked and index_of(base, picked) is not None and "at_m" in data:
        msg = gettext("Somebody took this pick off the list meanwhile; what you typed is still here.")
        raise Gone(msg)
    if place is not None and "at_m" in data:
        before = base[index_of(base, picked)] if index_of(base, picked) is not None else picks[place]
        form = PickForm(data, units=system, choices=scene.choices, entry=before)
        if not form.is_valid():
            return form, picked, view, False
        old = picks[place]
        picks[place] = planner.with_usual_point(scene, _merged(form, before, old))
        picks[place] = planner.with_method(scene, picks, place, old)
        panel = picks[place].get("method") != old.get("method")
    if act in DRAGS and place is not None:
        row = planner.work_out(scene, picks)[place]
        picks[place] = picks[place] | planner.dragged(scene, row, act, view, *_spot(data))
    if act == "mend" and place is not None:
        words = rest.split()
        row = planner.work_out(scene, picks)[place]
        picks[place] = planner.mend_taken(scene, row, list(zip(words[::2], words[1::2], strict=False)))
        return picks, picked, view, True
    if act == "setup" and place is not None:
        picks[place] = picks[place] | {"setup": rest}
        return picks, picked, view, True
    if act == "place":
        return (*_placed(data, scene, picks, view), view, True)
    return picks, picked, view, panel


def index_of(picks: list[dict[str, Any]], name: str) -> int | None:
    """Place of a pick in the order by its id; None where it is not."""
    return next((i for i, p in enumerate(picks) if p.get("id") == name), None)


def _named(name: str, base: list[dict[str, Any]]) -> str:
    """Id of a pick; a number counts in the list as the page that was sent knew it."""
    number = whole_number(name, 0, len(base))
    if number is None:
        return name
    return base[number]["id"] if number < len(base) else ""


def _merged(form: PickForm, before: dict[str, Any], now: dict[str, Any]) -> dict[str, Any]:
    """A typed pick put together with what others changed of it meanwhile."""
    sent = form.taken()
    if before == now:
        return sent
    found = merged(as_typed(form, before), as_typed(form, now), sent)
    if found.conflicts:
        raise Clash(form, tuple(found.conflicts))
    return found.values


LOOKS = {
    "pick": lambda picked, rest, view: (rest, view, True),
    "near": lambda picked, rest, view: (picked, view, False),
    "order": lambda picked, rest, view: (picked, view, False),
    "leave-order": lambda picked, rest, view: (picked, view, False),
    "turn": lambda picked, rest, view: (picked, view + math.radians(finite(rest)), False),
}


def _moved(
    scene: Scene, picks: list[dict[str, Any]], base: list[dict[str, Any]], picked: str, rest: str
) -> tuple[list[dict[str, Any]], str]:
    """A pick taken to the place of another."""
    name, _, before = rest.partition(" ")
    i, j = index_of(picks, name), index_of(picks, before)
    if i is None or j is None:
        msg = gettext("One of these picks is no longer on the list.")
        raise Gone(msg)
    picks.insert(j, picks.pop(i))
    return picks, name


def _shifted(by: int) -> Callable[..., Any]:
    def shift(scene: Any, picks: Any, base: Any, picked: Any, rest: Any) -> Any:
        i = index_of(picks, rest)
        if i is None:
            msg = gettext("This pick is no longer on the list.")
            raise Gone(msg)
        if 0 <= i + by < len(picks):
            picks.insert(i + by, picks.pop(i))
        return picks, rest

    return shift


def _dropped(
    scene: Scene, picks: list[dict[str, Any]], base: list[dict[str, Any]], picked: str, rest: str
) -> tuple[list[dict[str, Any]], str]:
    """A pick taken off the list, unless somebody changed it since it was scene."""
    i, known = index_of(picks, rest), index_of(base, rest)
    if i is None:
        return picks, picked
    if known is None or base[known] != picks[i]:
        msg = gettext("Somebody changed this pick since you saw it: look at it again before you take it off.")
        raise Gone(msg)
    picks.pop(i)
    left = picks[min(i, len(picks) - 1)]["id"] if picks else ""
    return picks, left


def _ordered(
    scene: Scene, picks: list[dict[str, Any]], base: list[dict[str, Any]], picked: str, rest: str
) -> tuple[list[dict[str, Any]], str]:
    """The second press takes the order that the first one showed; it is worked out again from the same picks."""
    if picks != list(base):
        msg = gettext("The list changed since this order was shown: have it proposed again.")
        raise Gone(msg)
    ordered = [picks[i] for i in planner.proposal(scene, picks).order]
    return ordered, ordered[0]["id"] if ordered else ""


def _laid(
    scene: Scene, picks: list[dict[str, Any]], base: list[dict[str, Any]], picked: str, rest: str
) -> tuple[list[dict[str, Any]], str]:
    """Picks that were laid out, put behind those there are."""
    laid = planner.laid_under(scene, picks, rest)
    return [*picks, *laid.entries], laid.entries[0]["id"] if laid.entries else picked


ORDERS = {
    "move": _moved,
    "up": _shifted(-1),
    "down": _shifted(1),
    "drop": _dropped,
    "take-order": _ordered,
    "lay-take": _laid,
}


def _placed(
    data: QueryDict, scene: Scene, picks: list[dict[str, Any]], view: float
) -> tuple[list[dict[str, Any]], str]:
    """A new pick where the tree was touched."""
    standing = planner.left_standing(scene, planner.work_out(scene, picks))
    member, at = planner.placed(scene, standing, view, *place(data))
    picks.append(planner.new_pick(scene, picks, member, at))
    return picks, picks[-1]["id"]


def _added(data: Any, scene: Any, picks: Any, system: str) -> Any:
    """A new pick of a typed cut; the form where it is refused."""
    form = CutForm(data, units=system, members=scene.choices["members"])
    if not form.is_valid():
        return form, ""
    new = planner.new_pick(scene, picks, form.cleaned_data["new_member"], form.cleaned_data["new_at_m"])
    error = planner.work_out(scene, [*picks, new])[-1].error
    if error:
        form.refuse(error)
        return form, ""
    return [*picks, new], new["id"]


def _spot(data: QueryDict) -> tuple[float, float]:
    """Where a handle was put, in metres; arrow keys move it by a quarter metre."""
    if "dx" not in data:
        return place(data)
    at = word(data, "at").split(",")
    if len(at) != 2:
        raise Unreadable
    x, z = metres(word(data, "frame"), *at)
    return x + 0.25 * number(data, "dx"), z + 0.25 * number(data, "dy")
