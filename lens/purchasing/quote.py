"""The price that an owner is told: parts, freight, work, what may go wrong, tax, rounding, and how long it holds."""

import datetime as dt
from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

from pydantic import Field

from lens.errors import BadInput
from lens.purchasing.cost import money
from lens.purchasing.terms import purchasing_data
from lens.records.base import Record

LineKind = Literal["part", "freight", "work", "risk", "extra"]


class QuoteLine(Record):
    """``amount`` is without tax. ``minutes`` only beside work: money and time are never added."""

    kind: LineKind
    title: str = Field(min_length=1, max_length=120)
    amount: Decimal = Field(ge=0, decimal_places=2)
    minutes: int | None = Field(default=None, ge=0)


class Quote(Record):
    """``net`` + ``tax`` + ``rounding`` = ``total``, to the hundredth."""

    currency: str
    lines: tuple[QuoteLine, ...] = Field(min_length=1, max_length=40)
    net: Decimal
    tax_percent: Decimal
    tax: Decimal
    rounding: Decimal
    total: Decimal
    made_on: dt.date
    valid_until: dt.date
    ready_on: dt.date | None = None
    ready_chance: float | None = None
    hint: str = ""


def quote_of(
    lines: tuple[QuoteLine, ...],
    currency: str,
    tax_percent: Decimal,
    made_on: dt.date,
    valid_days: int,
    round_to: Decimal = Decimal("0.01"),
    device_worth: Decimal | None = None,
    ready_on: dt.date | None = None,
    ready_chance: float | None = None,
) -> Quote:
    """The sum of the lines, taxed, rounded to a step; with a hint where the repair is dear beside the device. Raises BadInput for no lines, a step of
    zero, or a validity that is over at once."""
    if not lines:
        raise BadInput("The quote is empty. Choose an offer, or enter what the work costs.", "quote_empty")
    if round_to <= 0 or valid_days < 1:
        raise BadInput("A quote is rounded to a step above zero and holds for a day at least.", "quote_terms")
    net = sum((line.amount for line in lines), Decimal(0))
    tax = money(net * tax_percent / 100)
    exact = net + tax
    total = (exact / round_to).quantize(Decimal(1), ROUND_HALF_UP) * round_to
    total = money(total)
    hint = ""
    if device_worth is not None and total > device_worth * Decimal(str(purchasing_data().device_worth_share)):
        share = round(100 * total / device_worth) if device_worth else None
        against = f"{share} % of what the device is worth" if share is not None else "more than the device is worth"
        hint = f"The repair costs {against}. Ask whether it is still wanted."
    return Quote(
        currency=currency,
        lines=lines,
        net=net,
        tax_percent=tax_percent,
        tax=tax,
        rounding=total - exact,
        total=total,
        made_on=made_on,
        valid_until=made_on + dt.timedelta(days=valid_days),
        ready_on=ready_on,
        ready_chance=ready_chance,
        hint=hint,
    )


def quote_text(quote: Quote, shop: str, device: str, trouble: str) -> str:
    """The quote as plain text to send, in words for an owner."""
    told = [f"{shop}: quote for {device}" if shop else f"Quote for {device}", ""]
    if trouble:
        told += [f"What was reported: {trouble}", ""]
    for line in quote.lines:
        told.append(f"{line.title}: {line.amount} {quote.currency}")
    if quote.tax:
        told.append(f"Tax ({quote.tax_percent.normalize():f} %): {quote.tax} {quote.currency}")
    if quote.rounding:
        told.append(f"Rounding: {quote.rounding} {quote.currency}")
    told += [f"Total: {quote.total} {quote.currency}", ""]
    if quote.ready_on:
        chance = (
            f" (we expect to keep this in {round(100 * quote.ready_chance)} of 100 cases)" if quote.ready_chance else ""
        )
        told.append(f"Ready by {quote.ready_on:%d %B %Y} if you say yes today{chance}.")
    told.append(f"This price holds until {quote.valid_until:%d %B %Y}.")
    told.append("If more is found once the device is open, we stop and ask you again.")
    return "\n".join(told) + "\n"
