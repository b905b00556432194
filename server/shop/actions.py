"""Reading and changing the shop's particulars."""

import re
from decimal import Decimal
from typing import Any
from zoneinfo import ZoneInfo, available_timezones

from django.core.cache import cache
from django.db import transaction

from lens.errors import BadInput
from lens.reporting import owner_texts
from lens.tables import near
from server.accounts.policy import require
from server.common.errors import Conflict
from server.profiles.actions import Person, find_profile, keep_version
from server.shop.models import Shop

PAPERS, WEEKDAYS = ("A4", "Letter"), ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
FIELDS = (
    "name",
    "address",
    "public_address",
    "currency",
    "tax_percent",
    "paper",
    "language",
    "time_zone",
    "hours",
    "profile",
    "hourly_rate",
    "delay_cost_a_day",
    "warranty_months",
    "quote_days",
    "round_to",
    "closed_on",
)
# a name or four numbers, and perhaps a port: no folder, no question
PUBLIC_ADDRESS = re.compile(r"https?://[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?(:[0-9]{1,5})?")
SPAN = re.compile(r"([01]\d|2[0-3]):([0-5]\d)-([01]\d|2[0-4]):([0-5]\d)")
ZONE_S = 5  # so old may be what another process changed


def the_shop() -> Shop:
    """The shop as it is; one that nobody described yet has the defaults."""
    return Shop.objects.filter(pk=1).first() or Shop(pk=1)


def zone() -> ZoneInfo:
    """The shop's time zone, asked of the database at most every few seconds."""
    name = cache.get("shop_zone")
    if name is None:
        name = the_shop().time_zone
        cache.set("shop_zone", name, ZONE_S)
    return ZoneInfo(name)


@transaction.atomic
def change_shop(user: Person, version: int, values: dict[str, Any]) -> Shop:
    """Change the particulars; leads only. Raises Conflict when somebody changed them since ``version``."""
    person = require(user, "profile.change")
    shop = Shop.objects.select_for_update().filter(pk=1).first() or Shop(pk=1)
    if shop.version != version:
        raise Conflict("Somebody else changed the shop's settings meanwhile. Reload the page, then enter yours again.")
    _check(values)
    for name in FIELDS:
        if name in values:
            setattr(shop, name, values[name])
    shop.version, shop.changed_by = version + 1, person
    shop.save()
    content = {name: str(v) if isinstance(v := getattr(shop, name), Decimal) else v for name in FIELDS}
    keep_version("shop", shop.version, content, person)
    cache.delete("shop_zone")
    return shop


def _check(values: dict[str, Any]) -> None:
    told = values.get("time_zone")
    if told is not None and told not in available_timezones():
        raise BadInput(
            f"There is no time zone '{told}'.{near(told, available_timezones())} Give it as Europe/Paris.", "bad_zone"
        )
    if "currency" in values and not re.fullmatch(r"[A-Z]{3}", values["currency"]):
        raise BadInput("A currency has three letters (ISO 4217), for example EUR.", "bad_currency")
    for name, known in (("paper", PAPERS), ("language", tuple(owner_texts()))):
        if name in values and values[name] not in known:
            raise BadInput(f"'{values[name]}' is no {name} of ours: choose {', '.join(known)}.", f"bad_{name}")
    if values.get("public_address") and not PUBLIC_ADDRESS.fullmatch(values["public_address"]):
        raise BadInput(
            "Write the public address as https://bench.example, with a port where one is needed and nothing behind it.",
            "bad_public_address",
        )
    if "profile" in values:
        find_profile(values["profile"])
    for day, text in values.get("hours", {}).items():
        if day not in WEEKDAYS:
            raise BadInput(f"'{day}' is no weekday: {', '.join(WEEKDAYS)}.", "bad_hours")
        _check_spans(day, text)


def _check_spans(day: str, text: str) -> None:
    """Raises BadInput where a day's hours are no times that follow one another."""
    last = ""
    for part in (part.strip() for part in text.split(",")):
        if not SPAN.fullmatch(part) or not last <= part[:5] < part[6:] <= "24:00":
            raise BadInput(f"Hours of {day}: write them as 08:00-12:00, 13:00-17:00, one after the other.", "bad_hours")
        last = part[6:]
