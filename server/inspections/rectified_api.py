"""Photos laid over the panel, in tiles, for looking at them down to the pixel."""

from typing import Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status

from lens.photo.rectified import TILE_PX
from server.inspections.models import RectifiedPhoto
from server.inspections.rectifying import ask_rectified, tile_of

router = Router(tags=["inspections"])
TILES_STAY_S = 7 * 86_400  # a tile's address names the registration it was made by: it never changes


class RectifiedIn(Schema):
    """``difference``: what differs from what was sent, as colours."""

    view: Literal["photo", "difference"] = "photo"


class RectifiedOut(Schema):
    """``scale``: px of level 0 per panel px; each further level is half of the one before; tiles are ``tile_px`` a side, smaller at the rims."""

    id: int
    photo_id: int
    view: Literal["photo", "difference"]
    state: Literal["waiting", "made", "failed"]
    problem: str
    scale: int
    levels: int
    tile_px: int


def _out(one: RectifiedPhoto) -> RectifiedOut:
    state: Literal["waiting", "made", "failed"] = "waiting"
    if one.asked == one.settled:
        state = "failed" if one.problem else "made"
    return RectifiedOut(
        id=one.pk,
        photo_id=one.photo_id,
        view="difference" if one.view == "difference" else "photo",
        state=state,
        problem=one.problem,
        scale=one.scale,
        levels=one.levels,
        tile_px=TILE_PX,
    )


@router.post("/photos/{photo_id}/rectified", response={202: RectifiedOut}, operation_id="askRectified")
def ask(request: HttpRequest, photo_id: int, body: RectifiedIn) -> Status[RectifiedOut]:
    """Have a photo laid over the panel, in the background; what is there already is given at once."""
    return Status(202, _out(ask_rectified(request.user, photo_id, body.view)))


@router.get("/rectified/{rectified_id}", response=RectifiedOut, operation_id="getRectified")
def get(request: HttpRequest, rectified_id: int) -> RectifiedOut:
    return _out(get_object_or_404(RectifiedPhoto, pk=rectified_id))


@router.get("/rectified/{rectified_id}/{level}/{column}/{row}", operation_id="rectifiedTile")
def tile(request: HttpRequest, rectified_id: int, level: int, column: int, row: int) -> HttpResponse:
    """One tile as JPEG."""
    data = tile_of(rectified_id, level, column, row)
    headers = {"Cache-Control": f"private, max-age={TILES_STAY_S}, immutable"}
    return HttpResponse(data, content_type="image/jpeg", headers=headers)
