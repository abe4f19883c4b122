"""What a site keeps beside its features: a background picture, and the yard's own approach distances. Lengths [m]."""

from __future__ import annotations

import math
from typing import Any

from django.db import models
from simple_history.models import HistoricalRecords

from cantrel.checks import ranged


def picture_path(picture: SitePicture, name: str) -> str:
    """Where a job's picture is kept; its name on the person's disk is not used."""
    return f"jobs/{picture.job_id}/{name}"


class SitePicture(models.Model):
    """A photo or scan under the plan: where its lower left corner lies, how long a pixel is, and how it is turned."""

    job = models.OneToOneField("jobs.Job", on_delete=models.CASCADE, related_name="picture")
    image = models.FileField(upload_to=picture_path)
    wide = models.PositiveIntegerField()
    high = models.PositiveIntegerField()
    x = models.FloatField(default=0.0)
    y = models.FloatField(default=0.0)
    metres_per_pixel = models.FloatField(default=0.02)
    turned = models.FloatField(default=0.0)
    strength = models.FloatField(default=0.6)
    history = HistoricalRecords()

    class Meta:
        constraints = [
            ranged("metres_per_pixel", 1e-4, 10.0, "picture_scale"),
            ranged("strength", 0.05, 1.0, "picture_strength"),
            ranged("turned", -math.tau, math.tau, "picture_turned"),
        ]

    def __str__(self) -> Any:
        return f"picture of job {self.job_id}"


class ApproachDistance(models.Model):
    """The yard's own distance to keep from a voltage class, in place of the usual one."""

    crew = models.ForeignKey("crews.Crew", on_delete=models.CASCADE, related_name="approaches")
    voltage = models.CharField(max_length=16)
    distance = models.FloatField()
    source = models.CharField(max_length=300)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["crew", "voltage"], name="approach_once"),
            ranged("distance", 0.3, 30.0, "approach_distance"),
        ]

    def __str__(self) -> Any:
        return f"{self.voltage}: {self.distance} m"
