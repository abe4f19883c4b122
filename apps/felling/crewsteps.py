"""The plan as the crew's numbered steps: what was chosen decides which there are; each says where to stop and look."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from apps.felling.lines_presenter import aim_mark, at_the_hands, where
from cantrel.limits import SIDES
from cantrel.quantities import text

if TYPE_CHECKING:
    from collections.abc import Callable

    from apps.felling.bench_planner import WorkedPlan
    from treecore.felling.evaluate import Thinning
    from treecore.felling.inputs import FellingInput
    from treecore.felling.plan import FellingResult

SAW_STEPS = {
    "notch_sloping": gettext_lazy("Notch: sloping cut first, to {depth} deep."),
    "notch_level": gettext_lazy("Notch: level cut to meet it on one line; aim {lay}."),
    "nicks": gettext_lazy("Nick bark and sapwood at both ends of the hinge."),
    "back": gettext_lazy("Back cut level, {rise} above the apex, straight in to a hinge {hinge}. Never through."),
    "compression": gettext_lazy(
        "Back cut, compression side first, level, {rise} above the apex, to the hinge and just past the middle."
    ),
    "tension": gettext_lazy("Finish on the tension side, from where the escape is, to a hinge {hinge}. Never through."),
    "far_half": gettext_lazy(
        "Back cut, far half, level, {rise} above the apex, to the hinge and just past the middle."
    ),
    "near_half": gettext_lazy("Back cut, near half, to a hinge {hinge}, meeting the first. Never through."),
    "bore": gettext_lazy(
        "Bore in behind the hinge with the lower part of the bar's tip; set the hinge {hinge}, "
        "saw back, leave the strap."
    ),
    "trigger": gettext_lazy("Look all round once more, call, and cut the strap from the escape side."),
    "centre": gettext_lazy("Bore through the middle of the notch into the stem, no wider than a third of the hinge."),
}
LOOKS = {
    "notch_sloping": gettext_lazy("Look along the sights to the lay."),
    "notch_level": gettext_lazy(
        "Stop and look: clean apex on both ends, sights on the lay from both sides of the bar; "
        "walk out along the lay and look back."
    ),
    "bore": gettext_lazy("Stop: look up and round, wedges in, everyone answers."),
    "centre": gettext_lazy("Stop and look: the hinge stands whole on both sides of the bore."),
}
BEFORE_THE_BACK = ("notch_sloping", "notch_level", "nicks")
LOOK = gettext_lazy("Stop and look: both ends of the hinge, the top, the people.")


def steps(worked: WorkedPlan, system: str) -> list[str]:
    """The crew's steps in order, with this plan's figures."""
    result = worked.result

    def said(value: float, dimension: str) -> str:
        return text(value, dimension, system)

    side = SIDES[worked.escape]
    better = "" if worked.escape != result.ground.better_escape else gettext("; it is the better one")
    return [
        gettext("Close the zone at {zone_radius}; guards call clear. Everyone may say stop.").format(
            zone_radius=said(result.ground.zone_radius, "length")
        ),
        gettext("Walk the {side} escape path{better}. Look up once more.").format(side=side, better=better),
        *_lines(worked, system),
        *_sawing(worked, system, said),
        *_tipping(worked, system, said),
        gettext("When it moves, leave by the {side} path and keep looking up until it lies still.").format(side=side),
    ]


def _lines(worked: WorkedPlan, system: str) -> list[str]:
    sheet, given, out = worked.line_sheet, worked.given, []
    tie = text(sheet.tie, "length", system) if sheet.tie is not None else ""
    if given.pull:
        out.append(
            gettext("Tie the line {tie} up, taut but not hard. Its end: {where}.").format(
                tie=tie, where=where(sheet.hands[0], system)
            )
        )
    if given.system:
        parts = gettext(", then ").join(f"{r.name}: {' – '.join(r.path)}" for r in given.system.ropes)
        out.append(
            gettext(
                "Rig the pull {tie} up ({parts}). Taut but not hard. Nobody in the bight or behind an anchor."
            ).format(tie=tie, parts=parts)
        )
    return [*out, *_guy(worked, system)]


def _guy(worked: WorkedPlan, system: str) -> list[str]:
    sheet, guy = worked.line_sheet, worked.given.guy
    if guy is None or sheet.guy is None:
        return []
    taut = gettext(" Taut before the back cut.") if guy.taut else ""
    ended = gettext(" Someone lets it out on the word as it falls.") if guy.tended else gettext(" It is made fast.")
    said = gettext("Set the guy line {tie} up, its anchor: {where}.").format(
        tie=text(guy.tie, "length", system), where=where(sheet.guy, system)
    )
    return [said + taut + ended]


def _sawing(worked: WorkedPlan, system: str, said: Callable[..., Any]) -> list[str]:
    given, result = worked
    cuts = given.cuts
    values = {
        "depth": said(cuts.depth, "cut"),
        "lay": gettext("{lay} ({mark})").format(lay=said(given.lay, "angle"), mark=aim_mark(worked, system)),
        "rise": said(cuts.rise, "cut"),
        "hinge": _hinge(given, result, said),
    }
    rows = worked.cuts
    out = [
        gettext("The cuts: notch open {opening}, apex {stump} above the ground.").format(
            opening=said(cuts.opening, "angle"), stump=said(cuts.stump, "cut")
        )
    ]
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
    where = (
        gettext(", {around} round to the {side}").format(
            around=around, side=SIDES["right" if wedges.place > 0.0 else "left"]
        )
        if wedges.place
        else ""
    )
    if given.lines and result.estimates["pull_along"].value >= result.estimates["needed"].high:
        lift = gettext("they follow what the line opens")
    else:
        lift = gettext("{lift} of lift until the weight carries on").format(lift=lift)
    look = (
        gettext("Look up between blows.") if wedges.sort.struck else gettext("Turn or pump it from aside, looking up.")
    )
    return [
        gettext("Set {many}{where} as soon as the cut takes them; {lift}. {look}").format(
            many=many, where=where, lift=lift, look=look
        )
    ]


def _hinge(given: FellingInput, result: FellingResult, said: Callable[..., Any]) -> str:
    wood = result.wood
    length = said(result.estimates["hinge_length"].value, "cut")
    if not given.cuts.taper:
        return gettext("{hinge} thick and {length} long").format(hinge=said(given.cuts.hinge, "cut"), length=length)
    return gettext("{left} thick at the left, {right} at the right, {length} long").format(
        left=said(wood.left, "cut"), right=said(wood.right, "cut"), length=length
    )


def _tipping(worked: WorkedPlan, system: str, said: Callable[..., Any]) -> list[str]:
    given, _ = worked
    out = []
    if given.lines:
        pull = at_the_hands(worked.line_sheet, system)
        ends = " ".join(_drift(row, said) for row in worked.thinned)
        out.append(
            gettext(
                "Saw out, faller back. On the agreed word take up to {pull}; stop part way and look at "
                "the aim and both ends of the hinge. {ends}"
            ).format(pull=pull, ends=ends)
        )
    return out


def _drift(row: Thinning, said: Callable[..., Any]) -> str:
    if row.why:
        return gettext("If it drifts {drift}, thin nothing.").format(drift=SIDES[row.drift])
    return gettext("If it drifts {drift}, thin the {end} end, never below {least}.").format(
        drift=SIDES[row.drift], end=SIDES[row.end], least=said(row.least, "cut")
    )
