"""Between stored runs and the core: photos read once a process, results as they are."""

import logging
from collections import OrderedDict
from threading import Lock

import cv2

from lens.acceptance import Ruling
from lens.errors import BadInput
from lens.inspecting import PhotoFile, Read, inspect_reads, judge_again, read_file
from lens.photo import closeup
from lens.records import Inspection, PhotoReport
from server.inspections import storage
from server.inspections.models import Photo, Run
from server.profiles.actions import find_profile

log = logging.getLogger("clear_lens.photos")
# A read photo of a 1920x1080 panel takes some 40 MB; a set is fused again whenever a photo joins it.
MAX_READS = 14
_reads: OrderedDict[tuple[object, ...], Read] = OrderedDict()
_lock = Lock()


def _key(photo: Photo, run: Run) -> tuple[object, ...]:
    return (photo.sha256, photo.pattern_given, str(photo.corners_given), run.run_code, run.panel.width, run.panel.height)


def read(photo: Photo, run: Run) -> Read:
    """The photo as the core sees it, from memory when this process has read it before."""
    key = _key(photo, run)
    with _lock:
        if key in _reads:
            _reads.move_to_end(key)
            return _reads[key]
    corners = tuple((float(x), float(y)) for x, y in photo.corners_given) if photo.corners_given else None
    file = PhotoFile(photo.name, storage.load(photo.sha256), photo.pattern_given or None, corners)
    try:
        told = read_file(run.panel, file, run.run_code)
    except Exception:
        # one photo that the core stumbles over must not keep the others of its set from being judged
        log.exception("photo %s of run %s could not be read", photo.pk, run.pk)
        return BadInput(
            "Clear Lens failed on this photo. That is an error of the program, not of the photo: the log has it. Take the photo out and shoot "
            "again from a little further to the side.", "internal")
    with _lock:
        _reads[key] = told
        while len(_reads) > MAX_READS:
            _reads.popitem(last=False)
    return told


def fuse(photos: list[Photo], run: Run) -> Inspection:
    """All photos of a run, fused."""
    return inspect_reads(run.panel, [(photo.name, read(photo, run)) for photo in photos], row_time_us=run.row_time_us)


def judged(run: Run, measured: Inspection) -> Inspection:
    """A measurement judged by the job's profile as it stands, people's decisions included."""
    rulings = [Ruling.model_validate(one.ruling) for one in run.judgements.all() if not one.withdrawn]
    return judge_again(run.panel, measured, find_profile(run.job.profile), rulings)


def closeup_png(photo: Photo, x: float, y: float, reach_px: float) -> bytes:
    """A place of the panel cut out of one photo; raises BadInput when the photo was not registered or does not show it."""
    report = PhotoReport.model_validate(photo.report) if photo.report else None
    if report is None or report.map is None:
        raise BadInput("This photo was not registered to the panel, so a place cannot be found in it.", "not_registered")
    picture = closeup(storage.pixels(photo.sha256), photo.run.panel, report.map, x, y, reach_px)
    return bytes(cv2.imencode(".png", picture)[1])


def result_of(run: Run | None) -> Inspection | None:
    """The stored result."""
    return Inspection.model_validate(run.result) if run is not None and run.result else None
