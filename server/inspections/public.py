"""The two pages that other devices open by code: the glass and the hand camera. A code is all they hold, and it opens one run."""

import json
import math
from collections.abc import Callable
from functools import lru_cache, wraps
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST, require_safe

from lens.errors import BadInput
from lens.panel import make_panel
from lens.patterns import encode_png, get_pattern, render
from lens.records import STAGES
from server.common.errors import Busy, Conflict, busy, problem
from server.common.notify import notify
from server.common.pages import page
from server.inspections.actions import UNMEASURED, add_photo, step_pattern
from server.inspections.codes import Kind, open_access
from server.inspections.core_adapter import stored_report
from server.inspections.growing import growing, refuse_closed
from server.inspections.models import Access, Run

EXPIRED = "This code has expired or was revoked. Open a new one from the bench and scan it again."
MAX_REPORT_BYTES = 4096
MOST_PK = 2**63 - 1


View = Callable[..., HttpResponse]


def by_code(kind: Kind) -> Callable[[View], View]:
    """Give the view the access that the address's code opens; say clearly when it opens nothing, or when the input is bad."""

    def wrap(view: View) -> View:
        @wraps(view)
        def opened(request: HttpRequest, code: str, **rest: str) -> HttpResponse:
            access = open_access(code, kind)
            if access is None:
                return problem(410, "code-expired", EXPIRED)
            try:
                return view(request, access, **rest)
            except BadInput as error:
                return problem(422, error.code.replace("_", "-"), error.message)
            except Conflict as error:
                return problem(409, "conflict", str(error))
            except Busy:
                return busy()

        return opened

    return wrap


@require_safe
def glass_page(request: HttpRequest, code: str) -> HttpResponse:
    # the page itself says what an expired code means, in a form that fits the device
    return page(request, "glass.html")


@require_safe
def snap_page(request: HttpRequest, code: str) -> HttpResponse:
    return page(request, "snap.html")


@require_safe
@by_code("glass")
def glass_state(request: HttpRequest, access: Access) -> HttpResponse:
    run = access.run
    return JsonResponse(
        {
            "job": run.job.title,
            "run": run.pk,
            "stage": STAGES[run.stage].title,
            "panel": {"width": run.panel.width, "height": run.panel.height},
            "pattern": run.pattern,
            "step": run.pattern_step,
            "patterns": run.chosen_set.patterns,
        }
    )


@lru_cache(maxsize=32)
def _png(width: int, height: int, pattern_id: str, run_code: int) -> bytes:
    return encode_png(render(make_panel(width, height), get_pattern(pattern_id), run_code))


@require_safe
@by_code("glass")
def glass_pattern(request: HttpRequest, access: Access, pattern_id: str) -> HttpResponse:
    try:
        data = _png(access.run.panel.width, access.run.panel.height, pattern_id, access.run.run_code)
    except BadInput as error:
        return problem(404, error.code, error.message)
    return HttpResponse(data, content_type="image/png", headers={"Cache-Control": "private, max-age=43200"})


def _small_json(request: HttpRequest) -> dict[str, Any]:
    if len(request.body) > MAX_REPORT_BYTES:
        raise BadInput("The report is too long.", "too_long")
    try:
        told = json.loads(request.body)
    except ValueError:
        raise BadInput("The report is no JSON.", "not_json") from None
    if not isinstance(told, dict):
        raise BadInput("The report is no JSON object.", "not_json")
    return told


def _number(told: dict[str, Any], name: str) -> float | None:
    value = told.get(name)
    return float(value) if isinstance(value, (int, float)) and math.isfinite(value) and abs(value) < 1e6 else None


@csrf_exempt  # no cookie is used: the code in the address is the permission
@require_POST
@by_code("glass")
def glass_report(request: HttpRequest, access: Access) -> HttpResponse:
    """What the glass says of itself: its true pixels, whether it is full screen, touch points."""
    told = _small_json(request)
    numbers = ("canvas_width", "canvas_height", "ratio", "touch_points", "rim_px")
    glass: dict[str, Any] = {name: _number(told, name) for name in numbers}
    glass |= {name: bool(told.get(name)) for name in ("full_screen", "exact", "awake")}
    glass["seen_at"] = timezone.now().isoformat()
    if not growing(access.run_id).update(glass=glass):
        refuse_closed(access.run_id)
    notify(access.run.job_id, "glass", access.run_id)
    return JsonResponse({"ok": True})


def _step(request: HttpRequest, access: Access) -> HttpResponse:
    """Next or previous pattern of the set, from the glass or the hand camera: the same keys on all three surfaces."""
    move = 1 if (_number(_small_json(request), "move") or 0) >= 0 else -1
    step_pattern(access.run_id, move)
    return JsonResponse({"ok": True})


glass_step = csrf_exempt(require_POST(by_code("glass")(_step)))
snap_step = csrf_exempt(require_POST(by_code("snap")(_step)))


def _photos(access: Access) -> list[dict[str, Any]]:
    out = []
    for photo in access.run.photos.filter(removed=False):
        report = stored_report(photo) or {}
        problems = [one["message"] for one in report.get("problems", [])]
        out.append(
            {
                "key": photo.client_key,
                "name": photo.name,
                "status": photo.status,
                "pattern": report.get("pattern"),
                "problems": problems,
            }
        )
    return out


@require_safe
@by_code("snap")
def snap_state(request: HttpRequest, access: Access) -> HttpResponse:
    run = access.run
    return JsonResponse(
        {
            "job": run.job.title,
            "run": run.pk,
            "stage": STAGES[run.stage].title,
            "pattern": "" if run.stage in UNMEASURED else run.pattern,
            "patterns": [] if run.stage in UNMEASURED else run.chosen_set.patterns,
            "photos": _photos(access),
            "closed": run.job.closed_at is not None,
        }
    )


def _run_of(request: HttpRequest, access: Access) -> Run:
    """The run that a photo was shot for: it may have waited on the phone while the page went on to another stage of the job."""
    told = request.POST.get("run", "")
    if not told.isdigit() or int(told) == access.run_id:
        return access.run
    found = Run.objects.select_related("job").filter(pk=min(int(told), MOST_PK), job_id=access.run.job_id).first()
    if found is None:
        raise BadInput("This photo was shot for another job. Take it with that job's code.", "other_job")
    return found


@csrf_exempt
@require_POST
@by_code("snap")
def snap_photo(request: HttpRequest, access: Access) -> HttpResponse:
    """One photo; its Idempotency-Key makes sure that a second try stores nothing new."""
    file = request.FILES.get("photo")
    if file is None:
        return problem(422, "no-photo", "No photo came with it. Choose or shoot one and send again.")
    who = "the owner at home" if access.kind == "home" else f"phone camera of {access.made_by.username}"
    photo, new = add_photo(
        _run_of(request, access), who, file.read(), file.name or "photo", request.headers.get("Idempotency-Key", "")
    )
    return JsonResponse({"id": photo.pk, "new": new}, status=201 if new else 200)
