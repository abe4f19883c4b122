"""People of a yard: invited, changed, gone; their second factor and where they are signed in."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

import pyotp
from django.contrib.auth.tokens import default_token_generator
from django.contrib.sessions.models import Session
from django.db import transaction
from django.db.models import Q
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.http import urlsafe_base64_decode, urlsafe_base64_encode
from django.utils.translation import gettext

from apps.crews.models import Crew, Invitation, Person, SignIn
from cantrel.border import digits

if TYPE_CHECKING:
    from django.db.models import QuerySet


OPEN_FOR = timedelta(days=7)
RESCUE_CODES = 8
STEP = 30  # of a one-time code [s]


def nobody_yet() -> bool:
    """Whether the program has no person at all."""
    return not Person.objects.exists()


@transaction.atomic
def first_owner(yard: str, values: dict[str, Any]) -> Person | None:
    """Make the first yard and its owner; None where somebody was quicker."""
    if not nobody_yet():
        return None
    return Person.objects.create_user(crew=Crew.objects.create(name=yard), role=Person.Role.OWNER, **values)


def people_of(crew: Crew) -> QuerySet[Person]:
    """Everybody of a yard: those who are there, then those who left."""
    return crew.people.select_related("only_job").order_by("-is_active", "first_name", "username")


def _open() -> Q:
    """Of an invitation that nobody used, nobody took back and whose time is not over."""
    return Q(person=None, withdrawn=False, until__gt=timezone.now())


def invitations_of(crew: Crew) -> QuerySet[Invitation]:
    """Invitations that still open the door."""
    return crew.invitations.filter(_open()).select_related("only_job")


def _digest(key: str) -> str:
    return hashlib.sha256(key.encode()).hexdigest()


def invite(crew: Crew, by: Person, values: dict[str, Any]) -> tuple[Invitation, str]:
    """Open the door for one person; the key is told once and not kept."""
    key = secrets.token_urlsafe(24)
    until = timezone.now() + OPEN_FOR
    return Invitation.objects.create(crew=crew, by=by, digest=_digest(key), until=until, **values), key


def invitation(key: str) -> Invitation | None:
    """The open invitation of a key."""
    found = Invitation.objects.filter(_open(), digest=_digest(key), by__is_active=True)
    return found.select_related("crew", "only_job").first()


@transaction.atomic
def join(key: str, values: dict[str, Any]) -> Person | None:
    """Come in by an invitation, once; None where it is no longer open."""
    door = invitation(key)
    if door is None:
        return None
    person = Person.objects.create_user(crew=door.crew, role=door.role, only_job=door.only_job, **values)
    door.person = person
    door.save()
    return person


def withdraw(crew: Crew, pk: int) -> None:
    """Close the door again."""
    door = get_object_or_404(invitations_of(crew), pk=pk)
    door.withdrawn = True
    door.save()


def _needed(person: Person) -> str:
    """Why a person can't stop being an owner: a yard would have none but for them; nothing where another is there."""
    owners = Person.objects.filter(crew=person.crew, role=Person.Role.OWNER, is_active=True)
    if person.role != Person.Role.OWNER or owners.exclude(pk=person.pk).exists():
        return ""
    return gettext("{name} is the only owner: make somebody else an owner first.").format(name=person.shown_name())


@transaction.atomic
def change_role(person: Person, role: str, only_job: Any = None) -> str:
    """Give a person another role; why not, in words, or nothing."""
    needed = _needed(person)
    if role != Person.Role.OWNER and needed:
        return needed
    person.role, person.only_job = role, only_job if role == Person.Role.GUEST else None
    person.save()
    return ""


@transaction.atomic
def set_active(person: Person, active: bool) -> str:
    """Let a person go, or come back; why not, in words, or nothing. What they wrote stays under their name."""
    needed = _needed(person)
    if not active and needed:
        return needed
    person.is_active = active
    if not active:
        end_sessions(person)
    person.save()
    return ""


def reset_key(person: Person) -> str:
    """A key that lets a person choose a new password: once, and until it is too old."""
    return f"{urlsafe_base64_encode(str(person.pk).encode())}-{default_token_generator.make_token(person)}"


