"""Files that are being read: photos of labels and of backs, and tables. Kept until somebody took what they say, a day at most."""

from django.conf import settings
from django.db import models

from server.common.worked import Worked

LABEL, BACK, PANELS, OFFERS = "label", "back", "panels", "offers"
PHOTOS, TABLES = (LABEL, BACK), (PANELS, OFFERS)


class Reading(Worked):
    """``told``: what came with the file; ``apply``: a table is taken in, not only looked at; ``rows`` of ``of`` are done."""

    kind = models.CharField(max_length=10)
    data = models.BinaryField()
    told = models.JSONField(default=dict)
    job = models.ForeignKey("jobs.Job", on_delete=models.CASCADE, null=True, related_name="+")
    apply = models.BooleanField(default=False)
    rows = models.PositiveIntegerField(default=0)
    of = models.PositiveIntegerField(default=0)
    result = models.JSONField(null=True)
    problem = models.CharField(max_length=500, blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
