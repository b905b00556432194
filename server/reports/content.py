"""What a report says, gathered once for PDF, JSON and print."""

from pathlib import Path
from typing import Any

from django.conf import settings

from lens import core_version
from lens.records import STATIONS
from lens.reporting import closed, signer_of
from server.inspections import storage
from server.jobs.models import Job
from server.jobs.record import entry_content
from server.proving.verdict import verdict_of
from server.reports.models import MadeReport
from server.reports.owner_facts import owner_facts, used_adhesive
from server.verdicts.look import JobLook

ENDINGS = (".jpg", ".jpeg", ".png", ".heic", ".heif", ".tif", ".tiff", ".webp")

CAUTION_TEXTS = {
    "adhesive": "Adhesive reaches its full strength after about a day; do not bend or heat the device before.",
    "water": "Water resistance is no longer assured after opening.",
    "waste": "Broken glass, swollen batteries and old panels go where local rules say.",
    "battery": "A battery that swells, smells or gets hot is a danger: switch off, and bring it back.",
}


def cautions(look: JobLook) -> list[str]:
    """Those that apply to what was done at this device."""
    job = look.job
    facts = owner_facts(look)
    told = []
    if used_adhesive(job):
        told.append(CAUTION_TEXTS["adhesive"])
    if facts.opened and job.device_type in ("handset", "tablet"):
        told.append(CAUTION_TEXTS["water"])
    if facts.opened:
        told += [CAUTION_TEXTS["battery"], CAUTION_TEXTS["waste"]]
    return told


def photo_facts(job: Job) -> list[dict[str, Any]]:
    """Every photo of the job that was not taken out: what it is, and under which name it lies beside the report. ``file`` is empty where the photo is
    not in the store any more."""
    told = []
    for run in job.runs.all():
        for number, photo in enumerate((one for one in run.photos.all() if not one.removed), 1):
            ending = Path(photo.name).suffix.lower()
            name = f"photos/{run.stage}-{number:02}-{photo.sha256[:8]}{ending if ending in ENDINGS else '.jpg'}"
            told.append(
                {
                    "stage": run.stage,
                    "name": photo.name,
                    "pattern": (photo.report or {}).get("pattern"),
                    "sha256": photo.sha256,
                    "bytes": photo.size_bytes,
                    "file": name if storage.there(photo.sha256) else "",
                }
            )
    return told


def functions_facts(job: Job) -> list[dict[str, Any]]:
    """Every answer of a person, in order."""
    return [
        {
            "stage": one.stage,
            "what": one.what,
            "name": one.name,
            "outcome": one.outcome,
            "grade": one.grade,
            "note": one.note,
            "by": one.by.username,
            "at": one.at.isoformat(),
        }
        for one in job.handchecks.all()
    ]


def look_at(job_id: int) -> JobLook:
    return JobLook.at(job_id, "runs__photos", "entries", "gates__by")


def report_json(job_id: int) -> dict[str, Any]:
    """The whole report: facts, the record's chain closed by an entry that covers them, signed by the shop (``lens.reporting.report``)."""
    return sealed(look_at(job_id))


def sealed(look: JobLook) -> dict[str, Any]:
    """The report of a job."""
    job, change = look.job, look.comparison
    entries = [{**entry_content(entry), "hash": entry.hash} for entry in job.entries.all()]
    facts = {
        "job": {
            "number": job.pk,
            "title": job.title,
            "owner": job.owner,
            "complaint": job.complaint,
            "device_type": job.device_type,
            "panel": {"width": job.panel_width, "height": job.panel_height, "diagonal_in": job.diagonal_in},
            "profile": job.profile,
        },
        "verdict": verdict_of(look).model_dump(mode="json"),
        "inspections": {stage: result.model_dump(mode="json") for stage, result in look.results.items()},
        "touch": {stage: result.model_dump(mode="json") for stage, result in look.touched.items()},
        "diagnosis": look.diagnosis.model_dump(mode="json"),
        "comparison": change.model_dump(mode="json") if change else None,
        "conditions": {run.stage: run.conditions for run in job.runs.all() if run.conditions},
        "hand_checks": functions_facts(job),
        "photos": photo_facts(job),
        "house_rules": job.rules,
        "pdf_signer": signer_of(settings.PDF_KEY),
        "replaces": replaced_by(job),
        "core_version": core_version(),
    }
    return closed(facts, entries, job.changed_at.isoformat(), settings.SHOP_KEY)


def replaced_by(job: Job) -> str | None:
    """The closing hash of the report that was handed over last, where the job was opened again after it."""
    opened = [one.at for one in job.entries.all() if one.kind == "reopened"]
    if not opened:
        return None
    handed = MadeReport.objects.filter(job=job, handed_over=True, made_at__lt=opened[-1]).exclude(closing_hash="")
    return handed.values_list("closing_hash", flat=True).last()


def unproven(look: JobLook) -> list[str]:
    """What the report must say was not looked at."""
    lines = []
    for stage, words in (
        ("inspect", "the panel as received"),
        ("dry_fit", "the dry fit"),
        ("closed", "the closed device"),
    ):
        if stage not in look.results:
            lines.append(f"No photo of {words} was measured.")
    if not look.touched:
        lines.append("Touch was not measured.")
    elif not {"closed", "recheck"} & set(look.touched):
        lines.append("Touch was not measured on the closed device.")
    for station in look.job.skipped:
        lines.append(f"The station '{STATIONS[station].title}' was skipped.")
    return lines
