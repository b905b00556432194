"""What belongs to a job: its rows, table by table, each after those that it points to."""

from collections.abc import Iterator
from datetime import datetime
from typing import Any, NamedTuple

from django.contrib.auth.models import User
from django.core.serializers.json import DjangoJSONEncoder
from django.db.models import Field, ForeignKey, Model
from pydantic import TypeAdapter

from lens.canonical import digest
from lens.fitting import KeepOut, PlacedFastener, Procedure, StepNotes
from lens.inspecting import LookBack
from lens.purchasing import Quote as CoreQuote
from lens.records import StageConditions
from lens.records.upgrade import Document
from server.fitting.models import FastenerPlaces, FitNote, FollowedProcedure, GatePassed, KeepOutFound
from server.handchecks.models import HandCheck
from server.incoming.models import IncomingPanel
from server.inspections.models import Judgement, Photo, Run
from server.jobs.models import Entry, Evidence, Job
from server.parts.models import Offer, PanelModel
from server.purchasing.models import Promise, Quote
from server.touch.models import Recheck, TouchPart, TouchSession


class Table(NamedTuple):
    """``path`` leads from a row to its job."""

    name: str
    model: type[Model]
    path: str


TABLES = (
    Table("entries", Entry, "job"),
    Table("evidence", Evidence, "job"),
    Table("gates", GatePassed, "job"),
    Table("rechecks", Recheck, "job"),
    Table("runs", Run, "job"),
    Table("photos", Photo, "run__job"),
    Table("judgements", Judgement, "run__job"),
    Table("touches", TouchSession, "run__job"),
    Table("touch_parts", TouchPart, "session__run__job"),
    Table("followed", FollowedProcedure, "job"),
    Table("fit_notes", FitNote, "job"),
    Table("fastener_places", FastenerPlaces, "job"),
    Table("keep_outs", KeepOutFound, "job"),
    Table("handchecks", HandCheck, "job"),
    Table("incoming", IncomingPanel, "job"),
    Table("quotes", Quote, "job"),
    Table("promises", Promise, "job"),
)
# what the core must be able to read of a row
CONTENT: dict[type[Model], dict[str, tuple[TypeAdapter[Any], object]]] = {
    GatePassed: {"details": (TypeAdapter(StepNotes), {})},
    Run: {"conditions": (TypeAdapter(StageConditions), {}), "looked_back": (TypeAdapter(LookBack), {})},
    FastenerPlaces: {"places": (TypeAdapter(tuple[PlacedFastener, ...]), [])},
    KeepOutFound: {"place": (TypeAdapter(KeepOut), {})},
    HandCheck: {"cells": (TypeAdapter(tuple[tuple[int, int], ...]), [])},
    FollowedProcedure: {"content": (TypeAdapter(Procedure), {})},
    Quote: {"content": (TypeAdapter(CoreQuote), {})},
}
# state of work that is under way here, and what only this installation can know
LEFT_OUT = {"device", "line", "stale", "assigned_to", "asked", "settled", "tries", "tried_at", "origin"}
EMPTY: tuple[Any, ...] = (None, "", [], {})


class Encoder(DjangoJSONEncoder):
    """Times to the microsecond: the record's hashes cover them as they are."""

    def default(self, o: Any) -> Any:
        return o.isoformat() if isinstance(o, datetime) else super().default(o)


def rows_of(table: Table, job: Job) -> Iterator[Document]:
    """A job's rows of one table, as plain values."""
    for row in table.model._default_manager.filter(**{table.path: job}).order_by("pk"):
        yield as_document(row)


def as_document(row: Model) -> Document:
    """A row's own values; people by their name, other rows by the number that they have here."""
    told: Document = {"id": row.pk}
    for field in _fields(type(row)):
        value = field.value_from_object(row)
        told[field.name] = _user_name(value) if _is_person(field) else value
    return told


def _fields(model: type[Model]) -> Iterator["Field[Any, Any]"]:
    for field in model._meta.concrete_fields:
        if not field.primary_key and field.name not in LEFT_OUT:
            yield field


def _is_person(field: "Field[Any, Any]") -> bool:
    return isinstance(field, ForeignKey) and field.related_model is User


def people_in(model: type[Model], rows: list[Document]) -> set[str]:
    """The names that rows of a table mention."""
    fields = [field.name for field in _fields(model) if _is_person(field)]
    return {str(row[name]) for row in rows for name in fields if row.get(name) is not None}


def _user_name(pk: int | None) -> str | None:
    return User.objects.values_list("username", flat=True).get(pk=pk) if pk is not None else None


def make_row(
    model: type[Model], document: Document, numbers: dict[tuple[type[Model], int], int], people: dict[str, User]
) -> Model:
    """A new row of a document's values: ``numbers`` are those of rows that were made before, by model and number in the file.

    Times that are set by themselves keep the file's value. Raises KeyError, ValueError or ValidationError for what does not fit.
    """
    values: dict[str, Any] = {}
    for field in _fields(model):
        if field.name not in document:
            continue  # came with a later version: its default
        value = document[field.name]
        if _is_person(field):
            values[field.attname] = people[value].pk if value is not None else None
        elif isinstance(field, ForeignKey):
            values[field.attname] = None if value is None else numbers[(field.related_model, value)]
        else:
            values[field.attname] = field.to_python(value)
    # a file from elsewhere may hold anything: what no screen could show is refused here
    for name, (kind, empty) in CONTENT.get(model, {}).items():
        content = kind.validate_python(values.get(name) or empty)
        values[name] = kind.dump_python(content, mode="json", exclude_defaults=model in (GatePassed, Run))
    if model is FollowedProcedure:
        values["sha256"] = digest(values["content"])
    row = model(**values)
    row.clean_fields(
        exclude=[
            f.name for f in model._meta.concrete_fields if values.get(f.attname) in EMPTY or isinstance(f, ForeignKey)
        ]
    )
    fixed = {
        f.attname: values[f.attname]
        for f in _fields(model)
        if (getattr(f, "auto_now", False) or getattr(f, "auto_now_add", False)) and f.attname in values
    }
    row.save(force_insert=True)
    if fixed:
        model._default_manager.filter(pk=row.pk).update(**fixed)
    numbers[(model, int(document["id"]))] = int(row.pk)
    return row


def panel_document(panel: PanelModel | None) -> Document | None:
    return None if panel is None else as_document(panel)


def offer_document(offer: Offer | None) -> Document | None:
    if offer is None:
        return None
    return as_document(offer) | {"panel": panel_document(offer.panel), "supplier": offer.supplier.name}
