"""People for the lead, and everybody's own password."""

from typing import Any

from django.contrib.auth import login
from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja import Field, Router, Schema, Status

from server.accounts.api import MOST_PASSWORD
from server.accounts.doors import lead_people
from server.accounts.policy import Role, roles_of
from server.bench import people_actions

router = Router(tags=["people"])


class PersonOut(Schema):
    id: int
    name: str
    roles: list[str]
    active: bool


class PersonIn(Schema):
    name: str = Field(max_length=150)
    password: str = Field(max_length=MOST_PASSWORD)
    role: Role = "technician"


class PersonChange(Schema):
    """What is left out stays."""

    role: Role | None = None
    active: bool | None = None
    password: str | None = Field(default=None, max_length=MOST_PASSWORD)


class OwnPassword(Schema):
    old: str = Field(max_length=MOST_PASSWORD)
    new: str = Field(max_length=MOST_PASSWORD)


def _out(person: User) -> dict[str, Any]:
    return {"id": person.pk, "name": person.username, "roles": roles_of(person), "active": person.is_active}


@router.get("/people", auth=lead_people, response=list[PersonOut], operation_id="listPeople")
def list_people(request: HttpRequest) -> list[dict[str, Any]]:
    found = User.objects.prefetch_related("groups").order_by("username")
    return [
        {"id": p.pk, "name": p.username, "roles": sorted(g.name for g in p.groups.all()), "active": p.is_active}
        for p in found
    ]


@router.post("/people", auth=lead_people, response={201: PersonOut}, operation_id="addPerson")
def add_person(request: HttpRequest, body: PersonIn) -> Status[dict[str, Any]]:
    return Status(201, _out(people_actions.add_person(request.user, body.name, body.password, body.role)))


@router.patch("/people/{person_id}", auth=lead_people, response=PersonOut, operation_id="changePerson")
def change_person(request: HttpRequest, person_id: int, body: PersonChange) -> dict[str, Any]:
    """A new password or a disabled access ends the person's sessions, codes and streams."""
    return _out(people_actions.change_person(request.user, person_id, body.role, body.active, body.password))


@router.post("/me/password", response={204: None}, operation_id="changeOwnPassword")
def change_own_password(request: HttpRequest, body: OwnPassword) -> Status[None]:
    person = people_actions.change_own_password(request.user, body.old, body.new)
    request.session.flush()
    login(request, person, backend="django.contrib.auth.backends.ModelBackend")  # this session goes on, under a new key
    return Status(204, None)
