"""Runs, patterns, photos and codes for people who are signed in."""

from datetime import datetime
from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, File, Form, Header, Router, Schema, Status
from ninja.files import UploadedFile

from lens.patterns import MAX_YAML_CHARACTERS, zip_bytes
from lens.records import STAGES, Channel, Inspection, Kind, PhotoReport, Stage, StageConditions
from server.accounts.policy import require
from server.common.qr import qr_svg
from server.inspections import actions, codes, core_adapter, storage
from server.inspections.conditions import set_conditions
from server.inspections.models import Access, Photo, Run

router = Router(tags=["inspections"])
THUMBNAIL_PX, VIEW_PX = 320, 2000


class Glass(Schema):
    """What the glass last said of itself."""

    canvas_width: float | None
    canvas_height: float | None
    ratio: float | None
    touch_points: float | None
    rim_px: float | None
    full_screen: bool
    exact: bool
    awake: bool
    seen_at: datetime


class PhotoOut(Schema):
    id: int
    name: str
    size_bytes: int
    status: str
    sent_by: str
    sent_at: datetime
    pattern_given: str
    corners_given: list[list[float]] | None
    removed: bool
    report: PhotoReport | None


class Screen(Schema):
    """Pixels of the screen that is looked at."""

    width: int
    height: int


class RunOut(Schema):
    id: int
    job_id: int
    stage: Stage
    title: str
    run_code: int
    pattern_set: str
    set_title: str
    patterns: list[str]
    pattern: str
    pattern_step: int
    status: str
    glass: Glass | None
    row_time_us: float | None
    screen: Screen
    conditions: StageConditions
    photos: list[PhotoOut]
    result: Inspection | None


class AccessOut(Schema):
    """A code as address and QR (SVG)."""

    id: int
    kind: str
    url: str
    qr_svg: str
    expires_at: datetime


class CodeOut(Schema):
    """A code that still opens, without the code; ``stage`` is the title of the run that it opens now."""

    id: int
    kind: str
    run_id: int
    stage: str
    made_by: str
    made_at: datetime
    expires_at: datetime


class PatternIn(Schema):
    pattern: str


class SetIn(Schema):
    """A set that ships, by its name, or the YAML of an own one."""

    pattern_set: str = ""
    own_yaml: str = Field(default="", max_length=MAX_YAML_CHARACTERS)


class CameraIn(Schema):
    """What is known of the hand camera; null forgets it."""

    row_time_us: float | None


class AccessIn(Schema):
    kind: codes.Kind


class MoveIn(Schema):
    run_id: int


class DecisionIn(Schema):
    """The finding by its kind and place, and what was decided; ``undo`` takes a decision back."""

    kind: Kind
    channel: Channel | None = None
    x: float
    y: float
    verdict: Literal["accepted", "rejected", "corrected", "undo"]
    becomes: Kind | None = None
    becomes_channel: Channel | None = None
    reason: str = Field(default="", max_length=300)


class PhotoCorrection(Schema):
    pattern: str | None = None
    corners: list[list[float]] | None = None
    removed: bool | None = None


def photo_out(photo: Photo) -> dict[str, Any]:
    """A photo with its report in today's shape."""
    names = ("name", "size_bytes", "status", "sent_by", "sent_at", "pattern_given", "corners_given", "removed")
    return {
        **{name: getattr(photo, name) for name in names},
        "id": photo.pk,
        "report": core_adapter.stored_report(photo),
    }


def run_out(run: Run) -> dict[str, Any]:
    """A run with its photos and result; two queries whatever the number of photos."""
    return {
        "id": run.pk,
        "job_id": run.job_id,
        "stage": run.stage,
        "title": STAGES[run.stage].title,
        "run_code": run.run_code,
        "pattern_set": "" if run.own_set else run.pattern_set,
        "set_title": run.chosen_set.title,
        "patterns": run.chosen_set.patterns,
        "pattern": run.pattern,
        "pattern_step": run.pattern_step,
        "status": run.status,
        "glass": run.glass,
        "row_time_us": run.row_time_us,
        "screen": {"width": run.panel.width, "height": run.panel.height},
        "conditions": StageConditions.model_validate(run.conditions),
        "photos": [photo_out(photo) for photo in run.photos.all()],
        "result": core_adapter.stored_result(run),
    }


