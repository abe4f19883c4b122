"""Turns requests away that are far too big, before anything of them is read."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.conf import settings

from cantrel.border import digits
from cantrel.errorpages import told

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse
    from django.template.response import TemplateResponse


class TooLargeMiddleware:
    """Say how big the file is and how big it may be; nothing is changed."""

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse | TemplateResponse:
        size, most = digits(request.META.get("CONTENT_LENGTH") or "0", 19), settings.LARGEST_REQUEST
        if size is not None and size <= most:
            return self.get_response(request)
        return told(request, 413, size=max(size or 0, most) // 1_000_000, most=most // 1_000_000)
