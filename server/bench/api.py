"""Jobs, their record and evidence."""

from typing import Any

from django.conf import settings
from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Router
from ninja.files import UploadedFile

from lens.errors import BadInput
from lens.inspecting import bear_witness
from lens.meter import read_readings, typed_reading
from server.accounts.policy import require
from server.bench.job_schemas import (
    Answer,
    EntryOut,
    HandOverIn,
    JobChange,
    JobFields,
    JobLine,
    JobOut,
    Luminance,
    Reason,
    Station,
)
from server.bench.progress import stations
from server.inspections.actions import judge_job
from server.inspections.api import run_out
from server.inspections.codes import revoke_at_hand_over
from server.jobs import actions, edid_actions, meter_actions
from server.jobs.core_adapter import diagnose_job
from server.jobs.models import Evidence, Job
from server.touch.api import recheck_out, touch_out
from server.verdicts import (
    comparison,
    results_of,
    seen_of,
    touch_comparison,
    touch_results,
    verdict_of_job,
    verdicts_by_stage,
)

router = Router(tags=["jobs"])
MOST_EDID_BYTES, MOST_READING_BYTES = 256 * 1024, 1024 * 1024


def _evidence(item: Evidence) -> dict[str, Any]:
    return {
        "id": item.pk,
        "check": item.check_id,
        "outcome": item.outcome,
        "source": item.source,
        "by": item.by.username,
        "at": item.at,
        "withdrawn": item.withdrawn,
        "withdrawn_because": item.withdrawn_because,
        "conditions": item.conditions,
    }


def job_out(job_id: int) -> dict[str, Any]:
    """Everything that the job's screen shows, in a constant number of queries."""
    wanted = Job.objects.select_related("wanted_panel", "chosen_offer__panel", "created_by")
    job = get_object_or_404(
        wanted.prefetch_related("runs__photos", "runs__touches__made_by", "rechecks__job", "evidence__by", "gates"),
        pk=job_id,
    )
    answers, results, touched = list(job.evidence.all()), results_of(job), touch_results(job)
    witness = bear_witness(results["inspect"], results["external"]) if {"inspect", "external"} <= set(results) else None
    told = diagnose_job(job, answers, results.get("inspect"), witness, touched.get("inspect"))
    answered = sum(not a.withdrawn for a in answers) + ("inspect" in results) + ("inspect" in touched)
    verdict = verdict_of_job(job, results, touched)
    plain = (
        "version",
        "station",
        "skipped",
        "hand_over_note",
        "closed_at",
        "created_at",
        "true_causes",
        "edid",
        "replacement_edid",
        "readings",
    )
    fields = {name: getattr(job, name) for name in (*JobFields.model_fields, *plain)}
    return {
        **fields,
        "id": job.pk,
        "created_by": job.created_by.username,
        "can_simulate": settings.DEMO,
        "verdict": verdict,
        "stations": stations(job, answered, told, verdict, verdicts_by_stage(job)),
        "evidence": [_evidence(a) for a in answers],
        "diagnosis": told,
        "runs": [run_out(run) for run in job.runs.all()],
        "comparison": comparison(results),
        "witness": witness,
        "touches": [touch_out(session, run) for run in job.runs.all() for session in run.touches.all()],
        "touch_comparison": touch_comparison(touched),
        "rechecks": [recheck_out(one) for one in job.rechecks.all()],
    }


@router.get("/jobs", response=list[JobLine], operation_id="listJobs")
def list_jobs(request: HttpRequest) -> list[dict[str, Any]]:
    require(request.user, "job.view")
    lines = []
    for job in Job.objects.select_related("wanted_panel").prefetch_related("runs__touches")[:500]:
        names = (
            "title",
            "owner",
            "device_type",
            "station",
            "panel_width",
            "panel_height",
            "complaint",
            "changed_at",
            "closed_at",
        )
        told = {
            "verdict": verdict_of_job(job),
            "stages": {stage: one.result for stage, one in verdicts_by_stage(job).items()},
        }
        lines.append({"id": job.pk, **told, **{name: getattr(job, name) for name in names}})
    return lines


@router.post("/jobs", response={201: JobOut}, operation_id="createJob")
def create_job(request: HttpRequest, body: JobFields) -> tuple[int, dict[str, Any]]:
    return 201, job_out(actions.create_job(request.user, body.model_dump()).pk)


