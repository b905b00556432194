"""What was decided about a device that came back."""

from django.conf import settings
from django.db import models


class Comeback(models.Model):
    """``charged_to``: lens.proving.PAYERS; the last row of a job counts. ``proposed``: what the program had said, with its reasons."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="comebacks")
    earlier = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="came_back")
    charged_to = models.CharField(max_length=10)
    reason = models.CharField(max_length=300, blank=True)
    proposed = models.JSONField(default=dict)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
