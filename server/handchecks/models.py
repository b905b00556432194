"""One row for each answer; the last one to a thing counts, and none is ever changed."""

from django.conf import settings
from django.db import models

from lens.proving import OUTCOMES, SEAL_STATES


class HandCheck(models.Model):
    """``what``: 'eye' (an aspect of lens.proving.ASPECTS at a stage), 'function' (one of lens.proving.functions), or 'seal' (``name`` is its place,
    ``note`` its number; applied to the closed device, or as found on one that came back)."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="handchecks")
    stage = models.CharField(max_length=20)
    what = models.CharField(max_length=10, choices=[("eye", "eye"), ("function", "function"), ("seal", "seal")])
    name = models.CharField(max_length=40)
    outcome = models.CharField(
        max_length=20,
        choices=[(one, one) for one in (*OUTCOMES, "bad", "cannot_tell", "applied", "removed", *SEAL_STATES)],
    )
    grade = models.CharField(
        max_length=10, default="seen", choices=[(one, one) for one in ("measured", "seen", "told")]
    )  # measured by the device page, seen, or told by the owner
    note = models.CharField(max_length=300, blank=True)
    cells = models.JSONField(default=list)  # of touch by eye: what did not answer, as lens.touch.TouchSeen has them
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
