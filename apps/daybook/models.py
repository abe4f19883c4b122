"""What really happened. Lengths [m], angles [rad]."""

import math

from django.db import models
from simple_history.models import HistoricalRecords

from cantrel.checks import ranged
from cantrel.revisions import Revised
from treecore.ranges import ends


class FellingRecord(Revised):
    """The felling as it went, kept beside the plan it was signed on."""

    tree = models.OneToOneField("jobs.Tree", on_delete=models.PROTECT, related_name="record")
    document = models.JSONField()
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
