"""The day of a job: what has to be done first, the crew's course by the clock, what holds it up, what it costs."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.day import calendar, planner, presenter
from apps.day.forms import BookingForm, DayForm, ItemForm, RatesForm
from apps.day.models import ON_TOP, PRICES, RATES, TRUCK
from apps.jobs import planner as jobs
from cantrel.answers import or_broken
from cantrel.border import row_id
from cantrel.revisions import posted

if TYPE_CHECKING:
    from django.http import HttpRequest

    from apps.day.models import Workday, WorkItem
    from apps.jobs.models import Job

SAID_OF_RATES = ("money", "own_pace", *RATES, *PRICES, *TRUCK, *ON_TOP)
DAY = ("on", "start", "name", "ground", "throat", "trees", "crane_days", "machine_hours", "gust", "gusts")


def _day_form(request: HttpRequest, job: Job, row: Workday | None, data: Any = None) -> DayForm:
    workday = row or planner.workday_of(job)
    stored = {name: getattr(workday, name) for name in DAY}
    return DayForm(data, units=request.units, stored=stored, job=job)


def _item_form(request: HttpRequest, job: Job, row: WorkItem | None, data: Any = None) -> ItemForm:
    names = ("kind", "what", "who", "leave_by")
    stored = {name: getattr(row, name) for name in names} | {"tree": row.tree_id, "after": row.after_id} if row else {}
    return ItemForm(data, units=request.units, stored=stored, job=job, item=row)


@permission("plan.view", "plan.change")
def day(request: HttpRequest, job_id: int) -> HttpResponse:
    """A job's day; a POST keeps when the crew comes, who works, with what."""
    job = jobs.job_for(request.crew, job_id)
    number = row_id(request.GET["day"]) if request.GET.get("day") else None
    kept = planner.workday_of(job, number)
    new = kept.pk is None or "new" in request.GET
    form = _day_form(request, job, None if new else kept)
    if request.method == "POST":
        save = partial(_save_day, request, job)
        build = partial(_day_form, request, job)
        done, form = posted(None if new else kept, request.POST.get("revision"), build, request.POST, save)
        if done:
            return redirect(f"{request.path}?day={done.pk}")
    return _page(request, job, kept, form, ItemForm(units=request.units, job=job))


def _save_day(request: HttpRequest, job: Job, values: dict[str, Any], row: Workday | None) -> Workday:
    return planner.save_day(row or planner.new_day(job), values, request.user.shown_name())


def _page(request: HttpRequest, job: Job, kept: Workday, form: DayForm, item_form: ItemForm) -> HttpResponse:
    rates = planner.rates_of(request.crew)
    shown = or_broken(lambda: presenter.shown(planner.worked(kept), rates, request.units), request.units)
    context = {
        "job": job,
        "units": request.units,
        "day": kept,
        "days": [(row, presenter.day_name(row)) for row in job.days.all()],
        "form": form,
        "item_form": item_form,
        "booking_form": BookingForm(units=request.units, prefix="booking"),
        "items": presenter.items(planner.items_of(job), planner.waits_for),
        "writes": allowed(request.user, "plan.change"),
        "ticks": allowed(request.user, "walkup.answer"),
    }
    return render(request, "day/day.html", context | shown)


@require_POST
@permission("plan.change")
def item(request: HttpRequest, job_id: int, pk: int | None = None) -> HttpResponse:
    """Add something that has to be done first, or change it."""
    job = jobs.job_for(request.crew, job_id)
    row = get_object_or_404(job.work_items, pk=pk) if pk else None
    save = lambda values, now: planner.save_item(job, values, now, request.user.shown_name())  # noqa: E731
    done, form = posted(row, request.POST.get("revision"), partial(_item_form, request, job), request.POST, save)
    if done:
        messages.success(request, gettext("Kept: {what}").format(what=done.what))
        return redirect("day", job_id)
    return _page(request, job, planner.workday_of(job), _day_form(request, job, None), form)


@require_POST
@permission("walkup.answer")
def tick(request: HttpRequest, job_id: int, pk: int) -> HttpResponse:
    """Say that something is done, or that it is not."""
    job = jobs.job_for(request.crew, job_id)
    row = get_object_or_404(job.work_items.select_related("after"), pk=pk)
    waits = planner.waits_for(row)
    if waits and not row.done:
        messages.error(request, gettext("First: {what}").format(what=waits.what))
    else:
        planner.save_item(job, {"done": not row.done}, row, request.user.shown_name())
    return redirect("day", job_id)


@require_POST
@permission("plan.change")
def drop(request: HttpRequest, job_id: int, pk: int) -> HttpResponse:
    """Take something off the list of what has to be done first."""
    job = jobs.job_for(request.crew, job_id)
    planner.drop_item(job, get_object_or_404(job.work_items, pk=pk), request.user.shown_name())
    messages.info(request, gettext("Taken off. Undo brings it back."))
    return redirect("day", job_id)


@permission("yard.view", "plan.change")
def rates(request: HttpRequest) -> HttpResponse:
    """What an hour, a day, a tonne costs the yard."""
    kept, build = planner.rates_of(request.crew), partial(_rates_form, request)
    row = kept if kept.pk else None
    form = build(row)
    if request.method == "POST":
        save = lambda values, now: planner.save_rates(request.crew, values, now, request.user.shown_name())  # noqa: E731
        done, form = posted(row, request.POST.get("revision"), build, request.POST, save)
        if done:
            messages.success(request, gettext("Rates kept."))
            return redirect("rates")
    writes = allowed(request.user, "plan.change")
    return render(request, "day/rates.html", {"form": form, "rates": kept, "writes": writes})


def _rates_form(request: HttpRequest, row: Any, data: Any = None) -> RatesForm:
    rates = row or planner.rates_of(request.crew)
    return RatesForm(data, units=request.units, stored={name: getattr(rates, name) for name in SAID_OF_RATES})


@permission("plan.view")
def ics(request: HttpRequest, job_id: int, pk: int) -> HttpResponse:
    """A day as a calendar file."""
    job = jobs.job_for(request.crew, job_id)
    workday = get_object_or_404(job.days, pk=pk)
    answer = HttpResponse(calendar.event(planner.worked(workday)), content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="day-{workday.on:%Y-%m-%d}.ics"'
    return answer
