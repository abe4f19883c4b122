"""What has to be done before the saw, when the crew comes, and what its hours cost."""

from __future__ import annotations

from django.core.validators import MinValueValidator
from django.db import models
from django.db.models import F, Q
from django.utils.translation import gettext_lazy
from simple_history.models import HistoricalRecords

from cantrel.checks import ranged
from cantrel.revisions import Revised

MIDNIGHT = 24 * 60 - 1


class WorkItem(Revised):
    """Something that has to be done before a tree of the job is cut, or before another such thing."""

    class Kind(models.TextChoices):
        FENCE = "fence", gettext_lazy("fence moved")
        PROP = "prop", gettext_lazy("prop built")
        POWER = "power", gettext_lazy("power off")
        LEAVE = "leave", gettext_lazy("leave from a neighbour or owner")
        BRUSH = "brush", gettext_lazy("brush cleared")
        STUMP = "stump", gettext_lazy("old stump cut")
        ROAD = "road", gettext_lazy("road or path closed")
        OTHER = "other", gettext_lazy("other")

    job = models.ForeignKey("jobs.Job", on_delete=models.CASCADE, related_name="work_items")
    tree = models.ForeignKey("jobs.Tree", null=True, blank=True, on_delete=models.CASCADE, related_name="work_items")
    kind = models.CharField(max_length=8, choices=Kind, default=Kind.OTHER)
    what = models.CharField(max_length=200)
    who = models.CharField(max_length=120, blank=True)
    leave_by = models.CharField(max_length=160, blank=True)
    after = models.ForeignKey("self", null=True, blank=True, on_delete=models.SET_NULL, related_name="before")
    done = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(condition=~Q(after=F("id")), name="work_item_not_after_itself"),
            models.CheckConstraint(condition=~Q(what=""), name="work_item_says_what"),
        ]

    def __str__(self) -> str:
        return self.what


class Workday(Revised):
    """A day a crew is on a job: when it begins, who works, with what."""

    job = models.ForeignKey("jobs.Job", on_delete=models.CASCADE, related_name="days")
    on = models.DateField()
    name = models.CharField(max_length=60, blank=True)
    start = models.PositiveSmallIntegerField(default=8 * 60)
    ground = models.PositiveSmallIntegerField(default=2, validators=[MinValueValidator(1)])
    throat = models.FloatField(default=0.15)
    trees = models.JSONField(default=list)
    crane_days = models.FloatField(default=0.0)
    machine_hours = models.FloatField(default=0.0)
    gust = models.FloatField(null=True, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["on", "pk"]
        constraints = [
            ranged("throat", 0.03, 1.0, "workday_throat"),
            ranged("ground", 1, 20, "workday_ground"),
            ranged("start", 0, MIDNIGHT, "workday_start"),
            ranged("crane_days", 0.0, 30.0, "workday_crane"),
            ranged("machine_hours", 0.0, 100.0, "workday_machine"),
            ranged("gust", 0.0, 60.0, "workday_gust"),
            models.UniqueConstraint(fields=["job", "on", "name"], name="workday_named_once"),
        ]

    def __str__(self) -> str:
        return f"{self.on} {self.name}"


RATES = ("person", "chipper", "machine", "crane_day", "tipping", "making_good")


class YardRates(Revised):
    """What an hour, a day, a tonne costs a yard, in its own money."""

    crew = models.OneToOneField("crews.Crew", on_delete=models.CASCADE, related_name="rates")
    money = models.CharField(max_length=8, blank=True)
    person = models.FloatField(default=45.0)
    chipper = models.FloatField(default=30.0)
    machine = models.FloatField(default=80.0)
    crane_day = models.FloatField(default=900.0)
    tipping = models.FloatField(default=35.0)
    making_good = models.FloatField(default=0.0)
    own_pace = models.BooleanField(default=True)
    history = HistoricalRecords()

    class Meta:
        constraints = [ranged(name, 0.0, 100000.0, f"rates_{name}") for name in RATES]

    def __str__(self) -> str:
        return f"{self.crew}"
