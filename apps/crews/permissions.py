"""Who may do what. Every view names a permission; an unknown one stops the program at start-up."""

from __future__ import annotations

from functools import wraps
from typing import TYPE_CHECKING, Any

from django.core.exceptions import PermissionDenied

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse

    from apps.crews.models import Person

EVERYBODY = {"owner", "planner", "hand", "guest"}
TABLE = {
    "jobs.list": EVERYBODY,
    "plan.view": EVERYBODY,  # a guest's: their one job
    "yard.view": {"owner", "planner", "hand"},
    "plan.change": {"owner", "planner"},
    "walkup.answer": {"owner", "planner", "hand"},
    "plan.sign": {"owner", "planner"},
    "record.write": {"owner", "planner", "hand"},
    "job.keep": {"owner", "planner"},
    "yard.people": {"owner"},
    "yard.keep": {"owner"},
    "person.self": EVERYBODY,
}
ANYWHERE = {"jobs.list", "person.self"}  # what a guest may do outside their job


def allowed(user: Person, permission: str, job_id: int | None = None) -> bool:
    """Whether a person's role holds a permission, for a guest on that job; without a yard, nothing is allowed."""
    if not user.is_authenticated or user.crew_id is None or user.role not in TABLE[permission]:
        return False
    return user.role != "guest" or permission in ANYWHERE or (job_id is not None and job_id == user.only_job_id)


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
            if not allowed(request.user, needed, kwargs.get("job_id")):
                raise PermissionDenied
            return view(request, *args, **kwargs)

        guarded.permissions = (read, write)
        return guarded

    return decorate
