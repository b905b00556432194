"""What lists show of jobs: worked out of the record, and worked out anew where it is gone or old."""

from django.contrib.postgres.indexes import GinIndex
from django.db import models

from server.jobs.models import Job


class ListedWord(models.Model):
    """A word of any summary, so that what was typed wrong is held to whole words, of which there are few. Words of jobs that were mended stay:
    they find nothing, and do no harm."""

    word = models.CharField(max_length=40, unique=True)

    class Meta:
        indexes = [GinIndex(fields=["word"], opclasses=["gin_trgm_ops"], name="bench_word")]


class JobSummary(models.Model):
    """How far a job is, its verdict, and the words it is found by; no list reads a result."""

    job = models.OneToOneField(Job, primary_key=True, on_delete=models.CASCADE, related_name="summary")
    words = models.TextField()
    station = models.CharField(max_length=20)
    state = models.CharField(max_length=20)
    verdict = models.CharField(max_length=12, blank=True)  # empty: nothing was measured on the device as it goes
    stages = models.JSONField(default=dict)
    next = models.CharField(max_length=300, blank=True)
    core_version = models.CharField(max_length=40, blank=True)  # of the rules that told it

    class Meta:
        indexes = [GinIndex(fields=["words"], opclasses=["gin_trgm_ops"], name="bench_words")]
