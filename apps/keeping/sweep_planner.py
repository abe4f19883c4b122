"""What is past its time goes: deleted jobs nobody brought back, files nobody took in, old sessions and sign-ins, and
pictures nothing shows any more.
"""

from __future__ import annotations

import time
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.sessions.models import Session
from django.core.files.storage import default_storage
from django.utils import timezone

from apps.crews.models import Invitation, SignIn
from apps.crews.throttle import KEPT_FOR
from apps.daybook.models import RecordPhoto
from apps.exchange.models import Intake, PlanFile
from apps.gear.models import Inspection
from apps.jobs import keep_planner
from apps.jobs.models import Job, Tree
from apps.site.models import SitePicture
from apps.survey.models import HazardAnswer

FILES = timedelta(days=30)  # a list or plan file on its way in
HALF = timedelta(days=1)  # a list that was being taken in
INVITATIONS = timedelta(days=180)
PICTURES = timedelta(days=30)  # a picture that is under nothing any more, for undo


# Rows that show a file, and the column that names it; a test holds that none is missing.
SHOWN_BY: tuple[tuple[Any, str], ...] = (
    (SitePicture, "image"),
    (HazardAnswer, "photo"),
    (RecordPhoto, "image"),
    (Inspection, "photo"),
)


def sweep() -> dict[str, int]:
    """Delete what is past its time; how many of what."""
    now = timezone.now()
    old_files = now - FILES
    return {
        "deleted jobs are gone for good": len(keep_planner.sweep()),
        "half lists are gone": _half_lists(),
        "lists on their way in are gone": Intake.objects.filter(at__lt=old_files).delete()[0],
        "plan files on their way in are gone": PlanFile.objects.filter(at__lt=old_files).delete()[0],
        "sessions are gone": Session.objects.filter(expire_date__lt=now).delete()[0],
        "sign-ins are gone": SignIn.objects.filter(at__lt=now - KEPT_FOR).delete()[0],
        "invitations are gone": Invitation.objects.filter(person=None, at__lt=now - INVITATIONS).delete()[0],
        "pictures are gone": _pictures(),
    }


def _half_lists() -> int:
    """Jobs that held a list until the machine stopped in the middle of it."""
    found = Job.objects.filter(staging=True, created__lt=timezone.now() - HALF)
    ids = list(found.values_list("pk", flat=True))
    found.delete()
    for past in (Tree.history.filter(job_id__in=ids), Job.history.filter(id__in=ids)):
        past.delete()
    return len(ids)


def _pictures() -> int:
    """Files of pictures that no row and no recent past of one names."""
    named: set[str] = set()
    for model, column in SHOWN_BY:
        named |= set(model.objects.exclude(**{column: ""}).values_list(column, flat=True))
        recent = model.history.filter(history_date__gt=timezone.now() - PICTURES)
        named |= set(recent.values_list(column, flat=True))
    root, gone = Path(settings.MEDIA_ROOT), 0
    for path in root.rglob("*"):
        young = path.is_file() and path.stat().st_mtime > time.time() - PICTURES.total_seconds()
        if path.is_file() and not young and str(path.relative_to(root)) not in named:
            default_storage.delete(str(path.relative_to(root)))
            gone += 1
    return gone
