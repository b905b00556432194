"""What a code opens: one run at a time, as glass, as hand camera or to test functions, while its maker may work here and the run may grow. A
link for the owner at home opens glass and hand camera both, for days, at the shop's public address."""

from datetime import datetime, timedelta
from typing import Any, Literal

from django.conf import settings
from django.db import transaction
from django.db.models import Q, QuerySet
from django.shortcuts import get_object_or_404
from django.utils import timezone

from lens.errors import BadInput
from lens.records import STAGES
from server.accounts.policy import may, require
from server.common.notify import notify
from server.common.tickets import end
from server.inspections.growing import lock_stage
from server.inspections.models import Access, Run
from server.jobs.record import write
from server.shop.actions import the_shop

Kind = Literal["glass", "snap", "sense", "home"]
KINDS: tuple[Kind, ...] = ("glass", "snap", "sense", "home")
WORDS = {"glass": "device page", "snap": "phone camera", "sense": "test of functions", "home": "owner's page at home"}
PATHS = {"glass": "g", "snap": "s", "sense": "f", "home": "h"}
AT_HOME: tuple[Kind, ...] = ("glass", "snap")  # what a link for the owner opens beside its own page
HOME_DAYS = 3  # an owner looks at mail in the evening, and not every day


def _expiry(kind: str) -> datetime:
    hours = 24 * HOME_DAYS if kind == "home" else settings.CODE_LIFETIME_HOURS
    return timezone.now() + timedelta(hours=hours)


def url_of(access: Access) -> str:
    """The address that a code stands in."""
    base = the_shop().public_address if access.kind == "home" else settings.PUBLIC_URL
    return f"{base or settings.PUBLIC_URL}/{PATHS[access.kind]}/{access.code}"


def living(**which: Any) -> QuerySet[Access]:
    """Codes that are neither expired nor revoked."""
    return Access.objects.filter(expires_at__gt=timezone.now(), revoked_at=None, **which)


def open_access(code: str, kind: Kind) -> Access | None:
    """The access of a code, None when it is unknown, expired, revoked, of the other kind, or its maker may not work here any more."""
    if "\0" in code:
        return None
    found = living(code=code.lower()).select_related("run__job", "made_by").first()
    fits = found is not None and (found.kind == kind or (found.kind == "home" and kind in AT_HOME))
    if found is None or not fits or not may(found.made_by, "job.change"):
        return None
    return found


@transaction.atomic
def make_access(user: Any, run_id: int, kind: str) -> Access:
    """A fresh code for the glass or the hand camera."""
    person = require(user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    if kind not in KINDS:
        raise BadInput(f"A code opens one of: {', '.join(KINDS)}.", "unknown_kind")
    job = lock_stage(run.job_id, run.stage)
    if kind == "home":
        if not the_shop().public_address:
            raise BadInput(
                "This shop has no public address, so nobody outside reaches it. A lead enters it under Settings, Shop.",
                "no_public_address",
            )
        write(job, person.username, "code", f"A link for the owner at home was made, for {HOME_DAYS} days.", run=run.pk)
    return Access.objects.create(run=run, kind=kind, expires_at=_expiry(kind), made_by=person)


@transaction.atomic
def renew_access(user: Any, access_id: int) -> Access:
    """Let a code that still opens go on for another while."""
    require(user, "job.change")
    access = get_object_or_404(living().select_for_update(of=("self",)).select_related("run"), pk=access_id)
    lock_stage(access.run.job_id, access.run.stage)
    access.expires_at = _expiry(access.kind)
    access.save(update_fields=["expires_at"])
    end(access=[access.pk])  # open streams come back with the new time
    return access


@transaction.atomic
def move_access(user: Any, access_id: int, run_id: int) -> Access:
    """Let the page that holds a code go on at another stage of its job, so that it is scanned once. Raises BadInput for another job's, and between
    the device and an external screen."""
    person = require(user, "job.change")
    access = get_object_or_404(living().select_for_update(of=("self",)).select_related("run__job"), pk=access_id)
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    if run.job_id != access.run.job_id:
        raise BadInput("A code goes on within its own job. Open a new one for this job.", "other_job")
    if access.kind != "snap" and ("external" in (run.stage, access.run.stage)) and run.stage != access.run.stage:
        raise BadInput("The external screen has a page of its own. Open a new code for it.", "other_screen")
    job = lock_stage(run.job_id, run.stage)
    if access.run_id != run.pk:
        if access.kind in ("glass", "home"):
            Run.objects.filter(pk=access.run_id).update(glass=None)  # nothing shows that run's patterns any more
            notify(run.job_id, "glass", access.run_id)
        Access.objects.filter(pk=access.pk).update(run=run)
        text = f"The {WORDS[access.kind]} goes on at '{STAGES[run.stage].title}'."
        write(job, person.username, "code", text, run=run.pk)
        end(access=[access.pk])  # the page comes back at once, and is told where it is now
    access.run = run
    return access


@transaction.atomic
def revoke_access(user: Any, access_id: int) -> Access:
    """Let a code open nothing from now on; pages that hold it are cut off."""
    person = require(user, "job.change")
    access = get_object_or_404(Access.objects.select_related("run__job"), pk=access_id)
    if access.revoked_at is None:
        revoke(Access.objects.filter(pk=access.pk))
        write(access.run.job, person.username, "code", f"Code for the {WORDS[access.kind]} revoked.", run=access.run_id)
        access.refresh_from_db(fields=["revoked_at"])
    return access


def revoke(codes: QuerySet[Access]) -> None:
    """Revoke these and cut their pages off. Call it inside the action's transaction."""
    pks = list(codes.filter(revoked_at=None).values_list("pk", flat=True))
    Access.objects.filter(pk__in=pks).update(revoked_at=timezone.now())
    if pks:
        end(access=pks)


def revoke_at_hand_over(job_id: int) -> None:
    """A job that is handed over ends its codes; re-tests that are asked for keep theirs."""
    revoke(Access.objects.filter(~Q(run__stage="recheck"), run__job_id=job_id))
