"""The demo job, loaded by the app's own importer, and its person."""

import json
from pathlib import Path

from django.conf import settings

from apps.crews.models import Crew, Person
from apps.exchange.planner import import_document
from apps.survey.models import HazardAnswer


def demo_text():
    """The demo with its grand fir alone: one tree, no gear."""
    document = json.loads(whole_demo())
    document["trees"] = document["trees"][:1]
    document.pop("gear")
    return json.dumps(document, ensure_ascii=False)


def whole_demo():
    """The demo as it ships: grand fir, copper beech, gear store."""
    return (Path(settings.BASE_DIR) / "demo" / "kestrel_lane.json").read_text(encoding="utf-8")


def load_scene(text=None):
    """Return crew, person and the demo's first tree."""
    crew = Crew.objects.create(name="Oakhanger Tree Work")
    person = Person.objects.create_user("mara", password="kestrel-lane", crew=crew, first_name="Mara")
    job = import_document(crew, text or demo_text())
    HazardAnswer.objects.filter(tree__job=job, by="Mara Quillfeather").update(person=person)
    return crew, person, job.trees.first()
