"""Runs of patterns on a screen, their photos, and the codes by which other devices join."""

import secrets

from django.conf import settings
from django.db import models
from django.utils import timezone

from lens.panel import Panel, make_panel
from lens.patterns import MAX_RUN_CODE, PatternSet, get_set
from server.common.worked import Worked

CODE_ALPHABET = "23456789abcdefghjkmnpqrstuvwxyz"
SHORT_SET = "triage"  # what a dry fit begins with: it is to cost two minutes, and the full set belongs to Prove
CODE_LENGTH = 13  # 31^13, about 64 bits


def new_code() -> str:
    """An unguessable code that can still be typed."""
    return "".join(secrets.choice(CODE_ALPHABET) for _ in range(CODE_LENGTH))


def new_run_code() -> int:
    """What the markers carry; 0 is kept for exported files."""
    return 1 + secrets.randbelow(MAX_RUN_CODE)


class Run(Worked):
    """One inspection of one screen at one stage of a job."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="runs")
    stage = models.CharField(max_length=20)
    run_code = models.PositiveIntegerField(default=new_run_code)
    pattern_set = models.CharField(max_length=20, default="standard")
    screen_width = models.PositiveIntegerField(
        null=True, blank=True
    )  # of an external screen; the job's panel where it is empty
    screen_height = models.PositiveIntegerField(null=True, blank=True)
    row_time_us = models.FloatField(
        null=True, blank=True
    )  # the hand camera's time from one row of its sensor to the next
    own_set = models.JSONField(null=True, blank=True)  # title and patterns of a set that the shop wrote itself
    pattern = models.CharField(max_length=30, default="white")
    pattern_step = models.PositiveIntegerField(default=0)
    glass = models.JSONField(null=True, blank=True)
    conditions = models.JSONField(default=dict)  # lens.records.StageConditions, as far as somebody said
    status = models.CharField(max_length=20, default="empty")
    result = models.JSONField(null=True, blank=True)
    looked_back = models.JSONField(default=dict)  # lens.inspecting.LookBack: its faults, looked up in the look before
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
        constraints = [models.UniqueConstraint(fields=("job", "stage"), name="one_run_a_stage")]

    @property
    def panel(self) -> Panel:
        """The screen that is looked at: the job's panel, or an external one of its own size."""
        if self.screen_width and self.screen_height:
            return make_panel(self.screen_width, self.screen_height)
        return make_panel(self.job.panel_width, self.job.panel_height, self.job.diagonal_in)

    @property
    def chosen_set(self) -> PatternSet:
        return PatternSet.model_validate(self.own_set) if self.own_set else get_set(self.pattern_set)


class Photo(models.Model):
    """One photo. The file is stored under its SHA-256, so the same photo is kept once."""

    run = models.ForeignKey(Run, on_delete=models.PROTECT, related_name="photos")
    sha256 = models.CharField(max_length=64)
    name = models.CharField(max_length=200)
    size_bytes = models.PositiveIntegerField()
    client_key = models.CharField(max_length=64)
    pattern_given = models.CharField(max_length=30, blank=True)
    corners_given = models.JSONField(null=True, blank=True)
    status = models.CharField(max_length=20, default="queued")
    report = models.JSONField(null=True, blank=True)
    tries = models.PositiveSmallIntegerField(
        default=0
    )  # readings begun and not ended: a photo that ends its reader is left out
    sent_by = models.CharField(max_length=150)
    sent_at = models.DateTimeField(auto_now_add=True)
    removed = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)
        constraints = [models.UniqueConstraint(fields=("run", "client_key"), name="each_photo_once")]


class RectifiedPhoto(Worked):
    """A photo as the panel shows it, in tiles, as a worker made it: `lens.photo.rectified`. It can be made again at any time, so it is in no backup
    and is forgotten when nobody looked for a while. ``registered``: digest of the pattern and the registration it was made by."""

    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="rectified")
    view = models.CharField(max_length=12)
    registered = models.CharField(max_length=64)
    file = models.CharField(max_length=120, blank=True)
    scale = models.PositiveSmallIntegerField(default=1)
    levels = models.PositiveSmallIntegerField(default=0)
    problem = models.CharField(max_length=500, blank=True)
    looked_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("id",)
        constraints = [models.UniqueConstraint(fields=("photo", "view", "registered"), name="each_view_once")]


class Judgement(models.Model):
    """A person's decision on a finding of a run; withdrawn ones stay."""

    run = models.ForeignKey(Run, on_delete=models.PROTECT, related_name="judgements")
    ruling = models.JSONField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    withdrawn = models.BooleanField(default=False)

    class Meta:
        ordering = ("id",)


class Access(models.Model):
    """A code in a QR: opens one run only, as glass or as hand camera, until it expires or is revoked, by hand or by the job's hand-over."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="accesses")
    kind = models.CharField(max_length=10)
    code = models.CharField(max_length=20, unique=True, default=new_code)
    expires_at = models.DateTimeField()
    revoked_at = models.DateTimeField(null=True, blank=True)
    made_at = models.DateTimeField(default=timezone.now)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
