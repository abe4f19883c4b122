"""The strip of steps: each tells whether it is done, open or blocked."""

from django.urls import reverse

from apps.briefing.planner import in_sections, signed_state
from apps.daybook.planner import record_of
from apps.felling.models import FellingPlan
from apps.survey.planner import open_gates, walk_up
from apps.takedown.planner import plan_for as takedown_for

STEPS = (
    ("walk-up", "Walk-up"),
    ("measure", "Measure"),
    ("method", "Method"),
    ("fell", "Fell"),
    ("takedown", "Take down"),
    ("brief", "Brief"),
    ("record", "Record"),
)


def _states(tree):
    gates = open_gates(tree)
    looked = all(row["answer"] and row["answer"].finding != "not looked at" for row in walk_up(tree))
    plan = FellingPlan.objects.filter(tree=tree).first()
    picks = takedown_for(tree).picks
    signed = signed_state(tree)
    return {
        "walk-up": ("blocked", f"{len(gates)} open") if gates else ("done" if looked else "open", ""),
        "measure": ("done" if tree.readings.exists() else "open", ""),
        "method": ("done" if plan and plan.method else "open", ""),
        "fell": ("open", "not this way") if plan and in_sections(plan) else ("done" if plan else "open", ""),
        "takedown": ("done", f"{len(picks)} picks") if picks else ("open", ""),
        "brief": ("done", "signed") if signed["valid"] else ("blocked", "changed") if signed["last"] else ("open", ""),
        "record": ("done" if record_of(tree) else "open", ""),
    }


def strip(tree, current):
    """Steps of a tree for the page's strip."""
    states = _states(tree)
    return [
        {
            "key": key,
            "name": name,
            "url": reverse(key, args=[tree.job_id, tree.pk]),
            "state": states[key][0],
            "note": states[key][1],
            "current": key == current,
        }
        for key, name in STEPS
    ]


def page(request, tree, current, **more):
    """Context every page of a tree shares."""
    return {"job": tree.job, "tree": tree, "steps": strip(tree, current), "units": request.units, **more}
