"""Where the screws of a device sit and where no pick may go, as somebody marked it: kept by job, offered to the next job of the device."""

from collections.abc import Sequence

from django.db import transaction
from django.db.models import Q, QuerySet
from django.http import Http404
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from lens.fitting import KeepOut, PlacedFastener
from lens.tables import not_known
from server.accounts.policy import require
from server.fitting.following import procedure_of
from server.fitting.models import FastenerPlaces, KeepOutFound
from server.inspections.models import Photo
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write

MOST_PLACES, MOST_ROWS, MOST_KEEP_OUTS = 60, 500, 20


def places_of(job: Job) -> dict[str, FastenerPlaces]:
    """Of each group the places that count; a group whose places were all taken away has none."""
    last = {row.group: row for row in job.fastener_places.select_related("photo")}
    return {group: row for group, row in last.items() if row.places and not (row.photo and row.photo.removed)}


def _photos_of(job: Job) -> QuerySet[Photo]:
    """Photos of this job, and of earlier ones of the device: their marks are offered, and corrected there."""
    of_device = Q(run__job__device_id=job.device_id) if job.device_id is not None else Q(pk=None)
    return Photo.objects.filter(Q(run__job=job) | of_device)


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
    photo = get_object_or_404(_photos_of(job), pk=photo_id) if photo_id is not None else None
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


def keep_outs_found(job: Job) -> list[KeepOutFound]:
    """What stands for this device, from this job and earlier ones."""
    of_device = Q(device_id=job.device_id) if job.device_id is not None else Q(pk=None)
    return list(KeepOutFound.objects.filter(Q(job=job) | of_device, taken_back=False).select_related("by"))


@transaction.atomic
def add_keep_out(user: Person, job_id: int, place: KeepOut) -> None:
    """Say where no pick may go on this device. Raises BadInput for a stretch that is none, or too many."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    found = keep_outs_found(job)
    if len(found) >= MOST_KEEP_OUTS:
        raise BadInput(
            f"A device has at most {MOST_KEEP_OUTS} keep-outs of its own. Take one back first.", "too_many_keep_outs"
        )
    kept = place.model_dump(mode="json")
    if any(row.place == kept for row in found):
        return
    KeepOutFound.objects.create(job=job, device_id=job.device_id, place=kept, by=person)
    words = f"Keep-out noted: {place.what}, {place.edge} edge, {place.depth_mm:g} mm deep."
    write(job, person.username, "keep_out", words, place=kept, facets=("fit",))


@transaction.atomic
def take_back_keep_out(user: Person, job_id: int, keep_out_id: int) -> None:
    """It was wrong; whoever works on the device may say so, whoever noted it."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    row = next((one for one in keep_outs_found(job) if one.pk == keep_out_id), None)
    if row is None:
        raise Http404("Somebody else took it back meanwhile.")
    row.taken_back = True
    row.save(update_fields=["taken_back"])
    write(
        job, person.username, "keep_out", f"Keep-out taken back: {row.place['what']}.", place=row.place, facets=("fit",)
    )
