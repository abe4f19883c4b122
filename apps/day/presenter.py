"""What the page of a day shows: the course drawn as bars by the clock, what holds it up, what it costs."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.formats import date_format
from django.utils.translation import gettext, gettext_lazy, ngettext

from apps.day import more_presenter
from apps.day.planner import booked, crew_name
from apps.day.wording import money, time_of
from cantrel.quantities import explain, raw, text

if TYPE_CHECKING:
    from apps.day.models import WorkItem, YardRates
    from apps.day.planner import DayWorked
    from treecore.estimate import Estimate

WIDE, LEFT, ROW, TOP = 856, 92, 30, 30
WHO = {
    "climber": gettext_lazy("in the tree"),
    "ground": gettext_lazy("on the ground"),
    "chipper": gettext_lazy("at the chipper"),
}
PART_NAMES = {
    "before": gettext_lazy("moves and sets up"),
    "tie": gettext_lazy("ties"),
    "cut": gettext_lazy("saws"),
    "lower": gettext_lazy("lowers"),
    "untie": gettext_lazy("unties"),
    "back": gettext_lazy("sends the rope back"),
    "drag": gettext_lazy("drags out"),
    "chip": gettext_lazy("chips"),
    "log": gettext_lazy("cuts to length"),
}
CHANGES = {
    "hand": gettext_lazy("One more hand on the ground"),
    "way": gettext_lazy("Half the way out"),
    "chipper": gettext_lazy("A chipper that takes half as much again"),
}
LINES = {
    "crew": (gettext_lazy("Crew"), gettext_lazy("h")),
    "chipper": (gettext_lazy("Chipper"), gettext_lazy("h")),
    "tipping": (gettext_lazy("Tipping"), gettext_lazy("t")),
    "making_good": (gettext_lazy("Making good"), ""),
    "crane": (gettext_lazy("Crane"), gettext_lazy("days")),
    "machine": (gettext_lazy("Machine"), gettext_lazy("h")),
    "logs_sold": (gettext_lazy("Logs bring"), gettext_lazy("m³")),
    "chip_sold": (gettext_lazy("Chip brings"), gettext_lazy("m³ loose")),
}


def shown(worked: DayWorked, rates: YardRates, system: str) -> dict[str, Any]:
    """Everything the page shows of a day worked out."""
    run, light = worked.day, _light(worked)
    return {
        "gantt": gantt(worked, light),
        "decides": [
            _hours(gettext("Work"), run.finish),
            _clocked(worked),
            _share(worked),
        ],
        "changes": [
            {"what": CHANGES[c.key], "saves": _long(c.saves), "raw": raw(c.saves)}
            for c in worked.changes
            if c.saves > 30.0
        ],
        "waited": _long(run.course.waited),
        "costs": _costs(worked, rates),
        "light": light,
        "refused": [(w.tree.name, explain(w.refused, system)) for w in worked.trees if w.refused],
        "guessed": _guessed(worked, system),
        "wind": _wind(worked, system),
        "weather": more_presenter.weather(worked, system),
        "woods": more_presenter.woods(worked, system),
        "clashes": more_presenter.clashes(worked),
        "pace": _pace(worked),
    }


def _pace(worked: DayWorked) -> str:
    """How the yard's own records moved the times."""
    if not worked.paced_by:
        return ""
    said = gettext("Times are {pace} of the table’s, by {n} records of the yard.")
    return said.format(pace=f"{worked.pace:.2f}", n=worked.paced_by)


def _guessed(worked: DayWorked, system: str) -> str:
    """What is counted for a way out that nobody drew."""
    ways = [work.guessed for work in worked.trees if work.guessed is not None]
    if not ways:
        return ""
    said = gettext("No way out is drawn on the site: {way} are counted.")
    return said.format(way=text(max(ways), "length", system))


def _hours(name: str, finish: Estimate) -> dict[str, str]:
    spread = gettext("{low} to {high} h").format(low=f"{finish.low / 3600:.1f}", high=f"{finish.high / 3600:.1f}")
    return {"name": name, "value": f"{finish.value / 3600:.1f}", "unit": "h", "raw": raw(finish.value), "below": spread}


def _clocked(worked: DayWorked) -> dict[str, str]:
    end, late = (worked.clock.at(t) for t in (worked.day.finish.value, worked.day.finish.high))
    below = gettext("with breaks; {late} at the latest of most days").format(late=time_of(late))
    return {"name": gettext("Done at"), "value": time_of(end), "unit": "", "raw": raw(end), "below": below}


def _share(worked: DayWorked) -> dict[str, str]:
    who = worked.day.bottleneck
    share = worked.day.busy[who]
    below = gettext("at work of the whole: the rest wait for that")
    name = gettext("Busiest: {who}").format(who=WHO[who])
    return {"name": name, "value": f"{100 * share:.0f}", "unit": "%", "raw": raw(share), "below": below}


def _long(seconds: float) -> str:
    minutes = round(seconds / 60.0)
    return ngettext("{n} minute", "{n} minutes", minutes).format(n=minutes)


def _costs(worked: DayWorked, rates: YardRates) -> dict[str, Any]:
    rows = []
    for line in worked.costs:
        name, unit = LINES[line.what]
        rows.append(
            {
                "name": name,
                "amount": f"{line.amount.value:.1f} {unit}".strip() if unit else "",
                "comes": money(line.comes_to, rates.money),
                "raw": raw(line.comes_to.value),
            }
        )
    for line in worked.income:
        name, unit = LINES[line.what]
        brings = money(line.comes_to, rates.money)
        amount = f"{line.amount.value:.1f} {unit}"
        rows.append({"name": name, "amount": amount, "comes": f"− {brings}", "raw": raw(-line.comes_to.value)})
    return {"rows": rows, "total": money(worked.total, rates.money), "raw": raw(worked.total.value)}


