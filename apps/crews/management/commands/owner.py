"""Make an owner of a yard, or a new password for one, from the machine itself."""

from __future__ import annotations

import getpass
import sys
from typing import Any

from django.contrib.auth import password_validation
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from apps.crews.models import Crew, Person
from apps.crews.people_planner import end_sessions, stop_second


class Command(BaseCommand):
    """Make NAME an owner of the yard; without ``--yard`` give NAME a new password and take off the second factor.

    The password is asked for, or read as one line where the input is no terminal.
    """

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """A name, and a yard for a new owner."""
        parser.add_argument("name")
        parser.add_argument("--yard", default="")

    def handle(self, *args: Any, **options: Any) -> None:
        """Ask for a password twice, and keep it."""
        name, yard = options["name"], options["yard"].strip()
        person = Person.objects.filter(username__iexact=name).first()
        if person is None and not yard:
            msg = f"nobody signs in as {name}; with --yard a new owner is made"
            raise CommandError(msg)
        if person is not None and yard:
            msg = f"{person.username} is there already; without --yard they get a new password"
            raise CommandError(msg)
        if person is None:
            Person.username.field.clean(name, None)
        word = _asked()
        try:
            password_validation.validate_password(word, person or Person(username=name))
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        self.stdout.write(_changed(person, word) if person else _made(name, yard, word))


def _asked() -> str:
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\r\n")
    word = getpass.getpass("Password: ")
    if word != getpass.getpass("Once more: "):
        msg = "the two passwords differ"
        raise CommandError(msg)
    return word


@transaction.atomic
def _made(name: str, yard: str, word: str) -> str:
    crew, _ = Crew.objects.get_or_create(name=yard)
    Person.objects.create_user(name, password=word, crew=crew, role=Person.Role.OWNER)
    return f"{name} is an owner of {yard}"


@transaction.atomic
def _changed(person: Person, word: str) -> str:
    person.set_password(word)
    person.is_active = True
    stop_second(person)
    end_sessions(person)
    return f"{person.username} has a new password and no second factor"
