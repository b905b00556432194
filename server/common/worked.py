"""What every row has whose work is done in the background (see ``server.common.queue``)."""

from django.db import models


class Worked(models.Model):
    """Work that was ``asked`` for and that is ``settled``, as counts: what was asked for more often than it was done is not forgotten. ``tries`` are
    those begun and not ended, the last of them counted ``tried_at``."""

    asked = models.PositiveIntegerField(default=0)
    settled = models.PositiveIntegerField(default=0)
    tries = models.PositiveSmallIntegerField(default=0)
    tried_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        abstract = True