@router.post("/jobs/{job_id}/runs/{stage}", response=RunOut, operation_id="openRun")
def open_run(request: HttpRequest, job_id: int, stage: Stage) -> dict[str, Any]:
    return run_out(actions.open_run(request.user, job_id, stage))


@router.get("/runs/{run_id}", response=RunOut, operation_id="getRun")
def get_run(request: HttpRequest, run_id: int) -> dict[str, Any]:
    return run_out(get_object_or_404(Run, pk=run_id))


@router.post("/runs/{run_id}/pattern", response={204: None}, operation_id="showPattern")
def show_pattern(request: HttpRequest, run_id: int, body: PatternIn) -> Status[None]:
    actions.show_pattern(request.user, run_id, body.pattern)
    return Status(204, None)


@router.post("/runs/{run_id}/set", response=RunOut, operation_id="chooseSet")
def choose_set(request: HttpRequest, run_id: int, body: SetIn) -> dict[str, Any]:
    return run_out(actions.choose_set(request.user, run_id, body.pattern_set, body.own_yaml))


@router.put("/runs/{run_id}/conditions", response=RunOut, operation_id="setConditions")
def conditions(request: HttpRequest, run_id: int, body: StageConditions) -> dict[str, Any]:
    """Under what this stage is looked at: film, bezel, loose or mounted, finger, mains, charge, room."""
    return run_out(set_conditions(request.user, run_id, body))


@router.post("/runs/{run_id}/camera", response=RunOut, operation_id="setCamera")
def set_camera(request: HttpRequest, run_id: int, body: CameraIn) -> dict[str, Any]:
    return run_out(actions.set_row_time(request.user, run_id, body.row_time_us))


@router.post("/runs/{run_id}/camera/lamp", response=RunOut, operation_id="learnCamera")
def learn_camera(request: HttpRequest, run_id: int, hz: Form[float], file: File[UploadedFile]) -> dict[str, Any]:
    return run_out(actions.learn_camera(request.user, run_id, file.read(), hz))


@router.post("/runs/{run_id}/screen", response=RunOut, operation_id="setScreen")
def set_screen(request: HttpRequest, run_id: int, body: Screen) -> dict[str, Any]:
    return run_out(actions.set_screen(request.user, run_id, body.width, body.height))


def _access_out(access: Access) -> AccessOut:
    url = codes.url_of(access)
    return AccessOut(id=access.pk, kind=access.kind, url=url, qr_svg=qr_svg(url), expires_at=access.expires_at)


@router.post("/runs/{run_id}/access", response=AccessOut, operation_id="makeAccess")
def make_access(request: HttpRequest, run_id: int, body: AccessIn) -> AccessOut:
    return _access_out(codes.make_access(request.user, run_id, body.kind))


@router.get("/runs/{run_id}/access", response=list[CodeOut], operation_id="listAccess")
def list_access(request: HttpRequest, run_id: int) -> list[dict[str, Any]]:
    """Codes of a run's job that still open, the newest first; not the codes themselves."""
    run = get_object_or_404(Run, pk=run_id)
    found = codes.living(run__job_id=run.job_id).select_related("made_by", "run").order_by("-id")
    return [
        {
            "id": one.pk,
            "kind": one.kind,
            "run_id": one.run_id,
            "stage": STAGES[one.run.stage].title,
            "made_by": one.made_by.username,
            "made_at": one.made_at,
            "expires_at": one.expires_at,
        }
        for one in found
    ]


@router.post("/access/{access_id}/renew", response=AccessOut, operation_id="renewAccess")
def renew_access(request: HttpRequest, access_id: int) -> AccessOut:
    return _access_out(codes.renew_access(request.user, access_id))


