"""The brief: the whole plan, who stands for it, and whether it is still the one signed."""

from __future__ import annotations

import hashlib
import json
import re
from functools import partial
from typing import TYPE_CHECKING, Any, NamedTuple, TypedDict

from django.core.cache import cache
from django.db import transaction
from django.db.models import prefetch_related_objects
from django.utils.translation import gettext, gettext_lazy
from simple_history.utils import bulk_create_with_history

from apps.briefing.models import PlanReader, SignOff
from apps.crews import steps
from apps.day.planner import open_items
from apps.felling.planner import evaluated, in_sections, plan_for, tree_entry
from apps.gear.planner import rows_of, tells_of_use
from apps.gear.planner import state as item_state
from apps.jobs import planner as jobs
from apps.jobs.models import Role
from apps.jobs.planner import job_entry, site_entry
from apps.survey.planner import open_gates
from apps.takedown.brief import blocking
from apps.takedown.planner import entries as takedown_entries
from apps.takedown.planner import roles_used
from cantrel.limits import limit_said
from cantrel.steps import loaded
from treecore.document.codec import decode, encode
from treecore.document.versions import SCHEMA, VERSION, upgraded
from treecore.document.whole import PlanDocument
from treecore.errors import CoreError
from treecore.formats.changes import Changed, changes
from treecore.formats.plan_document import evaluate_document, load
from treecore.formats.same_results import changed_results
from treecore.release import figures_version, program_version, same_figures
from treecore.roles import unfilled
from treecore.species import find
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from collections.abc import Callable
    from datetime import datetime

    from apps.crews.models import Person
    from apps.felling.models import FellingPlan
    from apps.gear.models import GearItem
    from apps.jobs.models import Job, Tree
    from apps.takedown.brief import WorkedTakedown


def document(tree: Tree) -> dict[str, Any]:
    """The plan document of one tree, with the gear its takedown names."""
    takedown, gear = takedown_entries(tree)
    parts = {"trees": [tree_entry(tree) | ({"takedown": takedown} if takedown else {})]} | (
        {"gear": gear} if gear else {}
    )
    return {
        "schema": SCHEMA,
        "version": VERSION,
        "job": job_entry(tree.job),
        "site": site_entry(tree.job),
    } | parts


def _without_ids(written: Any) -> Any:
    """A document without the names that only tell its rows apart."""
    if isinstance(written, dict):
        return {key: _without_ids(value) for key, value in written.items() if key != "id"}
    return [_without_ids(value) for value in written] if isinstance(written, list) else written


def canonical(plan_document: dict[str, Any], version: int = VERSION) -> dict[str, Any]:
    """A document in the one form it is compared in: what it leaves out and what it says of the usual are the same, ids
    are none.
    """
    return _without_ids(encode(decode(PlanDocument, upgraded(plan_document, version))))


# How the fingerprint of a signed document was made: 1 of the document as it was written, which stays what it was
# whatever later versions say; 2 of the canonical form of version 3.
FORMS: dict[int, Callable[[dict[str, Any]], Any]] = {1: _without_ids, 2: partial(canonical, version=3)}
FORM = 1


