"""Who may do what. Every view names a permission; an unknown one stops the program at start-up."""

from functools import wraps

from django.core.exceptions import PermissionDenied

TABLE = {
    "plan.view": {"planner", "hand"},
    "plan.change": {"planner"},
    "walkup.answer": {"planner", "hand"},
    "plan.sign": {"planner"},
    "record.write": {"planner", "hand"},
    "person.self": {"planner", "hand"},
}


def allowed(user, permission):
    """Whether a person's role holds a permission; without a crew, nothing is allowed."""
    return user.is_authenticated and user.crew_id is not None and user.role in TABLE[permission]


def permission(read, write=None):
    """Guard a view: ``read`` for safe methods, ``write`` (or ``read``) for the others."""
    write = write or read
    for name in (read, write):
        if name not in TABLE:
            message = f"unknown permission {name}"
            raise LookupError(message)

    def decorate(view):
        @wraps(view)
        def guarded(request, *args, **kwargs):
            needed = read if request.method in ("GET", "HEAD") else write
            if not allowed(request.user, needed):
                raise PermissionDenied
            return view(request, *args, **kwargs)

        guarded.permissions = (read, write)
        return guarded

    return decorate
