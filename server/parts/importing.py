"""Files taken into the registers: first what one would change, then the change, whole or not at all, and the way back."""

from typing import Any, NamedTuple

from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.canonical import digest
from lens.errors import BadInput
from lens.matching import normal_number
from lens.matching.panel_csv import Fault, PanelRow, read_panels
from lens.purchasing.offer_csv import read_offers
from server.accounts.policy import require
from server.jobs.actions import Person
from server.parts.models import ImportRun, Offer, PanelModel
from server.parts.suppliers import supplier_called
from server.profiles.models import KeptVersion
from server.shop.actions import the_shop

BATCH = 2000
RENAMED = {"freight": "shipping"}  # what a column is called in the register


class Imported(NamedTuple):
    """``run``: the number by which it is undone; None for a dry one."""

    rows: int
    faults: list[Fault]
    delimiter: str
    encoding: str
    new: int
    changed: int
    same: int
    run: int | None


@transaction.atomic
def import_panels(user: Person, data: bytes, dry: bool) -> Imported:
    """What a file adds and changes; with ``dry`` nothing is stored. What a file leaves empty stays as it is in the register."""
    person = require(user, "job.change")
    table = read_panels(data)
    known = {panel.normal: panel for panel in PanelModel.objects.select_for_update()}
    new: list[PanelModel] = []
    changed: list[PanelModel] = []
    same = 0
    for row in table.rows:
        panel = known.get(normal_number(row.name))
        if panel is None:
            new.append(PanelModel(name=row.name, maker=row.maker, spec=_plain(row), normal=normal_number(row.name)))
            continue
        told = {name: value for name, value in _plain(row).items() if value is not None and name != "part_number"}
        spec, maker = {**panel.spec, **told}, row.maker or panel.maker
        if (spec, maker, panel.retired) == (panel.spec, panel.maker, False):
            same += 1
            continue
        panel.spec, panel.maker, panel.version, panel.retired = spec, maker, panel.version + 1, False
        changed.append(panel)
    run = None
    if not dry:
        PanelModel.objects.bulk_create(new, batch_size=BATCH)
        PanelModel.objects.bulk_update(changed, ["spec", "maker", "version", "retired"], batch_size=BATCH)
        KeptVersion.objects.bulk_create([_kept(panel, person) for panel in (*new, *changed)], batch_size=BATCH)
        rows = [[panel.pk, panel.version] for panel in (*new, *changed)]
        run = ImportRun.objects.create(kind="panels", rows=rows, made_by=person).pk
    return Imported(len(table.rows), table.faults, table.delimiter, table.encoding, len(new), len(changed), same, run)


@transaction.atomic
def import_offers(user: Person, data: bytes, dry: bool) -> Imported:
    """Offers of panels that the register has; a supplier's newer offer of a panel in the same grade takes the place of the older one."""
    person = require(user, "job.change")
    table, currency = read_offers(data), the_shop().currency
    known = dict(PanelModel.objects.filter(retired=False).values_list("normal", "id"))
    standing = {
        (offer.panel_id, offer.supplier.name.lower(), offer.grade): offer
        for offer in Offer.objects.filter(withdrawn=False, on_shelf=None).select_related("supplier")
    }
    faults, rows = list(table.faults), []
    new = changed = same = 0
    for row in table.rows:
        panel = known.get(normal_number(row.part_number))
        if panel is None:
            faults.append(Fault(row.line, f"No panel '{row.part_number}' is in the register. Add it first."))
            continue
        values: dict[str, Any] = {RENAMED.get(name, name): value for name, value in row.values.items()}
        supplier = str(values.pop("supplier"))
        values = {"currency": currency, "grade": "", **values}
        before = standing.get((panel, supplier.lower(), values["grade"]))
        if before is not None and all(getattr(before, name) == value for name, value in values.items()):
            same += 1
            continue
        new, changed = new + (before is None), changed + (before is not None)
        if not dry:
            kept = {name: getattr(before, name) for name in KEPT_TERMS} if before else dict.fromkeys(KEPT_TERMS, 0)
            offer = Offer.objects.create(panel_id=panel, supplier=supplier_called(supplier), **{**kept, **values})
            if before is not None:
                Offer.objects.filter(pk=before.pk).update(withdrawn=True)
            rows.append([offer.pk, before.pk if before else None])
    run = None if dry else ImportRun.objects.create(kind="offers", rows=rows, made_by=person).pk
    faults.sort(key=lambda fault: fault.line)
    return Imported(len(table.rows), faults, table.delimiter, table.encoding, new, changed, same, run)


KEPT_TERMS = ("shipping", "delivery_days", "warranty_months", "doa_days", "duty_percent")


@transaction.atomic
def undo_import(user: Person, run_id: int) -> tuple[int, int]:
    """Take a file back: what it added goes, what it changed is as before. How many rows were taken back, and how many stay because somebody changed
    them since. Raises BadInput for one that was taken back already."""
    person = require(user, "job.change")
    run = get_object_or_404(ImportRun.objects.select_for_update(), pk=run_id)
    if run.undone:
        raise BadInput("This import was taken back already.", "import_undone")
    back = _panels_back(run, person) if run.kind == "panels" else _offers_back(run)
    run.undone = True
    run.save(update_fields=["undone"])
    return back, len(run.rows) - back


def _panels_back(run: ImportRun, person: Any) -> int:
    made = {int(pk): int(version) for pk, version in run.rows}
    panels = PanelModel.objects.select_for_update().in_bulk(list(made))
    names = {f"panel:{pk}": pk for pk, version in made.items() if version > 1}
    before = {
        (names[kept.what], kept.version): kept.content
        for kept in KeptVersion.objects.filter(what__in=list(names)).iterator(BATCH)
    }
    back: list[PanelModel] = []
    for pk, version in made.items():
        panel = panels.get(pk)
        if panel is None or panel.version != version:
            continue
        told = before.get((pk, version - 1))
        if told is None:
            panel.retired = True
        else:
            panel.spec, panel.maker = told["spec"], told["maker"]
        panel.version += 1
        back.append(panel)
    PanelModel.objects.bulk_update(back, ["spec", "maker", "version", "retired"], batch_size=BATCH)
    KeptVersion.objects.bulk_create([_kept(panel, person) for panel in back], batch_size=BATCH)
    return len(back)


def _offers_back(run: ImportRun) -> int:
    count = 0
    for made, before in run.rows:
        taken = Offer.objects.filter(pk=made, withdrawn=False).update(withdrawn=True)
        if taken and before is not None:
            Offer.objects.filter(pk=before).update(withdrawn=False)
        count += taken
    return count


def _plain(row: PanelRow) -> dict[str, Any]:
    return row.spec.model_dump(mode="json")


def _kept(panel: PanelModel, person: Any) -> KeptVersion:
    content = {"name": panel.name, "maker": panel.maker, "spec": panel.spec}
    return KeptVersion(
        what=f"panel:{panel.pk}", version=panel.version, content=content, sha256=digest(content), made_by=person
    )
