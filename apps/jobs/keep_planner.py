"""Jobs handed over, put by, deleted and brought back."""

from __future__ import annotations

from datetime import timedelta
from typing import TYPE_CHECKING

from django.db import transaction
from django.db.models import Exists, OuterRef, ProtectedError, Q
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.translation import gettext

from apps.jobs.models import Job, Tree

if TYPE_CHECKING:
    from django.db.models import QuerySet

    from apps.crews.models import Crew, Person


WAY_BACK = timedelta(days=30)  # how long a deleted job can be brought back


def searched(rows: QuerySet[Job], words: str) -> QuerySet[Job]:
    """Jobs whose name, address or a tree of which has every one of some words."""
    for word in words.split():
        at = Q(name__icontains=word) | Q(address__icontains=word)
        rows = rows.filter(at | Exists(Tree.objects.filter(job=OuterRef("pk"), name__icontains=word)))
    return rows


def shown(crew: Crew, which: str) -> QuerySet[Job]:
    """Jobs of a list: those at work, those put by, those on their way out."""
    found = Job.objects.of_crew(crew).select_related("keeper").prefetch_related("trees")
    if which == "deleted":
        return found.exclude(deleted_at=None).order_by("-deleted_at")
    return found.filter(deleted_at=None, archived=which == "archived")


@transaction.atomic
def put_by(job: Job, archived: bool) -> None:
    """Put a job by, or take it up again."""
    job.archived = archived
    job.save()


def keepers(crew: Crew) -> QuerySet[Person]:
    """Who can look after a job: whoever is there and sees more than one."""
    return crew.people.filter(is_active=True).exclude(role="guest")


@transaction.atomic
def hand_over(job: Job, keeper: Person | None) -> None:
    """Say who looks after a job from now on."""
    job.keeper = keeper
    job.save()


@transaction.atomic
def delete(job: Job) -> str:
    """Take a job off every list; for some weeks it can be brought back. Why not, in words, or nothing."""
    if _kept_for_good(job):
        return gettext("Something of this job was signed or recorded, and that is kept: put the job by instead.")
    job.deleted_at = timezone.now()
    job.save()
    return ""


def _kept_for_good(job: Job) -> bool:
    """Whether a tree of it carries a signature or a record."""
    return job.trees.exclude(signoffs=None, record=None).exists()


@transaction.atomic
def bring_back(crew: Crew, job_id: int) -> Job:
    """Bring a deleted job back."""
    job = get_object_or_404(Job.objects.of_crew(crew).exclude(deleted_at=None), pk=job_id)
    job.deleted_at = None
    job.save()
    return job


def last_day(job: Job) -> object:
    """When a deleted job goes for good."""
    return job.deleted_at + WAY_BACK if job.deleted_at else None


def sweep() -> list[int]:
    """Delete for good what nobody brought back in time; the ids of those jobs."""
    gone = []
    for job in Job.objects.filter(deleted_at__lt=timezone.now() - WAY_BACK):
        pk = job.pk
        try:
            with transaction.atomic():
                job.guests.update(is_active=False)
                job.delete()
        except ProtectedError:  # signed meanwhile by way of a page that was open: it stays on the list of the deleted
            continue
        gone.append(pk)
    return gone
