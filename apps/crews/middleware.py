"""Puts the person's units and crew on the request."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.conf import settings
from django.utils import translation

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse
    from django.template.response import TemplateResponse


LANGUAGE = {"us": "en-us"}  # terms go with the units


class PersonMiddleware:
    """Set ``request.units`` and ``request.crew``."""

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse | TemplateResponse:
        request.units = getattr(request.user, "units", "metric")
        request.crew = getattr(request.user, "crew", None)
        with translation.override(LANGUAGE.get(request.units, settings.LANGUAGE_CODE)):
            return self.get_response(request)
