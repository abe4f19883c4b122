"""What a button, a drag, an arrow key or typing on the takedown bench does to the picks."""

import math

from apps.takedown import planner
from apps.takedown.forms import CutForm, PickForm, entry_of
from cantrel.drawing import metres

DRAGS = ("tie", "cut", "point", "stance", "tie_in", "lead", "second_in", "landing", "device", "faces")


def changed(data, seen, stored, view, system):
    """Picks, which is picked, from where it is seen, and whether its panel is drawn anew; a form where typing is refused."""
    picks = [dict(p) for p in stored]
    picked = int(data.get("picked") or -1)
    act, _, rest = data.get("handle", "").partition(" ")
    if act in LOOKS:
        return (picks, *LOOKS[act](picked, rest, view))
    if act in ORDERS:
        return (*ORDERS[act](seen, picks, picked, rest), view, True)
    if act == "add":
        return (*_added(data, seen, picks, system), view, True)
    if 0 <= picked < len(picks) and "at_m" in data:
        form = PickForm(data, units=system, choices=planner.choices(seen), entry=picks[picked])
        if not form.is_valid():
            return form, picked, view, False
        picks[picked] = planner.with_usual_point(seen, entry_of(form.cleaned_data, picks[picked]))
    if act in DRAGS:
        row = planner.run(seen, picks)[picked]
        picks[picked] = picks[picked] | planner.dragged(seen, row, act, view, *_spot(data))
    if act == "place":
        return (*_placed(data, seen, picks, view), view, True)
    return picks, picked, view, False


LOOKS = {
    "pick": lambda picked, rest, view: (int(rest), view, True),
    "near": lambda picked, rest, view: (picked, view, False),
    "order": lambda picked, rest, view: (picked, view, False),
    "leave-order": lambda picked, rest, view: (picked, view, False),
    "turn": lambda picked, rest, view: (picked, view + math.radians(float(rest)), False),
}


def _moved(seen, picks, picked, rest):
    i, j = (int(v) for v in rest.split())
    if not 0 <= j < len(picks):
        return picks, picked
    picks.insert(j, picks.pop(i))
    return picks, j


def _up(seen, picks, picked, rest):
    return _moved(seen, picks, picked, f"{rest} {int(rest) - 1}")


def _down(seen, picks, picked, rest):
    return _moved(seen, picks, picked, f"{rest} {int(rest) + 1}")


def _dropped(seen, picks, picked, rest):
    picks.pop(int(rest))
    return picks, min(int(rest), len(picks) - 1)


def _ordered(seen, picks, picked, rest):
    """The second press takes the order that the first one showed; it is worked out again from the same picks."""
    return [picks[i] for i in planner.proposal(seen, picks).order], 0


ORDERS = {"move": _moved, "up": _up, "down": _down, "drop": _dropped, "take-order": _ordered}


def _placed(data, seen, picks, view):
    """A new pick where the tree was touched."""
    standing = planner.left_standing(seen, planner.run(seen, picks))
    member, at = planner.placed(seen, standing, view, *metres(data["frame"], data["x"], data["y"]))
    picks.append(planner.new_pick(seen, picks, member, at))
    return picks, len(picks) - 1


def _added(data, seen, picks, system):
    """A new pick of a typed cut; the form where it is refused."""
    form = CutForm(data, units=system, members=planner.choices(seen)["members"])
    if not form.is_valid():
        return form, -1
    new = planner.new_pick(seen, picks, form.cleaned_data["new_member"], form.cleaned_data["new_at_m"])
    error = planner.run(seen, [*picks, new])[-1]["error"]
    if error:
        form.refuse(error)
        return form, -1
    return [*picks, new], len(picks)


def _spot(data):
    """Where a handle was put, in metres; arrow keys move it by a quarter metre."""
    if "dx" not in data:
        return metres(data["frame"], data["x"], data["y"])
    x, z = metres(data["frame"], *(float(v) for v in data["at"].split(",")))
    return x + 0.25 * float(data["dx"]), z + 0.25 * float(data["dy"])
