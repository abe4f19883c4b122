"""Where a pick begins, and which small changes of it pass: entries proposed, each worked out whole like any other."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from itertools import combinations
from typing import Any, NamedTuple

from treecore.errors import NotSolvable
from treecore.formats.takedown_entry import ROLES, USUAL, PickRow
from treecore.rigging.friction import devices
from treecore.schools import constant
from treecore.takedown.aiming import usual_point
from treecore.takedown.laying_out import stance_for
from treecore.takedown.members import Members, is_upright
from treecore.takedown.pick import RigPoint, methods
from treecore.takedown.pieces import Cut, Piece, Taken
from treecore.units import GRAVITY
from treecore.verdict import Verdict, limit_kinds

Entry = dict[str, Any]

# What a pick never takes over from another: its own place, its own findings and words.
_OWN = {"id", "name", "member", "at_m", "weighed_kg", "balanced_m", "note", "climber", "point", "second_tie_m"}
_LINE = {"line_m", "based", "lanyard", "fallback"}
_GEAR = {"device_kind", "device_at", "device_on", "knot", "sling_as", "design_school", *ROLES}
HELPFUL = 6  # single changes that are tried two by two
_FIRST: dict[str, Entry] = {"toss": {"cut": "top"}, "butt": {}, "negative": {"tie_m": 0.4, "held": "run", "run_m": 0.5}}


def begun(members: Members, step: Taken, before: Sequence[Entry], gear: Entry) -> Entry:
    """Return the entry a pick begins from: as the last one of its kind was taken, else the usual way of its kind.

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        Its piece, and what stands after.
    before : sequence of mapping
        Entries of the picks before it.
    gear : mapping
        Roles of gear and their items where no pick before says any.

    References
    ----------
    docs/methods.md, takedown (11). Own choices to begin from; every limit holds them like anything typed.
    """
    piece = step.piece
    way = _kind(members, piece)
    alike = next((e for e in reversed(before) if _kind_said(e) == _KINDS[way]), None)
    kept = {k: v for k, v in (alike or {}).items() if k not in _OWN}
    if alike is None:
        last = before[-1] if before else {}
        kept = {**gear, **{k: v for k, v in last.items() if k in _GEAR}, "method": way, **_FIRST[way]}
    entry = {**USUAL, **kept, "member": piece.cut.member, "at_m": piece.cut.at}
    if way == "negative" and entry.get("bearing_deg") is None:  # as it leans, where nobody said another way
        entry["bearing_deg"] = float(round(_lies(piece)) % 360)
    entry |= _pointed(members, piece, entry, alike)
    if alike is None or entry.get("point") != alike.get("point"):  # another rigging than its set-up
        entry.pop("setup", None)
    if methods()[entry["method"]].lines and "point" not in entry:  # nothing is left to hang it from
        entry["method"] = "free"
    return entry | {"climber": _climbing(members, step, before)}


def _lies(piece: Piece) -> float:
    """Bearing a piece points to as it stands [°]."""
    return math.degrees(math.atan2(piece.way[0], piece.way[1]))


_KINDS = {"toss": "hand", "butt": "limb", "negative": "section"}


def _kind(members: Members, piece: Piece) -> str:
    """How a piece is usually taken: small ones by hand, limbs from above, upright pieces from below."""
    if piece.mass.high * GRAVITY <= constant("hand_hold").low:
        return "toss"
    return "negative" if is_upright(members, piece.row) else "butt"


def _kind_said(entry: Entry) -> str:
    way = methods()[str(entry.get("method", USUAL["method"]))]
    return "hand" if way.lines == 0 else "section" if way.point == "below" else "limb"


def _pointed(members: Members, piece: Piece, entry: Entry, alike: Entry | None) -> Entry:
    """The rigging point: the one of the pick before where it still is above the cut on the same wood, else the usual
    one.
    """
    way = methods()[entry["method"]]
    if way.lines == 0:
        return {}
    usual = usual_point(members, piece.cut, way) or _on_parent(members, piece)
    old = (alike or {}).get("point") or {}
    if way.point == "above" and usual and old.get("member") == usual.member and old["at_m"] >= usual.at:
        return {"point": dict(old)}
    kept = {k: v for k, v in old.items() if k == "fork"}
    return {"point": {**kept, "member": usual.member, "at_m": usual.at}} if usual else {}


def _on_parent(members: Members, piece: Piece) -> RigPoint | None:
    """A rigging point under the union, for the last piece of a lead."""
    parent = members.parent[piece.row]
    at = float(members.at[piece.row]) - constant("point_below").value
    return RigPoint(member=members.names[parent], at=round(at, 2)) if parent >= 0 and at > 0.0 else None


def _climbing(members: Members, step: Taken, before: Sequence[Entry]) -> Entry:
    """The climber: at the cut, on the same line as before."""
    last: Entry = next((e["climber"] for e in reversed(before) if e.get("climber")), {})
    found = stance_for(members, step.after, step.piece)
    here = {"stance_member": found.member, "stance_m": found.at, "tie_member": found.tie_member, "tie_m": found.tie_at}
    return {"line_m": 45.0, "lanyard": True, **{k: v for k, v in last.items() if k in _LINE}, **here}


_LAST = 0.8  # where a line at the tips is tied, of the piece's length [-]
_LEG, _FAR_LEG = 0.6, 0.4  # where a bridle's legs are tied: of the way to the balance, and of what lies beyond it [-]


def as_method(members: Members, piece: Piece, entry: Entry, method: str) -> Entry:
    """Return what of a pick's entry another method changes to begin with: where it is tied and hung, how it is cut.

    Near balance ties at the edge of the tie zone, a bridle's legs on either side of the balance with a step cut,
    a section from below hangs from a sling under its cut.

    Parameters
    ----------
    members : Members
        The tree's members.
    piece : Piece
        What the cut takes off.
    entry : mapping
        The pick's entry as it was.
    method : str
        The method it is to be taken by.

    References
    ----------
    docs/methods.md, takedown (12). Own choices to begin from; every limit holds them like anything typed.
    """
    way, low, long = methods()[method], piece.balance.low, piece.length
    beyond = piece.balance.high + _FAR_LEG * max(long - piece.balance.high, 0.0)
    by_method: dict[str, Entry] = {
        "toss": {"cut": "top"},
        "butt": {"tie_m": min(0.5, _down(0.5 * long)), "cut": "hinge"},
        "tip": {"tie_m": _down(_LAST * long)},
        "both": {"tie_m": min(0.5, _down(0.5 * long)), "second_tie_m": _down(_LAST * long)},
        "balance": {"tie_m": _down(low)},
        "bridle": {"tie_m": _down(_LEG * low), "second_tie_m": _down(beyond), "cut": "step"},
        "negative": {**_FIRST["negative"], "cut": "hinge"},
        "lift": {"tie_m": _down(piece.balance.value)},
        "crane": {"tie_m": _down(piece.balance.value)},
    }
    patch = dict(by_method.get(method, {}))
    if method not in ("both", "bridle") and entry.get("second_tie_m") is not None:
        patch["second_tie_m"] = None
    usual = usual_point(members, piece.cut, way) or (_on_parent(members, piece) if way.lines else None)
    now = methods()[str(entry.get("method", USUAL["method"]))]
    if usual and (now.point != way.point or not entry.get("point")):
        patch["point"] = {"member": usual.member, "at_m": usual.at}
    return patch


def _down(metres: float) -> float:
    """A place along a piece to a tenth of a metre, never beyond it."""
    return math.floor(10.0 * metres + 1e-9) / 10.0


class Trial(NamedTuple):
    """A changed pick: what was changed by how much, key by key; the entry; the pick worked out; what it costs: 0
    rope work, 1 a place moved, 2 two things, from 3 one more pick.
    """

    changes: tuple[tuple[str, float | str], ...]
    entry: Entry
    row: PickRow
    cost: int

    @property
    def passes(self) -> bool:
        """Whether nothing of it is refused, over a limit or not known."""
        return self.score[0] == 0

    @property
    def score(self) -> Score:
        """What is wrong with it."""
        return scored(self.row)


Score = tuple[int, int, tuple[float, ...]]


def scored(row: PickRow) -> Score:
    """What is wrong with a pick: how many limits are over or not known, how many near, and the order of the gravest.

    Parameters
    ----------
    row : PickRow
        The pick worked out.
    """
    if row.error is not None:
        return len(limit_kinds()), 0, (math.inf,)
    bad = sum(x.verdict in (Verdict.OVER, Verdict.NOT_KNOWN) for x in row.limits)
    near = sum(x.verdict is Verdict.NEAR for x in row.limits)
    return bad, near, max((x.order for x in row.limits), default=(0.0,))


def mends(
    members: Members, entry: Entry, now: PickRow, worked: Callable[[Entry], PickRow], most: int = 3
) -> tuple[Trial, ...]:
    """Search the nearest changes that mend a pick, the cheapest first; fewer where there are none.

    Single changes first, then two of the most helpful together.

    Parameters
    ----------
    members : Members
        The tree's members.
    entry : mapping
        The pick's entry.
    now : PickRow
        It worked out.
    worked : callable
        Works an entry out on the same tree.
    most : int
        How many to return.

    References
    ----------
    docs/methods.md, takedown (11). Each is worked out whole; nothing is extrapolated.
    """
    if now.step is None:
        return ()
    single: list[tuple[_Change, Trial]] = []
    for change in sorted(_changes(members, entry, now), key=lambda c: c.cost):
        single.append((change, _trial(entry, (change,), worked)))
        if len(_distinct([trial for _, trial in single if trial.passes])) == most:
            break
    better = sorted((row for row in single if row[1].score < scored(now)), key=lambda row: row[1].score)
    found = [trial for _, trial in better if trial.passes]
    if len(_distinct(found)) < most:
        helpful = list({change.key: change for change, _ in reversed(better)}.values())[-HELPFUL:]
        pairs = [_trial(entry, pair, worked) for pair in combinations(helpful, 2)]
        found += [trial for trial in pairs if trial.passes]
    return tuple(_distinct(sorted(found, key=lambda t: (t.cost, *t.score)))[:most])


class _Change(NamedTuple):
    key: str
    amount: float | str
    patch: Entry
    cost: int


def _patched(entry: Entry, patch: Entry) -> Entry:
    """An entry with a change put in; of a place only what the change says otherwise."""
    return entry | {k: {**entry[k], **v} if isinstance(v, dict) and entry.get(k) else v for k, v in patch.items()}


def _trial(entry: Entry, changes: Sequence[_Change], worked: Callable[[Entry], PickRow]) -> Trial:
    new = entry
    for change in changes:
        new = _patched(new, change.patch)
    cost = max(c.cost for c in changes) + len(changes) - 1
    return Trial(tuple((c.key, c.amount) for c in changes), new, worked(new), cost)


def _distinct(trials: Sequence[Trial]) -> list[Trial]:
    """The first of each kind of change."""
    found: dict[frozenset[str], Trial] = {}
    for trial in trials:
        found.setdefault(frozenset(key for key, _ in trial.changes), trial)
    return list(found.values())


def _changes(members: Members, entry: Entry, now: PickRow) -> Iterator[_Change]:
    """Changes of one thing each: what, by how much, what of the entry, what it costs."""
    full = {**USUAL, **entry}
    way = methods()[full["method"]]
    if now.step is None:
        return
    piece = now.step.piece
    if way.lines:
        yield from _on_the_rope(full, piece)
        yield from _point_moved(members, full)
    yield from _turned(full, piece)
    if full.get("climber"):
        yield from _climber_moved(members, full)
    if way.lines and is_upright(members, piece.row):
        yield _Change("method", "free", {"method": "free"}, 1)
    if way.lines == 0 and way.point == "none":
        above = usual_point(members, Cut(full["member"], full["at_m"]), methods()["butt"])
        if above:
            yield _Change("method", "butt", {"method": "butt", "point": {"member": above.member, "at_m": above.at}}, 1)
    for share in (0.3, 0.5):
        if piece.length * (1.0 - share) > 0.5:
            at = round(full["at_m"] + share * piece.length, 1)
            yield _Change("shorter", round(at - full["at_m"], 2), {"at_m": at}, 3)


def _on_the_rope(entry: Entry, piece: Piece) -> Iterator[_Change]:
    if not devices()[entry["device_kind"]].settings:
        for more in (0.5, 1.0, 1.5, 2.0, 2.5, -0.5, -1.0):
            wraps = entry["wraps"] + more
            if wraps >= 0.5:
                yield _Change("wraps", wraps, {"wraps": wraps}, 0)
    if entry["held"] != "run":
        yield _Change("held", "run", {"held": "run"}, 0)
    for run in (0.3, 1.0, 2.5):
        if run != entry["run_m"]:
            yield _Change("run", run, {"held": "run", "run_m": run}, 0)
    for tie in (0.3, 0.5, round(0.8 * piece.balance.value, 1), round(piece.balance.value, 1)):
        if 0.1 < tie < piece.length and abs(tie - entry["tie_m"]) > 0.05:
            yield _Change("tie", tie, {"tie_m": tie}, 0)


def _point_moved(members: Members, entry: Entry) -> Iterator[_Change]:
    point = entry.get("point") or {}
    row = members.rows.get(point.get("member", "?"), -1)
    if row < 0:
        return
    for more in (-1.0, 1.0, 2.0, 3.0):
        at = round(point["at_m"] + more, 2)
        if 0.5 < at < members.end[row]:
            yield _Change("point", at, {"point": {"at_m": at}}, 1)


def _turned(entry: Entry, piece: Piece) -> Iterator[_Change]:
    now = entry["bearing_deg"] if entry.get("bearing_deg") is not None else _lies(piece)
    turns = (
        (20, -20, 45, -45, 90, -90, 135, -135, 180) if piece.slope > constant("upright").value else (20, -20, 45, -45)
    )
    for turn in turns:
        bearing = round(now + turn) % 360
        yield _Change("faces", float(bearing), {"bearing_deg": bearing}, 0)


def _climber_moved(members: Members, entry: Entry) -> Iterator[_Change]:
    climber = entry["climber"]
    side = climber.get("side_deg")
    for bearing in (0, 45, 90, 135, 180, 225, 270, 315):
        if side is None or abs(bearing - side) > 1:
            yield _Change("side", float(bearing), {"climber": {"side_deg": bearing}}, 0)
    row = members.rows.get(climber.get("tie_member", "?"), -1)
    if row >= 0 and not climber.get("tie_tree"):
        for more in (-4.0, -2.0, -1.0, 1.0):
            at = round(climber["tie_m"] + more, 2)
            if 0.5 < at < members.end[row]:
                yield _Change("tie_in", at, {"climber": {"tie_m": at}}, 1)
    for more in (-0.5, 0.3):
        at = round(climber["stance_m"] + more, 2)
        if at >= 0.0:
            yield _Change("stance", at, {"climber": {"stance_m": at}}, 1)


def taken(members: Members, entry: Entry, now: PickRow, wanted: Sequence[tuple[str, str]]) -> Entry:
    """Return a pick with changes of the search put in, named by key and amount as they were offered.

    Parameters
    ----------
    members : Members
        The tree's members.
    entry : mapping
        The pick's entry.
    now : PickRow
        It worked out.
    wanted : sequence of (str, str)
        Keys and amounts, as written.

    Raises
    ------
    NotSolvable
        If one of them is none of the changes of this pick any more.
    """
    offered = {(c.key, str(c.amount)): c.patch for c in _changes(members, entry, now)}
    for one in wanted:
        if one not in offered:
            raise NotSolvable(what="pick", why="it changed since this was offered: look at the changes again")
        entry = _patched(entry, offered[one])
    return entry
