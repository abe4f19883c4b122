"""The brief: one printable page, and the sign-off."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.shortcuts import redirect, render
from django.utils.translation import gettext, gettext_lazy
from django.views.decorators.http import require_POST

from apps.briefing import planner, presenter
from apps.crews.permissions import permission
from apps.jobs import planner as jobs
from apps.takedown.brief import worked_picks
from cantrel.forms import UnitsForm
from cantrel.steps import page

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse


class SignForm(UnitsForm):
    """A name, and the words it stands under."""

    seen = forms.CharField(widget=forms.HiddenInput, required=False)  # fingerprint of the plan as it was on the page
    name = forms.CharField(max_length=120, label=gettext_lazy("Name of the person in charge"))
    stands = forms.BooleanField(
        label=gettext_lazy("I have walked the site, the crew is briefed, and I stand for this plan as it is today.")
    )


class RolesForm(UnitsForm):
    """Who does what, one per line."""

    roles = forms.CharField(
        widget=forms.Textarea(attrs={"rows": 4}),
        label=gettext_lazy("Roles, one per line as “role: name”"),
        required=False,
    )

    def clean_roles(self) -> Any:
        rows = [line.partition(":") for line in self.cleaned_data["roles"].splitlines() if line.strip()]
        for role, colon, name in rows:
            if not colon or not role.strip() or not name.strip() or len(role) > 80 or len(name) > 120:
                msg = gettext("“{role}” is not “role: name”.").format(role=(role + colon + name).strip()[:60])
                raise forms.ValidationError(msg)
        return [(role.strip(), name.strip()) for role, _, name in rows]


@permission("plan.view")
def brief(
    request: HttpRequest, job_id: int, tree_id: int, sign_form: Any = None, roles_form: RolesForm | None = None
) -> HttpResponse:
    """The brief page."""
    tree = planner.whole(jobs.tree_for(request.crew, job_id, tree_id))
    plan, worked = planner.document(tree), worked_picks(tree)
    roles = "\n".join(f"{r.role}: {r.name}" for r in tree.job.roles.all())
    signing = {"name": request.user.shown_name(), "seen": planner.digest(plan)}
    context = presenter.whole(tree, plan, worked, request.units) | {
        "sign_form": sign_form or SignForm(stored=signing, prefix="sign"),
        "roles_form": roles_form or RolesForm(stored={"roles": roles}, prefix="roles"),
    }
    return render(request, "briefing/brief.html", page(request, tree, "brief", **context))


@require_POST
@permission("plan.sign")
def sign(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Put a name under the plan."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    form = SignForm(request.POST, prefix="sign")
    if not form.is_valid():
        return brief(request, job_id, tree_id, sign_form=form)
    said = planner.sign(tree, form.cleaned_data["name"].strip(), request.user, form.cleaned_data["seen"])
    if said:  # what was typed stays, beside the plan as it is now
        form.add_error(None, said)
        form.data = {**form.data.dict(), "sign-seen": planner.fingerprint(tree)}
        return brief(request, job_id, tree_id, sign_form=form)
    return redirect("brief", job_id, tree_id)


@require_POST
@permission("plan.change")
def roles(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Keep who does what."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    form = RolesForm(request.POST, prefix="roles")
    if not form.is_valid():
        return brief(request, job_id, tree_id, roles_form=form)
    planner.set_roles(tree.job, form.cleaned_data["roles"])
    return redirect("brief", job_id, tree_id)
