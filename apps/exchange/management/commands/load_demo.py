"""Load the demo job and its person, once."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from apps.crews.models import Crew, Person
from apps.exchange.planner import import_document
from apps.jobs.models import Job
from apps.survey.planner import claim

NAME, WORD = "mara", "kestrel-lane"


class Command(BaseCommand):
    """Make the demo crew, its person and the Kestrel Lane job if they are missing."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        crew, _ = Crew.objects.get_or_create(name="Oakhanger Tree Work")
        if not Person.objects.filter(username=NAME).exists():
            names = {"first_name": "Mara", "last_name": "Quillfeather", "role": Person.Role.OWNER}
            Person.objects.create_user(NAME, password=WORD, crew=crew, **names)
        path = Path(settings.BASE_DIR) / "demo" / "kestrel_lane.json"
        if not Job.objects.filter(crew=crew).exists():
            job = import_document(crew, path.read_text(encoding="utf-8"))
            claim(job, Person.objects.get(username=NAME))
        self.stdout.write(f"Sign in as {NAME} with the password {WORD}")
