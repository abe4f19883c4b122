"""Signing in is Django's; here only the person's own settings."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from apps.crews.models import Person
from apps.crews.permissions import permission
from cantrel.pages import own_page

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse


@require_POST
@permission("person.self")
def switch_units(request: HttpRequest) -> HttpResponse:
    """Switch between metric and US customary and go back to where the person was."""
    wanted = request.POST.get("units")
    if wanted in Person.Units.values:
        request.user.units = wanted
        request.user.save(update_fields=["units"])
    return redirect(own_page(request.POST.get("next", ""), "jobs"))