@router.post("/access/{access_id}/move", response=AccessOut, operation_id="moveAccess")
def move_access(request: HttpRequest, access_id: int, body: MoveIn) -> AccessOut:
    """Let the page that holds a code go on at another stage of its job."""
    return _access_out(codes.move_access(request.user, access_id, body.run_id))


@router.delete("/access/{access_id}", response={204: None}, operation_id="revokeAccess")
def revoke_access(request: HttpRequest, access_id: int) -> Status[None]:
    codes.revoke_access(request.user, access_id)
    return Status(204, None)


@router.get("/runs/{run_id}/patterns.zip", operation_id="patternsZip")
def patterns_zip(request: HttpRequest, run_id: int) -> HttpResponse:
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    data = zip_bytes(run.panel, run.chosen_set, run.run_code)
    name = f"patterns-job{run.job_id}-{run.stage}-{run.panel.width}x{run.panel.height}.zip"
    return HttpResponse(
        data, content_type="application/zip", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@router.post("/runs/{run_id}/photos", response={201: PhotoOut, 200: PhotoOut}, operation_id="sendPhoto")
def send_photo(
    request: HttpRequest, run_id: int, photo: File[UploadedFile], idempotency_key: Header[str], pattern: str = ""
) -> Status[dict[str, Any]]:
    person = require(request.user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    stored, new = actions.add_photo(run, person.username, photo.read(), photo.name or "photo", idempotency_key, pattern)
    return Status(201 if new else 200, photo_out(stored))


@router.patch("/photos/{photo_id}", response=PhotoOut, operation_id="correctPhoto")
def correct_photo(request: HttpRequest, photo_id: int, body: PhotoCorrection) -> dict[str, Any]:
    if body.removed is not None:
        return photo_out(actions.remove_photo(request.user, photo_id, body.removed))
    return photo_out(actions.correct_photo(request.user, photo_id, body.pattern, body.corners))


@router.post("/runs/{run_id}/analyse", response=RunOut, operation_id="analyseAgain")
def analyse_again(request: HttpRequest, run_id: int) -> dict[str, Any]:
    actions.analyse_again(request.user, run_id)
    return run_out(get_object_or_404(Run, pk=run_id))


@router.post("/runs/{run_id}/decisions", response=RunOut, operation_id="decideFinding")
def decide_finding(request: HttpRequest, run_id: int, body: DecisionIn) -> dict[str, Any]:
    actions.decide_finding(request.user, run_id, actions.Told(**body.model_dump()))
    return run_out(get_object_or_404(Run, pk=run_id))


@router.get("/photos/{photo_id}/closeup", operation_id="photoCloseup")
def photo_closeup(request: HttpRequest, photo_id: int, x: float, y: float, reach_px: float = 12) -> HttpResponse:
    """PNG: the place as this photo shows it, upright and enlarged, and beside it its neighbourhood, both stretched alike."""
    photo = get_object_or_404(Photo.objects.select_related("run__job"), pk=photo_id)
    data = core_adapter.closeup_png(photo, x, y, reach_px)
    return HttpResponse(data, content_type="image/png", headers={"Cache-Control": "private, max-age=86400"})


@router.get("/photos/{photo_id}/image", operation_id="photoImage")
def photo_image(request: HttpRequest, photo_id: int, size: Literal["thumb", "view"] = "thumb") -> HttpResponse:
    """The photo, upright, reduced: 320 px wide as thumbnail, 2000 px to look at."""
    photo = get_object_or_404(Photo, pk=photo_id)
    data, (width, height) = storage.reduced(photo.sha256, THUMBNAIL_PX if size == "thumb" else VIEW_PX)
    headers = {"Cache-Control": "private, max-age=86400", "X-Photo-Width": str(width), "X-Photo-Height": str(height)}
    return HttpResponse(data, content_type="image/jpeg", headers=headers)
