"""Jobs, their site and their trees. Lengths [m], angles [rad]."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.conf import settings
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.db.models import Q
from django.utils.translation import gettext_lazy
from simple_history.models import HistoricalRecords

from cantrel.checks import checks, ranged
from cantrel.limits import UNIONS
from cantrel.revisions import Revised
from cantrel.words import choices_of
from treecore.document.site import SiteEntry, TargetEntry
from treecore.document.tree import LimbEntry, TreeEntry
from treecore.features import feature_kinds
from treecore.tree import limb as core_limb

if TYPE_CHECKING:
    from apps.crews.models import Crew


def kind_choices() -> list[tuple[str, str]]:
    """Kinds of things on a site; a migration keeps this name, not the rows of the table."""
    return choices_of(feature_kinds().values())


FOLIAGE = {"full": gettext_lazy("full"), "thin": gettext_lazy("thin"), "none": gettext_lazy("none")}
KINDS = [
    ("measured", gettext_lazy("measured")),
    ("estimated", gettext_lazy("by eye")),
    ("assumed", gettext_lazy("not looked at")),
]


class JobQuerySet(models.QuerySet):
    """Jobs of one crew only."""

    def for_crew(self, crew: Crew) -> Any:
        """Those nobody deleted."""
        return self.of_crew(crew).filter(deleted_at=None)

    def of_crew(self, crew: Crew) -> Any:
        """All, those on their way out too."""
        return self.filter(crew=crew, staging=False) if crew else self.none()


class Job(Revised):
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
    prevailing_from = models.FloatField(null=True, blank=True)
    wind_from = models.FloatField(null=True, blank=True)
    wind = models.FloatField(null=True, blank=True)
    origin_lat = models.FloatField(null=True, blank=True)
    origin_lon = models.FloatField(null=True, blank=True)
    created = models.DateTimeField(auto_now_add=True)
    keeper = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="keeps"
    )
    archived = models.BooleanField(default=False)
    deleted_at = models.DateTimeField(null=True, blank=True)
    staging = models.BooleanField(default=False)  # holds a long list's trees until all are there; on no page
    history = HistoricalRecords()
    objects = JobQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-pk"]
        constraints = [
            *checks(SiteEntry, "job"),
            ranged("origin_lat", -90.0, 90.0, "job_origin_lat"),
            ranged("origin_lon", -180.0, 180.0, "job_origin_lon"),
            models.CheckConstraint(condition=~Q(name=""), name="job_named"),
        ]
        indexes = [models.Index(fields=["crew", "-created", "-id"], name="job_by_crew")]

    def __str__(self) -> Any:
        return self.name


class Role(models.Model):
    """Who does what on a job."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="roles")
    role = models.CharField(max_length=80)
    name = models.CharField(max_length=120)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> Any:
        return self.role


class Target(Revised):
    """A feature of the site: something that must not be hit, or a place of work. ``outline`` a list of [x, y]."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="targets")
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=16, choices=kind_choices, default="other")
    shape = models.CharField(max_length=6, choices=[(s, s) for s in ("area", "line", "spot")], default="area")
    outline = models.JSONField(encoder=DjangoJSONEncoder)
    height = models.FloatField(default=0.0)
    width = models.FloatField(null=True, blank=True)
    radius = models.FloatField(null=True, blank=True)
    light_touch = models.BooleanField(default=False)
    worth = models.CharField(max_length=200, blank=True)
    note = models.TextField(blank=True)
    voltage = models.CharField(max_length=16, blank=True)
    approach = models.FloatField(null=True, blank=True)
    sag = models.FloatField(null=True, blank=True)
    end_a = models.FloatField(null=True, blank=True)
    end_b = models.FloatField(null=True, blank=True)
    species = models.CharField(max_length=60, blank=True)
    diameter = models.FloatField(null=True, blank=True)
    sound = models.BooleanField(default=False)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]
        constraints = [
            *checks(TargetEntry, "target"),
            models.UniqueConstraint(fields=["job", "name"], name="target_named_once"),
        ]

    def __str__(self) -> Any:
        return self.name


class Tree(Revised):
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
    yard = models.ForeignKey(
        "species.YardSpecies", null=True, blank=True, on_delete=models.PROTECT, related_name="trees"
    )
    diameter_across = models.FloatField(null=True, blank=True)
    oval_azimuth = models.FloatField(default=0.0)
    fork = models.FloatField(null=True, blank=True)
    spar_top = models.FloatField(null=True, blank=True)
    points = models.JSONField(default=list, blank=True, encoder=DjangoJSONEncoder)
    cavities = models.JSONField(default=list, blank=True, encoder=DjangoJSONEncoder)
    replaced = models.JSONField(default=list, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]
        constraints = [
            *checks(TreeEntry, "tree"),
            models.UniqueConstraint(fields=["job", "name"], name="tree_named_once"),
        ]

    def __str__(self) -> Any:
        return self.name


class Limb(models.Model):
    """A measured limb or lead; ``at`` is above the ground on the stem, else along the parent. Lengths [m], angles
    [rad].
    """

    tree = models.ForeignKey(Tree, on_delete=models.CASCADE, related_name="limbs")
    name = models.CharField(max_length=60)
    parent = models.ForeignKey("self", null=True, blank=True, on_delete=models.CASCADE, related_name="children")
    at = models.FloatField()
    azimuth = models.FloatField()
    rise = models.FloatField()
    length = models.FloatField()
    diameter = models.FloatField()
    foliage = models.CharField(max_length=6, choices=[(f, FOLIAGE[f]) for f in core_limb.FOLIAGE], default="full")
    dead = models.BooleanField(default=False)
    union = models.CharField(max_length=24, choices=[(u, UNIONS[u]) for u in core_limb.UNIONS], default="sound")
    codominant = models.BooleanField(default=False)
    kind = models.CharField(max_length=10, choices=KINDS[:2], default="estimated")
    note = models.CharField(max_length=200, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["pk"]
        constraints = [
            *checks(LimbEntry, "limb"),
            models.UniqueConstraint(fields=["tree", "name"], name="limb_named_once"),
        ]

    def __str__(self) -> Any:
        return self.name
