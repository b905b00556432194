"""The simulated bench answers for device and camera, in the demo only."""

import contextlib

from django.conf import settings
from django.contrib.auth.models import User
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.types import JSONValue

from lens.errors import BadInput
from lens.inspecting import FRAME
from lens.meter import read_readings
from server.accounts.policy import require
from server.inspections.actions import add_photo, learn_camera
from server.inspections.models import Run
from server.jobs.edid_actions import file_edid, file_replacement_edid
from server.jobs.meter_actions import file_readings, nominal_of
from server.jobs.models import Job
from server.simbench.device import LAMP_HZ, captured_frame, edid_bytes, lamp_photo, meter_file
from server.simbench.finger import draw
from server.simbench.tasks import WHO, simulate_photos
from server.touch.models import TouchSession

router = Router(tags=["simulated bench"])


class Shoot(Schema):
    """One pattern, or the whole set when it is empty."""

    pattern: str = ""


def _bench_user(request: HttpRequest) -> User:
    """Whoever may change jobs, and in the demo only."""
    person = require(request.user, "job.change")
    if not settings.DEMO:
        raise BadInput("The simulated bench is there in the demo only: start with ./clear-lens demo.", "no_demo")
    return person


@router.post("/jobs/{job_id}/simulate/edid", response={204: None}, operation_id="simulateEdid")
def simulate_edid(request: HttpRequest, job_id: int) -> Status[None]:
    """The simulated panel's EDID, through the same door as a file."""
    _bench_user(request)
    file_edid(request.user, job_id, edid_bytes(get_object_or_404(Job, pk=job_id)))
    return Status(204, None)


@router.post("/jobs/{job_id}/simulate/edid/replacement", response={204: None}, operation_id="simulateReplacementEdid")
def simulate_replacement_edid(request: HttpRequest, job_id: int) -> Status[None]:
    """The EDID of the simulated panel that is to be fitted."""
    _bench_user(request)
    file_replacement_edid(request.user, job_id, edid_bytes(get_object_or_404(Job, pk=job_id), "replacement_edid"))
    return Status(204, None)


@router.post("/jobs/{job_id}/simulate/meter", response={204: None}, operation_id="simulateMeter")
def simulate_meter(request: HttpRequest, job_id: int) -> Status[None]:
    """A reading of the simulated meter, as the file that a real one writes."""
    _bench_user(request)
    job = get_object_or_404(Job.objects.select_related("wanted_panel"), pk=job_id)
    file_readings(request.user, job_id, read_readings(meter_file(job, nominal_of(job)[0])))
    return Status(204, None)


@router.post("/runs/{run_id}/simulate/lamp", response={204: None}, operation_id="simulateLamp")
def simulate_lamp(request: HttpRequest, run_id: int) -> Status[None]:
    """The simulated camera shoots white paper under a workshop lamp, through the door of lamp photos."""
    _bench_user(request)
    learn_camera(request.user, run_id, lamp_photo(), LAMP_HZ)
    return Status(204, None)


@router.post("/runs/{run_id}/simulate/frame", response={204: None}, operation_id="simulateFrame")
def simulate_frame(request: HttpRequest, run_id: int) -> Status[None]:
    """What a capture device on the external output would get of the pattern that is shown now, through the door of photos."""
    person = _bench_user(request)
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    key = f"frame-{run.pattern}-{run.pattern_step}"  # a double click captures once
    add_photo(run, person.username, captured_frame(run), f"{run.pattern}-frame.png", key, FRAME)
    return Status(204, None)


@router.post("/touch/{session_id}/simulate", response={204: None}, operation_id="simulateTouch")
def simulate_touch(request: HttpRequest, session_id: int) -> Status[None]:
    """The simulated finger draws what an open session asks for and has not been drawn yet, through the door of the glass."""
    _bench_user(request)
    session = get_object_or_404(TouchSession.objects.select_related("run__job"), pk=session_id)
    draw(session)
    return Status(204, None)


@router.post("/runs/{run_id}/simulate", response={202: None}, operation_id="simulatePhotos")
def simulate(request: HttpRequest, run_id: int, body: Shoot) -> Status[None]:
    _bench_user(request)
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    if run.job.closed_at:
        raise BadInput("The job is handed over and closed. A lead can reopen it.", "job_closed")
    wanted = run.chosen_set.patterns
    if body.pattern:
        if body.pattern not in wanted:
            raise BadInput("This pattern is not part of the chosen set.", "unknown_pattern")
        wanted = (body.pattern,)
    take = 1 + run.photos.filter(sent_by=WHO, name=f"{wanted[0]}.jpg").count()
    lock = f"simulate-{run.pk}-{take}-{wanted[0]}"
    with contextlib.suppress(AlreadyEnqueued):  # a double click
        simulate_photos.configure(queueing_lock=lock).defer(run_id=run.pk, patterns=list[JSONValue](wanted), take=take)
    return Status(202, None)
