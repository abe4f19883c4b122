"""The brief: one printable page, and the sign-off."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.utils.translation import gettext, gettext_lazy
from django.views.decorators.http import require_POST

from apps.briefing import planner, presenter, signed_presenter
from apps.crews.permissions import permission
from apps.crews.throttle import sure_of
from apps.jobs import planner as jobs
from apps.takedown.brief import worked_picks
from cantrel.border import row_id
from cantrel.forms import UnitsForm
from cantrel.steps import page

if TYPE_CHECKING:
    from django.http import HttpRequest

    from apps.briefing.models import SignOff


class SignForm(UnitsForm):
    """One's password once more, and the words the signature stands under; the name is the account's own."""

    seen = forms.CharField(widget=forms.HiddenInput, required=False)  # fingerprint of the plan as it was on the page
    stands = forms.BooleanField(
        label=gettext_lazy("I have walked the site, the crew is briefed, and I stand for this plan as it is today.")
    )
    password = forms.CharField(
        label=gettext_lazy("Your password"),
        strip=False,
        max_length=256,
        widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}),
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
    signing = {"seen": planner.keep_seen(plan)}
    context = presenter.whole(tree, plan, worked, request.units) | {
        "have_read": planner.has_read(tree, request.user),
        "sign_form": sign_form or SignForm(stored=signing, prefix="sign"),
        "roles_form": roles_form or RolesForm(stored={"roles": roles}, prefix="roles"),
    }
    return render(request, "briefing/brief.html", page(request, tree, "brief", **context))


@require_POST
@permission("plan.sign")
def sign(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Sign the plan that was seen, in one's own name."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    form = SignForm(request.POST, prefix="sign")
    if form.is_valid() and not sure_of(request, form.cleaned_data["password"]):
        form.add_error("password", gettext("That is not your password, or too many were tried: nothing is signed."))
    said = form.is_valid() and planner.sign(tree, request.user, form.cleaned_data["seen"])
    if said:  # what was typed stays, beside the plan as it is now
        form.add_error(None, said)
        form.data = {**form.data.dict(), "sign-seen": planner.fingerprint(tree)}
    return redirect("brief", job_id, tree_id) if form.is_valid() else brief(request, job_id, tree_id, sign_form=form)


def _signed(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> SignOff:
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    return get_object_or_404(tree.signoffs.select_related("person", "tree__job"), pk=pk)


@permission("plan.view")
def signed(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> HttpResponse:
    """A plan as it was signed, with its numbers of that day, and whether they come out the same today."""
    row = _signed(request, job_id, tree_id, pk)
    return render(request, "briefing/signed.html", signed_presenter.whole(row, request.units))


@permission("plan.view")
def signed_file(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> HttpResponse:
    """The signature with the document and the results it stands on, as one file."""
    row = _signed(request, job_id, tree_id, pk)
    text = json.dumps(planner.signature_file(row), indent=1, ensure_ascii=False)
    name = f"{slugify(row.tree.name) or 'tree'}-signed-{row.pk}.json"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(text, content_type="application/json", headers=headers)


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


@require_POST
@permission("record.write")
def read(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> HttpResponse:
    """Sign in one's own name that the plan was read and understood, from the brief or from a phone."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    said = planner.read(tree, request.user, pk)
    if said:
        messages.error(request, said)
    else:
        messages.success(request, gettext("Signed: you have read this plan."))
    return redirect("phone" if "phone" in request.POST else "brief", job_id, tree_id)


@permission("plan.view")
def changes(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> HttpResponse:
    """What changed between a signed plan and a later signed one, or the plan as it stands."""
    row = _signed(request, job_id, tree_id, pk)
    number = row_id(request.GET["to"]) if request.GET.get("to") else None
    later = row.tree.signoffs.filter(pk=number).first() if number else None
    return render(request, "briefing/changes.html", signed_presenter.changed(row, later, request.units))
