"""People: adding them, their role and password, ending their access. What ends an access ends its sessions, codes and streams too."""

import logging

from django.contrib.auth.models import Group, User
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from lens.errors import BadInput
from server.accounts.policy import ROLES, Role, ensure_roles, require, roles_of
from server.common import tickets
from server.inspections.codes import living, revoke
from server.jobs.actions import Person

log = logging.getLogger("clear_lens.people")


def check_password(password: str, user: User) -> None:
    """Raises BadInput with what is wrong with it."""
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise BadInput(" ".join(error.messages), "weak_password") from None


def end_access(user: User) -> None:
    """End sessions, codes and streams of a person. Call it inside the action's transaction."""
    for session in Session.objects.filter(expire_date__gt=timezone.now()).iterator():
        if session.get_decoded().get("_auth_user_id") == str(user.pk):
            session.delete()
    revoke(living(made_by=user))
    tickets.end(user=[user.pk])


@transaction.atomic
def put_person(
    name: str, password: str | None, role: Role | None = None, active: bool | None = None
) -> tuple[User, bool]:
    """Add or change a person; what is None stays (a new one is a technician). The person and whether it is new.

    The caller has checked who may.
    """
    name = name.strip()
    if not name or len(name) > 150 or not name.isprintable():
        raise BadInput("A name has 1 to 150 characters that can be seen.", "bad_name")
    ensure_roles()
    user = User.objects.select_for_update().filter(username=name).first()
    new = user is None
    if user is None:
        if password is None:
            raise BadInput(f"There is no '{name}' yet: a new person needs a password.", "password_missing")
        user = User(username=name)
    if password is not None:
        check_password(password, user)
        user.set_password(password)
    if active is not None:
        user.is_active = active
    user.save()
    if role is not None or new:
        user.groups.set(Group.objects.filter(name=role or ROLES[0]))
    if not new:
        _keep_a_lead()
        if password is not None or active is False:
            end_access(user)
    return user, new


def _keep_a_lead() -> None:
    """Raises BadInput where nobody could lead any more."""
    if (
        User.objects.filter(groups__name="lead").exists()
        and not User.objects.filter(groups__name="lead", is_active=True).exists()
    ):
        raise BadInput("This is the last lead. Make somebody else a lead first.", "last_lead")


@transaction.atomic
def add_person(user: Person, name: str, password: str, role: Role) -> User:
    lead = require(user, "people.change")
    if User.objects.filter(username=name.strip()).exists():
        raise BadInput(f"There is a '{name.strip()}' already.", "known_name")
    person, _ = put_person(name, password, role)
    log.warning("%s added %s as %s", lead.username, person.username, role)
    return person


@transaction.atomic
def change_person(user: Person, person_id: int, role: Role | None, active: bool | None, password: str | None) -> User:
    """A lead changes somebody's role, disables or enables, or sets a new password."""
    lead = require(user, "people.change")
    known = get_object_or_404(User, pk=person_id)
    had_lead = "lead" in roles_of(known) and known.is_active
    person, _ = put_person(known.username, password, role, active)
    if had_lead and not User.objects.filter(groups__name="lead", is_active=True).exists():
        raise BadInput("This is the last lead. Make somebody else a lead first.", "last_lead")
    told = [word for word, there in (("role", role), ("access", active is not None), ("password", password)) if there]
    log.warning("%s changed %s of %s", lead.username, " and ".join(told) or "nothing", person.username)
    return person


@transaction.atomic
def change_own_password(user: Person, old: str, new: str) -> User:
    """Somebody's own password; the session that did it goes on by the caller's care."""
    person = require(user, "job.view")
    if not person.check_password(old):
        raise BadInput("The password that you use now is not this one.", "wrong_password")
    check_password(new, person)
    person.set_password(new)
    person.save(update_fields=["password"])
    end_access(person)
    return person
