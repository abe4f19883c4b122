"""People and crews."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Crew(models.Model):
    """A firm's crew; jobs belong to it and nobody else sees them."""

    name = models.CharField(max_length=120, unique=True)

    def __str__(self):
        return self.name


class Person(AbstractUser):
    """Someone who signs in, with the units they read."""

    class Role(models.TextChoices):
        PLANNER = "planner", "Planner"
        HAND = "hand", "Ground worker"

    class Units(models.TextChoices):
        METRIC = "metric", "Metric"
        US = "us", "US customary"

    crew = models.ForeignKey(Crew, on_delete=models.PROTECT, null=True, related_name="people")
    role = models.CharField(max_length=12, choices=Role, default=Role.PLANNER)
    units = models.CharField(max_length=8, choices=Units, default=Units.METRIC)

    class Meta:
        constraints = [
            models.CheckConstraint(condition=models.Q(units__in=["metric", "us"]), name="person_units"),
            models.CheckConstraint(condition=models.Q(role__in=["planner", "hand"]), name="person_role"),
        ]

    def shown_name(self):
        return self.get_full_name() or self.username
