"""Gates that were passed."""

from django.conf import settings
from django.db import models


class GatePassed(models.Model):
    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="gates")
    gate = models.CharField(max_length=40)
    choice = models.CharField(max_length=40, blank=True)
    reason = models.CharField(
        max_length=300, blank=True
    )  # why it was passed although its inspection did not prove the panel
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
        constraints = [models.UniqueConstraint(fields=("job", "gate"), name="gate_once")]
