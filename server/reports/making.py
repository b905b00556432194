"""Reports are made in a worker: a second of weasyprint, all photos for a ZIP. A killed worker does it again."""

import datetime as dt
import json
from collections.abc import Iterator
from typing import Any

from django.conf import settings
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from procrastinate.contrib.django import app

from lens.errors import BadInput
from lens.reporting import PlacedPhoto, coco, findings_csv, owner_texts, packed
from lens.tables import not_known
from server.accounts.policy import require
from server.common.queue import Work
from server.inspections import storage
from server.jobs.actions import Person
from server.jobs.models import Job
from server.reports.claim import claim_facts, claim_package
from server.reports.content import look_at, sealed
from server.reports.models import CLAIM, PDF, ZIP, MadeReport
from server.reports.owner_facts import owner_html
from server.reports.pdf import report_json_bytes, report_pdf
from server.shop.actions import the_shop
from server.verdicts.look import JobLook

MAKING = Work(MadeReport, "report", "report_id", priority=5)
KEPT = dt.timedelta(days=1)
MOST_OPEN = 6  # of one job; who asks for more has a program that runs wild
MOST_ZIP_BYTES = 800 * 1024**2
GIVEN_UP = "Clear Lens failed on this report, by an error of its own: the log has it."


def check_language(language: str) -> str:
    """The language's id, the shop's own where none is named. Raises BadInput for one that is not there."""
    wanted = language or the_shop().language
    if wanted not in owner_texts():
        if language:
            raise not_known("language of the report", language, owner_texts(), "unknown_language")
        return next(iter(owner_texts()))
    return wanted


@transaction.atomic
def ask_report(user: Person, job_id: int, kind: str, language: str) -> MadeReport:
    """Have a report made. Of a closed job the one that was handed over is given again, as it was."""
    person = require(user, "job.view")
    job = get_object_or_404(Job.objects.select_for_update(), pk=job_id)
    if kind not in (PDF, ZIP, CLAIM):
        raise BadInput("A report is a PDF, a ZIP or a claim.", "unknown_kind")
    if kind == CLAIM:
        claim_facts(look_at(job_id))
    wanted = check_language(language)
    MadeReport.objects.filter(handed_over=False, made_at__lt=timezone.now() - KEPT).delete()
    mine = MadeReport.objects.filter(job=job)
    if job.closed_at is not None:
        kept = mine.filter(kind=kind, language=wanted, handed_over=True, made_at__gte=job.closed_at, problem="").last()
        if kept is not None:
            return kept
    if mine.filter(settled=0).count() >= MOST_OPEN:
        raise BadInput("Several reports of this job are being made. Wait for them first.", "reports_waiting")
    report = MadeReport.objects.create(
        job=job, kind=kind, language=wanted, handed_over=job.closed_at is not None and kind != CLAIM, made_by=person
    )
    MAKING.ask(report.pk)
    report.refresh_from_db()
    return report


@app.task(name="make_report")
def make_report(report_id: int) -> None:
    report = MadeReport.objects.filter(pk=report_id).first()
    if report is None:
        return  # forgotten meanwhile
    asked = MAKING.begin(report_id)
    made, problem = MAKING.attempt(report_id, "report", GIVEN_UP, lambda: _made(report))
    changed: dict[str, Any] = {"problem": problem[:500]}
    if made is not None:
        changed |= {"data": made[0], "size_bytes": len(made[0]), "closing_hash": made[1]}
    MadeReport.objects.filter(pk=report_id).update(**changed)
    MAKING.settle(report_id, asked)


MAKING.task = make_report


def _made(report: MadeReport) -> tuple[bytes, str]:
    """The file, and the hash that its report is closed with."""
    look = look_at(report.job_id)
    if report.kind == CLAIM:
        return claim_package(look)
    seal = sealed(look)
    pdf = report_pdf(report.job_id, report.language, seal)
    closing = str(seal["head"]["closing_hash"])
    if report.kind == PDF:
        return pdf, closing
    shown = [photo for photo in seal["photos"] if photo["file"]]
    files = {
        "report.pdf": pdf,
        "report.json": report_json_bytes(seal),
        "owner.html": owner_html(look, report.language).encode(),
        **dict(_tables(look, shown)),
    }
    if sum(photo["bytes"] for photo in shown) > MOST_ZIP_BYTES:
        raise BadInput(
            "The photos of this job are too large for one ZIP. Export the job as a file instead.", "too_large"
        )
    for number, photo in enumerate(shown):
        if number % 4 == 0:
            MadeReport.objects.filter(pk=report.pk).update(rows=number, of=len(shown))
        files[photo["file"]] = storage.load(photo["sha256"])
    return packed(files, closing, settings.SHOP_KEY), closing


def _placed(look: JobLook, photos: list[dict[str, Any]]) -> Iterator[PlacedPhoto]:
    """The photos in the file that were registered to the panel."""
    maps = {
        (told.file, stage): told.map for stage, result in look.results.items() for told in result.photos if told.map
    }
    for photo in photos:
        told = maps.get((photo["name"], photo["stage"]))
        if told is not None:
            yield PlacedPhoto(photo["file"], photo["stage"], told)


def _tables(look: JobLook, photos: list[dict[str, Any]]) -> Iterator[tuple[str, bytes]]:
    for stage, result in look.results.items():
        yield f"findings-{stage}.csv", findings_csv(result.findings, {"job": str(look.job.pk), "stage": stage}).encode()
    document = coco(look.results, list(_placed(look, photos)))
    yield "findings-coco.json", json.dumps(document, indent=1, ensure_ascii=False).encode()
