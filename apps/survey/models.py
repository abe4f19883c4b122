"""Readings and walk-up answers."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from django.utils.translation import gettext_lazy
from simple_history.models import HistoricalRecords

from cantrel.checks import checks
from cantrel.rows import new_id
from treecore.document.tree import ReadingEntry


def photo_path(answer: HazardAnswer, name: str) -> str:
    """Where a hazard's photo is kept; its name on the person's disk is not used."""
    return f"jobs/{answer.tree.job_id}/hazards/{name}"


def own_key() -> str:
    """A new key for a line of a crew's own."""
    return f"own-{new_id('x')}"


class Reading(models.Model):
    """One reading: what was read (SI, unit in each key), by whom, and whether it is used."""

    tree = models.ForeignKey("jobs.Tree", on_delete=models.CASCADE, related_name="readings")
    quantity = models.CharField(
        max_length=10, choices=[("height", gettext_lazy("Height")), ("diameter", gettext_lazy("Diameter"))]
    )
    method = models.CharField(max_length=12)
    arguments = models.JSONField()
    sd = models.FloatField(null=True, blank=True)
    used = models.BooleanField(default=True)
    by = models.CharField(max_length=120, blank=True)
    note = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["quantity", "pk"]
        constraints = [
            models.CheckConstraint(condition=models.Q(quantity__in=["height", "diameter"]), name="reading_quantity"),
            *checks(ReadingEntry, "reading"),
        ]


class HazardAnswer(models.Model):
    """What one person found of one hazard, and what is done about it, with a photo and when."""

    FINDINGS = [
        ("present", gettext_lazy("present")),
        ("absent", gettext_lazy("absent")),
        ("not_looked", gettext_lazy("not looked at")),
    ]

    tree = models.ForeignKey("jobs.Tree", on_delete=models.CASCADE, related_name="answers")
    hazard = models.CharField(max_length=24)
    finding = models.CharField(max_length=14, choices=FINDINGS, default="not_looked")
    side = models.CharField(max_length=40, blank=True)
    height = models.FloatField(null=True, blank=True)
    note = models.CharField(max_length=300, blank=True)
    response = models.CharField(max_length=300, blank=True)
    photo = models.FileField(upload_to=photo_path, blank=True)
    by = models.CharField(max_length=120, blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now=True)
    history = HistoricalRecords()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["tree", "hazard", "person"],
                condition=models.Q(person__isnull=False),
                name="hazard_once_a_person",
            ),
            models.UniqueConstraint(
                fields=["tree", "hazard", "by"], condition=models.Q(person__isnull=True), name="hazard_once_a_name"
            ),
            models.CheckConstraint(
                condition=models.Q(finding__in=["present", "absent", "not_looked"]), name="hazard_finding"
            ),
        ]


class CrewHazard(models.Model):
    """A line a crew adds to its walk-up list."""

    crew = models.ForeignKey("crews.Crew", on_delete=models.CASCADE, related_name="hazards")
    key = models.CharField(max_length=24, default=own_key)  # by which answers name it; it stays, in any yard
    group = models.CharField(max_length=40, default="Crew")
    name = models.CharField(max_length=120)
    gate = models.BooleanField(default=False)
    caution = models.CharField(max_length=300, blank=True)
    retired = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["crew", "name"], name="crew_hazard_once"),
            models.UniqueConstraint(fields=["crew", "key"], name="crew_hazard_key_once"),
        ]

    def __str__(self) -> Any:
        return self.name
