"""Reports as they were made, and the owner's links to the page."""

from django.conf import settings
from django.db import models

from server.common.worked import Worked
from server.inspections.models import new_code

PDF, ZIP, CLAIM = "pdf", "zip", "claim"


class MadeReport(Worked):
    """A file that a worker made. ``handed_over``: of a closed job, kept as it was; others are forgotten after a day. ``rows`` of ``of`` are done."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="made_reports")
    kind = models.CharField(max_length=10, choices=[(PDF, "PDF"), (ZIP, "ZIP"), (CLAIM, "claim")])
    language = models.CharField(max_length=10)
    data = models.BinaryField(default=bytes)
    size_bytes = models.PositiveIntegerField(default=0)
    closing_hash = models.CharField(max_length=64, blank=True)
    handed_over = models.BooleanField(default=False)
    rows = models.PositiveIntegerField(default=0)
    of = models.PositiveIntegerField(default=0)
    problem = models.CharField(max_length=500, blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)


class OwnerLink(models.Model):
    """An address by which the owner reads the page, without an account, until it expires or is taken back."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="owner_links")
    code = models.CharField(max_length=20, unique=True, default=new_code)
    language = models.CharField(max_length=10)
    expires_at = models.DateTimeField()
    revoked_at = models.DateTimeField(null=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
