"""Re-tests that are due later; one may be asked for before and after the device is handed over."""

from datetime import date

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from lens.errors import BadInput
from server.accounts.policy import require
from server.jobs.actions import Person
from server.jobs.models import Job
from server.jobs.record import write
from server.touch.models import Recheck

MOST_DAYS_AHEAD = 730


@transaction.atomic
def ask(user: Person, job_id: int, due_on: date, reason: str) -> Recheck:
    """Ask for a re-test; the same one a second time is the first."""
    person = require(user, "job.change")
    job = get_object_or_404(Job.objects.select_for_update(), pk=job_id)
    if not reason.strip():
        raise BadInput(
            "Say why the device is to be looked at again: a system update, adhesive that cures.", "reason_missing"
        )
    if not 0 <= (due_on - timezone.localdate()).days <= MOST_DAYS_AHEAD:
        raise BadInput("Choose a day from today on, within two years.", "due_on")
    recheck, new = Recheck.objects.get_or_create(
        job=job, due_on=due_on, reason=reason.strip(), settled_at=None, defaults={"made_by": person}
    )
    if new:
        write(
            job,
            person.username,
            "recheck",
            f"Re-test asked for {due_on.isoformat()}: {recheck.reason}.",
            recheck=recheck.pk,
        )
    return recheck


@transaction.atomic
def settle(user: Person, recheck_id: int, because: str) -> Recheck:
    """It was done, or is not needed any more."""
    person = require(user, "job.change")
    recheck = get_object_or_404(Recheck.objects.select_for_update(of=("self",)).select_related("job"), pk=recheck_id)
    if recheck.settled_at is None:
        recheck.settled_at, recheck.settled_because = timezone.now(), because.strip()
        recheck.save(update_fields=["settled_at", "settled_because"])
        write(
            recheck.job,
            person.username,
            "recheck",
            f"Re-test settled: {recheck.settled_because or 'done'}.",
            recheck=recheck.pk,
        )
    return recheck
