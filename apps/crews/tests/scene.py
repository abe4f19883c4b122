"""The demo job, loaded by the app's own importer, and its person."""

from pathlib import Path

from django.conf import settings

from apps.crews.models import Crew, Person
from apps.exchange.planner import import_document


def demo_text():
    return (Path(settings.BASE_DIR) / "demo" / "kestrel_lane.json").read_text(encoding="utf-8")


def load_scene():
    """Return crew, person and the demo tree."""
    crew = Crew.objects.create(name="Oakhanger Tree Work")
    person = Person.objects.create_user("mara", password="kestrel-lane", crew=crew, first_name="Mara")
    return crew, person, import_document(crew, demo_text()).trees.get()
