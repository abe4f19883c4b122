"""Who may do what. Every view names a permission; an unknown one stops the program at start-up."""

from __future__ import annotations

from functools import wraps
from typing import TYPE_CHECKING, Any

from django.core.exceptions import PermissionDenied

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse

    from apps.crews.models import Person

TABLE = {
    "plan.view": {"planner", "hand"},
    "plan.change": {"planner"},
    "walkup.answer": {"planner", "hand"},
    "plan.sign": {"planner"},
    "record.write": {"planner", "hand"},
    "person.self": {"planner", "hand"},
}


def allowed(user: Person, permission: str) -> bool:
    """Whether a person's role holds a permission; without a crew, nothing is allowed."""
    return user.is_authenticated and user.crew_id is not None and user.role in TABLE[permission]


def permission(read: str, write: str | None = None) -> Callable[..., Any]:
    """Guard a view: ``read`` for safe methods, ``write`` (or ``read``) for the others."""
    write = write or read
    for name in (read, write):
        if name not in TABLE:
            message = f"unknown permission {name}"
            raise LookupError(message)

    def decorate(view: Callable[..., HttpResponse]) -> Any:
        @wraps(view)
        def guarded(request: HttpRequest, *args, **kwargs) -> Any:
            needed = read if request.method in ("GET", "HEAD") else write
            if not allowed(request.user, needed):
                raise PermissionDenied
            return view(request, *args, **kwargs)

        guarded.permissions = (read, write)
        return guarded

    return decorate
