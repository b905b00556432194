"""Jobs, their record and evidence."""

from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Router, Status
from ninja.files import UploadedFile

from lens.errors import BadInput
from lens.meter import read_readings, typed_reading
from server.accounts import doors
from server.bench.facets import FACETS, facet_of, hindrances_of, job_with
from server.bench.job_schemas import (
    Answer,
    EntryOut,
    HandOverIn,
    JobChange,
    JobChanged,
    JobFields,
    JobHead,
    Luminance,
    Reason,
    Station,
)
from server.inspections.actions import judge_job
from server.inspections.codes import revoke_at_hand_over
from server.jobs import actions, edid_actions, meter_actions
from server.jobs.models import Job
from server.profiles.actions import find_profile
from server.proving.verdict import verdict_of
from server.touch.models import TouchSession
from server.touch.tasks import judge_anew as judge_touch_anew
from server.verdicts import seen_of
from server.verdicts.look import JobLook

router = Router(tags=["jobs"])
MAY_BE_EMPTY = ("diagonal_in", "due_on", "assigned_to")
MOST_EDID_BYTES, MOST_READING_BYTES = 256 * 1024, 1024 * 1024


@router.post("/jobs", response={201: JobHead}, operation_id="createJob")
def create_job(request: HttpRequest, body: JobFields) -> Status[dict[str, Any]]:
    return Status(201, job_with(actions.create_job(request.user, body.model_dump()).pk))


@router.get("/jobs/{job_id}", response=JobHead, operation_id="getJob")
def get_job(request: HttpRequest, job_id: int) -> dict[str, Any]:
    return job_with(job_id)


@router.patch("/jobs/{job_id}", response=JobChanged, operation_id="changeJob")
def change_job(request: HttpRequest, job_id: int, body: JobChange) -> dict[str, Any]:
    values = body.model_dump(exclude_unset=True, exclude={"version"})
    cleared = {name for name, value in values.items() if value is None and name not in MAY_BE_EMPTY}
    if values.get("assigned_to") is not None:
        values["assigned_to"] = actions.person_called(values["assigned_to"])
    with transaction.atomic():
        before = get_object_or_404(Job, pk=job_id).profile
        job = actions.change_job(
            request.user, job_id, body.version, {n: v for n, v in values.items() if n not in cleared}
        )
        if job.profile != before:
            judge_job(job_id)
            if find_profile(before).touch != find_profile(job.profile).touch:
                judge_touch_anew(TouchSession.objects.filter(run__job_id=job_id))
    return job_with(job_id, "isolate")


@router.get("/jobs/{job_id}/record", response=list[EntryOut], operation_id="getRecord")
def record(request: HttpRequest, job_id: int) -> list[Any]:
    return list(get_object_or_404(Job, pk=job_id).entries.all())


@router.post("/jobs/{job_id}/station", response=JobChanged, operation_id="goToStation")
def go_to_station(request: HttpRequest, job_id: int, body: Station) -> dict[str, Any]:
    actions.go_to_station(request.user, job_id, body.station, body.skip)
    return job_with(job_id)


@router.post("/jobs/{job_id}/evidence", response=JobChanged, operation_id="answerCheck")
def answer_check(request: HttpRequest, job_id: int, body: Answer) -> dict[str, Any]:
    conditions = body.conditions.model_dump(exclude_none=True) if body.conditions else {}
    actions.answer_check(request.user, job_id, body.check, body.outcome, body.source, conditions)
    return job_with(job_id, "isolate")


@router.delete("/jobs/{job_id}/evidence/{evidence_id}", response=JobChanged, operation_id="withdrawEvidence")
def withdraw_evidence(request: HttpRequest, job_id: int, evidence_id: int, reason: str = "") -> dict[str, Any]:
    actions.withdraw_evidence(request.user, job_id, evidence_id, reason[:300])
    return job_with(job_id, "isolate")


@router.post("/jobs/{job_id}/edid", response=JobChanged, operation_id="fileEdid")
def file_edid(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> dict[str, Any]:
    edid_actions.file_edid(request.user, job_id, _edid_data(file))
    return job_with(job_id, "documents", "isolate")


@router.post("/jobs/{job_id}/edid/replacement", response=JobChanged, operation_id="fileReplacementEdid")
def file_replacement_edid(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> dict[str, Any]:
    edid_actions.file_replacement_edid(request.user, job_id, _edid_data(file))
    return job_with(job_id, "documents", "isolate")


def _edid_data(file: UploadedFile) -> bytes:
    if (file.size or 0) > MOST_EDID_BYTES:
        raise BadInput(
            "The file is far too large for an EDID. Save the EDID alone, as a binary file or as hex text.", "no_edid"
        )
    return bytes(file.read())


@router.post("/jobs/{job_id}/readings", response=JobChanged, operation_id="fileReadings")
def file_readings(request: HttpRequest, job_id: int, file: File[UploadedFile]) -> dict[str, Any]:
    meter_actions.file_readings(request.user, job_id, read_readings(file.read(MOST_READING_BYTES)))
    return job_with(job_id, "documents", "isolate")


@router.post("/jobs/{job_id}/luminance", response=JobChanged, operation_id="typeLuminance")
def type_luminance(request: HttpRequest, job_id: int, body: Luminance) -> dict[str, Any]:
    meter_actions.file_readings(request.user, job_id, [typed_reading(body.cd_m2)])
    return job_with(job_id, "documents", "isolate")


@router.post("/jobs/{job_id}/hand-over", auth=doors.hand_over, response=JobChanged, operation_id="handOver")
def hand_over(request: HttpRequest, job_id: int, body: HandOverIn | None = None) -> dict[str, Any]:
    with transaction.atomic():
        told = body or HandOverIn()
        look = JobLook.at(job_id)
        verdict = verdict_of(look)
        actions.hand_over(
            request.user,
            job_id,
            told.true_causes,
            verdict if seen_of(look.job) else None,
            told.because,
            hindrances_of(job_id),
            told.lesson,
        )
        revoke_at_hand_over(job_id)
    return job_with(job_id)


@router.post("/jobs/{job_id}/reopen", auth=doors.reopen, response=JobChanged, operation_id="reopenJob")
def reopen(request: HttpRequest, job_id: int, body: Reason) -> dict[str, Any]:
    actions.reopen(request.user, job_id, body.reason)
    return job_with(job_id)


def _door_of(name: str) -> Callable[[HttpRequest, int], dict[str, Any]]:
    def read(request: HttpRequest, job_id: int) -> dict[str, Any]:
        return facet_of(job_id, name)

    return read


for _facet in FACETS.values():
    router.get(
        f"/jobs/{{job_id}}/{_facet.id}",
        response=_facet.schema,
        operation_id=f"get{_facet.id.capitalize()}",
        summary=f"A job's {_facet.id}",
    )(_door_of(_facet.id))
