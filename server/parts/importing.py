"""Files taken into the registers: first what one would change, then the change, whole or not at all, and the way back."""

import datetime as dt
import json
from collections.abc import Callable
from itertools import islice
from typing import Any, NamedTuple

from django.db import connection, transaction
from django.db.models import F
from django.shortcuts import get_object_or_404
from django.utils import timezone

from lens.canonical import canonical, digest_of
from lens.errors import BadInput
from lens.matching import Source, ValueSource, normal_number, take_over
from lens.matching.panel_csv import MOST_FAULTS, NUMBER, Fault, PanelRow, PanelTable
from lens.purchasing.offer_csv import read_offers
from server.accounts.policy import require
from server.jobs.actions import Person
from server.parts.models import ImportRun, Offer, PanelModel, Supplier
from server.parts.register import content_of, plain_sources, today
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
    kept: int = 0


Progress = Callable[[int, int], None]  # rows done, of how many


def _silent(done: int, of: int) -> None:
    """Nobody watches."""


@transaction.atomic
def import_panels(
    user: Person, data: bytes, dry: bool, source: Source = "typed", progress: Progress = _silent
) -> Imported:
    """What a file adds and changes; with ``dry`` nothing is stored. What a file leaves empty stays as it is in the register, and so does what is
    known from a stronger source than the file's."""
    person = require(user, "job.change")
    table = PanelTable(data)
    known = dict(PanelModel.objects.select_for_update().values_list("normal", "id"))
    count = new = changed = same = kept = 0
    made: list[list[int]] = []
    day = today()
    told_of = ValueSource(source=source, on=day).model_dump(mode="json")
    while rows := list(islice(table, BATCH)):
        progress(count, table.lines)
        count += len(rows)
        added, mended, alike, stronger = _sorted(rows, known, source, day)
        new, changed, same, kept = new + len(added), changed + len(mended), same + alike, kept + stronger
        if not dry:
            fresh = [_new_panel(row, told_of) for row in added]
            _insert(fresh)
            PanelModel.objects.bulk_update(mended, STORED, batch_size=BATCH)
            _keep([*fresh, *mended], person)
            made += [[panel.pk, panel.version] for panel in (*fresh, *mended)]
    run = None if dry else ImportRun.objects.create(kind="panels", rows=made, made_by=person).pk
    return Imported(count, table.faults, table.delimiter, table.encoding, new, changed, same, run, kept)


STORED = ["spec", "sources", "found_by", "maker", "version", "retired"]


def _sorted(
    rows: list[PanelRow], known: dict[str, int], source: Source, day: dt.date
) -> tuple[list[PanelRow], list[PanelModel], int, int]:
    """Rows that are new, panels that change, how many stay as they are, and how many values stayed against the file's."""
    kept = 0
    stored = PanelModel.objects.in_bulk([known[name] for row in rows if (name := normal_number(row.name)) in known])
    added: list[PanelRow] = []
    mended: list[PanelModel] = []
    alike = 0
    for row in rows:
        panel = stored.get(known.get(normal_number(row.name), 0))
        if panel is None:
            added.append(row)
            continue
        told = take_over(panel.specification, panel.value_sources, row.spec, source, day)
        kept += len(told.kept)
        spec, maker = told.spec.model_dump(mode="json"), row.maker or panel.maker
        if (spec, maker, panel.retired) == (panel.specification.model_dump(mode="json"), panel.maker, False):
            alike += 1
            continue
        panel.spec, panel.maker, panel.version, panel.retired = spec, maker, panel.version + 1, False
        panel.sources = plain_sources(told.sources)
        mended.append(panel.set_keys())
    return added, mended, alike, kept


def _new_panel(row: PanelRow, told_of: dict[str, Any]) -> PanelModel:
    """A panel that the register has not; ``told_of`` is the source of each of its values."""
    plain = row.spec.model_dump(mode="json")
    sources = {name: told_of for name, value in plain.items() if value not in (None, []) and name != NUMBER}
    return PanelModel(name=row.name, maker=row.maker, spec=plain, sources=sources).set_keys()


