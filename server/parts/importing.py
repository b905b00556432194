"""A file of panels taken into the register: first what it would change, then the change, whole or not at all."""

from typing import Any, NamedTuple

from django.db import transaction

from lens.canonical import digest
from lens.matching import normal_number
from lens.matching.panel_csv import PanelRow, PanelTable, read_panels
from server.accounts.policy import require
from server.jobs.actions import Person
from server.parts.models import PanelModel
from server.profiles.models import KeptVersion

BATCH = 2000


class Imported(NamedTuple):
    table: PanelTable
    new: int
    changed: int
    same: int
    applied: bool


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
        if (spec, maker) == (panel.spec, panel.maker):
            same += 1
            continue
        panel.spec, panel.maker, panel.version = spec, maker, panel.version + 1
        changed.append(panel)
    if not dry:
        PanelModel.objects.bulk_create(new, batch_size=BATCH)
        PanelModel.objects.bulk_update(changed, ["spec", "maker", "version"], batch_size=BATCH)
        KeptVersion.objects.bulk_create([_kept(panel, person) for panel in (*new, *changed)], batch_size=BATCH)
    return Imported(table, len(new), len(changed), same, not dry)


def _plain(row: PanelRow) -> dict[str, Any]:
    return row.spec.model_dump(mode="json")


def _kept(panel: PanelModel, person: Any) -> KeptVersion:
    content = {"name": panel.name, "maker": panel.maker, "spec": panel.spec}
    return KeptVersion(
        what=f"panel:{panel.pk}", version=panel.version, content=content, sha256=digest(content), made_by=person
    )
