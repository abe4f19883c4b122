"""The takedown of a tree: its picks in order, each as the document writes it."""

from __future__ import annotations

from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from simple_history.models import HistoricalRecords

from cantrel.revisions import Revised


class TakedownPlan(Revised):
    """One per tree; everything computed from it is computed anew."""

    tree = models.OneToOneField("jobs.Tree", on_delete=models.CASCADE, related_name="takedown")
    picks = models.JSONField(default=list, blank=True, encoder=DjangoJSONEncoder)
    access = models.JSONField(default=dict, blank=True, encoder=DjangoJSONEncoder)
    history = HistoricalRecords()

    def __str__(self) -> Any:
        return f"takedown of {self.tree_id}"
