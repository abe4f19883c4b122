"""People of a yard, for its owners."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews import mailing, people_planner, presenter
from apps.crews.forms import InviteForm, RoleForm, YardForm
from apps.crews.permissions import permission

if TYPE_CHECKING:
    from django.db.models import QuerySet
    from django.http import HttpRequest, HttpResponse

    from apps.crews.models import Crew, Person


def _jobs(crew: Crew) -> QuerySet:
    return crew.jobs.for_crew(crew)


@permission("yard.people")
def people(request: HttpRequest, form: InviteForm | None = None, yard: YardForm | None = None) -> HttpResponse:
    """Who belongs to the yard, who is invited, and a form to invite."""
    shown = presenter.people(request.crew, request.user)
    door = request.session.pop("door", None)
    forms = {
        "form": form or InviteForm(jobs=_jobs(request.crew)),
        "yard_form": yard or YardForm(initial={"name": request.crew.name}, crew=request.crew),
    }
    return render(request, "crews/people.html", shown | forms | {"door": door and presenter.door(**door)})


@require_POST
@permission("yard.people")
def invite(request: HttpRequest) -> HttpResponse:
    """Invite somebody; the link is shown once."""
    form = InviteForm(request.POST, jobs=_jobs(request.crew))
    if not form.is_valid():
        return people(request, form=form)
    door, key = people_planner.invite(request.crew, request.user, form.cleaned_data)
    return _shown_once(request, "join", key, door.name, door.email)


def _shown_once(request: HttpRequest, route: str, key: str, name: str, email: str) -> HttpResponse:
    """Show a link on the people page, and mail it where that can be."""
    link = request.build_absolute_uri(f"/{route}/{key}/")
    sent = mailing.send_link(route, email, name, request.user, link)
    request.session["door"] = {"route": route, "name": name, "link": link, "sent": sent}
    return redirect("people")


@require_POST
@permission("yard.people")
def withdraw(request: HttpRequest, pk: int) -> HttpResponse:
    """Take an invitation back."""
    people_planner.withdraw(request.crew, pk)
    return redirect("people")


def _person(request: HttpRequest, pk: int) -> Person:
    return get_object_or_404(people_planner.people_of(request.crew), pk=pk)


@permission("yard.people")
def person(request: HttpRequest, pk: int) -> HttpResponse:
    """One person: role, sign-ins, leaving."""
    found = _person(request, pk)
    start = {"role": found.role, "only_job": found.only_job_id}
    form = RoleForm(request.POST or None, initial=start, jobs=_jobs(request.crew))
    if form.is_valid():
        said = people_planner.change_role(found, **form.cleaned_data)
        messages.add_message(request, messages.ERROR if said else messages.SUCCESS, said or gettext("Kept."))
        return redirect("person", pk)
    shown = presenter.account(found, None)
    return render(request, "crews/person.html", shown | {"person": found, "form": form})


@require_POST
@permission("yard.people")
def leave(request: HttpRequest, pk: int) -> HttpResponse:
    """Let a person go, or come back."""
    found, back = _person(request, pk), "back" in request.POST
    said = people_planner.set_active(found, back)
    kept = gettext("{name} may come in again.") if back else gettext("{name} is signed out and can't come in any more.")
    level = messages.ERROR if said else messages.SUCCESS
    messages.add_message(request, level, said or kept.format(name=found.shown_name()))
    return redirect("person", pk)


@require_POST
@permission("yard.people")
def reset_link(request: HttpRequest, pk: int) -> HttpResponse:
    """A link that lets a person choose a new password; ``second`` takes their second factor off besides."""
    found = _person(request, pk)
    if "second" in request.POST:
        people_planner.stop_second(found)
        messages.success(request, gettext("No code is asked of {name} any more.").format(name=found.shown_name()))
        return redirect("person", pk)
    return _shown_once(request, "reset", people_planner.reset_key(found), found.shown_name(), found.email)


@require_POST
@permission("yard.people")
def yard(request: HttpRequest) -> HttpResponse:
    """Keep the yard's name."""
    form = YardForm(request.POST, crew=request.crew)
    if not form.is_valid():
        return people(request, yard=form)
    request.crew.name = form.cleaned_data["name"]
    request.crew.save()
    return redirect("people")
