"""Panel models and who offers them."""

from django.db import models


class PanelModel(models.Model):
    """A panel by its label, with the specification that the core compares."""

    name = models.CharField(max_length=80, unique=True)
    maker = models.CharField(max_length=80)
    spec = models.JSONField()

    class Meta:
        ordering = ("name",)


class Offer(models.Model):
    """A supplier's offer of a panel model."""

    panel = models.ForeignKey(PanelModel, on_delete=models.PROTECT, related_name="offers")
    supplier = models.CharField(max_length=80)
    price = models.DecimalField(max_digits=8, decimal_places=2)
    shipping = models.DecimalField(max_digits=8, decimal_places=2)
    delivery_days = models.PositiveIntegerField()
    warranty_months = models.PositiveIntegerField()
    doa_days = models.PositiveIntegerField()

    class Meta:
        ordering = ("price", "id")
