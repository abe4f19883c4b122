"""The felling plan of a tree: the choices a person makes. Lengths [m], angles [rad], force [N]."""

from __future__ import annotations

from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.db.models import F, Q
from django.utils.translation import gettext_lazy
from simple_history.models import HistoricalRecords

from cantrel.checks import checks
from cantrel.revisions import Revised
from treecore.document.felling import FellingEntry
from treecore.method import ways
from treecore.rigging.tackle import PULLED_BY

# Sizes of what a pull line and a guy line are made of; empty where nobody said.
LINE_SIZES = tuple(
    f"{line}_{size}" for line in ("pull", "guy") for size in ("strength", "owned", "gear", "rating", "trunk")
)


# Columns the core holds whatever the plan is; those of a line only count where there is one.
HELD = (
    "lay", "stump", "along", "across", "opening", "rise", "bypass", "back_slope", "bar", "wind", "wind_from",
    "after_picks",
    "wedge_count", "wedge_stacked", "wedge_rise", "wedge_tip", "wedge_place",
)  # fmt: skip


def method_choices() -> list[tuple[str, str]]:
    """Ways of taking a tree down, none decided first; a migration keeps this name, not the rows of the table."""
    return [("", gettext_lazy("not decided")), *((w.key, gettext_lazy(w.name.lower())) for w in ways().values())]


class FellingPlan(Revised):
    """One plan per tree; everything computed from it is computed anew."""

    went_along: tuple[str, ...] = ()  # lines that went along with the lay as values were put on it; not stored
    SIDES = [("", gettext_lazy("neither")), ("left", gettext_lazy("left")), ("right", gettext_lazy("right"))]

    tree = models.OneToOneField("jobs.Tree", on_delete=models.CASCADE, related_name="felling")
    method = models.CharField(max_length=12, choices=method_choices, blank=True, default="")
    reason = models.CharField(max_length=300, blank=True)
    lay = models.FloatField(default=0.0)
    stump = models.FloatField()
    along = models.FloatField(null=True, blank=True)
    across = models.FloatField(null=True, blank=True)
    depth = models.FloatField()
    opening = models.FloatField()
    hinge = models.FloatField()
    rise = models.FloatField()
    notch_school = models.CharField(max_length=14, default="conventional")
    depth_school = models.CharField(max_length=14, default="chord80")
    thickness_school = models.CharField(max_length=14, default="tenth")
    zone_school = models.CharField(max_length=4, default="1.5")
    wedge_count = models.PositiveSmallIntegerField(default=0)
    wedge_stacked = models.PositiveSmallIntegerField(default=1)
    wedge_kind = models.CharField(max_length=12, default="plastic")
    wedge_place = models.FloatField(default=0.0)
    wedge_rise = models.FloatField(null=True, blank=True)
    pull_force = models.FloatField(default=0.0)
    pull_tie = models.FloatField(null=True, blank=True)
    pull_azimuth = models.FloatField(null=True, blank=True)
    pull_distance = models.FloatField(null=True, blank=True)
    pull_anchor = models.FloatField(default=0.0)
    wedge_tip = models.FloatField(null=True, blank=True)
    pull_strength = models.FloatField(null=True, blank=True)
    pull_owned = models.FloatField(null=True, blank=True)
    pull_knot = models.CharField(max_length=12, default="unknown")
    pull_gear = models.FloatField(null=True, blank=True)
    pull_rating = models.FloatField(null=True, blank=True)
    pull_trunk = models.FloatField(null=True, blank=True)
    after_picks = models.PositiveSmallIntegerField(default=0)
    pull_by = models.CharField(max_length=8, blank=True, default="")
    pull_people = models.PositiveSmallIntegerField(default=2)
    taper = models.FloatField(default=0.0)
    bypass = models.FloatField(default=0.0)
    bypass_side = models.CharField(max_length=5, blank=True, default="", choices=SIDES)
    back_slope = models.FloatField(default=0.0)
    bar = models.FloatField(null=True, blank=True)
    first_school = models.CharField(max_length=14, default="sloping")
    pattern_school = models.CharField(max_length=14, default="straight")
    position_school = models.CharField(max_length=14, default="kneeling")
    nicks = models.BooleanField(default=False)
    escape_side = models.CharField(max_length=5, blank=True, default="", choices=SIDES)
    guy_tie = models.FloatField(null=True, blank=True)
    guy_azimuth = models.FloatField(null=True, blank=True)
    guy_distance = models.FloatField(null=True, blank=True)
    guy_anchor = models.FloatField(default=0.0)
    guy_limit = models.FloatField(null=True, blank=True)
    guy_tended = models.BooleanField(default=False)
    guy_taut = models.BooleanField(default=False)
    guy_strength = models.FloatField(null=True, blank=True)
    guy_owned = models.FloatField(null=True, blank=True)
    guy_knot = models.CharField(max_length=12, default="unknown")
    guy_gear = models.FloatField(null=True, blank=True)
    guy_rating = models.FloatField(null=True, blank=True)
    guy_trunk = models.FloatField(null=True, blank=True)
    line_design = models.CharField(max_length=4, default="5")
    system = models.JSONField(null=True, blank=True, encoder=DjangoJSONEncoder)
    log = models.JSONField(null=True, blank=True, encoder=DjangoJSONEncoder)
    wind = models.FloatField(null=True, blank=True)
    wind_from = models.FloatField(null=True, blank=True)
    history = HistoricalRecords()

    class Meta:
        constraints = [
            *checks(FellingEntry, "plan", HELD),
            models.CheckConstraint(condition=Q(depth__gt=0.0, hinge__gt=0.0, opening__gt=0.0), name="plan_cuts"),
            models.CheckConstraint(
                condition=Q(along__isnull=True) | Q(along__gt=F("depth") + F("hinge")), name="plan_hinge_fits"
            ),
            models.CheckConstraint(condition=Q(pull_force__gte=0.0), name="plan_pull"),
            models.CheckConstraint(condition=Q(pull_by__in=list(PULLED_BY)), name="plan_pull_by"),
            models.CheckConstraint(condition=Q(pull_people__range=(1, 12)), name="plan_pull_people"),
            *(
                models.CheckConstraint(
                    condition=Q(**{f"{name}__isnull": True}) | Q(**{f"{name}__gt": 0.0}), name=f"plan_{name}"
                )
                for name in LINE_SIZES
            ),
            models.CheckConstraint(
                condition=Q(taper__lt=2.0 * F("hinge"), taper__gt=-2.0 * F("hinge")), name="plan_taper"
            ),
            models.CheckConstraint(condition=Q(guy_limit__isnull=True) | Q(guy_limit__gt=0.0), name="plan_guy"),
        ]


class YardSchool(models.Model):
    """A yard's usual school for one choice; new plans begin with it."""

    crew = models.ForeignKey("crews.Crew", on_delete=models.CASCADE, related_name="schools")
    choice = models.CharField(max_length=12)
    key = models.CharField(max_length=14)
    history = HistoricalRecords()

    class Meta:
        ordering = ["choice"]
        constraints = [models.UniqueConstraint(fields=["crew", "choice"], name="school_once")]

    def __str__(self) -> Any:
        return f"{self.choice}: {self.key}"
