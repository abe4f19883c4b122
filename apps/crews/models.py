"""People and crews."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractUser
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.utils.translation import gettext_lazy


class Crew(models.Model):
    """A firm's crew; jobs belong to it and nobody else sees them."""

    name = models.CharField(max_length=120, unique=True)

    def __str__(self) -> str:
        return self.name


class Person(AbstractUser):
    """Someone who signs in, with the units they read."""

    class Role(models.TextChoices):
        PLANNER = "planner", gettext_lazy("Planner")
        HAND = "hand", gettext_lazy("Ground worker")

    class Units(models.TextChoices):
        METRIC = "metric", gettext_lazy("Metric")
        US = "us", "US customary"

    crew = models.ForeignKey(Crew, on_delete=models.PROTECT, null=True, related_name="people")
    role = models.CharField(max_length=12, choices=Role, default=Role.PLANNER)
    units = models.CharField(max_length=8, choices=Units, default=Units.METRIC)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=models.Q(units__in=["metric", "us"]), name="person_units"),
            models.CheckConstraint(condition=models.Q(role__in=["planner", "hand"]), name="person_role"),
        ]

    def shown_name(self) -> str:
        return self.get_full_name() or self.username


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
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        db_table = "jobs_step"
        ordering = ["pk"]
        indexes = [models.Index(fields=["scope", "job", "tree", "undone"], name="step_of_scope")]

    def __str__(self) -> Any:
        return self.label
