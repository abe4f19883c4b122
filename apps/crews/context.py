"""What templates ask of the person: which doors and buttons to show."""

from __future__ import annotations

from typing import TYPE_CHECKING

from apps.crews.permissions import TABLE, allowed

if TYPE_CHECKING:
    from django.http import HttpRequest


class May:
    """``may.plan_change`` and the like: whether the person holds a permission of the table."""

    def __init__(self, request: HttpRequest) -> None:
        self.request = request

    def __getitem__(self, name: str) -> bool:
        permission = name.replace("_", ".", 1)
        if permission not in TABLE:
            raise KeyError(name)
        match = getattr(self.request, "resolver_match", None)
        job_id = match.kwargs.get("job_id") if match else None
        user = getattr(self.request, "user", None)
        return user is not None and allowed(user, permission, job_id)


def may(request: HttpRequest) -> dict[str, May]:
    """For every page."""
    return {"may": May(request)}
