"""The glass's side of a touch session: what to draw, and where its events go."""

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST, require_safe

from lens.errors import BadInput
from server.inspections.models import Access
from server.inspections.public import by_code
from server.touch import actions, core_adapter

MOST_PART_BYTES = 1024 * 1024


@require_safe
@by_code("glass")
def touch_state(request: HttpRequest, access: Access) -> HttpResponse:
    """The open session, or none: then the glass shows patterns."""
    session = access.run.touches.filter(status="open").order_by("-id").first()
    if session is None or (access.run.job.closed_at and access.run.stage != "recheck"):
        return JsonResponse({"session": None})
    panel, plan = access.run.panel, core_adapter.plan_of(session)
    return JsonResponse(
        {
            "session": session.pk,
            "panel": {"width": panel.width, "height": panel.height, "pitch_mm": panel.pitch_mm},
            "grid": plan.grid.model_dump(mode="json"),
            "steps": [step.model_dump(mode="json") for step in plan.steps],
            "done": [step["id"] for step in session.done],
            "origin_ms": session.origin_ms,
            "command": session.command.get("number", 0),
            "do": session.command.get("do"),
        }
    )


@csrf_exempt  # no cookie is used: the code in the address is the permission
@require_POST
@by_code("glass")
def touch_part(request: HttpRequest, access: Access, session_id: int) -> HttpResponse:
    if len(request.body) > MOST_PART_BYTES:
        raise BadInput("This part of a touch session is too long.", "touch_part")
    new = actions.take_part(access.run, session_id, core_adapter.read_part(request.body))
    return JsonResponse({"new": new}, status=201 if new else 200)
