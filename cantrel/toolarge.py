"""Turns requests away that are far too big, before anything of them is read."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.conf import settings

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
        size = request.META.get("CONTENT_LENGTH") or "0"
        if size.isascii() and size.isdigit() and len(size) < 20 and int(size) <= settings.LARGEST_REQUEST:
            return self.get_response(request)
        whole = int(size) if size.isascii() and size.isdigit() and len(size) < 20 else 0
        return told(
            request,
            413,
            size=max(whole, settings.LARGEST_REQUEST) // 1_000_000,
            most=settings.LARGEST_REQUEST // 1_000_000,
        )
