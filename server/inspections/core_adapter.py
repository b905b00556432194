"""Between stored runs and the core: photos read once a process, results as they are."""

import logging
from collections import OrderedDict
from threading import Lock
from typing import Any

import cv2
import numpy as np

from lens.acceptance import Profile, Ruling, for_dry_fit
from lens.errors import BadInput
from lens.inspecting import PhotoFile, Read, inspect_reads, judge_again, read_file
from lens.photo import closeup
from lens.records import Inspection, PhotoReport
from lens.records.upgrade import stamped, upgraded
from server.common.queue import MOST_TRIES, PASSING
from server.inspections import storage
from server.inspections.models import SHORT_SET, Photo, Run
from server.profiles.actions import find_profile

log = logging.getLogger("clear_lens.photos")
# A read photo of a 1920x1080 panel takes some 40 MB; a set is fused again whenever a photo joins it.
MOST_CACHED_BYTES = 300 * 1024 * 1024
_reads: OrderedDict[tuple[object, ...], tuple[Read, int]] = OrderedDict()
_lock = Lock()


def _key(photo: Photo, run: Run) -> tuple[object, ...]:
    return (
        photo.sha256,
        photo.pattern_given,
        str(photo.corners_given),
        run.run_code,
        run.panel.width,
        run.panel.height,
    )


def read(photo: Photo, run: Run) -> Read:
    """The photo as the core sees it, from memory when this process has read it before."""
    key = _key(photo, run)
    with _lock:
        if key in _reads:
            _reads.move_to_end(key)
            return _reads[key][0]
    if photo.tries > MOST_TRIES:
        return BadInput(
            "The process that reads photos ended at this one several times, so it is left out. Take it out and shoot again, from a little further "
            "to the side or at a lower resolution.",
            "internal",
        )
    corners = tuple((float(x), float(y)) for x, y in photo.corners_given) if photo.corners_given else None
    try:
        file = PhotoFile(photo.name, storage.load(photo.sha256), photo.pattern_given or None, corners)
    except FileNotFoundError:
        log.error("the file of photo %s is not in the store: %s", photo.pk, photo.sha256)
        return BadInput(
            "The photo's file is missing from the store. Send the same photo again, or restore it from a backup.",
            "file_missing",
        )
    try:
        told = read_file(run.panel, file, run.run_code)
    except PASSING:
        raise
    except Exception:
        # one photo that the core stumbles over must not keep the others of its set from being judged
        log.exception("photo %s of run %s could not be read", photo.pk, run.pk)
        return BadInput(
            "Clear Lens failed on this photo. That is an error of the program, not of the photo: the log has it. Take the photo out and shoot "
            "again from a little further to the side.",
            "internal",
        )
    with _lock:
        _reads[key] = (told, _bytes_of(told))
        while len(_reads) > 1 and sum(size for _, size in _reads.values()) > MOST_CACHED_BYTES:
            _reads.popitem(last=False)
    return told


def _bytes_of(told: object) -> int:
    """Memory of the arrays in a read photo."""
    if isinstance(told, np.ndarray):
        return int(told.nbytes)
    parts = told if isinstance(told, tuple) else vars(told).values() if hasattr(told, "__dict__") else ()
    return sum(_bytes_of(part) for part in parts)


def fuse(photos: list[Photo], run: Run) -> Inspection:
    """All photos of a run, fused."""
    return inspect_reads(run.panel, [(photo.name, read(photo, run)) for photo in photos], row_time_us=run.row_time_us)


def judged(run: Run, measured: Inspection) -> Inspection:
    """A measurement judged by the job's profile as it stands, people's decisions included."""
    before = (
        result_of(Run.objects.filter(job_id=run.job_id, stage="dry_fit").first()) if run.stage == "closed" else None
    )
    profile = find_profile(run.job.profile)
    if run.stage == "dry_fit" and run.pattern_set == SHORT_SET and not run.own_set:
        profile = for_dry_fit(profile)
    return judge_again(run.panel, measured, profile, rulings_of(run), before)


def judged_by(run: Run, measured: Inspection, profile: Profile) -> Inspection:
    """The same measurement by another profile, people's decisions included."""
    return judge_again(run.panel, measured, profile, rulings_of(run))


def closeup_png(photo: Photo, x: float, y: float, reach_px: float) -> bytes:
    """A place of the panel cut out of one photo; raises BadInput when the photo was not registered or does not show it."""
    report = report_of(photo)
    if report is None or report.map is None:
        raise BadInput(
            "This photo was not registered to the panel, so a place cannot be found in it.", "not_registered"
        )
    picture = closeup(storage.pixels(photo.sha256), photo.run.panel, report.map, x, y, reach_px)
    return bytes(cv2.imencode(".png", picture)[1])


def store_result(run: Run, result: Inspection | None) -> None:
    """Put a result into a run; the caller saves it."""
    run.result = stamped("inspection", result.model_dump(mode="json")) if result is not None else None


def stored_result(run: Run) -> dict[str, Any] | None:
    """The stored result in today's shape, not checked again: it was when it was made."""
    return upgraded("inspection", run.result) if run.result else None


def result_of(run: Run | None) -> Inspection | None:
    """The stored result."""
    stored = stored_result(run) if run is not None else None
    return Inspection.model_validate(stored) if stored else None


def store_report(photo: Photo, report: PhotoReport) -> None:
    """Put a report into a photo; the caller saves it."""
    photo.report = stamped("photo_report", report.model_dump(mode="json"))


def stored_report(photo: Photo) -> dict[str, Any] | None:
    """The stored report in today's shape."""
    return upgraded("photo_report", photo.report) if photo.report else None


def report_of(photo: Photo) -> PhotoReport | None:
    """The stored report."""
    stored = stored_report(photo)
    return PhotoReport.model_validate(stored) if stored else None


def rulings_of(run: Run) -> list[Ruling]:
    """People's decisions that stand."""
    return [Ruling.model_validate(upgraded("ruling", one.ruling)) for one in run.judgements.all() if not one.withdrawn]
