"""One line of the log for whatever is changed or refused, with a reference that stands on error pages too."""

from __future__ import annotations

import logging
import time
import uuid
from contextvars import ContextVar
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse
    from django.template.response import TemplateResponse


log = logging.getLogger("cantrel.requests")
SLOW = 2.0  # a page that took longer is told too [s]
SECRET = ("join", "reset")  # routes whose address opens a door: their last part stays out of the log
_reference: ContextVar[str] = ContextVar("reference", default="-")
_person: ContextVar[str] = ContextVar("person", default="-")


class Whose(logging.Filter):
    """Puts reference and person of the request on every line."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Never keep a line back."""
        record.reference, record.person = _reference.get(), _person.get()
        return True


def is_by(person: str) -> None:
    """Say whose request this is."""
    _person.set(person)


class RequestLogMiddleware:
    """Give each request a reference, and tell of changes, refusals and slow pages."""

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse | TemplateResponse:
        request.reference = uuid.uuid4().hex[:12]
        tokens = _reference.set(request.reference), _person.set("-")
        begun = time.perf_counter()
        try:
            response = self.get_response(request)
            took = time.perf_counter() - begun
            response["X-Request-ID"] = request.reference
            if request.method not in ("GET", "HEAD") or response.status_code >= 400 or took > SLOW:
                log.log(
                    _level(response),
                    "%s %s %d %.0f ms",
                    request.method,
                    _address(request),
                    response.status_code,
                    took * 1e3,
                )
            return response
        finally:
            _reference.reset(tokens[0])
            _person.reset(tokens[1])


def _level(response: Any) -> int:
    return logging.INFO if response.status_code < 400 else logging.WARNING


def _address(request: HttpRequest) -> str:
    """The address asked for, on one line; of those that open a door only the first part."""
    first = request.path.strip("/").partition("/")[0]
    return f"/{first}/…" if first in SECRET else request.path.encode("unicode_escape").decode()[:200]
