"""Sign-offs: who stood for which plan, with the whole plan as it was."""

from django.conf import settings
from django.db import models


class SignOff(models.Model):
    """A name under a plan. ``digest`` tells whether the plan is still the one signed, ``form`` how that was made,
    ``figures`` by which version of them.
    """

    tree = models.ForeignKey("jobs.Tree", on_delete=models.PROTECT, related_name="signoffs")
    name = models.CharField(max_length=120)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)
    digest = models.CharField(max_length=64)
    form = models.PositiveSmallIntegerField(default=1)
    document = models.JSONField()
    figures = models.CharField(max_length=40, default="1")

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [models.CheckConstraint(condition=~models.Q(name=""), name="signoff_named")]
