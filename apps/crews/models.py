"""People, the yards they belong to, and how they come in."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractUser, UserManager
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy
from simple_history.models import HistoricalRecords


class Crew(models.Model):
    """A yard: the firm whose people see its jobs, and nobody else does."""

    name = models.CharField(max_length=120, unique=True)
    history = HistoricalRecords()

    def __str__(self) -> str:
        return self.name


class People(UserManager):
    def get_by_natural_key(self, username: str | None) -> Person:
        """The person of a name; a phone that writes its first letter large means nobody else."""
        found = list(self.filter(username__iexact=username or "")[:2])
        exact = [person for person in found if person.username == username]
        return exact[0] if exact or len(found) > 1 else found[0] if found else self.get(username=username)


class Person(AbstractUser):
    """Someone who signs in: their yard, what they may do there, and the units they read.

    Who leaves is made inactive and keeps their name: what they wrote and signed stays theirs.
    """

    class Role(models.TextChoices):
        OWNER = "owner", gettext_lazy("Owner")
        PLANNER = "planner", gettext_lazy("Planner or climber")
        HAND = "hand", gettext_lazy("Ground crew")
        GUEST = "guest", gettext_lazy("Guest on one job")

    class Units(models.TextChoices):
        METRIC = "metric", gettext_lazy("Metric")
        US = "us", "US customary"

    crew = models.ForeignKey(Crew, on_delete=models.PROTECT, null=True, related_name="people")
    role = models.CharField(max_length=12, choices=Role, default=Role.PLANNER)
    only_job = models.ForeignKey("jobs.Job", on_delete=models.SET_NULL, null=True, blank=True, related_name="guests")
    units = models.CharField(max_length=8, choices=Units, default=Units.METRIC)
    second_factor = models.CharField(max_length=64, blank=True)
    second_used = models.PositiveBigIntegerField(null=True, blank=True)
    rescue_codes = models.JSONField(default=list, blank=True)
    history = HistoricalRecords(
        excluded_fields=["password", "last_login", "second_factor", "second_used", "rescue_codes"]
    )
    objects = People()

    class Meta:
        constraints = [
            models.CheckConstraint(condition=Q(units__in=["metric", "us"]), name="person_units"),
            models.CheckConstraint(condition=Q(role__in=["owner", "planner", "hand", "guest"]), name="person_role"),
            models.CheckConstraint(condition=Q(role="guest") | Q(only_job=None), name="person_job_of_guests_only"),
        ]

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Keep a history row, but not for having signed in: that has a log of its own."""
        fields = set(kwargs.get("update_fields") or ["all"])
        self.skip_history_when_saving = fields <= {"last_login", "password", "second_used", "rescue_codes"}
        super().save(*args, **kwargs)

    def shown_name(self) -> str:
        return self.get_full_name() or self.username


class Invitation(models.Model):
    """A door left open for one person, for a while. Only the digest of its key is kept."""

    crew = models.ForeignKey(Crew, on_delete=models.PROTECT, related_name="invitations")
    role = models.CharField(max_length=12, choices=Person.Role)
    only_job = models.ForeignKey("jobs.Job", on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    name = models.CharField(max_length=150)
    email = models.EmailField(blank=True)
    digest = models.CharField(max_length=64, unique=True)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    until = models.DateTimeField()
    person = models.ForeignKey(Person, on_delete=models.PROTECT, null=True, blank=True, related_name="+")
    withdrawn = models.BooleanField(default=False)
    history = HistoricalRecords(excluded_fields=["digest"])

    class Meta:
        ordering = ["-pk"]
        constraints = [
            models.CheckConstraint(condition=Q(role__in=["owner", "planner", "hand", "guest"]), name="invitation_role"),
        ]

    def __str__(self) -> str:
        return self.name


class SignIn(models.Model):
    """One try to sign in: it slows those who guess, and shows a person where they are signed in."""

    class Outcome(models.TextChoices):
        IN = "in", gettext_lazy("signed in")
        REFUSED = "refused", gettext_lazy("refused")
        SECOND = "second", gettext_lazy("second factor refused")

    name = models.CharField(max_length=150)
    person = models.ForeignKey(Person, on_delete=models.CASCADE, null=True, related_name="sign_ins")
    address = models.CharField(max_length=45)
    agent = models.CharField(max_length=200, blank=True)
    outcome = models.CharField(max_length=8, choices=Outcome)
    session = models.CharField(max_length=40, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        indexes = [
            models.Index(fields=["name", "at"], name="sign_in_by_name"),
            models.Index(fields=["address", "at"], name="sign_in_by_address"),
        ]

    def __str__(self) -> str:
        return f"{self.name}, {self.outcome}"


class Step(models.Model):
    """One change that can be taken back: which rows of a job, a tree or a crew it changed, before and after."""

    crew = models.ForeignKey(Crew, null=True, blank=True, on_delete=models.CASCADE, related_name="steps")
    job = models.ForeignKey("jobs.Job", null=True, blank=True, on_delete=models.CASCADE, related_name="steps")
    tree = models.ForeignKey("jobs.Tree", null=True, blank=True, on_delete=models.CASCADE, related_name="steps")
    scope = models.CharField(max_length=12)
    label = models.CharField(max_length=120)
    changes = models.JSONField(encoder=DjangoJSONEncoder)
    undone = models.BooleanField(default=False)
    by = models.CharField(max_length=150, blank=True)
    person = models.ForeignKey(Person, null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        db_table = "jobs_step"
        ordering = ["pk"]
        indexes = [models.Index(fields=["scope", "job", "tree", "undone"], name="step_of_scope")]

    def __str__(self) -> Any:
        return self.label
