"""Files on their way in: kept as they came until they are confirmed."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.utils.translation import gettext_lazy


class PlanFile(models.Model):
    """A plan file on its way in, kept as it came; ``made`` is the job it became."""

    crew = models.ForeignKey("crews.Crew", on_delete=models.CASCADE, related_name="plan_files")
    name = models.CharField(max_length=200)
    text = models.TextField()
    by = models.CharField(max_length=150, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    made = models.ForeignKey("jobs.Job", on_delete=models.SET_NULL, null=True, blank=True, related_name="+")

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> Any:
        return self.name


class Intake(models.Model):
    """A file somebody wants to take in: its text, how its columns are read, and lines typed anew."""

    class Kind(models.TextChoices):
        GEOJSON = "geojson", "GeoJSON"
        CSV = "csv", gettext_lazy("Tree list")

    job = models.ForeignKey("jobs.Job", on_delete=models.CASCADE, related_name="intakes")
    kind = models.CharField(max_length=8, choices=Kind)
    name = models.CharField(max_length=200)
    encoding = models.CharField(max_length=20, blank=True)
    units = models.CharField(max_length=8, default="metric")
    text = models.TextField()
    mapping = models.JSONField(default=dict, encoder=DjangoJSONEncoder)
    corrections = models.JSONField(default=dict, encoder=DjangoJSONEncoder)
    by = models.CharField(max_length=150, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    taken = models.PositiveIntegerField(null=True, blank=True)
    fault = models.TextField(blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> Any:
        return self.name

    def fingerprint(self) -> str:
        """Of its text and how it is read."""
        how = json.dumps([self.kind, self.units, self.mapping, self.corrections], sort_keys=True)
        return hashlib.sha256(f"{how}{self.text}".encode()).hexdigest()
