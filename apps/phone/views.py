"""The ground crew's phone: its pages, its service worker, its manifest, and whether it may send."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from django.shortcuts import render
from django.templatetags.static import static
from django.urls import reverse
from django.utils.translation import gettext
from django.views.decorators.cache import never_cache

from apps.crews.permissions import allowed, permission
from apps.daybook.forms import form_for
from apps.jobs import planner as jobs
from apps.phone import planner, presenter
from cantrel import lan

if TYPE_CHECKING:
    from django.http import HttpRequest

    from apps.jobs.models import Tree


def _about(request: HttpRequest, tree: Tree) -> dict[str, Any]:
    return {
        "tree": tree,
        "job": tree.job,
        "units": request.units,
        "writes": allowed(request.user, "record.write", tree.job_id),
    }


def kept_pages(tree: Tree) -> list[str]:
    """Addresses a phone keeps for when there is no signal: plan and record of a tree, and every screen of it."""
    keys = [tree.job_id, tree.pk]
    screens = [reverse("phone-pick", args=[*keys, pick]) for pick in planner.screens_of(tree)]
    pages = [reverse(name, args=keys) for name in ("phone", "brief", "record")]
    return [*pages, reverse("day", args=[tree.job_id]), *screens]


@permission("plan.view")
def screens(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """All screens of a tree, what is kept on this phone, and what waits to be sent."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    shown = presenter.listed(tree, request.user, request.units) | {"keep": kept_pages(tree)}
    return render(request, "phone/screens.html", _about(request, tree) | shown)


@permission("plan.view")
def pick(request: HttpRequest, job_id: int, tree_id: int, pick: str) -> HttpResponse:
    """One screen of a tree."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    piece = planner.piece_of(tree, pick)
    if piece is None:
        raise Http404(gettext("The plan has no such pick any more."))
    more = {"form": form_for(pick)(units=request.units), "keep": kept_pages(tree)}
    shown = presenter.card(tree, piece, request.units) | more
    return render(request, "phone/pick.html", _about(request, tree) | shown)


@never_cache
@permission("person.self")
def ready(request: HttpRequest) -> JsonResponse:
    """Who is signed in on this phone, and the token their records are sent with."""
    return JsonResponse({"person": request.user.pk, "name": request.user.shown_name(), "token": get_token(request)})


@permission("person.self")
def trust(request: HttpRequest) -> HttpResponse:
    """How a phone on the same network is told to trust this machine, and what it can do then."""
    shown = {"program": lan.over_tls(), "trust": lan.to_trust(), "code": lan.code(lan.to_trust())}
    return render(request, "phone/trust.html", shown)


@never_cache
@login_not_required
def worker(request: HttpRequest) -> HttpResponse:
    """The service worker, for the whole of the program."""
    answer = render(request, "phone/worker.js", content_type="text/javascript; charset=utf-8")
    answer["Service-Worker-Allowed"] = "/"
    return answer


@login_not_required
def manifest(request: HttpRequest) -> JsonResponse:
    """What a phone needs to install the program."""
    icon = {"src": static("cantrel/mark.svg"), "sizes": "any", "type": "image/svg+xml", "purpose": "any"}
    about = {
        "name": "Cantrel",
        "short_name": "Cantrel",
        "start_url": reverse("jobs"),
        "scope": "/",
        "display": "standalone",
        "background_color": "#fbf8ef",
        "theme_color": "#2f251f",
        "icons": [icon],
    }
    return JsonResponse(about, content_type="application/manifest+json")
