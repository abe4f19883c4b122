"""The plan as the crew's numbered steps: what was chosen decides which there are; each says where to stop and look."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from cantrel.quantities import text

if TYPE_CHECKING:
    from collections.abc import Callable

    from apps.felling.bench_planner import Worked
    from treecore.felling.evaluate import Thinning
    from treecore.felling.inputs import FellingInput
    from treecore.felling.plan import FellingResult

SAW_STEPS = {
    "notch_sloping": "Notch: sloping cut first, to {depth} deep.", "notch_level": "Notch: level cut to meet it on one "
    "line; aim {lay}.",
    "nicks": "Nick bark and sapwood at both ends of the hinge.",
    "back": "Back cut level, {rise} above the apex, straight in to a hinge {hinge}. Never through.",
    "compression": "Back cut, compression side first, level, {rise} above the apex, to the hinge and just past the "
                   "middle.",
    "tension": "Finish on the tension side, from where the escape is, to a hinge {hinge}. Never through.",
    "far_half": "Back cut, far half, level, {rise} above the apex, to the hinge and just past the middle.",
    "near_half": "Back cut, near half, to a hinge {hinge}, meeting the first. Never through.",
    "bore": "Bore in behind the hinge with the lower part of the bar's tip; set the hinge {hinge}, saw back, leave "
            "the strap.",
    "trigger": "Look all round once more, call, and cut the strap from the escape side.",
    "centre": "Bore through the middle of the notch into the stem, no wider than a third of the hinge.",
}  # fmt: skip
LOOKS = {
    "notch_sloping": "Look along the sights to the lay.",
    "notch_level": "Stop and look: clean apex on both ends, sights on the lay from both sides of the bar; walk out "
                   "along the lay and look back.",
    "bore": "Stop: look up and round, wedges in, everyone answers.",
    "centre": "Stop and look: the hinge stands whole on both sides of the bore.",
}  # fmt: skip
BEFORE_THE_BACK = ("notch_sloping", "notch_level", "nicks")
LOOK = "Stop and look: both ends of the hinge, the top, the people."


def steps(worked: Worked, system: str) -> list[str]:
    """The crew's steps in order, with this plan's figures."""
    given, result = worked

    def said(value: float, dimension: str):
        return text(value, dimension, system)

    side = worked.escape
    better = "" if side != result.ground.better_escape else "; it is the better one"
    return [
        f"Close the zone at {said(result.ground.zone_radius, 'length')}; guards call clear. Everyone may say stop.",
        f"Walk the {side} escape path{better}. Look up once more.",
        *_lines(given, said),
        *_sawing(worked, said),
        *_tipping(worked, said),
        f"When it moves, leave by the {side} path and keep looking up until it lies still.",
    ]


def _lines(given: FellingInput, said: Callable[..., Any]) -> list[str]:
    out = []
    if given.pull:
        out.append(
            f"Tie the line {said(given.pull.tie, 'length')} up, anchor {said(given.pull.distance, 'length')} off, "
            f"taut but not hard."
        )
    if given.system:
        parts = ", then ".join(f"{r.name}: {' – '.join(r.path)}" for r in given.system.ropes)
        out.append(
            f"Rig the pull {said(given.system.tie, 'length')} up ({parts}). Taut but not hard. Nobody in the bight or "
            f"behind an anchor."
        )
    if given.guy:
        taut = " Taut before the back cut." if given.guy.taut else ""
        tended = taut + (" Someone lets it out on the word as it falls." if given.guy.tended else " It is made fast.")
        out.append(
            f"Set the guy line {said(given.guy.tie, 'length')} up, anchor {said(given.guy.distance, 'length')} off, "
            f"square to the lay.{tended}"
        )
    return out


def _sawing(worked: Worked, said: Callable[..., Any]) -> list[str]:
    given, result = worked
    cuts = given.cuts
    values = {
        "depth": said(cuts.depth, "cut"),
        "lay": said(given.lay, "angle"),
        "rise": said(cuts.rise, "cut"),
        "hinge": _hinge(given, result, said),
    }
    rows = worked.cuts
    out = [f"The cuts: notch open {said(cuts.opening, 'angle')}, apex {said(cuts.stump, 'cut')} above the ground."]
    for row in rows:
        look = f" {LOOKS.get(row.key, LOOK)}" if row.look else ""
        out.append(SAW_STEPS[row.key].format(**values) + look)
    # Before the last cut where there are two; after it where there is one.
    behind = sum(row.key not in BEFORE_THE_BACK for row in rows)
    wedges = _wedges(given, result, said)
    return [*out[:-1], *wedges, out[-1]] if behind > 1 else [*out, *wedges]


def _wedges(given: FellingInput, result: FellingResult, said: Callable[..., Any]) -> list[str]:
    if not (given.wedges.count and given.tree.condition.wedges):
        return []
    wedges, many = given.wedges, f"{given.wedges.count} × {given.wedges.sort.name.lower()}"
    lift = said(result.estimates["lift"].value, "cut")
    around = said(abs(wedges.place), "angle")
    where = f", {around} round to the {'right' if wedges.place > 0.0 else 'left'}" if wedges.place else ""
    if given.lines and result.estimates["pull_along"].value >= result.estimates["needed"].high:
        lift = "they follow what the line opens"
    else:
        lift = f"{lift} of lift until the weight carries on"
    look = "Look up between blows." if wedges.sort.struck else "Turn or pump it from aside, looking up."
    return [f"Set {many}{where} as soon as the cut takes them; {lift}. {look}"]


def _hinge(given: FellingInput, result: FellingResult, said: Callable[..., Any]) -> str:
    wood = result.wood
    length = said(result.estimates["hinge_length"].value, "cut")
    if not given.cuts.taper:
        return f"{said(given.cuts.hinge, 'cut')} thick and {length} long"
    return f"{said(wood.left, 'cut')} thick at the left, {said(wood.right, 'cut')} at the right, {length} long"


def _tipping(worked: Worked, said: Callable[..., Any]) -> list[str]:
    given, result = worked
    out = []
    if given.lines:
        pull = said(result.plan.rigged.pull.value if result.plan.rigged else given.pull.force, "force")
        ends = " ".join(_drift(row, said) for row in worked.thinned)
        out.append(
            f"Saw out, faller back. On the agreed word take up to {pull}; stop part way and look at the aim and both "
            f"ends of the hinge. {ends}"
        )
    return out


def _drift(row: Thinning, said: Callable[..., Any]) -> str:
    if row.why:
        return f"If it drifts {row.drift}, thin nothing."
    return f"If it drifts {row.drift}, thin the {row.end} end, never below {said(row.least, 'cut')}."
