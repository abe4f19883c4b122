"""Slows those who guess names and passwords: held tries cost no hash and no row, only a line of the log.

Own code rather than a library: what is counted is the list of sign-ins a person sees anyway, and a stranger's guesses
must not lock a person out of where they usually sign in.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import TYPE_CHECKING

from django.utils import timezone

from apps.crews.models import SignIn

if TYPE_CHECKING:
    from django.db.models import QuerySet
    from django.http import HttpRequest


log = logging.getLogger("cantrel.sign_in")
SPAN = timedelta(minutes=15)
BY_NAME_AND_ADDRESS = 5  # refused tries of one name from one address in the span
BY_ADDRESS = 40  # of any names from one address
BY_NAME = 30  # of one name from any address it is not usually used from
KNOWN_FOR = timedelta(days=30)  # an address somebody signed in from stays theirs
KEPT_FOR = timedelta(days=90)  # after that a night takes them away
_places = threading.BoundedSemaphore(2)  # of a process's threads, those that may be busy with passwords
_one = threading.Lock()  # a hash takes a whole processor: one at a time in each process


def address_of(request: HttpRequest) -> str:
    """Where a request comes from, as the server or its trusted proxy says."""
    return request.META.get("REMOTE_ADDR", "")[:45]


def _refused(**which: str) -> QuerySet[SignIn]:
    since = timezone.now() - SPAN
    return SignIn.objects.exclude(outcome=SignIn.Outcome.IN).filter(at__gte=since, **which)


def held(name: str, address: str) -> bool:
    """Whether a try of this name from this address has to wait."""
    tries = _refused(name__iexact=name, address=address)
    since = SignIn.objects.filter(name__iexact=name, address=address, outcome=SignIn.Outcome.IN).first()
    if since is not None:  # who came in starts anew
        tries = tries.filter(pk__gt=since.pk)
    if tries.count() >= BY_NAME_AND_ADDRESS or _refused(address=address).count() >= BY_ADDRESS:
        return True
    known = since is not None and since.at >= timezone.now() - KNOWN_FOR
    return not known and _refused(name__iexact=name).count() >= BY_NAME


@contextmanager
def in_turn() -> Iterator[bool]:
    """One password at a time and one that waits; False where both places are taken."""
    if not _places.acquire(blocking=False):
        yield False
        return
    try:
        with _one:
            yield True
    finally:
        _places.release()


def noted(request: HttpRequest, name: str, outcome: str, **more: object) -> SignIn:
    """Keep a try, and tell the log."""
    level = logging.INFO if outcome == SignIn.Outcome.IN else logging.WARNING
    log.log(level, "sign-in of %r from %s: %s", name[:150], address_of(request), outcome)
    agent = request.headers.get("User-Agent", "")[:200]
    return SignIn.objects.create(name=name[:150], address=address_of(request), agent=agent, outcome=outcome, **more)


def sure_of(request: HttpRequest, password: str) -> bool:
    """Whether who is signed in types their own password; wrong ones count as refused sign-ins."""
    name = request.user.get_username()
    if not password or held(name, address_of(request)):
        return False
    with in_turn() as mine:
        right = mine and request.user.check_password(password)
    if mine and not right:
        noted(request, name, SignIn.Outcome.REFUSED, person=request.user)
    return right