@transaction.atomic
def import_offers(user: Person, data: bytes, dry: bool, progress: Progress = _silent) -> Imported:
    """Offers of panels that the register has; a supplier's newer offer of a panel in the same grade takes the place of the older one."""
    person = require(user, "job.change")
    table, currency = read_offers(data), the_shop().currency
    known = dict(PanelModel.objects.filter(retired=False).values_list("normal", "id"))
    standing = {
        (offer.panel_id, offer.supplier.name.lower(), offer.grade): offer
        for offer in Offer.objects.filter(withdrawn=False, on_shelf=None).select_related("supplier")
    }
    sellers = {supplier.name.lower(): supplier for supplier in Supplier.objects.all()}
    faults = list(table.faults)
    made: list[tuple[Offer, Offer | None]] = []
    same = 0
    for n, row in enumerate(table.rows):
        if n % BATCH == 0:
            progress(n, len(table.rows))
        panel = known.get(normal_number(row.part_number))
        if panel is None:
            faults.append(Fault(row.line, f"No panel '{row.part_number}' is in the register. Add it first."))
            continue
        values: dict[str, Any] = {RENAMED.get(name, name): value for name, value in row.values.items()}
        seller = str(values.pop("supplier"))
        values = {"currency": currency, "grade": "", **values}
        before = standing.get((panel, seller.lower(), values["grade"]))
        if before is not None and all(getattr(before, name) == value for name, value in values.items()):
            same += 1
            continue
        if not dry and seller.lower() not in sellers:
            sellers[seller.lower()] = supplier_called(seller)
        kept = {name: getattr(before, name) for name in KEPT_TERMS} if before else dict.fromkeys(KEPT_TERMS, 0)
        made.append((Offer(panel_id=panel, supplier=sellers.get(seller.lower()), **{**kept, **values}), before))
    run = None
    if not dry:
        Offer.objects.bulk_create([offer for offer, _ in made], batch_size=BATCH)
        Offer.objects.filter(pk__in=[before.pk for _, before in made if before]).update(withdrawn=True)
        rows = [[offer.pk, before.pk if before else None] for offer, before in made]
        run = ImportRun.objects.create(kind="offers", rows=rows, made_by=person).pk
    faults.sort(key=lambda fault: fault.line)
    changed = sum(before is not None for _, before in made)
    return Imported(
        len(table.rows), faults[:MOST_FAULTS], table.delimiter, table.encoding, len(made) - changed, changed, same, run
    )


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
    """What was new is retired, what was changed gets its content of before; in batches, and only where nobody changed it since."""
    made = [(int(pk), int(version)) for pk, version in run.rows]
    count = 0
    fresh = [pk for pk, version in made if version == 1]
    for start in range(0, len(fresh), BATCH):
        found = PanelModel.objects.filter(pk__in=fresh[start : start + BATCH], version=1)
        count += found.update(retired=True, version=F("version") + 1)
    changed = {pk: version for pk, version in made if version > 1}
    for start in range(0, len(changed), BATCH):
        some = list(changed)[start : start + BATCH]
        kept = KeptVersion.objects.filter(what__in=[f"panel:{pk}" for pk in some])
        before = {(one.what, one.version): one.content for one in kept}
        back: list[PanelModel] = []
        for panel in PanelModel.objects.select_for_update().filter(pk__in=some):
            told = before.get((f"panel:{panel.pk}", changed[panel.pk] - 1))
            if panel.version != changed[panel.pk]:
                continue
            if told is None:  # it was retired before the file brought it back
                panel.retired = True
            else:
                panel.spec, panel.maker, panel.sources = told["spec"], told["maker"], told.get("sources", {})
            panel.version += 1
            back.append(panel.set_keys())
        PanelModel.objects.bulk_update(back, STORED, batch_size=BATCH)
        _keep(back, person)
        count += len(back)
    return count


def _offers_back(run: ImportRun) -> int:
    count = 0
    for made, before in run.rows:
        taken = Offer.objects.filter(pk=made, withdrawn=False).update(withdrawn=True)
        if taken and before is not None:
            Offer.objects.filter(pk=before).update(withdrawn=False)
        count += taken
    return count


def _insert(panels: list[PanelModel]) -> None:
    """New panels by COPY, their numbers drawn from the table's own sequence."""
    table = PanelModel._meta.db_table
    with connection.cursor() as cursor:
        cursor.execute(
            f"select nextval(pg_get_serial_sequence('{table}', 'id')) from generate_series(1, %s)", [len(panels)]
        )
        for panel, (pk,) in zip(panels, cursor.fetchall(), strict=True):
            panel.pk = pk
        command = f"copy {table} (id, name, maker, spec, sources, normal, found_by, version, retired) from stdin"
        with cursor.copy(command) as rows:
            for panel in panels:
                spec, sources = (json.dumps(told, ensure_ascii=False) for told in (panel.spec, panel.sources))
                rows.write_row(
                    (
                        panel.pk,
                        panel.name,
                        panel.maker,
                        spec,
                        sources,
                        panel.normal,
                        panel.found_by,
                        panel.version,
                        False,
                    )
                )


def _keep(panels: list[PanelModel], person: Any) -> None:
    """What each panel says from now on, beside what it said before; by COPY, which takes a third of the time of inserts."""
    table, now = KeptVersion._meta.db_table, timezone.now()
    with connection.cursor() as cursor:
        command = f"copy {table} (what, version, content, sha256, made_by_id, made_at) from stdin"
        with cursor.copy(command) as rows:
            for panel in panels:
                content = canonical(content_of(panel))
                hashed = digest_of(content)
                rows.write_row((f"panel:{panel.pk}", panel.version, content.decode(), hashed, person.pk, now))
