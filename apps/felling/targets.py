"""Targets are drawn on the method page: adding and taking them off."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import permission
from apps.felling.views import method_page
from apps.jobs import planner as jobs
from apps.jobs.forms import TargetForm

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse


@require_POST
@permission("plan.change")
def target_new(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Add a target to the site."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    form = TargetForm(request.POST, units=request.units, job=tree.job, prefix="target")

    def save(values: dict[str, Any]) -> Any:
        outline = jobs.rectangle(values)
        keep = {k: values[k] for k in ("name", "kind", "height", "light_touch")}
        return jobs.save_target(tree.job, keep | {"outline": outline})

    if form.run(save):
        messages.success(request, gettext("Target “{name}” added.").format(name=form.cleaned_data["name"]))
        return redirect("method", job_id, tree_id)
    return method_page(request, tree, target_form=form)


@require_POST
@permission("plan.change")
def target_delete(request: HttpRequest, job_id: int, tree_id: int, target_id: int) -> HttpResponse:
    """Take a target off the site; its history stays."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    target = get_object_or_404(tree.job.targets, pk=target_id)
    jobs.remove_target(target)
    messages.success(request, gettext("Target “{name}” removed.").format(name=target.name))
    return redirect("method", job_id, tree_id)
