"""The yard's gear. Strength [N], diameter and length [m], axial_stiffness EA [N]; empty where nobody knows."""

from __future__ import annotations

import secrets
from typing import Any

from django.db import models
from django.utils.translation import gettext_lazy
from simple_history.models import HistoricalRecords

from cantrel.checks import checks
from cantrel.revisions import Revised
from cantrel.words import choices_in, choices_of
from treecore.document.gear import DeviceReadingEntry, GearEntry
from treecore.rigging.gear import factors, gear_kinds
from treecore.rigging.rope import constructions


def kind_choices() -> list[tuple[str, str]]:
    """Kinds of gear; a migration keeps this name, not the rows of the table."""
    return choices_of(gear_kinds().values())


def wear_choices() -> list[tuple[str, str]]:
    """How worn an item is."""
    return choices_of(factors("wear").values())


def construction_choices() -> list[tuple[str, str]]:
    """How a rope is made, the unknown first."""
    return [("", gettext_lazy("not known")), *choices_in(constructions())]


class GearItem(Revised):
    """One item: rated, dated, inspected, and why it is retired."""

    crew = models.ForeignKey("crews.Crew", on_delete=models.CASCADE, related_name="gear")
    name = models.CharField(max_length=60)
    kind = models.CharField(max_length=12, choices=kind_choices)
    strength = models.FloatField(null=True, blank=True)
    diameter = models.FloatField(null=True, blank=True)
    length = models.FloatField(null=True, blank=True)
    axial_stiffness = models.FloatField(null=True, blank=True)
    wear = models.CharField(max_length=8, default="good", choices=wear_choices)
    bought = models.DateField(null=True, blank=True)
    inspected = models.DateField(null=True, blank=True)
    months = models.PositiveSmallIntegerField(default=6)
    retired = models.CharField(max_length=120, blank=True)
    joined = models.BooleanField(default=False)
    construction = models.CharField(max_length=16, blank=True, choices=construction_choices)
    note = models.CharField(max_length=200, blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["kind", "name"]
        constraints = [
            models.UniqueConstraint(fields=["crew", "name"], name="gear_named_once"),
            *checks(GearEntry, "gear"),
        ]

    def __str__(self) -> Any:
        return self.name


class DeviceReading(models.Model):
    """What a crew read off its own device: a known load [N] that just creeps over wraps [-], force at the hand [N]."""

    item = models.ForeignKey(GearItem, on_delete=models.CASCADE, related_name="readings")
    load = models.FloatField()
    wraps = models.FloatField()
    hand = models.FloatField()
    note = models.CharField(max_length=120, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            *checks(DeviceReadingEntry, "reading"),
            models.CheckConstraint(condition=models.Q(hand__lt=models.F("load")), name="reading_hand_under_load"),
        ]

    def __str__(self) -> Any:
        return f"{self.wraps:g} wraps on {self.item_id}"


def inspection_path(row: Inspection, name: str) -> str:
    """Where a photo of an inspection is kept; its name on the person's disk is not used."""
    return f"gear/{row.item_id}-{secrets.token_hex(8)}.jpg"


class Inspection(models.Model):
    """An item looked over: when, by whom, what was found, and whether it may go on being used."""

    item = models.ForeignKey(GearItem, on_delete=models.CASCADE, related_name="inspections")
    on = models.DateField()
    passed = models.BooleanField(default=True)
    note = models.CharField(max_length=200, blank=True)
    photo = models.FileField(upload_to=inspection_path, blank=True)
    by = models.CharField(max_length=120)
    at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["-on", "-pk"]
        constraints = [
            models.CheckConstraint(condition=~models.Q(by=""), name="inspection_by_somebody"),
            models.CheckConstraint(
                condition=models.Q(passed=True) | ~models.Q(note=""), name="inspection_failed_says_why"
            ),
        ]

    def __str__(self) -> Any:
        return f"{self.on} {self.item_id}"
