"""The shop's particulars: read by all who are signed in, changed by leads."""

from datetime import date, datetime
from decimal import Decimal

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Field, File, Router, Schema
from ninja.files import UploadedFile

from server.accounts.doors import lead_profiles
from server.shop.actions import change_shop, the_shop
from server.shop.logo import set_logo
from server.shop.models import Shop

router = Router(tags=["shop"])


class ShopFields(Schema):
    name: str = Field(max_length=120)
    address: str = Field(max_length=300)
    public_address: str = Field(default="", max_length=200)
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
    has_logo: bool
    version: int
    changed_by: str
    changed_at: datetime | None


class ShopIn(ShopFields):
    version: int


def _out(shop: Shop) -> ShopOut:
    told = {name: getattr(shop, name) for name in ShopFields.model_fields}
    by = shop.changed_by.username if shop.changed_by else ""
    return ShopOut(
        **told,
        has_logo=bool(shop.logo),
        version=shop.version,
        changed_by=by,
        changed_at=shop.changed_at if shop.version else None,
    )


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


@router.get("/shop/logo", operation_id="getLogo")
def get_logo(request: HttpRequest) -> HttpResponse:
    logo = the_shop().logo
    if not logo:
        raise Http404("No logo is stored.")
    return HttpResponse(bytes(logo), content_type="image/png")


@router.post("/shop/logo", auth=lead_profiles, response=ShopOut, operation_id="setLogo")
def put_logo(request: HttpRequest, file: File[UploadedFile]) -> ShopOut:
    """Printed on every report from now on; a small PNG of it is kept."""
    return _out(set_logo(request.user, file.read()))


@router.delete("/shop/logo", auth=lead_profiles, response=ShopOut, operation_id="dropLogo")
def drop_logo(request: HttpRequest) -> ShopOut:
    return _out(set_logo(request.user, None))
