"""The shop's own particulars: one row, each state of it kept (server.profiles.models.KeptVersion)."""

from decimal import Decimal

from django.conf import settings
from django.db import models


class Shop(models.Model):
    name = models.CharField(max_length=120, blank=True)
    address = models.CharField(max_length=300, blank=True)
    public_address = models.CharField(
        max_length=200, blank=True
    )  # where owners at home reach this bench, as https://bench.example
    currency = models.CharField(max_length=3, default="EUR")
    tax_percent = models.DecimalField(max_digits=5, decimal_places=2, default=0)
    paper = models.CharField(max_length=10, default="A4")
    language = models.CharField(max_length=10, default="en")
    time_zone = models.CharField(max_length=60, default="UTC")
    hours = models.JSONField(default=dict)  # by weekday mon..sun: "08:00-12:00, 13:00-17:00"; a closed day is left out
    profile = models.CharField(max_length=40, default="class-II")  # that a new job begins with
    # what Match reckons with; zero where the shop does not count it
    hourly_rate = models.DecimalField(max_digits=8, decimal_places=2, default=0)
    delay_cost_a_day = models.DecimalField(max_digits=8, decimal_places=2, default=0)
    warranty_months = models.PositiveIntegerField(default=0)  # that the owner is granted
    quote_days = models.PositiveIntegerField(default=14)  # that a quote holds
    round_to = models.DecimalField(max_digits=6, decimal_places=2, default=Decimal("0.01"))
    closed_on = models.JSONField(default=list)  # single days (ISO 8601) beside those without hours
    logo = models.BinaryField(null=True, blank=True)  # a small PNG (server.shop.logo)
    version = models.PositiveIntegerField(default=0)
    changed_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    changed_at = models.DateTimeField(auto_now=True)