@router.get("/jobs/{job_id}", response=JobOut, operation_id="getJob")
def get_job(request: HttpRequest, job_id: int) -> dict[str, Any]:
    require(request.user, "job.view")
    return job_out(job_id)


@router.patch("/jobs/{job_id}", response=JobOut, operation_id="changeJob")
def change_job(request: HttpRequest, job_id: int, body: JobChange) -> dict[str, Any]:
    values = body.model_dump(exclude_unset=True, exclude={"version"})
    cleared = {name for name, value in values.items() if value is None and name != "diagonal_in"}
    with transaction.atomic():
        before = get_object_or_404(Job, pk=job_id).profile
        job = actions.change_job(
            request.user, job_id, body.version, {n: v for n, v in values.items() if n not in cleared}
        )
        if job.profile != before:
            judge_job(job_id)
    return job_out(job_id)


@router.get("/jobs/{job_id}/record", response=list[EntryOut], operation_id="getRecord")
def record(request: HttpRequest, job_id: int) -> list[Any]:
    require(request.user, "job.view")
    return list(get_object_or_404(Job, pk=job_id).entries.all())


@router.post("/jobs/{job_id}/station", response=JobOut, operation_id="goToStation")
def go_to_station(request: HttpRequest, job_id: int, body: Station) -> dict[str, Any]:
    actions.go_to_station(request.user, job_id, body.station, body.skip)
    return job_out(job_id)


@router.post("/jobs/{job_id}/evidence", response=JobOut, operation_id="answerCheck")
def answer_check(request: HttpRequest, job_id: int, body: Answer) -> dict[str, Any]:
    conditions = body.conditions.model_dump(exclude_none=True) if body.conditions else {}
    actions.answer_check(request.user, job_id, body.check, body.outcome, body.source, conditions)
    return job_out(job_id)


@router.delete("/jobs/{job_id}/evidence/{evidence_id}", response=JobOut, operation_id="withdrawEvidence")
def withdraw_evidence(request: HttpRequest, job_id: int, evidence_id: int, reason: str = "") -> dict[str, Any]:
    actions.withdraw_evidence(request.user, job_id, evidence_id, reason[:300])
    return job_out(job_id)


@router.post("/jobs/{job_id}/edid", response=JobOut, operation_id="fileEdid")
def file_edid(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> dict[str, Any]:
    edid_actions.file_edid(request.user, job_id, _edid_data(file))
    return job_out(job_id)


@router.post("/jobs/{job_id}/edid/replacement", response=JobOut, operation_id="fileReplacementEdid")
def file_replacement_edid(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> dict[str, Any]:
    edid_actions.file_replacement_edid(request.user, job_id, _edid_data(file))
    return job_out(job_id)


def _edid_data(file: UploadedFile) -> bytes:
    if (file.size or 0) > MOST_EDID_BYTES:
        raise BadInput(
            "The file is far too large for an EDID. Save the EDID alone, as a binary file or as hex text.", "no_edid"
        )
    return bytes(file.read())


@router.post("/jobs/{job_id}/readings", response=JobOut, operation_id="fileReadings")
def file_readings(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> dict[str, Any]:
    meter_actions.file_readings(request.user, job_id, read_readings(file.read(MOST_READING_BYTES)))
    return job_out(job_id)


@router.post("/jobs/{job_id}/luminance", response=JobOut, operation_id="typeLuminance")
def type_luminance(request: HttpRequest, job_id: int, body: Luminance) -> dict[str, Any]:
    meter_actions.file_readings(request.user, job_id, [typed_reading(body.cd_m2)])
    return job_out(job_id)


@router.post("/jobs/{job_id}/hand-over", response=JobOut, operation_id="handOver")
def hand_over(request: HttpRequest, job_id: int, body: HandOverIn | None = None) -> dict[str, Any]:
    require(request.user, "job.hand_over")
    with transaction.atomic():
        told = body or HandOverIn()
        job = get_object_or_404(Job.objects.prefetch_related("runs__touches"), pk=job_id)
        actions.hand_over(
            request.user,
            job_id,
            told.true_causes,
            verdict_of_job(job) if seen_of(job) else None,
            told.unmeasured_because,
        )
        revoke_at_hand_over(job_id)
    return job_out(job_id)


@router.post("/jobs/{job_id}/reopen", response=JobOut, operation_id="reopenJob")
def reopen(request: HttpRequest, job_id: int, body: Reason) -> dict[str, Any]:
    actions.reopen(request.user, job_id, body.reason)
    return job_out(job_id)
