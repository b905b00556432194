"""The log of what was done at a device. Rows are never deleted: what was taken back says so."""

from django.conf import settings
from django.db import models


class GatePassed(models.Model):
    """A step that was done (``gate`` is its id; POWERED a power-up outside of any step). ``counts``: what was met, by group of loose things."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="gates")
    gate = models.CharField(max_length=40)
    choice = models.CharField(max_length=40, blank=True)
    reason = models.CharField(
        max_length=300, blank=True
    )  # why it was passed although its inspection did not prove the panel
    counts = models.JSONField(default=dict)
    details = models.JSONField(default=dict)  # lens.fitting.StepNotes, as far as something was noted
    taken_back = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)


class FitNote(models.Model):
    """What was photographed or met at a step. ``was_so``: found on the way; False: done by us; None: only a photo of how it is. Rows are only added;
    one that was wrong is taken back."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="fit_notes")
    step = models.CharField(max_length=40, blank=True)
    text = models.CharField(max_length=300, blank=True)
    place = models.CharField(max_length=80, blank=True)
    was_so = models.BooleanField(null=True)
    consent_needed = models.BooleanField(default=False)
    photo = models.ForeignKey("inspections.Photo", on_delete=models.PROTECT, null=True, related_name="+")
    taken_back = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)


class FastenerPlaces(models.Model):
    """Where the screws of a group sit on this device, as somebody tapped them; the last row of a group counts. Places are shares of the device seen
    from the front, or of ``photo`` (lens.fitting.PlacedFastener)."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="fastener_places")
    group = models.CharField(max_length=40)
    places = models.JSONField(default=list)
    photo = models.ForeignKey("inspections.Photo", on_delete=models.PROTECT, null=True, related_name="+")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)


class KeepOutFound(models.Model):
    """Where no pick may go on this device, as somebody found it: offered to the next job of the device beside those of its build
    (``place``: lens.fitting.KeepOut). Rows are only added; one that was wrong is taken back."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="keep_outs_found")
    device = models.ForeignKey("parts.Device", on_delete=models.PROTECT, null=True, related_name="keep_outs_found")
    place = models.JSONField()
    taken_back = models.BooleanField(default=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)


class OwnProcedure(models.Model):
    """A procedure that this shop wrote, as YAML; most begin as a copy of a shipped one. Retired ones stay: old jobs followed them."""

    slug = models.CharField(max_length=40, unique=True)
    based_on = models.CharField(max_length=40, blank=True)
    text = models.TextField()
    version = models.PositiveIntegerField(default=1)
    retired = models.BooleanField(default=False)
    changed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("slug",)


class FollowedProcedure(models.Model):
    """The procedure as a job began it: what changes later does not move under somebody's hands. ``content``: lens.fitting.Procedure."""

    job = models.OneToOneField("jobs.Job", on_delete=models.CASCADE, related_name="followed")
    content = models.JSONField()
    sha256 = models.CharField(max_length=64)
    at = models.DateTimeField(auto_now=True)
