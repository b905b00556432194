"""Writing and reading job files: a ZIP with ``job.json`` (the rows, with a format number) and the photos by their hash."""

import hashlib
import json
import os
import zipfile
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.db import DatabaseError, transaction
from django.utils import timezone

from lens import core_version
from lens.errors import BadInput
from lens.matching import normal_number
from lens.photo_file import MAX_BYTES, strip_metadata
from lens.records.upgrade import Document, stamped, upgraded
from lens.reporting import check_chain
from server.inspections import storage
from server.inspections.models import Photo, Run
from server.inspections.tasks import enqueue
from server.jobfiles import tables
from server.jobs.models import Entry, Job
from server.jobs.record import entry_content, write
from server.parts.models import Offer, PanelModel
from server.parts.suppliers import supplier_called
from server.upkeep.models import Installation

DOCUMENT = "job.json"
MOST_DOCUMENT_BYTES = 400 * 1024 * 1024
MOST_PHOTOS = 600


def installation() -> str:
    """This installation's name."""
    row, _ = Installation.objects.get_or_create(pk=1)
    return str(row.name)


@transaction.atomic
def export_job(job_id: int, target: Path) -> str:
    """Write a job's file whole or not at all; the sentence that says what is in it. Raises BadInput when a photo's file is missing."""
    job = (
        Job.objects.select_related("wanted_panel", "chosen_offer__panel", "chosen_offer__supplier")
        .filter(pk=job_id)
        .first()
    )
    if job is None:
        raise BadInput(f"There is no job {job_id}.", "no_job")
    rows = {table.name: list(tables.rows_of(table, job)) for table in tables.TABLES}
    document = stamped(
        "job_file",
        {
            "origin": {
                "installation": installation(),
                "job": job.pk,
                "exported_at": timezone.now().isoformat(),
                "version": core_version(),
            },
            "job": tables.as_document(job)
            | {
                "wanted_panel": tables.panel_document(job.wanted_panel),
                "chosen_offer": tables.offer_document(job.chosen_offer),
            },
            "rows": rows,
        },
    )
    photos = sorted({row["sha256"] for row in rows["photos"]})
    part = target.with_name(f".{target.name}.part")
    try:
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as out:
            with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr(DOCUMENT, json.dumps(document, cls=tables.Encoder))
                for sha256 in photos:
                    archive.writestr(zipfile.ZipInfo(f"photos/{sha256}"), _photo(sha256))
            out.flush()
            os.fsync(out.fileno())
        os.replace(part, target)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise BadInput(f"Cannot write '{target}': {error.strerror}.", "no_file") from None
    return f"Job {job.pk}, '{job.title}': {len(rows['entries'])} lines of record and {len(photos)} photos in {target.name}."


def _photo(sha256: str) -> bytes:
    try:
        return storage.load(sha256)
    except FileNotFoundError:
        raise BadInput(
            f"The file of a photo ({sha256[:12]}) is missing from the store. Restore it from a backup, then export.",
            "file_missing",
        ) from None


def import_job(source: Path) -> Job:
    """Make the job of a file here: new numbers, the same record and photos, its origin written down.

    Raises BadInput for what is no job file, was changed on its way, came from a newer version, or is here already.
    """
    try:
        with zipfile.ZipFile(source) as archive:
            document = _document(archive)
            _check_record(document)
            for sha256 in _photos_of(document):
                _take_photo(archive, sha256)
    except OSError as error:
        raise BadInput(f"Cannot read '{source}': {error.strerror or error}.", "no_file") from None
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, KeyError) as error:
        raise BadInput(
            f"'{source.name}' is no job file, or it is damaged ({error}). Export the job again.", "no_job_file"
        ) from None
    try:
        with transaction.atomic():
            return _make(document)
    except (KeyError, TypeError, ValueError, ValidationError, DatabaseError) as error:
        raise BadInput(
            f"'{source.name}' is no whole job file: {str(error)[:200]}. Export the job again.", "no_job_file"
        ) from None


def _document(archive: zipfile.ZipFile) -> Document:
    if archive.getinfo(DOCUMENT).file_size > MOST_DOCUMENT_BYTES:
        raise BadInput("The job file is far too large.", "no_job_file")
    try:
        told = json.loads(archive.read(DOCUMENT))
    except (ValueError, RecursionError):
        raise BadInput(f"'{DOCUMENT}' in it cannot be read.", "no_job_file") from None
    if not isinstance(told, dict) or not {"origin", "job", "rows"} <= set(told):
        raise BadInput(f"'{DOCUMENT}' in it holds no job.", "no_job_file")
    return upgraded("job_file", told)


