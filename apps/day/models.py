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
    gusts = models.JSONField(default=list, blank=True)
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


class Booking(models.Model):
    """A machine, crane or lift that is booked for a crew's day, so that no other crew has it at that time. ``what`` is
    its name; ``start`` and ``end`` minutes from midnight.
    """

    workday = models.ForeignKey(Workday, on_delete=models.CASCADE, related_name="bookings")
    what = models.CharField(max_length=60)
    start = models.PositiveSmallIntegerField()
    end = models.PositiveSmallIntegerField()
    history = HistoricalRecords()

    class Meta:
        ordering = ["start", "pk"]
        constraints = [
            models.CheckConstraint(condition=Q(end__gt=F("start")), name="booking_forwards"),
            models.CheckConstraint(condition=~Q(what=""), name="booking_says_what"),
            ranged("end", 0, MIDNIGHT + 1, "booking_end"),
        ]

    def __str__(self) -> str:
        return self.what


class TreeWood(Revised):
    """What becomes of a tree's wood, its stump and its place."""

    class Goes(models.TextChoices):
        TIPPED = "tipped", gettext_lazy("taken away and tipped")
        SOLD = "sold", gettext_lazy("taken away and sold")
        BURNT = "burnt", gettext_lazy("taken away for energy")
        STAYS = "stays", gettext_lazy("stays on the site")

    class Stump(models.TextChoices):
        LEFT = "left", gettext_lazy("left as cut")
        LOW = "low", gettext_lazy("cut level with the ground")
        GROUND = "ground", gettext_lazy("ground out")

    tree = models.OneToOneField("jobs.Tree", on_delete=models.CASCADE, related_name="wood")
    log_length = models.FloatField(default=2.0)
    logs = models.CharField(max_length=8, choices=Goes, default=Goes.TIPPED)
    chip = models.CharField(max_length=8, choices=Goes, default=Goes.TIPPED)
    stump = models.CharField(max_length=8, choices=Stump, default=Stump.LEFT)
    replant = models.CharField(max_length=200, blank=True)
    note = models.CharField(max_length=200, blank=True)
    history = HistoricalRecords()

    class Meta:
        constraints = [ranged("log_length", 0.1, 20.0, "wood_log_length")]

    def __str__(self) -> str:
        return f"{self.tree_id}"


RATES = ("person", "chipper", "machine", "crane_day", "tipping", "making_good")
PRICES = ("log_price", "chip_price", "stump_price")
TRUCK = {"load_volume": (0.1, 200.0), "load_mass": (50.0, 60000.0)}
ON_TOP = ("margin", "tax")


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
    log_price = models.FloatField(default=0.0)
    chip_price = models.FloatField(default=0.0)
    stump_price = models.FloatField(default=0.0)
    load_volume = models.FloatField(default=12.0)
    load_mass = models.FloatField(default=3500.0)
    margin = models.FloatField(default=0.15)
    tax = models.FloatField(default=0.0)
    own_pace = models.BooleanField(default=True)
    history = HistoricalRecords()

    class Meta:
        constraints = [
            *(ranged(name, 0.0, 100000.0, f"rates_{name}") for name in (*RATES, *PRICES)),
            *(ranged(name, *ends, f"rates_{name}") for name, ends in TRUCK.items()),
            *(ranged(name, 0.0, 5.0, f"rates_{name}") for name in ON_TOP),
        ]

    def __str__(self) -> str:
        return f"{self.crew}"
