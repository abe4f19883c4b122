"""Readings and walk-up answers."""

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords


class Reading(models.Model):
    """One reading: what was read (SI, unit in each key), by whom, and whether it is used."""

    tree = models.ForeignKey("jobs.Tree", on_delete=models.CASCADE, related_name="readings")
    quantity = models.CharField(max_length=10, choices=[("height", "Height"), ("diameter", "Diameter")])
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
            models.CheckConstraint(condition=models.Q(sd__isnull=True) | models.Q(sd__gt=0), name="reading_sd"),
        ]


class HazardAnswer(models.Model):
    """What was found of one hazard, and what is done about it, with who and when."""

    FINDINGS = [("present", "present"), ("absent", "absent"), ("not looked at", "not looked at")]

    tree = models.ForeignKey("jobs.Tree", on_delete=models.CASCADE, related_name="answers")
    hazard = models.CharField(max_length=24)
    finding = models.CharField(max_length=14, choices=FINDINGS, default="not looked at")
    side = models.CharField(max_length=40, blank=True)
    height = models.FloatField(null=True, blank=True)
    note = models.CharField(max_length=300, blank=True)
    response = models.CharField(max_length=300, blank=True)
    by = models.CharField(max_length=120, blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now=True)
    history = HistoricalRecords()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["tree", "hazard"], name="hazard_once"),
            models.CheckConstraint(
                condition=models.Q(finding__in=["present", "absent", "not looked at"]), name="hazard_finding"
            ),
        ]
