"""Suppliers and their terms."""

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from server.accounts.policy import require
from server.common.edits import row_to_change
from server.jobs.actions import Person
from server.parts.models import Supplier
from server.profiles.actions import keep_version

FIELDS = ("name", "cut_off", "free_freight_from", "return_cost", "terms")


@transaction.atomic
def save_supplier(user: Person, supplier_id: int | None, values: dict[str, Any], version: int = 0) -> Supplier:
    """Add a supplier, or change one that was read at ``version``. Raises Conflict when it changed since, BadInput for a name that is taken."""
    person = require(user, "job.change")
    name = " ".join(str(values["name"]).split())
    if not name:
        raise BadInput("Name the supplier.", "supplier_missing")
    same = Supplier.objects.filter(name__iexact=name).exclude(pk=supplier_id or 0).first()
    if same is not None:
        raise BadInput(f"'{same.name}' is a supplier already. Change it there.", "supplier_known")
    supplier = row_to_change(Supplier, supplier_id, version, "this supplier")
    for field in FIELDS:
        setattr(supplier, field, name if field == "name" else values[field])
    supplier.version += 1
    supplier.save()
    keep_version(f"supplier:{supplier.pk}", supplier.version, {f: _plain(getattr(supplier, f)) for f in FIELDS}, person)
    return supplier


@transaction.atomic
def retire_supplier(user: Person, supplier_id: int) -> None:
    """Nothing is bought there any more: what it offers holds no more; orders keep it. The name may be used again, which brings it back."""
    require(user, "job.change")
    supplier = get_object_or_404(Supplier.objects.select_for_update(), pk=supplier_id)
    supplier.retired = True
    supplier.save(update_fields=["retired"])
    supplier.offers.update(withdrawn=True)


def supplier_called(name: str) -> Supplier:
    """The supplier of that name, made where there is none yet. Raises BadInput for an empty one."""
    plain = " ".join(name.split())
    if not plain:
        raise BadInput("Name the supplier.", "supplier_missing")
    known = Supplier.objects.filter(name__iexact=plain).first()
    if known is not None and known.retired:
        known.retired = False
        known.save(update_fields=["retired"])
    return known or Supplier.objects.create(name=plain)


def _plain(value: Any) -> Any:
    return value if value is None or isinstance(value, str) else str(value)
