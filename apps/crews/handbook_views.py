"""The methods and the glossary, to be read where the numbers are."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.shortcuts import render

from apps.crews.permissions import permission
from cantrel.handbook import document

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse


@permission("person.self")
def methods(request: HttpRequest) -> HttpResponse:
    """How every number is worked out, with its sources."""
    return render(request, "crews/handbook.html", {"document": document("methods")})


@permission("person.self")
def glossary(request: HttpRequest) -> HttpResponse:
    """What the words mean here."""
    return render(request, "crews/handbook.html", {"document": document("glossary")})
