"""What a supplier offers, and what its own orders say of it: how late it is, how many of its panels arrive dead."""

import datetime as dt
import math
from collections.abc import Mapping
from decimal import Decimal
from functools import cache
from pathlib import Path
from typing import Literal, NamedTuple, get_args

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from lens.records.base import Record
from lens.tables import shipped

Grade = Literal["new_original", "pulled", "refurbished", "compatible", "copy"]
GRADES: tuple[Grade, ...] = get_args(Grade)
DATA = Path(__file__).with_name("purchasing.yaml")
EARLIEST, LATEST = -3, 25  # business days about the named one that a spread covers
CREDIBLE = 0.9
RAREST = 0.001  # of a day that no habit names


class _Habit(Record):
    share: float = Field(gt=0, le=1)
    prior: dict[int, float]


class _Lateness(Record):
    weight: float = Field(gt=0)
    habits: dict[str, _Habit] = Field(min_length=1)
    smoothing: float = Field(ge=0, lt=0.5)


class _Dead(Record):
    weight: float = Field(gt=0)
    prior: dict[str, float]


class PurchasingData(Record):
    """The shipped priors; see purchasing.yaml for each one's meaning."""

    lateness: _Lateness
    dead: _Dead
    grades: dict[str, str]
    fails_a_month: float
    arrival_share_of_day: float
    queue_spread: tuple[tuple[float, float], ...]
    device_worth_share: float


@cache
def purchasing_data() -> PurchasingData:
    return shipped(PurchasingData, DATA)


class OfferTerms(Record):
    """One offer of one panel. Money is exact; ``breaks`` are prices from a quantity on; ``delivery_days`` are business days as the supplier
    names them, 0 on the shelf."""

    id: int
    supplier: str
    grade: Grade | None = None
    price: Decimal = Field(ge=0)
    freight: Decimal = Field(default=Decimal(0), ge=0)
    free_freight_from: Decimal | None = Field(default=None, gt=0)
    currency: str = Field(pattern="^[A-Z]{3}$")
    breaks: tuple[tuple[int, Decimal], ...] = ()
    duty_percent: Decimal = Field(default=Decimal(0), ge=0, le=100)
    delivery_days: int = Field(ge=0, le=120)
    cut_off: dt.time | None = None
    doa_days: int = Field(default=0, ge=0)
    warranty_months: int = Field(default=0, ge=0)
    return_cost: Decimal = Field(default=Decimal(0), ge=0)
    on_shelf: bool = False

    def unit_price(self, quantity: int = 1) -> Decimal:
        """The price of one when so many are bought."""
        return min([self.price, *(price for least, price in self.breaks if quantity >= least)])

    def freight_for(self, goods: Decimal) -> Decimal:
        """The freight of one parcel with goods of that price."""
        free = self.free_freight_from is not None and goods >= self.free_freight_from
        return Decimal(0) if free or self.on_shelf else self.freight


class SupplierRecord(Record):
    """What the shop's own orders tell of a supplier. ``lateness``: of each order that arrived, the business days after the named day;
    ``good`` and ``dead``: panels by grade ('unknown' where none was told)."""

    lateness: tuple[int, ...] = ()
    good: Mapping[str, int] = {}
    dead: Mapping[str, int] = {}


class DeadRate(NamedTuple):
    """Share of panels that arrive dead or marked, with the limits between which it lies with 90 %."""

    mean: float
    low: float
    high: float
    orders: int


def dead_rate(grade: Grade | None, record: SupplierRecord) -> DeadRate:
    """The beta posterior of a supplier's dead-on-arrival rate for a grade (conjugate to the binomial; prior in purchasing.yaml)."""
    from scipy.stats import beta  # takes half a second to load; not every command needs it

    data, name = purchasing_data().dead, grade or "unknown"
    good, dead = record.good.get(name, 0), record.dead.get(name, 0)
    a = data.weight * data.prior[name] + dead
    b = data.weight * (1 - data.prior[name]) + good
    low, high = beta.ppf([(1 - CREDIBLE) / 2, (1 + CREDIBLE) / 2], a, b)
    return DeadRate(a / (a + b), float(low), float(high), good + dead)


def lateness_spread(record: SupplierRecord) -> NDArray[np.float64]:
    """The chance of each lateness from EARLIEST to LATEST business days.

    Suppliers are of several habits, each with a Dirichlet prior of its own; the supplier's orders say how likely each habit is (the marginal
    likelihood of the Dirichlet-multinomial: Minka, 'Estimating a Dirichlet distribution', from memory), and the told chance is the mean of the
    habits' posteriors. Each order is smeared a little over its neighbours.
    """
    data = purchasing_data().lateness
    counts, smeared = np.zeros((2, LATEST - EARLIEST + 1))
    for days in record.lateness:
        at = min(max(days, EARLIEST + 1), LATEST - 1) - EARLIEST
        counts[at] += 1
        smeared[at - 1 : at + 2] += [data.smoothing, 1 - 2 * data.smoothing, data.smoothing]
    log_chances, spreads = [], []
    for habit in data.habits.values():
        prior = _prior(habit.prior) * data.weight
        fits = sum(math.lgamma(a + n) - math.lgamma(a) for a, n in zip(prior, counts, strict=True) if n)
        log_chances.append(math.log(habit.share) + fits)
        spreads.append((prior + smeared) / (prior.sum() + len(record.lateness)))
    chances = np.exp(np.array(log_chances) - max(log_chances))
    told: NDArray[np.float64] = (chances / chances.sum()) @ np.array(spreads)
    total: NDArray[np.float64] = told / told.sum()
    return total


def _prior(shares: Mapping[int, float]) -> NDArray[np.float64]:
    """Shares over all days of the spread; no day within it is impossible."""
    told = np.full(LATEST - EARLIEST + 1, RAREST)
    for days, share in shares.items():
        told[days - EARLIEST] += share
    whole: NDArray[np.float64] = told / told.sum()
    return whole
