"""The shop's own base rates: shown to all, reset by leads."""

from datetime import datetime

from django.db import transaction
from django.http import HttpRequest
from ninja import Router, Schema

from lens.diagnosis import DEVICES, BaseRate, Device
from lens.diagnosis.learning import SHIPPED_WEIGHT
from server.accounts.doors import lead_profiles
from server.accounts.policy import require
from server.jobs.core_adapter import rates_of
from server.jobs.models import RateReset

router = Router(tags=["rates"])


class ResetOut(Schema):
    version: int
    by: str
    at: datetime


class RatesOut(Schema):
    """``weight``: as many jobs as the shipped shares count for; ``since`` is the last reset, null when there was none. ``version`` counts the resets:
    statistics of different versions stand on different jobs."""

    devices: dict[Device, list[BaseRate]]
    weight: float
    since: datetime | None
    version: int
    resets: list[ResetOut]


def _rates() -> RatesOut:
    rows = list(RateReset.objects.select_related("by"))
    last = rows[-1] if rows else None
    return RatesOut(
        devices={device: list(rates_of(device)) for device in DEVICES},
        weight=SHIPPED_WEIGHT,
        since=last.at if last else None,
        version=len(rows),
        resets=[ResetOut(version=n, by=row.by.username, at=row.at) for n, row in enumerate(rows, 1)][::-1],
    )


@router.get("/rates", response=RatesOut, operation_id="getRates")
def get_rates(request: HttpRequest) -> RatesOut:
    return _rates()


@router.post("/rates/reset", auth=lead_profiles, response=RatesOut, operation_id="resetRates")
@transaction.atomic
def reset_rates(request: HttpRequest) -> RatesOut:
    """Count from here on; jobs that closed before keep what was said of them."""
    RateReset.objects.create(by=require(request.user, "profile.change"))
    return _rates()
