"""Orders with what became of them, quotes with the owner's answers, promises: of each job the newest one holds."""

from django.conf import settings
from django.db import models

OPEN, ORDERED, SHIPPED, ARRIVED, CANCELLED = "open", "ordered", "shipped", "arrived", "cancelled"
OUTCOMES = ("good", "dead", "marked")


class Order(models.Model):
    """A parcel from one supplier. It collects lines while ``open``; its dates are the shop's days."""

    supplier = models.ForeignKey("parts.Supplier", on_delete=models.PROTECT, related_name="orders")
    state = models.CharField(max_length=12, default=OPEN)
    ordered_on = models.DateField(null=True, blank=True)
    shipped_on = models.DateField(null=True, blank=True)
    due_on = models.DateField(null=True, blank=True)  # as the supplier named it
    arrived_on = models.DateField(null=True, blank=True)
    late_days = models.IntegerField(null=True, blank=True)  # business days after the named day, once it arrived
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)
        indexes = [models.Index(fields=["state", "due_on"], name="purchasing_order_state")]


class OrderLine(models.Model):
    """Panels of one offer in an order, for a job or for the shelf. ``outcome``: what the buyer saw of it at arrival."""

    order = models.ForeignKey(Order, on_delete=models.PROTECT, related_name="lines")
    offer = models.ForeignKey("parts.Offer", on_delete=models.PROTECT, related_name="lines")
    job = models.ForeignKey("jobs.Job", null=True, blank=True, on_delete=models.PROTECT, related_name="order_lines")
    quantity = models.PositiveIntegerField(default=1)
    unit_price = models.DecimalField(max_digits=8, decimal_places=2)
    outcome = models.CharField(max_length=10, blank=True)
    note = models.CharField(max_length=300, blank=True)
    risk_taken = models.BooleanField(default=False)  # ordered although something that decides was not known

    class Meta:
        ordering = ("id",)


class OrderEvent(models.Model):
    """What became of an order, by whom."""

    order = models.ForeignKey(Order, on_delete=models.PROTECT, related_name="events")
    what = models.CharField(max_length=12)
    on = models.DateField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    note = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ("id",)


class Quote(models.Model):
    """A price as it was told to an owner (`lens.purchasing.Quote`), and the answer. The newest one of a job holds."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="quotes")
    content = models.JSONField()
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    answer = models.CharField(max_length=3, blank=True)  # yes, no, or none yet
    answered_by = models.CharField(max_length=120, blank=True)  # who said it
    answered_how = models.CharField(max_length=20, blank=True)
    answered_at = models.DateTimeField(null=True, blank=True)
    recorded_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, blank=True, on_delete=models.PROTECT, related_name="+"
    )

    class Meta:
        ordering = ("id",)


class Promise(models.Model):
    """The day that an owner was told. The newest one of a job holds; the others say what changed."""

    job = models.ForeignKey("jobs.Job", on_delete=models.PROTECT, related_name="promises")
    day = models.DateField()
    chance = models.FloatField(null=True, blank=True)
    because = models.CharField(max_length=300, blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)
