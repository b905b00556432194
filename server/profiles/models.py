"""The shop's own acceptance profiles and house rules, and what each was before."""

from django.conf import settings
from django.db import models


class OwnProfile(models.Model):
    """A profile of the core (lens.acceptance.Profile) that this shop wrote. Retired ones stay: old verdicts name them."""

    slug = models.CharField(max_length=40, unique=True)
    content = models.JSONField()
    retired = models.BooleanField(default=False)
    version = models.PositiveIntegerField(default=1)
    changed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("slug",)


class HouseRule(models.Model):
    """What the shop does where good practitioners differ: a question's name and the school that was chosen."""

    name = models.CharField(max_length=40, unique=True)
    value = models.CharField(max_length=40)
    changed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    changed_at = models.DateTimeField(auto_now=True)


class KeptVersion(models.Model):
    """What a profile or house rule said, each time it was saved. Verdicts name it by its hash; rows are only added."""

    what = models.CharField(max_length=60)  # profile:<slug> or rule:<name>
    version = models.PositiveIntegerField()
    content = models.JSONField()
    sha256 = models.CharField(max_length=64, db_index=True)  # of the canonical JSON, as verdicts name it
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("what", "version")
        constraints = [models.UniqueConstraint(fields=("what", "version"), name="kept_once")]
