"""The shop's registers: devices, panels, suppliers, and what suppliers offer."""

from typing import Any

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models.fields.json import KeyTextTransform

from lens.matching import PanelSpec, ValueSource, normal_number


class PanelModel(models.Model):
    """A panel by its label, with the specification that the core compares. ``sources``: of each value where it came from and when, by its field;
    ``found_by``: what a search looks in."""

    name = models.CharField(max_length=80, unique=True)
    maker = models.CharField(max_length=80, blank=True)
    spec = models.JSONField()
    sources = models.JSONField(default=dict)
    normal = models.CharField(max_length=80, unique=True)  # the name without dashes, spaces and small letters
    found_by = models.TextField(default="")
    version = models.PositiveIntegerField(default=1)
    retired = models.BooleanField(default=False)

    class Meta:
        ordering = ("name",)
        indexes = [
            GinIndex(fields=["normal"], opclasses=["gin_trgm_ops"], name="parts_normal"),
            GinIndex(fields=["found_by"], opclasses=["gin_trgm_ops"], name="parts_found_by"),
            models.Index(KeyTextTransform("edid_identity", "spec"), name="parts_edid_identity"),
        ]

    def set_keys(self) -> "PanelModel":
        """What it is found by follows from what it says; for rows that are stored many at a time."""
        self.normal = normal_number(self.name)
        words = [self.normal, *(self.spec.get("other_numbers") or ()), *self.maker.split()]
        self.found_by = " ".join(normal_number(word) for word in words)
        return self

    def save(self, *args: Any, **options: Any) -> None:
        self.set_keys()
        super().save(*args, **options)

    @property
    def specification(self) -> PanelSpec:
        """What the core compares."""
        return PanelSpec.model_validate(self.spec)

    @property
    def value_sources(self) -> dict[str, ValueSource]:
        return {name: ValueSource.model_validate(told) for name, told in self.sources.items()}


class Device(models.Model):
    """A kind of device as the shop meets it. ``names`` are all designations on its labels; ``normals`` are they as they are searched."""

    kind = models.CharField(max_length=20)
    maker = models.CharField(max_length=80, blank=True)
    names = models.JSONField()
    generation = models.CharField(max_length=40, blank=True)
    diagonal_in = models.FloatField(null=True, blank=True)
    panel_width = models.PositiveIntegerField(null=True, blank=True)
    panel_height = models.PositiveIntegerField(null=True, blank=True)
    build = models.CharField(max_length=40, blank=True)
    normals = models.CharField(max_length=400)
    version = models.PositiveIntegerField(default=1)
    retired = models.BooleanField(default=False)

    class Meta:
        ordering = ("normals", "id")
        indexes = [GinIndex(fields=["normals"], opclasses=["gin_trgm_ops"], name="parts_device_normals")]

    def save(self, *args: Any, **options: Any) -> None:
        self.normals = " ".join(normal_number(name) for name in self.names)[:400]
        super().save(*args, **options)

    @property
    def title(self) -> str:
        """How a list calls it."""
        return " / ".join(self.names) + (f" ({self.generation})" if self.generation else "")


class Supplier(models.Model):
    """Who sells panels, and on which terms. Times are the shop's."""

    name = models.CharField(max_length=80, unique=True)
    cut_off = models.TimeField(null=True, blank=True)
    free_freight_from = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    return_cost = models.DecimalField(max_digits=8, decimal_places=2, default=0)
    terms = models.TextField(max_length=1000, blank=True)
    version = models.PositiveIntegerField(default=1)
    retired = models.BooleanField(default=False)

    class Meta:
        ordering = ("name",)


class Offer(models.Model):
    """A supplier's offer of a panel model. ``on_shelf``: it lies here, so many of it; ``breaks``: [quantity from which on, price] pairs;
    ``comes_with``: what is on it or in its parcel."""

    panel = models.ForeignKey(PanelModel, on_delete=models.PROTECT, related_name="offers")
    supplier = models.ForeignKey(Supplier, on_delete=models.PROTECT, related_name="offers")
    grade = models.CharField(max_length=20, blank=True)
    currency = models.CharField(max_length=3, default="EUR")
    price = models.DecimalField(max_digits=8, decimal_places=2)
    breaks = models.JSONField(default=list)
    duty_percent = models.DecimalField(max_digits=5, decimal_places=2, default=0)
    comes_with = models.JSONField(default=list)
    on_shelf = models.PositiveIntegerField(null=True, blank=True)
    shipping = models.DecimalField(max_digits=8, decimal_places=2)
    delivery_days = models.PositiveIntegerField()
    warranty_months = models.PositiveIntegerField()
    doa_days = models.PositiveIntegerField()
    withdrawn = models.BooleanField(default=False)

    class Meta:
        ordering = ("price", "id")


class LabelCode(models.Model):
    """What the beginning of a part number tells, in the shop's own experience: who made the panel, which controller kind, what it is known for."""

    code = models.CharField(max_length=20)
    normal = models.CharField(max_length=20, unique=True)
    maker = models.CharField(max_length=80, blank=True)
    controller = models.CharField(max_length=80, blank=True)
    trouble = models.CharField(max_length=300, blank=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ("normal",)

    def save(self, *args: Any, **options: Any) -> None:
        self.normal = normal_number(self.code)
        super().save(*args, **options)


class ImportRun(models.Model):
    """A file that was taken in. ``rows``: of panels [number, version that it made]; of offers [number, number of the one it replaced or null]."""

    kind = models.CharField(max_length=10)  # panels or offers
    rows = models.JSONField()
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ("-id",)