def digest(plan_document: dict[str, Any], form: int = FORM) -> str:
    """Fingerprint of a document in a form of its time."""
    text = json.dumps(FORMS[form](plan_document), sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()


def fingerprint(tree: Tree) -> str:
    """Fingerprint of a tree's plan as it stands."""
    return digest(document(tree))


_WEIGHINGS: list[Callable[[Tree], dict[str, float]]] = []


def tells_of_weighings(told: Callable[[Tree], dict[str, float]]) -> Callable[[Tree], dict[str, float]]:
    """Register a room's function that says what pieces of a tree were weighed while it was worked, by pick [kg]."""
    _WEIGHINGS.append(told)
    return told


def as_planned(tree: Tree, plan_document: dict[str, Any]) -> dict[str, Any]:
    """A document without what was weighed while the plan was worked: that is no change of the plan. Whether a limit is
    passed by it is asked of the plan with it, by ``blocks``.
    """
    picks = [pick for entry in plan_document["trees"] for pick in (entry.get("takedown") or {}).get("picks", ())]
    if not any(pick.get("weighed_kg") for pick in picks):
        return plan_document
    weighed = {pick: mass for told in _WEIGHINGS for pick, mass in told(tree).items()}

    def bare(entry: dict[str, Any]) -> dict[str, Any]:
        takedown = entry["takedown"]
        return {**entry, "takedown": takedown | {"picks": [_unweighed(pick, weighed) for pick in takedown["picks"]]}}

    return {**plan_document, "trees": [bare(t) if t.get("takedown") else t for t in plan_document["trees"]]}


def comparable(tree: Tree, plan_document: dict[str, Any]) -> dict[str, Any]:
    """A document as it is held against a signed one: weighings and inspections of gear since then change nothing.
    Gear that is overdue is asked of the store, by ``blocks``.
    """
    found: dict[str, Any] = canonical(as_planned(tree, plan_document))
    gear = [{key: value for key, value in item.items() if key != "inspected"} for item in found.get("gear", ())]
    return {**found, "gear": gear}


def _unweighed(pick: dict[str, Any], weighed: dict[str, float]) -> dict[str, Any]:
    mass = weighed.get(pick.get("id", ""))
    same = mass is not None and pick.get("weighed_kg") == mass
    return {key: value for key, value in pick.items() if key != "weighed_kg"} if same else pick


def differences(old: Any, new: Any, path: str = "") -> list[str]:
    """Paths at which two documents differ."""
    if isinstance(old, dict) and isinstance(new, dict):
        keys = [*old, *(k for k in new if k not in old)]
        return [d for k in keys for d in differences(old.get(k), new.get(k), f"{path} {k}".strip())]
    if isinstance(old, list) and isinstance(new, list) and len(old) == len(new):
        return [d for i, (a, b) in enumerate(zip(old, new, strict=True)) for d in differences(a, b, f"{path} {i + 1}")]
    return [] if old == new else [path]


def whole(tree: Tree) -> Tree:
    """The tree with everything the brief shows of it, read in a few queries."""
    known = jobs.whole(loaded(tree))
    prefetch_related_objects([known.job.crew], "hazards", "approaches", "gear__readings")
    return known


class State(TypedDict):
    """How a tree's plan stands to its last signature: ``valid`` while nothing it stands on has changed.

    ``changes`` are parts of the plan that differ by now, ``corrected`` says that the figures behind it were corrected,
    ``moved`` are numbers the program works out otherwise than then, ``blocks`` is what keeps it from being worked from
    today.
    """

    last: SignOff | None
    valid: bool
    changes: list[str]
    corrected: bool
    moved: list[str]
    blocks: list[str]


def results_of(plan_document: dict[str, Any]) -> dict[str, Any]:
    """Everything a plan document comes to, as the command prints it; CoreError where it can't be worked out."""
    return evaluate_document(load(json.dumps(plan_document)))


def signed_state(tree: Tree, now: dict[str, Any] | None = None, blocked: list[str] | None = None) -> State:
    """The last sign-off, and what has changed since of all it stands on.

    ``now`` is the tree's document and ``blocked`` what blocks it, where they were found already.
    """
    last = tree.signoffs.select_related("person").first()
    if last is None:
        return {"last": None, "valid": False, "changes": [], "corrected": False, "moved": [], "blocks": []}
    was, now = comparable(tree, last.document), comparable(tree, now or document(tree))
    whole = untouched(last)
    changes = [_words(d) for d in differences(was, now)] + ([] if whole else [gettext("the signed document itself")])
    changes += [gettext("it came with a file, not by signing here")] if last.person_id is None else []
    # What a changed plan comes to differs anyway: then the version of the figures says whether they were corrected.
    corrected, moved = (not same_figures(last.figures), []) if changes else _renewed(last)
    blocked = blocks(tree) if blocked is None else blocked
    valid = not (changes or corrected or moved or blocked)
    return {
        "last": last,
        "valid": valid,
        "changes": changes,
        "corrected": corrected,
        "moved": moved,
        "blocks": blocked,
    }


def still_signed(tree: Tree) -> bool:
    """Whether the last signature stands, as far as is known without working the plan out: for every page's strip."""
    last = tree.signoffs.first()
    if last is None or last.person_id is None or not untouched(last):
        return False
    now = document(tree)
    if comparable(tree, last.document) != comparable(tree, now) or open_gates(tree) or open_items(tree):
        return False
    names = {entry["name"] for entry in now.get("gear", ())}
    if any(item_state(row)[0] for row in rows_of(tree.job.crew) if row.name in names):
        return False
    return last.program == program_version() or not any(_renewed(last))


def untouched(signed: SignOff) -> bool:
    """Whether a signed document is still the one whose fingerprint was signed."""
    return digest(signed.document, signed.form) == signed.digest


def _renewed(signed: SignOff) -> tuple[bool, list[str]]:
    """Whether figures a signature stands on were corrected, and which of its numbers come out otherwise by now.

    Of signatures that kept no results only the version of the figures is known.
    """
    if signed.results is None:
        return not same_figures(signed.figures), []
    moved, refused = _moved(signed, canonical(signed.document))
    return bool(refused), [refused] if refused else [_words(path) for path in moved]


def _moved(signed: SignOff, now: dict[str, Any]) -> tuple[list[str], str]:
    """Paths of kept results that a plan comes to otherwise by now, and why it can't be worked out where it can't.

    The same for the same plan, program and wood as the program has it loaded, so it is worked out once: the strip of
    every page asks for it.
    """
    wood = hashlib.sha256("".join(repr(find(tree["species"])) for tree in now["trees"]).encode()).hexdigest()
    key = f"moved-{signed.pk}-{program_version()}-{digest(now)}-{wood}"
    found: tuple[list[str], str] | None = cache.get(key)
    if found is None:
        try:
            found = changed_results(signed.results or {}, results_of(now)), ""
        except CoreError as error:
            found = [], str(error)
        cache.set(key, found, SEEN_FOR)
    return found


def _words(path: str) -> str:
    text = path.removeprefix("trees 1 ").replace("_deg", "").replace("_m_s", "").replace("_N", "")
    return text.removesuffix("_m").replace("_", " ")


FIRST_PICKS = ("reduce", "spar")  # ways that take something off before the rest is felled


# What whoever calls for help needs; each empty one stops the sign-off.
EMERGENCY = {
    "emergency_number": gettext_lazy("number to call"),
    "address": gettext_lazy("address"),
    "access": gettext_lazy("way in for the ambulance"),
    "meeting_point": gettext_lazy("meeting point"),
    "first_aider": gettext_lazy("first aider"),
    "rescue_plan": gettext_lazy("rescue plan"),
}


def unready(tree: Tree, plan: FellingPlan) -> list[str]:
    """What is missing before anyone starts, in words: emergency details, and a name for every role the plan uses."""
    job = tree.job
    missing = [
        gettext("Emergency: no {words} is given").format(words=words)
        for name, words in EMERGENCY.items()
        if not getattr(job, name).strip()
    ]
    uses = {"always"}
    if in_sections(plan) or plan.after_picks:
        uses |= roles_used(tree)
    if not in_sections(plan):
        uses |= {"pull"} if plan.pull_force or plan.system else set()
        uses |= {"guy"} if plan.guy_limit else set()
    empty = unfilled(uses, [(r.role, r.name) for r in job.roles.all()])
    return missing + [gettext("Nobody is named {name}").format(name=kind.name) for kind in empty]


def blocks(tree: Tree, worked: WorkedTakedown | None = None) -> list[str]:
    """Why the plan can't be signed yet, in words; empty if it can. ``worked`` are its picks where they were worked out
    already.
    """
    plan = plan_for(tree)
    reasons = [
        gettext("Gate open: {name} — {why_}").format(name=gettext(g.hazard.name), why_=gettext(g.why))
        for g in open_gates(tree)
    ] + unready(tree, plan)
    reasons += [gettext("Before the saw, not done yet: {what}").format(what=what) for what in open_items(tree)]
    if plan.method == "":
        reasons.append(gettext("No method is chosen"))
    if plan.method == "refer":
        reasons.append(gettext("The method is to refer or wait: there is no felling to sign"))
    if in_sections(plan):
        return [*reasons, *blocking(tree, worked)]
    if plan.after_picks:
        reasons += blocking(tree, worked)  # they come first
    elif plan.method in FIRST_PICKS:
        reasons.append(gettext("Nobody said after how many picks it is felled (see Fell, Balance)"))
    try:
        _, result = evaluated(tree, plan)
    except CoreError as error:
        return [*reasons, gettext("The plan can't be computed: {error}").format(error=error)]
    over = [limit for limit in result.limits if limit.verdict in (Verdict.OVER, Verdict.NOT_KNOWN)]
    return reasons + [gettext("{name} (see Fell)").format(name=limit_said(limit, "metric")["name"]) for limit in over]


@transaction.atomic
def sign(tree: Tree, person: Person, seen: str) -> str:
    """Put a person's own name under the plan as it stands; why not, in words, or nothing.

    Refused while anything blocks, and where the plan is not the one of the fingerprint that was ``seen``.
    """
    plan = document(tree)
    found = digest(plan)
    if seen != found:
        return _moved_meanwhile(seen, plan)
    if blocks(tree):
        return gettext("Not signed: something still blocks the plan.")
    try:
        results = results_of(plan)
    except CoreError as error:
        return gettext("Not signed: the plan can't be computed: {error}").format(error=error)
    SignOff.objects.create(
        tree=tree,
        name=person.shown_name(),
        role=person.get_role_display(),
        person=person,
        digest=found,
        form=FORM,
        document=plan,
        figures=figures_version(),
        program=program_version(),
        results=results,
    )
    return ""


SEEN_FOR = 24 * 3600  # how long it is known what a page showed, and what a signed plan comes to by now [s]


def keep_seen(plan: dict[str, Any]) -> str:
    """Remember the plan a page shows by its fingerprint, so that later it can be said what changed since."""
    found = digest(plan)
    cache.add(f"seen-{found}", plan, SEEN_FOR)
    return found


def _moved_meanwhile(seen: str, plan: dict[str, Any]) -> str:
    known = re.fullmatch("[0-9a-f]{64}", seen)
    then = cache.get(f"seen-{seen}") if known else None
    said = gettext("Not signed: the plan changed since this page was drawn. Read it as it is now, then sign.")
    if then is None:
        return said
    changes = [_words(path) for path in differences(canonical(then), canonical(plan))]
    return said + " " + gettext("Changed: {changes}.").format(changes=", ".join(changes[:8]))


@transaction.atomic
def set_roles(job: Job, rows: list[tuple[str, str]]) -> None:
    """Replace a job's roles."""
    with steps.recorded("paper", job, gettext("who does what changed")):
        job.roles.all().delete()
        bulk_create_with_history([Role(job=job, role=r, name=n) for r, n in rows if r or n], Role)


def signature_file(signed: SignOff) -> dict[str, Any]:
    """A signature with everything it stands on, for whoever wants to check it elsewhere."""
    return {
        "schema": "cantrel-signature",
        "version": 1,
        "signature": {
            "name": signed.name,
            "role": signed.role,
            "account": signed.person.get_username() if signed.person else "",
            "at": signed.at.isoformat(),
            "digest_sha256": signed.digest,
            "digest_form": signed.form,
            "figures": signed.figures,
            "program": signed.program,
        },
        "document": signed.document,
        "results": signed.results,
    }


class Verified(NamedTuple):
    """What a signature is worth looked at today: its document untouched, the numbers of it that come out otherwise by
    now, and why they can't be worked out where they can't.
    """

    untouched: bool
    moved: list[str]
    refused: str


def verified(signed: SignOff) -> Verified:
    """Look at a signed plan again: its fingerprint, and its numbers worked out by today's program."""
    moved, refused = ([], "") if signed.results is None else _moved(signed, upgraded(signed.document))
    return Verified(untouched(signed), [_words(path) for path in moved], refused)


@tells_of_use
def signed_with(row: GearItem) -> str:
    """The signed plan that names an item of gear, in words; empty without one."""
    for signed in SignOff.objects.filter(tree__job__crew=row.crew_id).select_related("tree"):
        if any(g["name"] == row.name for g in signed.document.get("gear", ())):
            return gettext("the plan of {name} that {name2} signed").format(name=signed.tree.name, name2=signed.name)
    return ""


class Crewmember(NamedTuple):
    """One of a job's crew by a name: what they do there, and when they signed the plan that stands; None where not."""

    name: str
    role: str
    at: datetime | None


@transaction.atomic
def read(tree: Tree, person: Person, number: int) -> str:
    """Keep that one of the crew has read and understood the plan of a signature; why not, in words, or nothing.

    Only of the newest signature, and while it stands.
    """
    last = tree.signoffs.first()
    if last is None or last.pk != number or not signed_state(tree)["valid"]:
        return gettext("Not signed: the plan is another by now, or does not stand. Read it as it is, then sign.")
    roles = [r.role for r in tree.job.roles.all() if r.name.strip().lower() == person.shown_name().strip().lower()]
    said = {"tree": tree, "name": person.shown_name(), "role": ", ".join(roles)[:80]}
    PlanReader.objects.get_or_create(signoff=last, person=person, defaults=said)
    return ""


def crew_of(tree: Tree) -> list[Crewmember]:
    """Everybody named on the job, and everybody who signed: who has signed the plan that stands, who has not."""
    last = tree.signoffs.defer("document", "results").first()
    signed = {row.name: row for row in last.readers.all()} if last else {}
    named: dict[str, list[str]] = {}
    for role in tree.job.roles.all():
        named.setdefault(role.name.strip(), []).append(role.role)
    if last:
        named.setdefault(last.name, [])
    found = []
    for name in [*named, *(name for name in signed if name not in named)]:
        at = signed[name].at if name in signed else last.at if last and last.name == name else None
        found.append(Crewmember(name, ", ".join(named.get(name, [])), at))
    return found


def has_read(tree: Tree, person: Person) -> bool:
    """Whether a person has signed the plan that was signed last, as planner or as one of the crew."""
    last = tree.signoffs.defer("document", "results").first()
    return last is not None and (last.person_id == person.pk or last.readers.filter(person=person).exists())


def changed_since(tree: Tree, signed: SignOff, other: SignOff | None) -> list[Changed]:
    """What changed between a signed plan and a later one, or the plan as it stands."""
    later = other.document if other else document(tree)
    return changes(_newest(signed.document), _newest(later))


def _newest(plan_document: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = encode(decode(PlanDocument, upgraded(plan_document)))
    return found
