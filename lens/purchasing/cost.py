"""What an offer really costs once it is in the shop: every part of the sum by itself, in exact money."""

from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

from pydantic import Field

from lens.errors import BadInput
from lens.purchasing.terms import OfferTerms, purchasing_data
from lens.records.base import Record

CENT = Decimal("0.01")
Part = Literal["price", "freight", "duty", "dead", "warranty", "delay"]


class Rates(Record):
    """What time and promises cost the shop. ``test_minutes``: of bench work that a dead panel wastes; ``warranty_months``: what the shop grants
    the owner."""

    currency: str = Field(pattern="^[A-Z]{3}$")
    hourly_rate: Decimal = Field(default=Decimal(0), ge=0)
    delay_cost_a_day: Decimal = Field(default=Decimal(0), ge=0)
    warranty_months: int = Field(default=0, ge=0)
    test_minutes: float = Field(default=15, ge=0)


class CostPart(Record):
    id: Part
    title: str
    amount: Decimal


def money(value: Decimal | float) -> Decimal:
    """Rounded to the hundredth, half up."""
    return Decimal(str(value) if isinstance(value, float) else value).quantize(CENT, ROUND_HALF_UP)


def landed_cost(
    offer: OfferTerms, rates: Rates, chance_dead: float, retry_days: float, others: Sequence[Decimal] = ()
) -> tuple[CostPart, ...]:
    """The expected cost of one panel by its parts; their sum is the landed cost.

    Parameters
    ----------
    chance_dead : that it arrives dead or marked
    retry_days : business days that a second delivery takes
    others : prices of what else goes into the same parcel: freight is shared evenly

    Raises
    ------
    BadInput
        for an offer in another currency, or without a price although it is not the shop's own.
    """
    if offer.currency != rates.currency:
        raise BadInput(
            f"The price of {offer.supplier} is in {offer.currency}, the shop counts in {rates.currency}. Enter it in {rates.currency}.",
            "other_currency",
        )
    if offer.price == 0 and not offer.on_shelf:
        raise BadInput(f"The offer of {offer.supplier} has no price. Ask for it, then enter it.", "no_price")
    price = offer.unit_price()
    goods = sum(others, price)
    freight = offer.freight_for(goods) / (1 + len(others))
    share = Decimal(str(round(chance_dead, 6)))
    wasted = rates.hourly_rate * Decimal(str(rates.test_minutes)) / 60
    returned = Decimal(0) if offer.doa_days else price  # nobody takes a dead one back: its price is lost
    uncovered = max(0, rates.warranty_months - offer.warranty_months)
    told: list[tuple[Part, str, Decimal]] = [
        ("price", "Price", price),
        ("freight", "Freight", freight),
        ("duty", "Duty", price * offer.duty_percent / 100),
        ("dead", "Dead on arrival", share * (offer.return_cost + wasted + returned)),
        ("delay", "Delay by a dead one", share * rates.delay_cost_a_day * Decimal(str(round(retry_days, 3)))),
        ("warranty", "Warranty", price * Decimal(str(purchasing_data().fails_a_month)) * uncovered),
    ]
    return tuple(
        CostPart(id=name, title=title, amount=money(amount))
        for name, title, amount in told
        if money(amount) or name == "price"
    )
