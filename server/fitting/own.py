"""Procedures that the shop writes itself: checked in full before they are stored, each earlier version kept."""

from django.db import transaction

from lens.errors import BadInput
from lens.fitting import OWN, OWN_PREFIX, Procedure, get_procedure, read_procedure, shipped_text
from server.accounts.policy import require
from server.common.errors import Conflict
from server.fitting.models import OwnProcedure
from server.jobs.actions import Person
from server.profiles.actions import keep_version

MOST_LETTERS = 100_000


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
def retire_own(user: Person, slug: str) -> None:
    """It is offered no more; jobs that follow it keep it."""
    require(user, "profile.change")
    OwnProcedure.objects.filter(slug=slug).update(retired=True)