def person_of_reset(key: str) -> Person | None:
    """Whose reset a key is; None where it opens nothing any more."""
    uid, _, token = key.partition("-")
    try:
        pk = digits(urlsafe_base64_decode(uid).decode("ascii"))
    except ValueError:
        return None
    person = None if pk is None else Person.objects.filter(pk=pk, is_active=True).first()
    return person if person and default_token_generator.check_token(person, token) else None


@transaction.atomic
def set_password(person: Person, password: str, keep: str = "") -> None:
    """Keep a new password; every session but the one to ``keep`` ends."""
    person.set_password(password)
    person.save(update_fields=["password"])
    end_sessions(person, keep)


def sessions_of(person: Person) -> list[tuple[SignIn, datetime]]:
    """Where a person is signed in and since when it lies idle: sign-ins whose session still runs, newest first."""
    rows = list(person.sign_ins.filter(outcome=SignIn.Outcome.IN).exclude(session="")[:200])
    running = {s.session_key: s for s in _running(rows)}
    newest = {row.session: row for row in reversed(rows) if row.session in running}
    return [(row, _seen(running[key], row)) for key, row in reversed(newest.items())]


def _running(rows: list[SignIn]) -> QuerySet[Session]:
    return Session.objects.filter(session_key__in=[r.session for r in rows], expire_date__gt=timezone.now())


def _seen(session: Session, row: SignIn) -> datetime:
    said = session.get_decoded().get("seen")
    return datetime.fromtimestamp(said, tz=timezone.get_current_timezone()) if isinstance(said, int) else row.at


def end_sessions(person: Person, keep: str = "", only: int | None = None) -> None:
    """End a person's sessions, all but the one to ``keep``, or that of one sign-in alone."""
    rows = person.sign_ins.exclude(session="").exclude(session=keep)
    if only is not None:
        rows = rows.filter(pk=only)
    Session.objects.filter(session_key__in=list(rows.values_list("session", flat=True))).delete()


def new_secret() -> str:
    """A secret for one-time codes."""
    return pyotp.random_base32()


def secret_address(person: Person, secret: str) -> str:
    """What a phone's app reads to know the secret."""
    return pyotp.TOTP(secret).provisioning_uri(name=person.get_username(), issuer_name="Cantrel")


def _step_of(secret: str, code: str) -> int | None:
    """The step of time a code belongs to: this one, the one before or after."""
    maker, now = pyotp.TOTP(secret), timezone.now()
    for off in (0, -1, 1):
        then = now + timedelta(seconds=off * STEP)
        if maker.verify(code, for_time=then):
            return int(then.timestamp()) // STEP
    return None


@transaction.atomic
def start_second(person: Person, secret: str, code: str) -> list[str] | None:
    """Ask this person for a code from now on; the rescue codes, told once. None where the code is not the secret's."""
    step = _step_of(secret, code)
    if step is None:
        return None
    codes = [secrets.token_hex(8) for _ in range(RESCUE_CODES)]
    person.second_factor, person.second_used = secret, step
    person.rescue_codes = [_digest(code) for code in codes]
    person.save()
    return codes


def stop_second(person: Person) -> None:
    """Ask for no code any more."""
    person.second_factor, person.second_used, person.rescue_codes = "", None, []
    person.save()


@transaction.atomic
def second_fits(person: Person, code: str) -> bool:
    """Whether a code is right; each works once. A rescue code is used up."""
    person = Person.objects.get(pk=person.pk)
    said = "".join(code.split()).lower()
    step = _step_of(person.second_factor, said) if digits(said) is not None else None
    if step is not None and step > (person.second_used or 0):
        person.second_used = step
        person.save(update_fields=["second_used"])
        return True
    left = [kept for kept in person.rescue_codes if kept != _digest(said)]
    if len(left) == len(person.rescue_codes):
        return False
    person.rescue_codes = left
    person.save(update_fields=["rescue_codes"])
    return True


def moved_session(person: Person, old: str, new: str) -> None:
    """A session got a new key: its sign-in goes with it."""
    person.sign_ins.filter(session=old).update(session=new)
