"""A yard's own species rows, beside the published ones. Densities [kg/m3], strengths [Pa]."""

from __future__ import annotations

from typing import Any

from django.db import models
from django.db.models import F, Q
from simple_history.models import HistoricalRecords

from treecore.species import FIGURES


class YardSpecies(models.Model):
    """A correction of a published species, or a species of the yard's own that is like one; empty
    means as published.
    """

    crew = models.ForeignKey("crews.Crew", on_delete=models.CASCADE, related_name="species")
    like = models.CharField(max_length=60)
    common = models.CharField(max_length=120)
    scientific = models.CharField(max_length=120, blank=True)
    density = models.FloatField(null=True, blank=True)
    density_low = models.FloatField(null=True, blank=True)
    density_high = models.FloatField(null=True, blank=True)
    mor = models.FloatField(null=True, blank=True)
    mor_low = models.FloatField(null=True, blank=True)
    mor_high = models.FloatField(null=True, blank=True)
    moe = models.FloatField(null=True, blank=True)
    moe_low = models.FloatField(null=True, blank=True)
    moe_high = models.FloatField(null=True, blank=True)
    compression = models.FloatField(null=True, blank=True)
    compression_low = models.FloatField(null=True, blank=True)
    compression_high = models.FloatField(null=True, blank=True)
    shear = models.FloatField(null=True, blank=True)
    shear_low = models.FloatField(null=True, blank=True)
    shear_high = models.FloatField(null=True, blank=True)
    hinge = models.CharField(max_length=20, blank=True)
    splits = models.CharField(max_length=20, blank=True)
    brittle = models.CharField(max_length=20, blank=True)
    decay = models.CharField(max_length=20, blank=True)
    source = models.CharField(max_length=300)
    note = models.TextField(blank=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["common", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["crew", "common"], name="yard_species_named_once"),
            models.CheckConstraint(condition=~Q(source=""), name="yard_species_sourced"),
            *(
                models.CheckConstraint(
                    condition=Q(**{f"{n}__isnull": True})
                    | Q(**{f"{n}_low__lte": F(n), f"{n}_high__gte": F(n), f"{n}_low__gt": 0}),
                    name=f"yard_species_{n}",
                )
                for n in FIGURES
            ),
        ]

    def __str__(self) -> Any:
        return self.common
