"""The undo of a page: what would be taken back or brought back next, and where to ask for it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import template
from django.urls import reverse
from django.utils.html import format_html

from apps.crews import steps

if TYPE_CHECKING:
    from django.template import Context

    from apps.crews.models import Crew
    from apps.jobs.models import Job, Tree

register = template.Library()

ROUTES = {"body": "undo-body", "walk": "undo-walk", "record": "undo-record", "work": "undo-work"}


@register.inclusion_tag("jobs/_undo.html", takes_context=True)
def undo(context: Context, scope: str, owner: Crew | Job | Tree) -> dict[str, Any]:
    """Buttons for a scope of a job, a tree or a crew."""
    kind = owner._meta.model_name
    if kind == "tree":
        url = reverse(ROUTES[scope], args=[owner.job_id, owner.pk])
    else:
        url = reverse("undo-crew", args=[scope]) if kind == "crew" else reverse("undo-job", args=[owner.pk, scope])
    return {"history": steps.state(scope, owner), "url": url, "request": context["request"]}


@register.simple_tag
def whose_undo(scope: str, owner: Job | Tree) -> str:
    """Whose change an undo would take back, where it is another's."""
    found = steps.state(scope, owner)
    return (
        format_html("<span data-undo-of>: {} ({})</span>", found["undo"], found["undo_by"]) if found["undo_by"] else ""
    )
