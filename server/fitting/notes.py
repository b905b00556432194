"""Photos at a step, and what was found on the way or done by us: one row each, with who and when."""

from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from server.accounts.policy import require
from server.fitting.models import FitNote
from server.inspections.models import Photo
from server.jobs.actions import Person, lock_open_job
from server.jobs.record import write

MOST_NOTES = 200


@transaction.atomic
def add_note(
    user: Person,
    job_id: int,
    step: str,
    text: str,
    place: str,
    was_so: bool | None,
    consent_needed: bool,
    photo_id: int | None,
) -> FitNote:
    """Note what was met at a step. Raises BadInput for a note that says and shows nothing, a photo of another job, or too many."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    if not text.strip() and photo_id is None:
        raise BadInput("Say what it is, or photograph it.", "empty_note")
    if was_so is not None and not text.strip():
        raise BadInput("Say in a few words what was found or what happened.", "empty_note")
    if FitNote.objects.filter(job=job).count() >= MOST_NOTES:
        raise BadInput(f"A job holds at most {MOST_NOTES} notes.", "too_many_notes")
    photo = get_object_or_404(Photo, pk=photo_id, run__job=job) if photo_id is not None else None
    known = FitNote.objects.filter(job=job, photo=photo, taken_back=False).first() if photo is not None else None
    if known is not None:
        return known  # a second try of the same photo
    note = FitNote.objects.create(
        job=job,
        step=step[:40],
        text=text.strip()[:300],
        place=place.strip()[:80],
        was_so=was_so,
        consent_needed=consent_needed,
        photo=photo,
        by=person,
    )
    if was_so is not None:
        whose = "Found on the way" if was_so else "Done by us"
        consent = " The owner is asked." if consent_needed else ""
        where = f" ({note.place})" if note.place else ""
        write(
            job,
            person.username,
            "fit_note",
            f"{whose}: {note.text}{where}.{consent}",
            note=note.pk,
            step=note.step,
            facets=("fit",),
        )
    return note


@transaction.atomic
def take_back_note(user: Person, job_id: int, note_id: int) -> None:
    """A note was wrong: it is not shown any more, and the record keeps both."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    note = get_object_or_404(FitNote, pk=note_id, job=job)
    if not note.taken_back:
        note.taken_back = True
        note.save(update_fields=["taken_back"])
        write(
            job,
            person.username,
            "fit_note",
            f"Note taken back: {note.text or 'a photo'}.",
            note=note.pk,
            facets=("fit",),
        )
