"""Procedures that the shop writes itself: checked in full before they are stored, each earlier version kept."""

import json
import re

from django.db import transaction

from lens.errors import BadInput
from lens.fitting import OWN, OWN_PREFIX, Procedure, get_procedure, procedure_changes, read_procedure, shipped_text
from server.accounts.policy import require
from server.common.errors import Conflict
from server.fitting.following import base_build, follow_as, procedure_of
from server.fitting.models import OwnProcedure
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Device
from server.profiles.actions import keep_version

MOST_LETTERS = 100_000
TITLE_LINE = re.compile(r"^title:.*$", re.MULTILINE)


def start_text(based_on: str) -> str:
    """The YAML that an own procedure begins with. Raises BadInput for an unknown build."""
    own = OwnProcedure.objects.filter(slug=based_on).first()
    if own is not None:
        return own.text
    get_procedure(based_on)
    return shipped_text(based_on)


def checked(text: str, slug: str) -> Procedure:
    """The procedure that a text means. Raises BadInput with every fault, or for a name that cannot be one."""
    if OWN.fullmatch(slug) is None:
        raise BadInput(
            f"Name it with small letters, digits and underscores after '{OWN_PREFIX}', such as {OWN_PREFIX}ears_2.",
            "own_slug",
        )
    if len(text) > MOST_LETTERS:
        raise BadInput("The text is far too long for a procedure.", "procedure")
    procedure = read_procedure(text, slug)
    if procedure.part_of:
        raise BadInput("A part of another procedure cannot be an own one yet: leave 'part_of' out.", "procedure")
    return procedure


def changes_since(procedure: Procedure, based_on: str) -> list[str]:
    """What it changes against the one that it is based on; nothing where that is not known any more."""
    try:
        return list(procedure_changes(checked(start_text(based_on), f"{OWN_PREFIX}base"), procedure))
    except BadInput:
        return []


@transaction.atomic
def save_own(user: Person, slug: str, text: str, based_on: str, version: int) -> OwnProcedure:
    """Write a procedure that was read at ``version``, 0 for a new one. Raises Conflict where it changed since, BadInput with every fault."""
    person = require(user, "profile.change")
    checked(text, slug)
    stored = OwnProcedure.objects.select_for_update().filter(slug=slug).first()
    if (stored.version if stored else 0) != version:
        raise Conflict(f"Somebody else saved '{slug}' meanwhile. Look at what is stored now, then save yours again.")
    if stored is None:
        stored = OwnProcedure.objects.create(slug=slug, text=text, based_on=based_on[:40], changed_by=person)
    else:
        stored.text, stored.version, stored.changed_by, stored.retired = text, version + 1, person, False
        stored.save()
    keep_version(f"procedure:{slug}", stored.version, {"text": text, "based_on": stored.based_on}, person)
    return stored


@transaction.atomic
def fork_at_bench(user: Person, job_id: int, differs: str) -> str:
    """Make the job's procedure a way of the shop's own, since this device differs from it; the job and its device follow that from here, with every
    step that was done. Raises BadInput where nobody says what differs."""
    person = require(user, "profile.change")
    job = lock_open_job(job_id)
    procedure = procedure_of(job)
    if procedure is None:
        raise BadInput("Say first how the display is built in.", "no_procedure")
    if not differs.strip():
        raise BadInput("Say in a few words what is different here.", "fork_reason")
    base = base_build(job)
    text = start_text(job.build)
    stem = f"{OWN_PREFIX}{base}"[:30]
    taken = set(OwnProcedure.objects.filter(slug__startswith=stem).values_list("slug", flat=True))
    slug = next(name for name in (f"{stem}_{n}" for n in range(2, 1000)) if name not in taken)
    note = differs.strip()[:120].replace("\n", " ")
    title = f"{procedure.title}: {note}"[:120]
    own_text = f"# {note}\n" + TITLE_LINE.sub(
        lambda _: f"title: {json.dumps(title, ensure_ascii=False)}", text, count=1
    )
    save_own(user, slug, own_text, base, 0)
    follow_as(job, procedure.model_copy(update={"id": slug, "title": title}))
    Job.objects.filter(pk=job.pk).update(build=slug)
    if job.device_id:
        Device.objects.filter(pk=job.device_id).update(build=slug)
    write(job, person.username, "build", f"A way of our own from here: {note}.", build=slug, facets=("fit",))
    return slug


@transaction.atomic
def retire_own(user: Person, slug: str) -> None:
    """It is offered no more; jobs that follow it keep it."""
    require(user, "profile.change")
    OwnProcedure.objects.filter(slug=slug).update(retired=True)
