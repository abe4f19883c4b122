"""Puts the person's units and crew on the request."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING, Any

from django.conf import settings
from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import JsonResponse
from django.utils import translation

from cantrel.answers import by_script
from cantrel.requestlog import is_by

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse
    from django.template.response import TemplateResponse


SEEN_EVERY = 600  # [s]
LANGUAGE = {"us": "en-us"}  # terms go with the units


class SignedInMiddleware(LoginRequiredMiddleware):
    """Asks people to sign in; a page's script is told so in an answer of its own, so that what was typed can stay."""

    def handle_no_permission(self, request: HttpRequest, view_func: Callable[..., Any]) -> HttpResponse:
        if by_script(request):
            return JsonResponse({"signed_out": True}, status=401)
        return super().handle_no_permission(request, view_func)


class PersonMiddleware:
    """Set ``request.units`` and ``request.crew``."""

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse | TemplateResponse:
        request.units = getattr(request.user, "units", "metric")
        request.crew = getattr(request.user, "crew", None)
        if request.user.is_authenticated:
            is_by(request.user.get_username())
            _seen(request)
        with translation.override(LANGUAGE.get(request.units, settings.LANGUAGE_CODE)):
            return self.get_response(request)


def _seen(request: HttpRequest) -> None:
    """Keep in the session when it was last used, to the nearest ten minutes."""
    if int(time.time()) - request.session.get("seen", 0) > SEEN_EVERY:
        seen_now(request=request)


def seen_now(request: HttpRequest, **kwargs: Any) -> None:
    """Keep that a session is used now."""
    request.session["seen"] = int(time.time())
