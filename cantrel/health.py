"""Whether the program lives, and whether it can work: for whoever watches the machine."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpResponse

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest
    from django.template.response import TemplateResponse


class HealthMiddleware:
    """``/health/`` says that a process answers, ``/ready/`` that the data can be written and are up to date."""

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse | TemplateResponse:
        if request.path == "/health/":
            return _plain("ok")
        if request.path == "/ready/":
            lack = lacking()
            return _plain(lack or "ok", 503 if lack else 200)
        return self.get_response(request)


def _plain(text: str, status: int = 200) -> HttpResponse:
    return HttpResponse(text + "\n", status=status, content_type="text/plain", headers={"Cache-Control": "no-store"})


def to_migrate() -> tuple[bool, bool]:
    """Whether there are tables at all, and whether they are to be changed."""
    executor = MigrationExecutor(connection)
    plan = executor.migration_plan(executor.loader.graph.leaf_nodes())
    return bool(executor.loader.applied_migrations), bool(plan)


def lacking() -> str:
    """What keeps the program from working, in a few words; nothing where it can."""
    try:
        if to_migrate()[1]:
            return "the database is of another version: run manage.py migrate"
    except DatabaseError:
        return "the database does not answer"
    if not os.access(settings.VAR, os.W_OK):
        return "the data directory can't be written"
    return ""
