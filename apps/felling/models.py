"""The felling plan of a tree: the choices a person makes. Lengths [m], angles [rad], force [N]."""

import math

from django.db import models
from django.db.models import F, Q
from simple_history.models import HistoricalRecords


class FellingPlan(models.Model):
    """One plan per tree; everything computed from it is computed anew."""

    METHODS = [("", "not decided"), ("whole", "fell whole"), ("refer", "refer to someone else or wait")]

    tree = models.OneToOneField("jobs.Tree", on_delete=models.CASCADE, related_name="felling")
    method = models.CharField(max_length=8, choices=METHODS, blank=True, default="")
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
    wedge_rise = models.FloatField(default=0.025)
    pull_force = models.FloatField(default=0.0)
    pull_tie = models.FloatField(null=True, blank=True)
    pull_azimuth = models.FloatField(null=True, blank=True)
    pull_distance = models.FloatField(null=True, blank=True)
    pull_anchor = models.FloatField(default=0.0)
    wind = models.FloatField(default=0.0)
    wind_from = models.FloatField(default=0.0)
    history = HistoricalRecords()

    class Meta:
        constraints = [
            models.CheckConstraint(condition=Q(lay__gte=0.0, lay__lte=math.tau), name="plan_lay"),
            models.CheckConstraint(condition=Q(depth__gt=0.0, hinge__gt=0.0, opening__gt=0.0), name="plan_cuts"),
            models.CheckConstraint(
                condition=Q(along__isnull=True) | Q(along__gt=F("depth") + F("hinge")), name="plan_hinge_fits"
            ),
            models.CheckConstraint(condition=Q(pull_force__gte=0.0, wind__gte=0.0), name="plan_forces"),
        ]
