"""Frames of the hand camera's live picture: each is judged at once and kept nowhere."""

import math

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST

from lens.errors import BadInput
from lens.patterns import get_pattern
from lens.photo import decode_frame
from lens.photo.guidance import MAY_STAY, guide
from lens.photo_file import upright_size
from server.inspections.actions import UNMEASURED
from server.inspections.models import Access
from server.inspections.public import by_code

MOST_FRAME_BYTES = 800 * 1024  # a reduced frame of noise at full quality; ordinary ones have 20 to 100 kB
MOST_FRAME_PX = 1600  # along its long side
LARGEST_FACTOR = 20.0  # a still of 25 000 px: no phone takes one


@csrf_exempt  # no cookie is used: the code in the address is the permission
@require_POST
@by_code("snap")
def snap_frame(request: HttpRequest, access: Access) -> HttpResponse:
    """What one reduced JPEG frame, the body, lacks. ``?still=`` are the photo's pixels for each of the frame's, along a side."""
    run = access.run
    if run.stage in UNMEASURED:
        raise BadInput("These photos show the device itself; no pattern guides them.", "no_pattern")
    if int(request.META.get("CONTENT_LENGTH") or 0) > MOST_FRAME_BYTES:
        raise BadInput("The frame is too large. Reload the page.", "frame_size")
    # by its head, before anything of it is unpacked: a small file may be a huge picture
    if max(upright_size(request.body)) > MOST_FRAME_PX:
        raise BadInput("The frame has too many pixels. Reload the page.", "frame_size")
    told = guide(decode_frame(request.body), run.panel, run.pattern, run.run_code, _still_factor(request))
    return JsonResponse(
        {
            "sign": told.sign,
            "detail": told.detail,
            "may_stay": told.sign in MAY_STAY,
            "corners": told.corners,
            "px_per_px": told.px_per_px,
            "at": told.at,
            "pattern": run.pattern,
            "title": get_pattern(run.pattern).title,
            "step": run.pattern_step,
        }
    )


def _still_factor(request: HttpRequest) -> float:
    try:
        value = float(request.GET.get("still", "1"))
    except ValueError:
        value = math.nan
    if not 0 < value <= LARGEST_FACTOR:
        raise BadInput("'still' is how many pixels the photo has for each of the frame's, at most 20.", "still_factor")
    return value
