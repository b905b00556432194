"""The demo world's registers: panels, devices, suppliers, offers, and a year of orders as the simulated parcels travelled."""

import datetime as dt
from decimal import Decimal
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction

from lens.matching import PanelSpec, normal_number, take_over
from lens.simulate.orders import SimulatedShop, SimulatedSupplier, arrival
from server.parts.devices import save_device
from server.parts.models import Device, LabelCode, Offer, PanelModel, Supplier
from server.parts.suppliers import supplier_called
from server.purchasing.core_adapter import calendar_of_shop, local_now
from server.purchasing.models import ARRIVED, Order, OrderEvent, OrderLine
from server.shop.actions import the_shop

SPEC_FIELDS = (
    *("width", "height", "outline_w", "outline_h", "thickness_mm", "mounting", "connector_pins", "connector_family"),
    *("connector_side", "signal", "lanes", "touch", "finish", "luminance_cd_m2", "refresh_hz"),
)
OFFER_FIELDS = ("price", "shipping", "delivery_days", "warranty_months", "doa_days", "grade")
DEVICE_FIELDS = ("kind", "maker", "names", "generation", "diagonal_in", "panel_width", "panel_height", "build")
SEED, MARKED_SHARE, YEAR_DAYS = 20_26, 0.3, 364
USUAL_LATENESS = {"picking_spread": 0.45}


def _spec(name: str, row: list[Any], details: dict[str, Any]) -> PanelSpec:
    told = dict(zip(SPEC_FIELDS, row, strict=True))
    told["outline_mm"] = (told.pop("outline_w"), told.pop("outline_h"))
    return PanelSpec(part_number=name, connector_edge="bottom", **told, **details)


@transaction.atomic
def load_registers(world: dict[str, Any], buyer: User) -> None:
    """Everything but the orders; what is there already stays."""
    for name, (maker, *row) in world["panels"].items():
        spec = _spec(name, row, world["panel_details"].get(name, {}))
        told = take_over(PanelSpec(), {}, spec, "supplier", local_now().date())
        sources = {field: source.model_dump(mode="json") for field, source in told.sources.items()}
        values = {"maker": maker, "spec": spec.model_dump(mode="json"), "sources": sources}
        PanelModel.objects.get_or_create(name=name, defaults=values)
    for row in world["label_codes"]:
        LabelCode.objects.get_or_create(normal=normal_number(row["code"]), defaults=row)
    for name, told in world["suppliers"].items():
        supplier = supplier_called(name)
        if supplier.version == 1 and not supplier.terms:
            supplier.cut_off = dt.time.fromisoformat(told["cut_off"]) if "cut_off" in told else None
            supplier.free_freight_from = Decimal(told["free_freight_from"]) if "free_freight_from" in told else None
            supplier.return_cost, supplier.terms = Decimal(told["return_cost"]), told["terms"]
            supplier.save()
    for name, supplier_name, *row in world["offers"]:
        Offer.objects.get_or_create(
            panel=PanelModel.objects.get(name=name),
            supplier=supplier_called(supplier_name),
            defaults=dict(zip(OFFER_FIELDS, row, strict=True)),
        )
    if not Device.objects.exists():
        for row in world["devices"]:
            save_device(buyer, None, dict(zip(DEVICE_FIELDS, row, strict=True)))


@transaction.atomic
def load_orders(world: dict[str, Any], buyer: User) -> None:
    """A year of orders for the shelf, all arrived but the last few; once."""
    if Order.objects.exists():
        return
    rng, today = np.random.default_rng(SEED), local_now().date()
    shop, carrier = SimulatedShop(), calendar_of_shop(the_shop()).carrier
    offers = list(Offer.objects.select_related("supplier"))
    suppliers = {one.name: one for one in Supplier.objects.all()}
    for n in range(int(world["orders"])):
        offer = offers[int(rng.integers(len(offers)))]
        told = world["suppliers"][offer.supplier.name]
        simulated = SimulatedSupplier(
            offer.supplier.name,
            offer.delivery_days,
            told["picking_days"],
            USUAL_LATENESS["picking_spread"],
            told["hubs"],
            told["night_fails"],
            told["stockout"],
            told["dead"],
        )
        ordered = today - dt.timedelta(days=YEAR_DAYS - n * YEAR_DAYS // int(world["orders"]))
        while ordered.weekday() > 4:
            ordered -= dt.timedelta(days=1)
        came = arrival(simulated, ordered, shop, rng)
        due = dt.date.fromisoformat(str(np.busday_offset(ordered, offer.delivery_days, busdaycal=carrier)))
        here = came <= today
        order = Order.objects.create(
            supplier=suppliers[offer.supplier.name],
            state=ARRIVED if here else "ordered",
            ordered_on=ordered,
            due_on=due,
            arrived_on=came if here else None,
            late_days=int(np.busday_count(due, came, busdaycal=carrier)) if here else None,
        )
        bad = rng.random() < told["dead"]
        outcome = ("marked" if rng.random() < MARKED_SHARE else "dead") if bad else "good"
        OrderLine.objects.create(order=order, offer=offer, unit_price=offer.price, outcome=outcome if here else "")
        OrderEvent.objects.create(order=order, what="ordered", on=ordered, by=buyer)
        if here:
            OrderEvent.objects.create(order=order, what=ARRIVED, on=came, by=buyer)
