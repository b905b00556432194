"""What a report says, gathered once for PDF, JSON and print."""

from typing import Any

from django.conf import settings

from lens import core_version
from lens.records import STATIONS
from lens.reporting import closed
from server.jobs.record import entry_content
from server.proving.verdict import verdict_of
from server.verdicts.look import JobLook

CAUTIONS = (
    "Adhesive reaches its full strength after about a day; do not bend or heat the device before.",
    "Water resistance is no longer assured after opening.",
    "Broken glass, swollen batteries and old panels go where local rules say.",
)


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
        "core_version": core_version(),
    }
    return closed(facts, entries, job.changed_at.isoformat(), settings.SHOP_KEY)


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
