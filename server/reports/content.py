"""What a report says, gathered once for PDF, JSON and print."""

from typing import Any

from django.conf import settings
from django.shortcuts import get_object_or_404

from lens import core_version
from lens.reporting import closed
from server.bench.api import job_out
from server.inspections.core_adapter import result_of
from server.jobs.models import Job
from server.jobs.record import entry_content
from server.verdicts import touch_results

CAUTIONS = (
    "Adhesive reaches its full strength after about a day; do not bend or heat the device before.",
    "Water resistance is no longer assured after opening.",
    "Broken glass, swollen batteries and old panels go where local rules say.",
)


def job_of(job_id: int) -> Job:
    wanted = Job.objects.select_related("wanted_panel", "chosen_offer__panel", "created_by")
    return get_object_or_404(
        wanted.prefetch_related("runs__photos", "runs__touches", "entries", "gates__by"), pk=job_id
    )


def report_json(job_id: int) -> dict[str, Any]:
    """The whole report: facts, the record's chain closed by an entry that covers them, signed by the shop (``lens.reporting.report``)."""
    return sealed(job_of(job_id), job_out(job_id))


def sealed(job: Job, out: dict[str, Any]) -> dict[str, Any]:
    """The report of a job and all that its screen shows."""
    entries = [{**entry_content(entry), "hash": entry.hash} for entry in job.entries.all()]
    inspections = {}
    for run in job.runs.all():
        result = result_of(run)
        if result is not None:
            inspections[run.stage] = result.model_dump(mode="json")
    told, change = out["diagnosis"], out["comparison"]
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
        "verdict": out["verdict"].model_dump(mode="json"),
        "inspections": inspections,
        "touch": {stage: result.model_dump(mode="json") for stage, result in touch_results(job).items()},
        "diagnosis": told.model_dump(mode="json"),
        "comparison": change.model_dump(mode="json") if change else None,
        "core_version": core_version(),
    }
    return closed(facts, entries, job.changed_at.isoformat(), settings.SHOP_KEY)


def unproven(out: dict[str, Any]) -> list[str]:
    """What the report must say was not looked at."""
    lines = []
    stages = {run["stage"]: run for run in out["runs"]}
    for stage, words in (
        ("inspect", "the panel as received"),
        ("dry_fit", "the dry fit"),
        ("closed", "the closed device"),
    ):
        run = stages.get(stage)
        if run is None or not run["result"]:
            lines.append(f"No photo of {words} was measured.")
    touched = {session["stage"] for session in out["touches"] if session["result"] and session["status"] != "withdrawn"}
    if not touched:
        lines.append("Touch was not measured.")
    elif "closed" not in touched and "recheck" not in touched:
        lines.append("Touch was not measured on the closed device.")
    for station in out["skipped"]:
        lines.append(f"The station '{station.replace('_', ' ')}' was skipped.")
    return lines
