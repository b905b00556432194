"""Which procedure a job follows: the one that it was begun with, else the shop's own or the shipped one as it is now."""

from functools import lru_cache

from django.db import transaction

from lens.canonical import digest
from lens.errors import BadInput
from lens.fitting import (
    OWN,
    Estimate,
    Procedure,
    builds_for,
    estimate_of,
    get_procedure,
    minutes_of,
    procedure_for,
    read_procedure,
    with_sub,
    without_subs,
)
from server.accounts.policy import require
from server.fitting.models import FollowedProcedure, OwnProcedure
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write


@lru_cache(maxsize=200)
def _read(text: str, slug: str) -> Procedure:
    return read_procedure(text, slug)


@lru_cache(maxsize=500)
def _kept(pk: int, sha256: str) -> Procedure:
    """What a job began with, read once for each version: every answer about a job asks for it several times."""
    return Procedure.model_validate(
        FollowedProcedure.objects.values_list("content", flat=True).get(pk=pk, sha256=sha256)
    )


def current_procedure(build: str, device: str) -> Procedure | None:
    """As it is now; None where the build is not known, or devices of that kind are not built so."""
    shipped = procedure_for(build, device)
    if shipped is not None or not build:
        return shipped
    own = OwnProcedure.objects.filter(slug=build, retired=False).first()
    if own is None:
        return None
    procedure = _read(own.text, own.slug)
    return procedure if device in procedure.devices else None


def followed_of(job: Job) -> FollowedProcedure | None:
    """What the job was begun with, as long as it is still built in that way."""
    followed = getattr(job, "followed", None)
    return followed if followed is not None and followed.content["id"] == job.build else None


def procedure_of(job: Job) -> Procedure | None:
    """The procedure that a job follows."""
    followed = followed_of(job)
    if followed is not None:
        return _kept(followed.pk, followed.sha256)
    return current_procedure(job.build, job.device_type)


def base_build(job: Job) -> str:
    """The shipped build that a job's one was made of, or is."""
    if not OWN.fullmatch(job.build):
        return job.build
    return OwnProcedure.objects.filter(slug=job.build).values_list("based_on", flat=True).first() or ""


def keep_procedure(job: Job, procedure: Procedure) -> None:
    """From its first step on a job follows this version."""
    if followed_of(job) is None:
        follow_as(job, procedure)


def newer_for(job: Job) -> Procedure | None:
    """The procedure as it is now, where the job follows an earlier version of it."""
    followed = followed_of(job)
    if followed is None:
        return None
    now, kept = current_procedure(job.build, job.device_type), _kept(followed.pk, followed.sha256)
    if now is None:
        return None
    for name in kept.subs:
        now = with_sub(now, name)
    return now if now != kept else None


def follow_as(job: Job, procedure: Procedure) -> str:
    """Have a job follow a procedure from here; its hash."""
    content = procedure.model_dump(mode="json")
    sha256 = digest(content)
    FollowedProcedure.objects.update_or_create(job=job, defaults={"content": content, "sha256": sha256})
    return sha256


@transaction.atomic
def take_in_sub(user: Person, job_id: int, name: str) -> None:
    """Take a sub-procedure into the job's one: the display is unplugged for it, and what stood on its plug is taken back by the caller."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    procedure = procedure_of(job)
    if procedure is None:
        raise BadInput("Say first how the display is built in.", "no_procedure")
    woven = with_sub(procedure, name)
    sha256 = follow_as(job, woven)
    title = get_procedure(name).title
    write(
        job, person.username, "build", f"Taken in: {title}.", build=job.build, sha256=sha256, sub=name, facets=("fit",)
    )


@transaction.atomic
def leave_subs(user: Person, job_id: int) -> tuple[str, ...]:
    """Go on without the sub-procedures; the ids of the steps that are left."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    procedure = procedure_of(job)
    if procedure is None:
        raise BadInput("No sub-procedure is under way.", "no_sub")
    plain = without_subs(procedure)
    left = tuple(step.id for step in procedure.steps if step.id not in plain.graph.by_id)
    sha256 = follow_as(job, plain)
    titles = ", ".join(get_procedure(name).title for name in procedure.subs)
    write(job, person.username, "build", f"Left: {titles}.", build=job.build, sha256=sha256, facets=("fit",))
    return left


@transaction.atomic
def follow_newer(user: Person, job_id: int) -> None:
    """Go on by the procedure as it is now; steps that it does not know are left in the record. Raises BadInput where there is no newer one."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    now = newer_for(job)
    if now is None:
        raise BadInput("The job follows the newest version already.", "no_newer")
    sha256 = follow_as(job, now)
    write(
        job,
        person.username,
        "build",
        f"Follows the newer version of '{now.title}' from here.",
        build=now.id,
        sha256=sha256,
        facets=("fit",),
    )


def offered(device: str) -> list[tuple[Procedure, bool]]:
    """The ways in which a display of such a device may be built in, and whether each is the shop's own; own ones first."""
    own = [_read(one.text, one.slug) for one in OwnProcedure.objects.filter(retired=False)]
    mine = [(procedure, True) for procedure in own if device in procedure.devices and not procedure.part_of]
    return mine + [(procedure, False) for procedure in builds_for(device)]


def minutes_for(job: Job) -> Estimate:
    """How long the job takes, by the procedure that it follows."""
    procedure = procedure_of(job)
    return estimate_of(procedure) if procedure is not None else minutes_of(job.build, job.device_type)
