"""Touch sessions as they grow, and later re-tests."""

from django.conf import settings
from django.db import models

from server.common.worked import Worked


class TouchSession(Worked):
    """One recording on the screen of a run. ``plan`` is what is asked for, ``done`` the steps as they were carried out."""

    run = models.ForeignKey("inspections.Run", on_delete=models.PROTECT, related_name="touches")
    source = models.CharField(max_length=10, default="glass")
    drawn_with = models.CharField(max_length=10, blank=True, default="")  # bare, glove, film; empty: not asked
    plan = models.JSONField()
    done = models.JSONField(default=list)
    events = models.PositiveIntegerField(default=0)
    origin_ms = models.FloatField(null=True, blank=True)  # the session's zero on the clock of the glass
    command = models.JSONField(default=dict)  # what the bench last told the glass to do, with a number
    now = models.JSONField(null=True, blank=True)  # what the glass last said of itself
    status = models.CharField(max_length=10, default="open")
    problem = models.CharField(max_length=300, blank=True)
    result = models.JSONField(null=True, blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)


class TouchPart(models.Model):
    """Events as they came from a glass, in JSON: lists of t, id, ev, x, y, p, w, h. ``sender`` and ``number`` make each part one part."""

    session = models.ForeignKey(TouchSession, on_delete=models.CASCADE, related_name="parts")
    sender = models.CharField(max_length=32)
    number = models.PositiveIntegerField()
    rows = models.TextField()

    class Meta:
        ordering = ("id",)
        constraints = [models.UniqueConstraint(fields=("session", "sender", "number"), name="each_part_once")]


class Recheck(models.Model):
    """A re-test that is due later: after a system update, or when the adhesive has cured."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="rechecks")
    due_on = models.DateField()
    reason = models.CharField(max_length=200)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    settled_at = models.DateTimeField(null=True, blank=True)
    settled_because = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ("due_on", "id")
