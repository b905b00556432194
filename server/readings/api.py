"""Photos and tables sent to be read, how far that is, and what they say."""

from typing import Literal

from django.http import HttpRequest
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile

from lens.errors import BadInput
from lens.label import Back, LabelReading
from server.parts.api import PanelOut
from server.parts.identity import likely_panels
from server.parts.models import PanelModel
from server.readings import actions
from server.readings.models import BACK, LABEL, TABLES, Reading

router = Router(tags=["readings"])


class LabelOut(Schema):
    """``known``: the panel of the register that each candidate is, by the number that was read. ``beside``: what else speaks for it, in a job."""

    reading: LabelReading
    known: dict[str, PanelOut]
    beside: dict[str, list[str]]


class FaultOut(Schema):
    line: int
    text: str


class ImportOut(Schema):
    """``faults`` are the lines that were left out, ``kept`` the values that stayed against a weaker source, ``run`` the number by which it is taken
    back."""

    rows: int
    new: int
    changed: int
    same: int
    kept: int
    faults: list[FaultOut]
    delimiter: str
    encoding: str
    applied: bool
    run: int | None


class ReadingOut(Schema):
    """A file and what it says, once it is read. ``rows`` of ``of`` are done of a table."""

    id: int
    kind: str
    state: Literal["waiting", "read", "failed"]
    rows: int
    of: int
    problem: str
    label: LabelOut | None = None
    back: Back | None = None
    table: ImportOut | None = None


def _out(reading: Reading) -> ReadingOut:
    state: Literal["waiting", "read", "failed"] = "waiting"
    if reading.asked == reading.settled:
        state = "failed" if reading.problem else "read"
    told = ReadingOut(
        id=reading.pk, kind=reading.kind, state=state, rows=reading.rows, of=reading.of, problem=reading.problem
    )
    if state != "read" or reading.result is None:
        return told
    if reading.kind == LABEL:
        told.label = _label_out(reading)
    elif reading.kind == BACK:
        told.back = Back.model_validate(reading.result)
    elif reading.kind in TABLES:
        told.table = ImportOut(**reading.result, applied=reading.result["run"] is not None)
    return told


def _label_out(reading: Reading) -> LabelOut:
    """The candidates; those that the device's history or its EDID speaks for as well come first of equals."""
    assert reading.result is not None
    told = LabelReading.model_validate(reading.result["reading"])
    names: dict[str, str] = {number: name for number, name in reading.result["names"].items() if name}
    panels = {panel.name: panel for panel in PanelModel.objects.filter(name__in=names.values(), retired=False)}
    beside: dict[str, list[str]] = {}
    if reading.job is not None and panels:
        chances = {names[c.part_number]: c.p for c in told.candidates if names.get(c.part_number) in panels}
        ranked = likely_panels(reading.job, chances)
        place = {panel.name: n for n, (panel, _, _) in enumerate(ranked)}
        beside = {panel.name: [r for r in one.reasons if r != "Read from the label."] for panel, one, _ in ranked}
        ordered = sorted(told.candidates, key=lambda c: place.get(names.get(c.part_number, ""), len(place)))
        told = told.model_copy(update={"candidates": tuple(ordered)})
    known = {number: PanelOut.from_orm(panels[name]) for number, name in names.items() if name in panels}
    return LabelOut(
        reading=told, known=known, beside={n: beside[name] for n, name in names.items() if beside.get(name)}
    )


@router.post("/readings", response={202: ReadingOut}, operation_id="sendReading")
def send_reading(
    request: HttpRequest,
    file: File[UploadedFile],
    kind: Form[str],
    job_id: Form[int | None] = None,
    source: Form[str] = "typed",
    active_w: Form[float | None] = None,
    active_h: Form[float | None] = None,
) -> Status[ReadingOut]:
    """Have a photo of a label or a back, or a table of panels or offers, read."""
    if (file.size or 0) > actions.MOST_CSV_BYTES:
        raise BadInput("The file is too large. Send it in parts of at most 100,000 rows.", "csv")
    active = (active_w, active_h) if active_w and active_h and active_w > 0 and active_h > 0 else None
    return Status(202, _out(actions.send_file(request.user, kind, bytes(file.read()), job_id, source, active)))


@router.get("/readings/{reading_id}", response=ReadingOut, operation_id="getReading")
def get_reading(request: HttpRequest, reading_id: int) -> ReadingOut:
    return _out(actions.mine(request.user, reading_id))


@router.post("/readings/{reading_id}/take-in", response={202: ReadingOut}, operation_id="takeInReading")
def take_in_reading(request: HttpRequest, reading_id: int) -> Status[ReadingOut]:
    """Take in the table that was looked at."""
    return Status(202, _out(actions.take_in(request.user, reading_id)))


@router.delete("/readings/{reading_id}", response={204: None}, operation_id="forgetReading")
def forget_reading(request: HttpRequest, reading_id: int) -> Status[None]:
    """The file is not wanted any more."""
    actions.forget(request.user, reading_id)
    return Status(204, None)