def _check_record(document: Document) -> None:
    """The chain that came with it must hold: nothing of the record was changed on the way."""
    entries = [
        {name: row[name] for name in ("at", "who", "kind", "text", "data", "hash")}
        for row in document["rows"]["entries"]
    ]
    check = check_chain([{**entry, "at": _as_hashed(entry["at"])} for entry in entries])
    if not check.holds:
        raise BadInput(f"The record in the file does not hold: {check.text} The job is not taken.", "broken_record")


def _as_hashed(at: str) -> str:
    """A time as the record's hash covers it."""
    return str(Entry._meta.get_field("at").to_python(at).isoformat())


def _photos_of(document: Document) -> list[str]:
    named = sorted({str(row["sha256"]) for row in document["rows"]["photos"]})
    if len(named) > MOST_PHOTOS or any(len(name) != 64 or set(name) - set("0123456789abcdef") for name in named):
        raise BadInput("The photos in the file are not named by their hashes.", "no_job_file")
    return named


def _take_photo(archive: zipfile.ZipFile, sha256: str) -> None:
    if archive.getinfo(f"photos/{sha256}").file_size > MAX_BYTES:
        raise BadInput("A photo in the file is too large.", "no_job_file")
    data = archive.read(f"photos/{sha256}")
    if hashlib.sha256(data).hexdigest() != sha256:
        raise BadInput(f"A photo in the file ({sha256[:12]}) was changed. The job is not taken.", "broken_photo")
    strip_metadata(data)  # raises BadInput for what is no photo
    storage.keep_as_is(sha256, data)


def _make(document: Document) -> Job:
    origin = document["origin"]
    if origin["installation"] == installation() and Job.objects.filter(pk=origin["job"]).exists():
        raise BadInput(f"This job is from here: it is job {origin['job']}.", "known_job")
    known = Job.objects.filter(origin__installation=origin["installation"], origin__job=origin["job"]).first()
    if known is not None:
        raise BadInput(f"This job was taken from a file before: it is job {known.pk}.", "known_job")
    people = _people(document, origin["installation"])
    numbers: dict[Any, int] = {}
    told = dict(document["job"])
    for name, make in (("wanted_panel", _panel), ("chosen_offer", _offer)):
        found = make(told.pop(name)) if told.get(name) else None
        told[name] = found.pk if found else None
        if found:
            numbers[(type(found), found.pk)] = found.pk
    job = tables.make_row(Job, told, numbers, people)
    assert isinstance(job, Job)
    for table in tables.TABLES:
        for row in document["rows"].get(table.name, []):  # a file of an earlier version has fewer tables
            tables.make_row(table.model, row, numbers, people)
    if [entry_content(entry) for entry in job.entries.all()] != [_content(row) for row in document["rows"]["entries"]]:
        raise ValueError("its record was not taken whole")
    Job.objects.filter(pk=job.pk).update(origin=origin)
    write(
        job,
        "job file",
        "imported",
        f"Taken from a file of another installation, where it was job {origin['job']}.",
        origin=origin,
    )
    _ask_for_what_is_missing(job)
    return job


def _content(row: Document) -> Document:
    return {**{name: row[name] for name in ("who", "kind", "text", "data")}, "at": _as_hashed(row["at"])}


def _people(document: Document, origin: str) -> dict[str, User]:
    """Who did what there. Somebody of the same name here may be somebody else, so they come as people of that installation who cannot sign in."""
    names = {str(document["job"]["created_by"])}
    for table in tables.TABLES:
        names |= tables.people_in(table.model, document["rows"].get(table.name, []))
    people = {}
    for name in names:
        local = str(name) if origin == installation() else f"{str(name)[:120]} ({origin[:8]})"
        person, new = User.objects.get_or_create(username=local, defaults={"is_active": False})
        if new:
            person.set_unusable_password()
            person.save()
        people[name] = person
    return people


def _panel(told: Document) -> PanelModel:
    values = {name: told[name] for name in ("maker", "spec")}
    known = PanelModel.objects.filter(normal=normal_number(told["name"])).first()
    return known or PanelModel.objects.create(name=told["name"], **values)


def _offer(told: Document) -> Offer:
    values = {name: told[name] for name in ("price", "shipping", "delivery_days", "warranty_months", "doa_days")}
    supplier = supplier_called(str(told["supplier"])[:80])
    return Offer.objects.filter(
        panel=_panel(told["panel"]), supplier=supplier, **values
    ).first() or Offer.objects.create(panel=_panel(told["panel"]), supplier=supplier, **values)


def _ask_for_what_is_missing(job: Job) -> None:
    """Photos that waited for their analysis there wait here."""
    for run in Run.objects.filter(
        job=job, photos__in=Photo.objects.filter(report__isnull=True, removed=False).exclude(status="kept")
    ).distinct():
        enqueue(run)
