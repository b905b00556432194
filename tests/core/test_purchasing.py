"""Delivery, dead-on-arrival rates, landed cost, promised days and quotes."""

import datetime as dt
from decimal import Decimal
from unittest import TestCase

import numpy as np
from scipy.stats import dirichlet_multinomial

from benchmarks.match import HOURS, SUPPLIERS, business_days, kept
from lens.errors import BadInput
from lens.purchasing import (
    Horizon,
    OfferTerms,
    QuoteLine,
    Rates,
    SupplierRecord,
    Work,
    calendar_of,
    dead_rate,
    landed_cost,
    lateness_spread,
    quote_of,
    quote_text,
    rank_offers,
    ready_days,
)
from lens.purchasing.terms import EARLIEST, LATEST, RAREST, purchasing_data
from lens.simulate.orders import SimulatedShop

MONDAY = dt.datetime(2026, 11, 30, 9)
CALENDAR = calendar_of(HOURS)
EXACT = np.eye(29)[3]  # always on the named day
RATES = Rates(currency="EUR", hourly_rate=Decimal(60), delay_cost_a_day=Decimal(4), warranty_months=12)


def offer(**changes: object) -> OfferTerms:
    told = {
        "id": 1,
        "supplier": "A",
        "price": Decimal(50),
        "freight": Decimal(9),
        "currency": "EUR",
        "delivery_days": 3,
    }
    return OfferTerms.model_validate({**told, **changes})


class Calendars(TestCase):
    def test_business_days_agree_with_counting_them_one_by_one(self) -> None:
        """Against numpy.busday_count and a plain loop over days."""
        closed = (dt.date(2026, 12, 25), dt.date(2026, 12, 28))
        shop = SimulatedShop(closed_on=frozenset(closed))
        calendar = calendar_of(HOURS, closed)
        first, last = dt.date(2026, 12, 18), dt.date(2027, 1, 8)
        day = dt.timedelta(days=1)
        counted = np.busday_count(first + day, last + day, busdaycal=calendar.carrier)
        self.assertEqual(counted, business_days(first, last, shop))
        self.assertEqual(counted, 13)  # 15 weekdays less the two

    def test_a_shop_that_never_opens_is_told_so(self) -> None:
        days = tuple(dt.date(2026, 11, 30) + dt.timedelta(days=n) for n in range(400))
        with self.assertRaises(BadInput):
            calendar_of(HOURS, days, dt.date(2026, 11, 30))

    def test_the_clock_goes_over_the_lunch_break(self) -> None:
        calendar = calendar_of({"mon": "08:00-12:00, 13:00-17:00"})
        clock = calendar.clock_after(np.array([0, 0, 0]), np.array([60.0, 270.0, 480.0]))
        np.testing.assert_allclose(clock, [540, 810, 1020])
        self.assertEqual(calendar.worked_until(dt.datetime(2026, 11, 30, 12, 30)), 240)


class Learning(TestCase):
    def test_the_dead_rate_is_the_beta_posterior(self) -> None:
        """Worked by hand: prior Beta(0.4, 19.6); 2 dead of 40 give Beta(2.4, 57.6), mean 0.04."""
        rate = dead_rate("new_original", SupplierRecord(good={"new_original": 38}, dead={"new_original": 2}))
        self.assertAlmostEqual(rate.mean, 0.04)
        self.assertTrue(rate.low < 0.04 < rate.high)
        self.assertLess(rate.high, dead_rate("new_original", SupplierRecord(dead={"new_original": 2})).high)

    def test_own_orders_outweigh_the_prior(self) -> None:
        before, after = lateness_spread(SupplierRecord()), lateness_spread(SupplierRecord(lateness=(2,) * 40))
        self.assertAlmostEqual(before.sum(), 1)
        self.assertEqual(int(before.argmax()), 3)
        self.assertEqual(int(after.argmax()), 5)

    def test_a_supplier_s_habit_is_told_by_its_orders(self) -> None:
        """Against scipy's dirichlet_multinomial: the mean of the habits' posteriors, each weighted by how well it foretold the orders."""
        late = (2, 3, 2, 1, 4)
        data, days = purchasing_data().lateness, np.arange(EARLIEST, LATEST + 1)
        counts = np.bincount(np.array(late) - EARLIEST, minlength=len(days))
        smeared = 0.6 * counts + 0.2 * np.roll(counts, 1) + 0.2 * np.roll(counts, -1)
        weights, means = [], []
        for habit in data.habits.values():
            prior = np.array([habit.prior.get(int(day), 0.0) + RAREST for day in days])
            alpha = data.weight * prior / prior.sum()
            weights.append(habit.share * dirichlet_multinomial.pmf(counts, alpha, len(late)))
            means.append((alpha + smeared) / (alpha.sum() + len(late)))
        wanted = np.average(means, axis=0, weights=weights)
        np.testing.assert_allclose(lateness_spread(SupplierRecord(lateness=late)), wanted / wanted.sum(), rtol=1e-9)
        self.assertGreater(weights[2], 5 * weights[0])  # it names too few days

    def test_promises_are_kept_as_often_as_told(self) -> None:
        """Held to parcels that are stepped through day by day, which share no code with the promise."""
        for chance, (said, became) in kept(SUPPLIERS[2], 400, 40, 4000).items():
            self.assertGreater(became, said - 0.08, chance)


