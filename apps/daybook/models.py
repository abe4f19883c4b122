"""What really happened. Lengths [m], angles [rad], masses [kg], forces [N]."""

from __future__ import annotations

import math
import secrets
import uuid

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy
from simple_history.models import HistoricalRecords

from cantrel.checks import ranged
from cantrel.revisions import Revised
from treecore.ranges import ends

FELLING = "felling"  # in place of a pick's id: the tree felled as a whole, or its spar


class FellingRecord(Revised):
    """The felling as it went, kept beside the plan it was signed on."""

    tree = models.OneToOneField("jobs.Tree", on_delete=models.PROTECT, related_name="record")
    document = models.JSONField()
    planned = models.JSONField(default=dict)
    height = models.FloatField(null=True, blank=True)
    lay = models.FloatField(null=True, blank=True)
    hinge_left = models.FloatField(null=True, blank=True)
    hinge_right = models.FloatField(null=True, blank=True)
    minutes = models.PositiveIntegerField(null=True, blank=True)
    near_miss = models.TextField(blank=True)
    notes = models.TextField(blank=True)
    by = models.CharField(max_length=120, blank=True)
    at = models.DateTimeField(auto_now=True)
    history = HistoricalRecords()

    class Meta:
        constraints = [
            ranged("height", *ends("tree_height"), "record_height"),
            ranged("lay", 0.0, math.tau, "record_lay"),
            ranged("hinge_left", 0.0, 3.0, "record_hinge_left"),
            ranged("hinge_right", 0.0, 3.0, "record_hinge_right"),
        ]


class WorkRecord(Revised):
    """A pick, or the felling, as it was done, by one person; ``uid`` was given to it where it was made, so that it is
    kept once however often it is sent. ``planned`` is what the plan had of it, fixed with the first save. Of several
    records of one pick one counts; a person says which.
    """

    class Done(models.TextChoices):
        PLANNED = "planned", gettext_lazy("as planned")
        CHANGED = "changed", gettext_lazy("changed")
        STOPPED = "stopped", gettext_lazy("stopped, not done")

    class By(models.TextChoices):
        CELL = "cell", gettext_lazy("load cell")
        SCALE = "scale", gettext_lazy("scale")
        EYE = "eye", gettext_lazy("judged by eye")

    tree = models.ForeignKey("jobs.Tree", on_delete=models.PROTECT, related_name="work_records")
    uid = models.UUIDField(default=uuid.uuid4, unique=True)
    pick = models.CharField(max_length=40)
    number = models.PositiveSmallIntegerField(null=True, blank=True)
    what = models.CharField(max_length=120, blank=True)
    planned = models.JSONField(default=dict)
    done = models.CharField(max_length=8, choices=Done, default=Done.PLANNED)
    mass = models.FloatField(null=True, blank=True)
    mass_by = models.CharField(max_length=8, choices=By, blank=True)
    peak_point = models.FloatField(null=True, blank=True)
    peak_base = models.FloatField(null=True, blank=True)
    hand = models.FloatField(null=True, blank=True)
    wraps = models.FloatField(null=True, blank=True)
    run = models.FloatField(null=True, blank=True)
    started = models.DateTimeField(null=True, blank=True)
    ended = models.DateTimeField(null=True, blank=True)
    near_miss = models.TextField(blank=True)
    note = models.TextField(blank=True)
    counts = models.BooleanField(default=True)
    by = models.CharField(max_length=120, blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords(excluded_fields=["planned"])

    class Meta:
        ordering = ["number", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["tree", "pick"], condition=Q(counts=True), name="one_record_of_a_pick_counts"
            ),
            models.CheckConstraint(condition=~Q(pick=""), name="work_record_of_something"),
            models.CheckConstraint(
                condition=Q(started=None) | Q(ended=None) | Q(ended__gte=models.F("started")),
                name="work_record_forwards",
            ),
            ranged("mass", *ends("piece_mass"), "work_record_mass"),
            ranged("peak_point", *ends("recorded_peak"), "work_record_peak_point"),
            ranged("peak_base", *ends("recorded_peak"), "work_record_peak_base"),
            ranged("hand", *ends("recorded_hand"), "work_record_hand"),
            ranged("wraps", *ends("recorded_wraps"), "work_record_wraps"),
            ranged("run", *ends("recorded_run"), "work_record_run"),
        ]

    def __str__(self) -> str:
        return self.what or self.pick


def photo_path(row: RecordPhoto, name: str) -> str:
    """Where a photo is kept; its name on the person's disk is not used."""
    return f"records/{row.tree_id}-{secrets.token_hex(8)}.jpg"


class RecordPhoto(models.Model):
    """A photo of what was done: the hinge that was left, or what went otherwise."""

    tree = models.ForeignKey("jobs.Tree", on_delete=models.PROTECT, related_name="record_photos")
    pick = models.CharField(max_length=40, default=FELLING)
    uid = models.UUIDField(default=uuid.uuid4, unique=True)
    image = models.FileField(upload_to=photo_path)
    said = models.CharField(max_length=120, blank=True)
    by = models.CharField(max_length=120, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.said or self.pick


class Trace(Revised):
    """What a load cell saw of one pick: live, while ``open``, or from a logger's file."""

    class Where(models.TextChoices):
        PIECE = "piece", gettext_lazy("between rope and piece")
        POINT = "point", gettext_lazy("at the rigging point")
        BASE = "base", gettext_lazy("at the device")

    tree = models.ForeignKey("jobs.Tree", on_delete=models.PROTECT, related_name="traces")
    pick = models.CharField(max_length=40)
    where = models.CharField(max_length=8, choices=Where, default=Where.POINT)
    source = models.CharField(max_length=80, blank=True)
    open = models.BooleanField(default=False)
    began = models.DateTimeField()
    by = models.CharField(max_length=120, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.where} {self.pick}"


class TraceSecond(models.Model):
    """A whole second of a trace; one that is not there was silent. ``readings``: when within it [s] and force [N]."""

    trace = models.ForeignKey(Trace, on_delete=models.CASCADE, related_name="seconds")
    number = models.PositiveIntegerField()
    readings = models.JSONField(default=list)
    peak = models.FloatField(null=True, blank=True)
    rubbish = models.PositiveIntegerField(default=0)
    silent = models.FloatField(default=0.0)
    jumped = models.BooleanField(default=False)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["trace", "number"], name="trace_second_once")]

    def __str__(self) -> str:
        return f"{self.trace_id} {self.number}"
