"""The shop's particulars: read by all who are signed in, changed by leads."""

from datetime import date, datetime
from decimal import Decimal

from django.http import HttpRequest
from ninja import Field, Router, Schema

from server.accounts.doors import lead_profiles
from server.shop.actions import change_shop, the_shop
from server.shop.models import Shop

router = Router(tags=["shop"])


class ShopFields(Schema):
    name: str = Field(max_length=120)
    address: str = Field(max_length=300)
    currency: str = Field(max_length=3)
    tax_percent: Decimal = Field(ge=0, le=100, decimal_places=2)
    paper: str = Field(max_length=10)
    language: str = Field(max_length=10)
    time_zone: str = Field(max_length=60)
    hours: dict[str, str]
    profile: str = Field(max_length=40)
    hourly_rate: Decimal = Field(default=Decimal(0), ge=0, lt=100_000, decimal_places=2)
    delay_cost_a_day: Decimal = Field(default=Decimal(0), ge=0, lt=100_000, decimal_places=2)
    warranty_months: int = Field(default=0, ge=0, le=120)
    quote_days: int = Field(default=14, ge=1, le=365)
    round_to: Decimal = Field(default=Decimal("0.01"), gt=0, le=1000, decimal_places=2)
    closed_on: list[date] = Field(default=[], max_length=366)


class ShopOut(ShopFields):
    version: int
    changed_by: str
    changed_at: datetime | None


class ShopIn(ShopFields):
    version: int


def _out(shop: Shop) -> ShopOut:
    told = {name: getattr(shop, name) for name in ShopFields.model_fields}
    by = shop.changed_by.username if shop.changed_by else ""
    return ShopOut(**told, version=shop.version, changed_by=by, changed_at=shop.changed_at if shop.version else None)


@router.get("/shop", response=ShopOut, operation_id="getShop")
def get_shop(request: HttpRequest) -> ShopOut:
    return _out(the_shop())


@router.put("/shop", auth=lead_profiles, response=ShopOut, operation_id="changeShop")
def put_shop(request: HttpRequest, body: ShopIn) -> ShopOut:
    return _out(
        change_shop(
            request.user,
            body.version,
            {**body.model_dump(exclude={"version"}), "closed_on": sorted({day.isoformat() for day in body.closed_on})},
        )
    )
