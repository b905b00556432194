"""Labels and backs of panels, read from a photo that is not kept."""

from django.http import HttpRequest
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile

from lens.errors import BadInput
from lens.label import Back, LabelReading, Register, read_back_photo, read_label_photo
from lens.photo import MAX_BYTES
from server.parts.api import PanelOut
from server.parts.models import PanelModel

router = Router(tags=["reading"])


class LabelOut(Schema):
    """``known``: the candidates that the register has, by their number."""

    reading: LabelReading
    known: list[PanelOut]


def _photo(file: UploadedFile) -> bytes:
    if (file.size or 0) > MAX_BYTES:
        raise BadInput("The photo is too large.", "photo_size")
    return bytes(file.read())


@router.post("/label", response=LabelOut, operation_id="readLabel")
def read_label(request: HttpRequest, file: File[UploadedFile]) -> LabelOut:
    """What a panel's label says, held to the register; by shape alone where nothing of it is known."""
    names = list(PanelModel.objects.filter(retired=False).values_list("name", flat=True))
    data = _photo(file)
    told = read_label_photo(data, Register(names)) if names else read_label_photo(data)
    if names and not told.candidates:
        told = read_label_photo(data)
    known = PanelModel.objects.filter(name__in=[one.part_number for one in told.candidates], retired=False)
    return LabelOut(reading=told, known=[PanelOut.from_orm(panel) for panel in known])


@router.post("/back", response=Back, operation_id="readBack")
def read_back(
    request: HttpRequest,
    file: File[UploadedFile],
    active_w: Form[float | None] = None,
    active_h: Form[float | None] = None,
) -> Back:
    """What the back of a panel tells: outline by a bank card, plug, mounting."""
    active = (active_w, active_h) if active_w and active_h and active_w > 0 and active_h > 0 else None
    return read_back_photo(_photo(file), active)