def _light(worked: DayWorked) -> dict[str, Any] | None:
    light = worked.light
    if light is None:
        return None
    end, slow = (worked.clock.at(t) for t in (worked.day.finish.value, worked.day.finish.high))
    down = light.sunset.hour * 3600.0 + light.sunset.minute * 60.0
    said = gettext("Sun from {rise} to {down}, light enough until {dusk}.").format(
        rise=f"{light.sunrise:%H:%M}", down=f"{light.sunset:%H:%M}", dusk=f"{light.dusk:%H:%M}"
    )
    return {"said": said, "late": end > down, "slow": slow > down, "sunset": down}


def _wind(worked: DayWorked, system: str) -> dict[str, str] | None:
    """The gust forecast against what the plans of the day stand at most."""
    stands = [(w.gust, w.tree.name) for w in worked.trees if w.gust is not None]
    if not stands or worked.workday.gust is None:
        return None
    least, name = min(stands)
    said = gettext("Gusts of {gust} are forecast; the plan of {tree} stands {least} at most.").format(
        gust=text(worked.workday.gust, "speed", system), tree=name, least=text(least, "speed", system)
    )
    over = worked.workday.gust > least
    return {"shape": "over" if over else "within", "said": said + (gettext(" Do not begin.") if over else "")}


def gantt(worked: DayWorked, light: dict[str, Any] | None) -> dict[str, Any]:
    """The course as bars: a row for each who works, hours along it, breaks and sunset marked."""
    clock, course = worked.clock, worked.day.course
    end = max([clock.at(course.finish), clock.start + 3600.0, *(other.end for other in worked.others)])
    scale = (WIDE - LEFT - 12.0) / (end - clock.start)

    def x(at: float) -> float:
        return round(LEFT + (at - clock.start) * scale, 1)

    rows = _rows(worked)
    others = worked.others
    foot = TOP + ROW * (len(rows) + len(others))
    hours = range(int(clock.start // 3600) + 1, int(end // 3600) + 1)
    return {
        "width": WIDE,
        "height": foot + 24,
        "rows": [{"name": name, "y": TOP + ROW * i + 19} for i, (name, _) in enumerate(rows)],
        "bars": [_bar(worked, span, i, x) for i, (_, spans) in enumerate(rows) for span in spans],
        "foot": foot,
        "hours": [{"x": x(3600.0 * hour), "name": f"{hour % 24}:00"} for hour in hours],
        "breaks": [
            {"x": x(clock.at(b.due)), "wide": round(b.long * scale, 1), "name": gettext("break")} for b in clock.breaks
        ],
        "others": [
            {
                "y": TOP + ROW * (len(rows) + i) + 5,
                "x": max(x(other.start), float(LEFT)),
                "wide": max(round(x(other.end) - max(x(other.start), float(LEFT)), 1), 1.0),
                "name": crew_name(other.workday),
                "said": f"{time_of(other.start)}–{time_of(other.end)}",
            }
            for i, other in enumerate(others)
        ],
        "booked": [
            {"x": max(x(b.start), float(LEFT)), "wide": max(round(x(b.end) - x(b.start), 1), 1.0), "name": b.what}
            for b in booked(worked.workday)
        ],
        "windy": [
            {"x": x(max(w.start, clock.start)), "wide": round((min(w.end, end) - max(w.start, clock.start)) * scale, 1)}
            for w in (worked.weather.windows if worked.weather else ())
            if w.end > clock.start and w.start < end
        ],
        "stop": x(max(worked.weather.stop.start, clock.start)) if worked.weather and worked.weather.stop else None,
        "sunset": x(light["sunset"]) if light and clock.start < light["sunset"] < end else None,
    }


def _rows(worked: DayWorked) -> list[tuple[str, list[Any]]]:
    """Who works, each with what they do: on the ground as many as there are hands, the first that is free next."""
    lanes: dict[str, list[list[Any]]] = {who: [[]] for who in WHO}
    for span in worked.day.course.spans:
        free = next((lane for lane in lanes[span.who] if not lane or lane[-1].end <= span.start + 1e-6), None)
        if free is None:
            lanes[span.who].append(free := [])
        free.append(span)
    return [(str(WHO[who]) if i == 0 else "", lane) for who, rows in lanes.items() for i, lane in enumerate(rows)]


def _bar(worked: DayWorked, span: Any, row: int, x: Any) -> dict[str, Any]:
    tree = worked.of_tree[span.pick]
    first = worked.of_tree.index(tree)
    start, end = x(worked.clock.at(span.start)), x(worked.clock.at(span.end))
    name = worked.trees[tree].tree.name
    of = gettext("pick {n}").format(n=span.pick - first + 1) if worked.of_tree.count(tree) > 1 else ""
    said = ", ".join(str(part) for part in (name, of, PART_NAMES[span.part]) if part)
    return {
        "x": start,
        "y": TOP + ROW * row + 5,
        "wide": max(round(end - start, 1), 0.6),
        "part": span.part,
        "title": f"{time_of(worked.clock.at(span.start))}: {said}",
    }


def items(rows: list[WorkItem], waits: Any) -> list[dict[str, Any]]:
    """What has to be done first, with what it waits for."""
    return [
        {
            "pk": row.pk,
            "revision": row.revision,
            "what": row.what,
            "kind": row.get_kind_display(),
            "tree": row.tree.name if row.tree else "",
            "who": row.who,
            "leave": row.leave_by,
            "done": row.done,
            "waits": waits(row).what if waits(row) else "",
        }
        for row in rows
    ]


def day_name(workday: Any) -> str:
    """A day as its date and crew."""
    return ", ".join(part for part in (date_format(workday.on, "j F Y"), workday.name) if part)
