"""Panel models and who offers them."""

from typing import Any

from django.contrib.postgres.indexes import GinIndex
from django.db import models

from lens.matching import normal_number


class PanelModel(models.Model):
    """A panel by its label, with the specification that the core compares."""

    name = models.CharField(max_length=80, unique=True)
    maker = models.CharField(max_length=80, blank=True)
    spec = models.JSONField()
    normal = models.CharField(max_length=80, unique=True)  # the name without dashes, spaces and small letters
    version = models.PositiveIntegerField(default=1)
    retired = models.BooleanField(default=False)

    class Meta:
        ordering = ("name",)
        indexes = [GinIndex(fields=["normal"], opclasses=["gin_trgm_ops"], name="parts_normal")]

    def save(self, *args: Any, **options: Any) -> None:
        self.normal = normal_number(self.name)
        super().save(*args, **options)


class Offer(models.Model):
    """A supplier's offer of a panel model."""

    panel = models.ForeignKey(PanelModel, on_delete=models.PROTECT, related_name="offers")
    supplier = models.CharField(max_length=80)
    price = models.DecimalField(max_digits=8, decimal_places=2)
    shipping = models.DecimalField(max_digits=8, decimal_places=2)
    delivery_days = models.PositiveIntegerField()
    warranty_months = models.PositiveIntegerField()
    doa_days = models.PositiveIntegerField()
    withdrawn = models.BooleanField(default=False)

    class Meta:
        ordering = ("price", "id")
