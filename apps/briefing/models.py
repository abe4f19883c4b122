"""Sign-offs: who stood for which plan, with the whole plan and all its numbers as they were."""

from typing import Any

from django.conf import settings
from django.db import models
from simple_history.models import HistoricalRecords


class SignOff(models.Model):
    """A person's signature under a plan; it is never changed and never deleted.

    ``digest`` tells whether the plan is still the one signed, ``form`` how that was made, ``figures`` by which version
    of the tables and ``program`` by which of the program the kept ``results`` were computed. Signatures from before
    results were kept have none.
    """

    tree = models.ForeignKey("jobs.Tree", on_delete=models.PROTECT, related_name="signoffs")
    name = models.CharField(max_length=300)
    role = models.CharField(max_length=40, blank=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)
    digest = models.CharField(max_length=64)
    form = models.PositiveSmallIntegerField(default=1)
    document = models.JSONField()
    figures = models.CharField(max_length=40, default="1")
    program = models.CharField(max_length=40, blank=True)
    results = models.JSONField(null=True, blank=True)
    history = HistoricalRecords(excluded_fields=["document", "results"])

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [models.CheckConstraint(condition=~models.Q(name=""), name="signoff_named")]

    def __str__(self) -> Any:
        return self.name


class PlanReader(models.Model):
    """One of the crew who signed in their own name that they have read and understood a signed plan."""

    signoff = models.ForeignKey(SignOff, on_delete=models.PROTECT, related_name="readers")
    tree = models.ForeignKey("jobs.Tree", on_delete=models.PROTECT, related_name="plan_readers")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT)
    name = models.CharField(max_length=300)
    role = models.CharField(max_length=80, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    history = HistoricalRecords()

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["signoff", "person"], condition=models.Q(person__isnull=False), name="plan_read_once_a_person"
            ),
            models.CheckConstraint(condition=~models.Q(name=""), name="plan_reader_named"),
        ]

    def __str__(self) -> Any:
        return self.name
