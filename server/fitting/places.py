"""Where the screws of a device sit, as somebody tapped them: kept by job, offered to the next job of the device."""

from collections.abc import Sequence

from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from lens.fitting import PlacedFastener
from lens.tables import not_known
from server.accounts.policy import require
from server.fitting.following import procedure_of
from server.fitting.models import FastenerPlaces
from server.inspections.models import Photo
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write

MOST_PLACES, MOST_ROWS = 60, 500


def places_of(job: Job) -> dict[str, FastenerPlaces]:
    """Of each group the places that count; a group whose places were all taken away has none."""
    last = {row.group: row for row in job.fastener_places.select_related("photo")}
    return {group: row for group, row in last.items() if row.places and not (row.photo and row.photo.removed)}


@transaction.atomic
def place_fasteners(
    user: Person, job_id: int, group: str, places: Sequence[PlacedFastener], photo_id: int | None = None
) -> None:
    """Say where the screws of a group sit. Raises BadInput for a group that the job's procedure does not have, or too many."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    procedure = procedure_of(job)
    if procedure is None or group not in procedure.fasteners:
        raise not_known("group of screws", group, procedure.fasteners if procedure else (), "unknown_group")
    if len(places) > MOST_PLACES:
        raise BadInput(f"A group has at most {MOST_PLACES} places.", "too_many_places")
    if job.fastener_places.count() >= MOST_ROWS:
        raise BadInput("The places of this job were changed too often. Reload the page.", "too_many_places")
    photo = get_object_or_404(Photo, pk=photo_id, run__job=job) if photo_id is not None else None
    told = [one.model_dump(mode="json") for one in places]
    last = job.fastener_places.filter(group=group).last()
    if last is not None and last.places == told and last.photo_id == photo_id:
        return
    FastenerPlaces.objects.create(job=job, group=group, places=told, photo=photo, by=person)
    write(
        job,
        person.username,
        "places",
        f"{procedure.fasteners[group].title}: {len(told)} places marked{' on a photo' if photo else ''}.",
        group=group,
        places=told,
        facets=("fit",),
    )
