"""Jobs, their site and their trees. Lengths [m], angles [rad]."""

import math

from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.db.models import Q
from simple_history.models import HistoricalRecords

from treecore.measuring import DIAMETER_RANGE, HEIGHT_RANGE
from treecore.site import SLOPE_LIMIT
from treecore.tree.body import LEAN_RANGE, SPREAD_RANGE

KINDS = [("measured", "measured"), ("estimated", "by eye"), ("assumed", "not looked at")]


def ranged(field, low, high, name):
    """A database constraint that keeps a field in a range, or empty."""
    condition = Q(**{f"{field}__gte": low, f"{field}__lte": high}) | Q(**{f"{field}__isnull": True})
    return models.CheckConstraint(condition=condition, name=name)


class JobQuerySet(models.QuerySet):
    """Jobs of one crew only."""

    def for_crew(self, crew):
        return self.filter(crew=crew) if crew else self.none()


class Job(models.Model):
    """A site with trees to deal with, and what an ambulance would need to know."""

    crew = models.ForeignKey("crews.Crew", on_delete=models.PROTECT, related_name="jobs")
    name = models.CharField(max_length=160)
    client = models.CharField(max_length=200, blank=True)
    address = models.TextField(blank=True)
    access = models.TextField(blank=True)
    emergency_number = models.CharField(max_length=60, blank=True)
    hospital = models.CharField(max_length=200, blank=True)
    meeting_point = models.CharField(max_length=200, blank=True)
    first_aider = models.CharField(max_length=200, blank=True)
    rescue_plan = models.TextField(blank=True)
    phone_coverage = models.CharField(max_length=200, blank=True)
    notes = models.TextField(blank=True)
    slope = models.FloatField(default=0.0)
    downhill = models.FloatField(default=0.0)
    created = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()
    objects = JobQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-pk"]
        constraints = [
            ranged("slope", 0.0, SLOPE_LIMIT, "job_slope"),
            ranged("downhill", 0.0, math.tau, "job_downhill"),
            models.CheckConstraint(condition=~Q(name=""), name="job_named"),
        ]

    def __str__(self):
        return self.name


class Role(models.Model):
    """Who does what on a job."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="roles")
    role = models.CharField(max_length=80)
    name = models.CharField(max_length=120)

    class Meta:
        ordering = ["pk"]


class Target(models.Model):
    """Something on the site that must not be hit; ``outline`` a list of [x, y]."""

    class Kind(models.TextChoices):
        BUILDING = "building", "Building"
        FENCE = "fence", "Fence or wall"
        WATER = "water", "Water"
        LANE = "lane", "Lane or path"
        BED = "bed", "Bed or planting"
        LINE = "line", "Overhead line"
        OTHER = "other", "Other"

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="targets")
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=12, choices=Kind, default=Kind.OTHER)
    height = models.FloatField(default=0.0)
    light_touch = models.BooleanField(default=False)
    outline = models.JSONField(encoder=DjangoJSONEncoder)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]
        constraints = [
            ranged("height", 0.0, 200.0, "target_height"),
            models.UniqueConstraint(fields=["job", "name"], name="target_named_once"),
        ]

    def __str__(self):
        return self.name


class Tree(models.Model):
    """A tree by its five numbers; readings kept in survey take the place of diameter and height."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="trees")
    name = models.CharField(max_length=80)
    species = models.CharField(max_length=60)
    state = models.CharField(max_length=12, default="in_leaf")
    x = models.FloatField(default=0.0)
    y = models.FloatField(default=0.0)
    diameter = models.FloatField()
    diameter_kind = models.CharField(max_length=10, choices=KINDS, default="estimated")
    height = models.FloatField()
    height_kind = models.CharField(max_length=10, choices=KINDS, default="estimated")
    spread = models.FloatField()
    lean = models.FloatField(default=0.0)
    lean_azimuth = models.FloatField(default=0.0)
    lean_kind = models.CharField(max_length=10, choices=KINDS, default="estimated")
    crown_base = models.FloatField(null=True, blank=True)
    crown_east = models.FloatField(null=True, blank=True)
    crown_north = models.FloatField(null=True, blank=True)
    breast = models.CharField(max_length=8, choices=[("metric", "1.3 m"), ("us", "4.5 ft")], default="metric")
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]
        constraints = [
            ranged("diameter", *DIAMETER_RANGE, "tree_diameter"),
            ranged("height", *HEIGHT_RANGE, "tree_height"),
            ranged("spread", *SPREAD_RANGE, "tree_spread"),
            ranged("lean", *LEAN_RANGE, "tree_lean"),
            ranged("lean_azimuth", 0.0, math.tau, "tree_lean_azimuth"),
            models.UniqueConstraint(fields=["job", "name"], name="tree_named_once"),
        ]

    def __str__(self):
        return self.name
