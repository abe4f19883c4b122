"""The wood of a day, its weather and other crews, ways compared, and a client's quote, as they are read."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.formats import date_format
from django.utils.translation import gettext

from apps.day import planner
from apps.day.wording import money, time_of
from apps.jobs.planner import common_name
from cantrel.limits import limit_said
from cantrel.quantities import raw, text

if TYPE_CHECKING:
    from apps.day.planner import Compared, DayWorked, WoodDone
    from apps.jobs.models import Job
    from treecore.estimate import Estimate


def woods(worked: DayWorked, system: str) -> list[dict[str, Any]]:
    """What each tree's wood comes to, and what becomes of it."""
    return [_wood(one, system) for one in worked.woods]


def _wood(one: WoodDone, system: str) -> dict[str, Any]:
    wood = one.wood
    return {
        "tree": one.tree,
        "row": one.row,
        "logs": gettext("{n} logs of {long}, {volume}, {mass}").format(
            n=wood.logs,
            long=text(one.row.log_length, "length", system),
            volume=_cubic(wood.log_volume, system),
            mass=text(wood.log_mass.value, "mass", system),
        ),
        "chip": gettext("{volume} loose, {mass}").format(
            volume=_cubic(wood.chip_volume, system), mass=text(wood.chip_mass.value, "mass", system)
        ),
        "loads": wood.loads,
        "energy": gettext("{n} MWh").format(n=f"{wood.energy.value / 1000.0:.1f}"),
        "raw": raw(wood.log_volume.value),
    }


def _cubic(volume: Estimate, system: str) -> str:
    if system == "us":
        return text(volume.value, "volume", system)
    return f"{volume.value:.1f}\u00a0m³"


def weather(worked: DayWorked, system: str) -> dict[str, Any] | None:
    """Gusts by the hour against the weakest plan, in a sentence and as bars."""
    found = worked.weather
    if found is None:
        return None
    limit = text(found.limit, "speed", system)
    if found.stop is not None:
        said = gettext(
            "Gusts up to {gust} from {start}: more than the plan of {tree} stands ({limit}). Stop by then."
        ).format(
            gust=text(found.stop.gust, "speed", system),
            start=time_of(found.stop.start),
            tree=found.tree,
            limit=limit,
        )
    elif found.windows:
        said = gettext("Done before the gusts pass what the plan of {tree} stands ({limit}), at {start}.").format(
            tree=found.tree, limit=limit, start=time_of(found.windows[0].start)
        )
    else:
        said = gettext("No hour’s gusts pass what the plan of {tree} stands ({limit}).").format(
            tree=found.tree, limit=limit
        )
    return {"shape": "over" if found.stop else "within", "said": said, "windows": found.windows}


def clashes(worked: DayWorked) -> list[str]:
    """Machines that two crews have at the same time."""
    said = gettext("{what}: {first} has it until {end}, {second} from {start}.")
    return [
        said.format(what=a.what, first=a.who, end=time_of(a.end), second=b.who, start=time_of(b.start))
        for a, b in worked.clashes
    ]


def compared(job: Job, system: str) -> list[dict[str, Any]]:
    """Each tree's ways: hours, money, what rules it."""
    rates = planner.rates_of(job.crew)
    return [_compared(row, rates.money, system) for row in planner.ways_compared(job)]


def _compared(row: Compared, sign: str, system: str) -> dict[str, Any]:
    ways = [
        {
            "name": way.name,
            "hours": f"{way.finish.value / 3600.0:.1f}",
            "between": f"{way.finish.low / 3600.0:.1f}–{way.finish.high / 3600.0:.1f}",
            "money": money(way.money, sign),
            "raw": raw(way.money.value),
            "ruling": limit_said(way.ruling, system) if way.ruling else None,
            "chosen": way.chosen,
        }
        for way in row.ways
    ]
    return {"tree": row.tree, "ways": ways, "reason": row.reason}


def quote(job: Job, system: str) -> dict[str, Any]:
    """What a client reads: each tree, its wood and stump, the day, the price."""
    workday = planner.workday_of(job)
    found = planner.quote_of(workday)
    price, tax = round(found.price.value), round(found.tax.value)
    sign = found.rates.money
    return {
        "day": date_format(workday.on, "j F Y") if workday.pk else "",
        "yard": job.crew.name,
        "trees": [
            {
                "name": one.tree.name,
                "species": common_name(one.tree),
                "way": one.tree.felling.get_method_display() if getattr(one.tree, "felling", None) else "",
                "row": one.row,
            }
            for one in found.worked.woods
        ],
        "open": [row.what for row in planner.items_of(job) if not row.done],
        "price": f"{sign}{price:,}".replace(",", "\u00a0"),
        "tax": f"{sign}{tax:,}".replace(",", "\u00a0") if tax else "",
        "rate": f"{100.0 * found.rates.tax:g}",
        "whole": f"{sign}{price + tax:,}".replace(",", "\u00a0"),
        "raw": raw(float(price)),
        "refused": [work.tree.name for work in found.worked.trees if work.refused or work.mass is None],
    }
