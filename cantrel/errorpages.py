"""Pages for what went wrong: what it means for what was typed, a reference for whoever looks after it, a way back."""

from __future__ import annotations

import logging
import sqlite3
from typing import TYPE_CHECKING, Any

from django.db import IntegrityError, OperationalError
from django.http import HttpResponseNotAllowed
from django.shortcuts import render
from django.utils.translation import gettext_lazy

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse
    from django.template.response import TemplateResponse


LOG = logging.getLogger("cantrel")
WORDS = {
    400: (
        gettext_lazy("That can't be read"),
        gettext_lazy("What was sent is not what this page sends: too much at once, or cut short. Nothing was changed."),
    ),
    403: (
        gettext_lazy("Not yours to do"),
        gettext_lazy("Your role in this yard does not allow this. Ask an owner of the yard. Nothing was changed."),
    ),
    404: (gettext_lazy("Not found"), gettext_lazy("There is no such page, or it belongs to another yard.")),
    405: (
        gettext_lazy("Not asked like this"),
        gettext_lazy("This address only takes what a form sends. Nothing was changed."),
    ),
    413: (
        gettext_lazy("Too big"),
        gettext_lazy(
            "What was sent is {size} MB; at most {most} MB are read at all. Nothing was changed. Make the picture "
            "smaller, or cut the list in parts, and go back."
        ),
    ),
    500: (
        gettext_lazy("The program failed"),
        gettext_lazy(
            "Nothing was changed. It is written down under the reference below; tell that to whoever looks after it."
        ),
    ),
    503: (
        gettext_lazy("Busy"),
        gettext_lazy("Somebody is storing a lot just now. Nothing was changed: go back and send it again in a moment."),
    ),
    "kept": (
        gettext_lazy("That can't be kept"),
        gettext_lazy(
            "A value is beyond what can be stored. Nothing was changed: go back, it is still typed there, and look at "
            "the numbers."
        ),
    ),
    "csrf": (
        gettext_lazy("Load the page again"),
        gettext_lazy(
            "You signed in or out since this page was drawn, so it may not change anything. Nothing was changed; "
            "load it again."
        ),
    ),
}


def told(request: HttpRequest, status: int, words: str | int = 0, **more: Any) -> HttpResponse:
    """The page for a status; that of a failure asks neither database nor session, so that it can't fail itself."""
    title, text = WORDS[words or status]
    context = {
        "title": title,
        "text": text.format(**more) if more else text,
        "reference": getattr(request, "reference", "-"),
    }
    response = render(None if status >= 500 else request, "error.html", context, status=status)
    if status == 503:
        response["Retry-After"] = "2"
    return response


def bad_request(request: HttpRequest, exception: Any = None) -> HttpResponse:
    """400."""
    return told(request, 400)


def denied(request: HttpRequest, exception: Any = None) -> HttpResponse:
    """403."""
    return told(request, 403)


def csrf(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403, where a form's token is not the one of the session."""
    return told(request, 403, "csrf")


def not_found(request: HttpRequest, exception: Any = None) -> HttpResponse:
    """404."""
    return told(request, 404)


def failed(request: HttpRequest) -> HttpResponse:
    """500."""
    return told(request, 500)


class ErrorPagesMiddleware:
    """Give bare refusals a page, and say busy where the database is."""

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse | TemplateResponse:
        response = self.get_response(request)
        if isinstance(response, HttpResponseNotAllowed) and not response.content:
            page = told(request, 405)
            page["Allow"] = response["Allow"]
            return page
        if getattr(request, "user", None) is not None and "Cache-Control" not in response and _signed_in(request):
            response["Cache-Control"] = "no-store, private"  # what belongs to a yard is not left on a shared machine
        return response

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """Busy is no failure: what was sent can be sent again. Nor is what the database's own constraints refuse after
        a form let it by: that form is mended by the line in the log, and nothing was stored.
        """
        if isinstance(exception, IntegrityError) and "CHECK constraint" in str(exception):
            LOG.error("not taken by the database: %s", exception)
            return told(request, 400, "kept")
        busy = isinstance(exception, OperationalError) and isinstance(exception.__cause__, sqlite3.OperationalError)
        return told(request, 503) if busy and "locked" in str(exception) else None


def _signed_in(request: HttpRequest) -> bool:
    return bool(request.user.is_authenticated)
