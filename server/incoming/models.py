"""What is known of a panel that is inspected by itself; its photos, touch and record are those of its job (``Job.subject`` 'panel')."""

from django.conf import settings
from django.db import models


class IncomingPanel(models.Model):
    """``job`` names the panel, the offer it was bought by and its serial number. ``place``: on a test rig, loose and ungrounded, or in a device.
    ``decision``: lens.proving.DECISIONS, empty while nobody said; the last word counts, the record keeps all."""

    job = models.OneToOneField("jobs.Job", on_delete=models.PROTECT, related_name="incoming")
    line = models.ForeignKey(
        "purchasing.OrderLine", null=True, blank=True, on_delete=models.PROTECT, related_name="inspections"
    )
    place = models.CharField(max_length=10)
    liners_whole = models.BooleanField(default=True)  # nothing was peeled before it was measured
    decision = models.CharField(max_length=20, blank=True)
    note = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("-id",)
