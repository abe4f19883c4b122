"""The undo of a page: what would be taken back or brought back next, and where to ask for it."""

from django import template
from django.urls import reverse

from apps.crews import steps

register = template.Library()

ROUTES = {"body": "undo-body", "walk": "undo-walk", "record": "undo-record"}


@register.inclusion_tag("jobs/_undo.html", takes_context=True)
def undo(context, scope, owner):
    """Buttons for a scope of a job, a tree or a crew."""
    kind = owner._meta.model_name
    if kind == "tree":
        url = reverse(ROUTES[scope], args=[owner.job_id, owner.pk])
    else:
        url = reverse("undo-crew", args=[scope]) if kind == "crew" else reverse("undo-job", args=[owner.pk, scope])
    return {"history": steps.state(scope, owner), "url": url, "request": context["request"]}
