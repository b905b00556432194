"""Worker processes, as they say of themselves, and this installation's name."""

import uuid

from django.db import models


class WorkerProcess(models.Model):
    """One worker process. ``worker_id`` is its name in the queue; ``machine``, ``pid`` and ``started_ticks`` tell whether it still lives: a
    number of a process alone may have been given to another one since."""

    worker_id = models.BigIntegerField(unique=True)
    machine = models.CharField(
        max_length=100
    )  # this boot of this machine: numbers of processes mean nothing on any other
    host = models.CharField(max_length=100)
    pid = models.PositiveIntegerField()
    started_ticks = models.BigIntegerField()
    version = models.CharField(max_length=60)
    started_at = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField()

    class Meta:
        ordering = ("id",)


class Installation(models.Model):
    """One row: by this name other installations know where a job file came from."""

    name = models.UUIDField(default=uuid.uuid4, unique=True)
    made_at = models.DateTimeField(auto_now_add=True)
