"""Match: are promises kept as often as they say, and how long comparing takes. Orders are stepped through by the simulator's own world."""

import datetime as dt
import time
from decimal import Decimal

import numpy as np

from benchmarks.labels import print_backs, print_labels
from lens.matching import Matcher, PanelSpec
from lens.purchasing import (
    Horizon,
    OfferTerms,
    Rates,
    SupplierRecord,
    Work,
    calendar_of,
    lateness_spread,
    rank_offers,
    ready_days,
)
from lens.simulate.orders import SimulatedShop, SimulatedSupplier, arrival, story

ORDERS, PANELS, OFFERS, PHOTOS = 2000, 5000, 50, 200
COMPARE_MS, RANK_MS, SLACK = 200, 50, 0.06
CHANCES = (0.8, 0.85, 0.9)
SUPPLIERS = (
    SimulatedSupplier("next day, on time", 1, 0.4, 0.3, 1, 0.06, 0.01, 0.03),
    SimulatedSupplier("three days, mostly", 3, 1.2, 0.5, 2, 0.10, 0.03, 0.05),
    SimulatedSupplier("five days, loose", 5, 2.2, 0.6, 3, 0.15, 0.05, 0.08),
    SimulatedSupplier("names two, takes four", 2, 1.8, 0.5, 2, 0.12, 0.05, 0.06),
)
HISTORIES = (0, 10, 60)
HOURS = dict.fromkeys(("mon", "tue", "wed", "thu", "fri"), "08:00-17:00")


def business_days(first: dt.date, last: dt.date, shop: SimulatedShop) -> int:
    """Days on which parcels travel after the first and up to the last, counted one by one."""
    count, day = 0, first
    while day < last:
        day += dt.timedelta(days=1)
        count += day.weekday() < 5 and day not in shop.closed_on
    return count


def kept(supplier: SimulatedSupplier, orders: int, history: int, seed: int) -> dict[float, tuple[float, float]]:
    """For each chance that is asked for: the mean chance that was told with the day, and the share of days that were kept."""
    rng = np.random.default_rng(seed)
    closed = frozenset(dt.date(2027, 1, 1) + dt.timedelta(days=int(n)) for n in rng.integers(0, 365, 10))
    shop = SimulatedShop(closed_on=closed)
    calendar = calendar_of(HOURS, tuple(closed))
    offer = OfferTerms(
        id=1, supplier=supplier.name, price=Decimal(50), currency="EUR", delivery_days=supplier.named_days
    )
    told: dict[float, list[tuple[float, bool]]] = {chance: [] for chance in CHANCES}
    for n in range(orders):
        if n % 50 == 0:  # another shop with its own experience
            record = _experience(supplier, history, shop, rng)
            spread = lateness_spread(record)
            dead = (20 * 0.06 + record.dead["unknown"]) / (20 + history)
        now = dt.datetime(2027, 2, 1) + dt.timedelta(days=int(rng.integers(0, 200)), hours=float(rng.uniform(8, 17)))
        queue, minutes, cure = float(rng.uniform(0, 900)), float(rng.uniform(30, 90)), float(rng.choice([0, 0.5, 24]))
        ready = ready_days(
            offer, spread, dead, Work(minutes=minutes, queue_minutes=queue, cure_hours=cure), Horizon(now, calendar)
        )
        became = story(supplier, now, shop, queue, minutes, cure, rng)
        for chance in CHANCES:
            day = ready.at(chance)
            told[chance].append((ready.by(day), became.ready <= day))
    return {c: (float(np.mean([p for p, _ in rows])), float(np.mean([k for _, k in rows]))) for c, rows in told.items()}


def _experience(
    supplier: SimulatedSupplier, orders: int, shop: SimulatedShop, rng: np.random.Generator
) -> SupplierRecord:
    late = []
    for _ in range(orders):
        ordered = dt.date(2026, 3, 2) + dt.timedelta(days=int(rng.integers(0, 300)))
        while ordered.weekday() > 4:
            ordered += dt.timedelta(days=1)
        late.append(business_days(ordered, arrival(supplier, ordered, shop, rng), shop) - supplier.named_days)
    dead = int(rng.binomial(orders, supplier.dead))
    return SupplierRecord(lateness=tuple(late), good={"unknown": orders - dead}, dead={"unknown": dead})


def _panels(count: int, rng: np.random.Generator) -> list[PanelSpec]:
    sizes = [(1366, 768), (1920, 1080), (1280, 800), (720, 1280), (2560, 1600)]
    told = []
    for n in range(count):
        width, height = sizes[int(rng.integers(len(sizes)))]
        told.append(
            PanelSpec(
                part_number=f"PN-{n}",
                width=width,
                height=height,
                outline_mm=(float(rng.uniform(200, 360)), float(rng.uniform(120, 220))),
                connector_pins=int(rng.choice([30, 40])),
                connector_side="right" if rng.random() < 0.5 else "left",
                signal="eDP" if rng.random() < 0.7 else "LVDS",
                lanes=2,
                mounting="ears",
            )
        )
    return told


def print_match(seed: int, photos: int = PHOTOS, orders: int = ORDERS) -> int:
    """Print the tables; 0 when every figure is reached."""
    print("Promises: share kept of those told at a chance (wanted: as many as told, 80 to 90 %)")
    print(f"{'supplier':24}{'own orders':>11}" + "".join(f"{f'told {c:.0%}':>18}" for c in CHANCES))
    worst = 0.0
    for supplier in SUPPLIERS:
        for history in HISTORIES:
            rows = kept(supplier, orders // len(SUPPLIERS), history, seed)
            print(
                f"{supplier.name:24}{history:>11}" + "".join(f"{f'{p:.3f} kept {k:.3f}':>18}" for p, k in rows.values())
            )
            if history:
                worst = max(worst, *(p - k for p, k in rows.values()))
    print(f"worst with own orders: {worst:+.3f} below what was told")
    rng = np.random.default_rng(seed)
    panels = _panels(PANELS, rng)
    started = time.perf_counter()
    matcher = Matcher(panels[0])
    for panel in panels:
        matcher.match(panel)
    compare_ms = 1000 * (time.perf_counter() - started)
    offers = [
        OfferTerms(
            id=n,
            supplier=f"S{n % 6}",
            price=Decimal(40 + n),
            freight=Decimal(9),
            currency="EUR",
            delivery_days=1 + n % 6,
        )
        for n in range(OFFERS)
    ]
    rates, calendar = Rates(currency="EUR", hourly_rate=Decimal(60)), calendar_of(HOURS)
    work, now = Work(minutes=60, queue_minutes=500, cure_hours=24), dt.datetime(2027, 3, 3, 10)
    rank_offers(offers[:1], {}, rates, work, now, calendar)
    started = time.perf_counter()
    rank_offers(offers, {}, rates, work, now, calendar)
    rank_ms = 1000 * (time.perf_counter() - started)
    print(
        f"one panel held to {PANELS}: {compare_ms:.0f} ms (200 wanted); {OFFERS} offers ranked with their days: {rank_ms:.0f} ms (50 wanted)"
    )
    missed = [print_labels(seed, photos), print_backs(seed, photos // 2)] if photos else []
    return int(worst > SLACK or compare_ms > COMPARE_MS or rank_ms > RANK_MS or max(missed, default=0.0) > 0)
