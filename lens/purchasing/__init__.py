"""Whom to buy from, when the device is ready, and what it costs: delivery spreads, dead-on-arrival rates, landed cost, promise and quote."""

from lens.purchasing.calendar import Calendar, calendar_of
from lens.purchasing.cost import CostPart, Rates, landed_cost, money
from lens.purchasing.promise import Horizon, Ready, Work, order_day, ready_days
from lens.purchasing.quote import Quote, QuoteLine, quote_of, quote_text
from lens.purchasing.ranking import RankedOffer, rank_offers
from lens.purchasing.terms import GRADES, Grade, OfferTerms, SupplierRecord, dead_rate, lateness_spread, purchasing_data

__all__ = [
    "GRADES",
    "Calendar",
    "CostPart",
    "Grade",
    "Horizon",
    "OfferTerms",
    "Quote",
    "QuoteLine",
    "RankedOffer",
    "Rates",
    "Ready",
    "SupplierRecord",
    "Work",
    "calendar_of",
    "dead_rate",
    "landed_cost",
    "lateness_spread",
    "money",
    "order_day",
    "quote_of",
    "quote_text",
    "rank_offers",
    "ready_days",
    "purchasing_data",
]
