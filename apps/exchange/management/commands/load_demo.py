"""Load the demo yard: its people, the Kestrel Lane job with its finished day, and two jobs from before."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from apps.crews.models import Crew, Person
from apps.exchange.day_planner import take_in
from apps.exchange.planner import import_document
from apps.jobs.models import Job
from apps.survey.planner import claim

NAME, WORD = "mara", "kestrel-lane"
HANDS = {"bram": ("Bram", "Tolliver"), "ines": ("Ines", "Pargeter")}
BEFORE = ("tannery_row", "forge_green")
FIRST = "kestrel_lane"


class Command(BaseCommand):
    """Make the demo yard, its people and its jobs if they are missing."""

    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        """Without its days the demo is quicker there."""
        parser.add_argument("--plans", action="store_true", help="the Kestrel Lane plans alone, nothing done yet")

    def handle(self, *args: Any, **options: Any) -> None:
        """Load what is not there."""
        crew, _ = Crew.objects.get_or_create(name="Oakhanger Tree Work")
        if not Person.objects.filter(username=NAME).exists():
            names = {"first_name": "Mara", "last_name": "Quillfeather", "role": Person.Role.OWNER}
            Person.objects.create_user(NAME, password=WORD, crew=crew, **names)
        if not Job.objects.filter(crew=crew).exists():
            job = import_document(crew, self.read(FIRST))
            claim(job, Person.objects.get(username=NAME))
            if not options["plans"]:
                self.stdout.write("The days of three jobs are taken in: half a minute, once.")
                self.days(crew)
        self.stdout.write(f"Sign in as {NAME} with the password {WORD}")

    def read(self, name: str) -> str:
        """A file of the demo."""
        return (Path(settings.BASE_DIR) / "demo" / f"{name}.json").read_text(encoding="utf-8")

    def days(self, crew: Crew) -> None:
        """The hands, two jobs from before, and what was done on every one."""
        for name, (first, last) in HANDS.items():
            Person.objects.create_user(name, password=WORD, crew=crew, first_name=first, last_name=last, role="hand")
        for name in BEFORE:
            claim(import_document(crew, self.read(name)), Person.objects.get(username=NAME))
        for name in (*BEFORE, FIRST):
            take_in(crew, json.loads(self.read(f"{name}_day")))
