"""Faults that one look shows alone, looked up in the photos of the look that it is held against."""

import logging
from collections.abc import Callable

from lens.inspecting import LookBack, LookedBack, asked_of_before, look_back, photos_key
from lens.records import Finding, Inspection
from server.common.queue import PASSING
from server.inspections import core_adapter
from server.inspections.models import Run

log = logging.getLogger("clear_lens.tasks")
# rooms that hold a look against one of another job say here against which
EARLIER: list[Callable[[Run], Run | None]] = []


def earlier_of(run: Run) -> Run | None:
    """The look that this one is held against: the dry fit of a closed device, else what another room says."""
    if run.stage == "closed":
        return Run.objects.select_related("job").filter(job_id=run.job_id, stage="dry_fit").first()
    return next((found for found in (tell(run) for tell in EARLIER) if found is not None), None)


def looked_back(run: Run | None, earlier: Inspection | None) -> tuple[LookedBack, ...]:
    """What was looked up for a run in that look."""
    return LookBack.model_validate(run.looked_back).of(earlier) if run is not None and run.looked_back else ()


def is_due(run: Run, earlier: Inspection) -> bool:
    """Whether that look was not asked yet about what this one alone shows."""
    return LookBack.model_validate(run.looked_back).photos != photos_key(earlier)


def look_back_from(run: Run) -> bool:
    """Ask the earlier look's photos, read anew where this process has not read them, and keep what they say; whether they say anything. When that
    fails, it is said as before what would have been seen then."""
    earlier = earlier_of(run)
    before, after = core_adapter.result_of(earlier), core_adapter.result_of(run)
    told = LookBack()
    if earlier is not None and before is not None and after is not None:
        asked = asked_of_before(before, after)
        try:
            kept = looked_back(run, before)
            known = tuple(place for one in asked for place in kept if place.is_of(one))
            # a photo more changes little: what was asked already is not asked again
            places = known if len(known) == len(asked) else _asked(earlier, asked)
            told = LookBack(photos=photos_key(before), places=places)
        except PASSING:
            raise
        except Exception:
            log.exception("run %s could not be looked up in run %s", run.pk, earlier.pk)
            told = LookBack(photos=photos_key(before))
    Run.objects.filter(pk=run.pk).update(looked_back=told.model_dump(mode="json", exclude_defaults=True))
    return bool(told.places)


def _asked(earlier: Run, asked: tuple[Finding, ...]) -> tuple[LookedBack, ...]:
    photos = earlier.photos.filter(removed=False).order_by("id")
    reads = [(photo.name, core_adapter.read(photo, earlier)) for photo in photos]
    return look_back(earlier.panel, reads, asked, earlier.row_time_us)