class Cost(TestCase):
    def test_the_parts_of_the_sum(self) -> None:
        parts = {
            p.id: p.amount
            for p in landed_cost(offer(doa_days=14, return_cost=Decimal(6), duty_percent=10), RATES, 0.1, 4)
        }
        self.assertEqual(parts["price"], Decimal("50.00"))
        self.assertEqual(parts["duty"], Decimal("5.00"))
        self.assertEqual(parts["dead"], Decimal("2.10"))  # 0.1 x (6 + 15 min at 60 an hour)
        self.assertEqual(parts["delay"], Decimal("1.60"))  # 0.1 x 4 days x 4
        self.assertEqual(parts["warranty"], Decimal("1.20"))  # 50 x 0.002 x 12 months that the supplier does not cover

    def test_freight_is_shared_and_may_be_free(self) -> None:
        free = offer(free_freight_from=Decimal(100))
        shared = {p.id: p.amount for p in landed_cost(free, RATES, 0, 3, (Decimal(20),))}
        self.assertEqual(shared["freight"], Decimal("4.50"))
        self.assertNotIn("freight", {p.id for p in landed_cost(free, RATES, 0, 3, (Decimal(60),))})

    def test_what_cannot_be_compared_says_why(self) -> None:
        ranked = rank_offers(
            [offer(currency="USD"), offer(id=2, price=Decimal(0)), offer(id=3)],
            {},
            RATES,
            Work(minutes=60),
            MONDAY,
            CALENDAR,
        )
        self.assertEqual([one.offer_id for one in ranked], [3, 1, 2])
        self.assertIn("USD", ranked[1].problem)
        self.assertIn("no price", ranked[2].problem)

    def test_the_trade_off(self) -> None:
        ranked = rank_offers(
            [offer(), offer(id=2, price=Decimal(70), delivery_days=1), offer(id=3, price=Decimal(90), delivery_days=5)],
            {}, RATES, Work(minutes=60), MONDAY, CALENDAR, MONDAY.date() + dt.timedelta(days=3),
        )  # fmt: skip
        self.assertEqual([one.best for one in ranked], [True, True, False])
        self.assertGreater(ranked[1].chance_in_time or 0, ranked[0].chance_in_time or 0)


class Promise(TestCase):
    def days(self, work: Work, told: OfferTerms | None = None, now: dt.datetime = MONDAY, dead: float = 0) -> list[str]:
        ready = ready_days(told or offer(), EXACT, dead, work, Horizon(now, CALENDAR))
        return [f"{day:%a %d}" for day, _ in ready.chances]

    def test_worked_examples(self) -> None:
        """Three business days from Monday is Thursday noon; by hand."""
        self.assertEqual(self.days(Work(minutes=60)), ["Thu 03"])
        self.assertEqual(self.days(Work(minutes=60, cure_hours=24)), ["Fri 04"])
        self.assertEqual(self.days(Work(minutes=300)), ["Fri 04"])  # half of Thursday is 270 minutes
        friday = dt.datetime(2026, 12, 4, 18)
        self.assertEqual(self.days(Work(minutes=60), offer(cut_off=dt.time(16)), friday), ["Thu 10"])
        self.assertEqual(self.days(Work(minutes=60), offer(on_shelf=True)), ["Mon 30"])

    def test_a_dead_one_is_a_second_delivery(self) -> None:
        ready = ready_days(offer(), EXACT, 0.25, Work(minutes=60), Horizon(MONDAY, CALENDAR))
        self.assertEqual([(f"{day:%d}", round(p, 2)) for day, p in ready.chances], [("03", 0.75), ("08", 0.25)])
        self.assertEqual(ready.at(0.8), dt.date(2026, 12, 8))
        self.assertAlmostEqual(ready.by(dt.date(2026, 12, 7)), 0.75)

    def test_the_queue_comes_first(self) -> None:
        ready = ready_days(
            offer(on_shelf=True), EXACT, 0, Work(minutes=60, queue_minutes=1000), Horizon(MONDAY, CALENDAR)
        )
        self.assertEqual([f"{day:%a}" for day, _ in ready.chances], ["Tue", "Wed"])


class Quotes(TestCase):
    LINES = (
        QuoteLine(kind="part", title="Display", amount=Decimal("59.50")),
        QuoteLine(kind="work", title="Work", amount=Decimal("45.33"), minutes=45),
    )

    def test_the_sum_is_exact(self) -> None:
        quote = quote_of(self.LINES, "EUR", Decimal("7.7"), MONDAY.date(), 14, Decimal("0.05"))
        self.assertEqual(quote.net, Decimal("104.83"))
        self.assertEqual(quote.tax, Decimal("8.07"))
        self.assertEqual(quote.total, Decimal("112.90"))
        self.assertEqual(quote.net + quote.tax + quote.rounding, quote.total)
        self.assertIn("112.90 EUR", quote_text(quote, "Shop", "Laptop", "No picture"))

    def test_a_repair_dearer_than_the_device_is_questioned(self) -> None:
        self.assertIn("Ask", quote_of(self.LINES, "EUR", Decimal(0), MONDAY.date(), 14, device_worth=Decimal(90)).hint)
        self.assertEqual(quote_of(self.LINES, "EUR", Decimal(0), MONDAY.date(), 14, device_worth=Decimal(900)).hint, "")

    def test_an_empty_quote_is_none(self) -> None:
        with self.assertRaises(BadInput):
            quote_of((), "EUR", Decimal(0), MONDAY.date(), 14)
