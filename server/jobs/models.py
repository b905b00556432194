"""Jobs and the record of who did what."""

from django.conf import settings
from django.db import models


class Job(models.Model):
    """One device on its way through the shop; or (``subject`` 'panel') one panel that came, which is looked at with nobody's device around it.
    ``version`` grows with every change, so that two editors notice each other."""

    subject = models.CharField(max_length=10, default="device")  # lens.records.Subject
    title = models.CharField(max_length=120)
    device_type = models.CharField(max_length=20)
    owner = models.CharField(max_length=120, blank=True)
    complaint = models.TextField(blank=True, max_length=2000)
    visible_damage = models.TextField(blank=True, max_length=2000)
    accessories = models.CharField(max_length=300, blank=True)
    panel_width = models.PositiveIntegerField()
    panel_height = models.PositiveIntegerField()
    diagonal_in = models.FloatField(null=True, blank=True)
    profile = models.CharField(max_length=40)
    build = models.CharField(max_length=40, blank=True, default="")  # a procedure; empty: nobody said yet
    station = models.CharField(max_length=20, default="intake")
    skipped = models.JSONField(default=list)
    wanted_panel = models.ForeignKey(
        "parts.PanelModel", null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    chosen_offer = models.ForeignKey("parts.Offer", null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    device = models.ForeignKey("parts.Device", null=True, blank=True, on_delete=models.PROTECT, related_name="jobs")
    serial_printed = models.CharField(max_length=60, blank=True)
    serial_system = models.CharField(max_length=60, blank=True)
    panel_serial = models.CharField(max_length=60, blank=True)  # of the panel that is fitted
    start_consent = models.CharField(max_length=20, blank=True)  # see lens.records.START_CONSENTS; empty: not asked yet
    hand_over_note = models.TextField(blank=True, max_length=2000)
    readings = models.JSONField(
        null=True, blank=True
    )  # of a meter, the last ones, with the nominal figure that they were held to
    edid = models.JSONField(null=True, blank=True)  # as last read from the panel, with what differs from the record
    replacement_edid = models.JSONField(null=True, blank=True)  # and what differs from the panel before it
    rules = models.JSONField(default=dict)  # the house rules in force as it was taken in: question and school
    origin = models.JSONField(null=True, blank=True)  # of a job that came as a file: installation, number there, when
    assigned_to = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )
    due_on = models.DateField(null=True, blank=True)
    urgent = models.BooleanField(default=False)
    waiting_for = models.CharField(max_length=20, blank=True)  # see lens.records.WAITING; empty: for nobody outside
    lesson = models.CharField(max_length=300, blank=True)  # the one thing to know next time, said at hand-over
    true_causes = models.JSONField(default=list)  # what it turned out to be, said at hand-over
    closed_at = models.DateTimeField(null=True, blank=True)
    simulated = models.JSONField(null=True, blank=True)
    version = models.PositiveIntegerField(default=1)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)

    # what lists show of it (server.bench.summaries) is older than its record
    stale = models.BooleanField(default=True)

    class Meta:
        ordering = ("-changed_at", "-id")
        indexes = [
            models.Index(fields=["id"], condition=models.Q(stale=True), name="jobs_stale"),
            models.Index(fields=["due_on"], condition=models.Q(closed_at=None), name="jobs_due"),
        ]


class Entry(models.Model):
    """One line of a job's record, never changed. ``hash`` covers it and the one before (see lens.reporting.chain)."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="entries")
    at = models.DateTimeField()
    who = models.CharField(max_length=150)
    kind = models.CharField(max_length=40)
    text = models.TextField()
    data = models.JSONField(default=dict)
    hash = models.CharField(max_length=64)

    class Meta:
        ordering = ("id",)


class RateReset(models.Model):
    """From here on closed jobs count towards the shop's base rates; what closed before does not."""

    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ("id",)


class Evidence(models.Model):
    """An answer to a check. Withdrawn answers stay, with the reason."""

    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="evidence")
    check_id = models.CharField(max_length=40)
    outcome = models.CharField(max_length=40)
    source = models.CharField(max_length=10, default="seen")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    conditions = models.JSONField(default=dict)  # charge, mains and room light, as far as somebody said
    withdrawn_because = models.CharField(max_length=300, blank=True)
    withdrawn = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)
