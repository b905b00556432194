"""Photos as the panel shows them, in tiles: made by a worker when somebody wants to look, kept beside the photos, forgotten when nobody looked."""

import datetime as dt
import io
import zipfile

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import transaction
from django.db.models import F
from django.shortcuts import get_object_or_404
from django.utils import timezone
from procrastinate.contrib.django import app

from lens.canonical import digest
from lens.errors import BadInput
from lens.patterns import get_pattern
from lens.photo.rectified import VIEWS, View, difference, rectified, rectified_size, tiles
from lens.records import PhotoMap, PhotoReport
from lens.tables import not_known
from server.accounts.policy import require
from server.common.queue import Work
from server.inspections import core_adapter, storage
from server.inspections.models import Photo, RectifiedPhoto
from server.jobs.actions import Person

# somebody looks at it and waits, but photos that are to be judged come first
RECTIFYING = Work(RectifiedPhoto, "rectified", "rectified_id", priority=4)
KEPT = dt.timedelta(days=7)
FORGOTTEN_AT_ONCE = 20  # old ones whose files are taken away whenever a new one is asked for
GIVEN_UP = "Clear Lens failed on this photo, by an error of its own: the log has it."


def _placed(photo: Photo) -> tuple[PhotoReport, PhotoMap]:
    """What a photo was found to be, and where the panel is in it."""
    report = core_adapter.report_of(photo)
    if report is None or report.map is None:
        raise BadInput(
            "This photo was not registered to the panel, so it cannot be laid over it. Look at the photo itself.",
            "not_registered",
        )
    return report, report.map


@transaction.atomic
def ask_rectified(user: Person, photo_id: int, view: View) -> RectifiedPhoto:
    """Have a photo laid over the panel. What was made by the same registration and is still there is given at once."""
    require(user, "job.view")
    if view not in VIEWS:
        raise not_known("view of a photo", view, VIEWS, "unknown_view")
    photo = get_object_or_404(Photo.objects.select_related("run__job").select_for_update(of=("self",)), pk=photo_id)
    report, photo_map = _placed(photo)
    _forget_old()
    size = rectified_size(photo.run.panel, photo_map)
    registered = digest([report.pattern, photo_map.model_dump(mode="json")])
    one, _ = RectifiedPhoto.objects.get_or_create(
        photo=photo, view=view, registered=registered, defaults={"scale": size.scale, "levels": size.levels}
    )
    RectifiedPhoto.objects.filter(pk=one.pk).update(looked_at=timezone.now())
    waiting = one.asked > one.settled
    if not waiting and (one.problem or not (one.file and default_storage.exists(one.file))):
        RectifiedPhoto.objects.filter(pk=one.pk).update(problem="", file="")
        RECTIFYING.ask(one.pk)
    one.refresh_from_db()
    return one


def _forget_old() -> None:
    old = RectifiedPhoto.objects.filter(looked_at__lt=timezone.now() - KEPT, asked=F("settled"))
    for one in old[:FORGOTTEN_AT_ONCE]:
        if one.file:
            default_storage.delete(one.file)
        one.delete()


@app.task(name="rectify_photo")
def rectify_photo(rectified_id: int) -> None:
    one = RectifiedPhoto.objects.select_related("photo__run__job").filter(pk=rectified_id).first()
    if one is None:
        return  # forgotten meanwhile
    asked = RECTIFYING.begin(rectified_id)
    file, problem = RECTIFYING.attempt(rectified_id, "rectified photo", GIVEN_UP, lambda: _made(one))
    RectifiedPhoto.objects.filter(pk=rectified_id).update(file=file or "", problem=problem[:500])
    RECTIFYING.settle(rectified_id, asked)


RECTIFYING.task = rectify_photo


def _made(one: RectifiedPhoto) -> str:
    """The name of the stored file: a ZIP of tiles, LEVEL/COLUMN-ROW.jpg."""
    photo, panel = one.photo, one.photo.run.panel
    report, photo_map = _placed(photo)
    picture = rectified(storage.pixels(photo.sha256), panel, photo_map, one.scale)
    if one.view == "difference":
        if report.pattern is None:
            raise BadInput("It is not known which pattern this photo shows. Say so at the photo.", "no_pattern")
        picture = difference(picture, panel, get_pattern(report.pattern), photo.run.run_code, one.scale)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for tile in tiles(picture, one.levels):
            archive.writestr(_member(tile.level, tile.column, tile.row), tile.jpeg)
    data = out.getvalue()
    storage.leave_room(len(data))
    name = f"rectified/{one.pk}-{one.registered[:12]}.zip"
    default_storage.delete(name)  # of a worker that died before it could say so
    return str(default_storage.save(name, ContentFile(data)))


def _member(level: int, column: int, row: int) -> str:
    return f"{level}/{column}-{row}.jpg"


def tile_of(rectified_id: int, level: int, column: int, row: int) -> bytes:
    """One tile as JPEG. Raises BadInput where it is not made, or not any more."""
    one = get_object_or_404(RectifiedPhoto, pk=rectified_id)
    try:
        if not one.file:
            raise FileNotFoundError
        with default_storage.open(one.file, "rb") as file, zipfile.ZipFile(file) as archive:
            return archive.read(_member(level, column, row))
    except FileNotFoundError:
        raise BadInput("This view is not made, or not any more. Open it again.", "not_made") from None
    except KeyError:
        raise BadInput("There is no such tile in this view.", "no_tile") from None
