"""What goes with a day: machines booked, the wood, the ways compared, a client's quote."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import permission
from apps.day import more_presenter, planner
from apps.day.forms import BookingForm, WoodForm
from apps.jobs import planner as jobs
from cantrel.border import row_id
from cantrel.revisions import posted

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse

    from apps.day.models import TreeWood, Workday
    from apps.jobs.models import Tree


@require_POST
@permission("plan.change")
def book(request: HttpRequest, job_id: int, pk: int) -> HttpResponse:
    """Book a machine for a crew's day, or give one back."""
    workday = get_object_or_404(jobs.job_for(request.crew, job_id).days, pk=pk)
    if "drop" in request.POST:
        booking = get_object_or_404(workday.bookings, pk=row_id(request.POST["drop"]))
        planner.drop_booking(workday, booking, request.user.shown_name())
    else:
        _book(request, workday)
    return redirect(f"{reverse('day', args=[job_id])}?day={pk}")


def _book(request: HttpRequest, workday: Workday) -> None:
    form = BookingForm(request.POST, units=request.units, prefix="booking")
    found = form.run(lambda values: planner.book(workday, values, request.user.shown_name()))
    if found is None:
        messages.error(request, " ".join(text for texts in form.errors.values() for text in texts))
    elif found[1]:
        said = gettext("Booked, but {others} has it at that time as well.")
        messages.error(request, said.format(others=found[1]))


def _form(system: str, tree: Tree, row: TreeWood | None, data: Any = None) -> WoodForm:
    wood = row or planner.wood_row(tree)
    return WoodForm(data, units=system, stored={name: getattr(wood, name) for name in WoodForm.base_fields})


@permission("plan.view", "plan.change")
def wood(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """What becomes of a tree's wood."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    kept, build = planner.wood_row(tree), partial(_form, request.units, tree)
    row = kept if kept.pk else None
    form = build(row)
    if request.method == "POST":
        save = lambda values, now: planner.save_wood(tree, values, now, request.user.shown_name())  # noqa: E731
        done, form = posted(row, request.POST.get("revision"), build, request.POST, save)
        if done:
            return redirect("day", job_id)
    return render(request, "day/wood.html", {"tree": tree, "job": tree.job, "form": form, "row": kept})


@permission("yard.view")
def ways(request: HttpRequest, job_id: int) -> HttpResponse:
    """The ways that are planned for each tree, by hours, money and what rules them."""
    job = jobs.job_for(request.crew, job_id)
    return render(request, "day/ways.html", {"job": job, "trees": more_presenter.compared(job, request.units)})


@permission("yard.view")
def quote(request: HttpRequest, job_id: int) -> HttpResponse:
    """A client's quote: what is done, what becomes of the wood, the price; nothing of how it comes about."""
    job = jobs.job_for(request.crew, job_id)
    return render(request, "day/quote.html", {"job": job, **more_presenter.quote(job, request.units)})
