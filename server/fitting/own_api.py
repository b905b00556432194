"""The shop's own procedures."""

from datetime import datetime

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from lens.fitting import Procedure, procedures
from server.accounts.doors import lead_profiles
from server.accounts.policy import require
from server.fitting import own
from server.fitting.models import OwnProcedure

router = Router(tags=["procedures"])


class ProcedureOut(Schema):
    """``version`` 0 and no ``changed_by``: it ships with Clear Lens."""

    id: str
    title: str
    devices: list[str]
    steps: int
    based_on: str
    version: int
    retired: bool
    changed_by: str
    changed_at: datetime | None


class ProcedureText(Schema):
    text: str


class OwnIn(Schema):
    """``version`` is the one that was read, 0 for a new one."""

    text: str = Field(max_length=own.MOST_LETTERS)
    based_on: str = Field(default="", max_length=40)
    version: int = 0


class CheckedStep(Schema):
    """A step as the drawing of the order wants it."""

    id: str
    title: str
    needs: list[str]
    when: list[str]
    minutes: float
    wait_minutes: float


class CheckedOut(Schema):
    """What a text means, where it can be followed. ``changes``: against the procedure that it is based on, in words."""

    title: str
    steps: list[CheckedStep]
    changes: list[str]


def _out(procedure: Procedure, stored: OwnProcedure | None) -> ProcedureOut:
    return ProcedureOut(
        id=procedure.id,
        title=procedure.title,
        devices=list(procedure.devices),
        steps=len(procedure.steps),
        based_on=stored.based_on if stored else "",
        version=stored.version if stored else 0,
        retired=stored.retired if stored else False,
        changed_by=stored.changed_by.username if stored else "",
        changed_at=stored.changed_at if stored else None,
    )


@router.get("/procedures", response=list[ProcedureOut], operation_id="listProcedures")
def list_procedures(request: HttpRequest) -> list[ProcedureOut]:
    """The shop's own ones, then those that ship."""
    require(request.user, "job.view")
    mine = [_out(own.checked(one.text, one.slug), one) for one in OwnProcedure.objects.select_related("changed_by")]
    return mine + [_out(one, None) for one in procedures().values() if not one.part_of]


@router.get("/procedures/{procedure_id}/text", response=ProcedureText, operation_id="procedureText")
def text_of(request: HttpRequest, procedure_id: str) -> ProcedureText:
    """Its YAML, to read or to begin an own one with."""
    require(request.user, "job.view")
    return ProcedureText(text=own.start_text(procedure_id))


@router.post("/procedures/{procedure_id}/check", response=CheckedOut, operation_id="checkProcedure")
def check_own(request: HttpRequest, procedure_id: str, body: OwnIn) -> CheckedOut:
    """Whether a text can be followed; nothing is stored."""
    require(request.user, "job.view")
    told = own.checked(body.text, procedure_id)
    steps = [
        CheckedStep(
            id=one.id,
            title=one.title,
            needs=list(one.needs),
            when=list(one.when),
            minutes=one.minutes,
            wait_minutes=one.wait_minutes,
        )
        for one in told.steps
    ]
    return CheckedOut(title=told.title, steps=steps, changes=own.changes_since(told, body.based_on))


@router.put("/procedures/{procedure_id}", auth=lead_profiles, response=ProcedureOut, operation_id="saveProcedure")
def save_own(request: HttpRequest, procedure_id: str, body: OwnIn) -> ProcedureOut:
    stored = own.save_own(request.user, procedure_id, body.text, body.based_on, body.version)
    return _out(own.checked(stored.text, stored.slug), stored)


@router.delete("/procedures/{procedure_id}", auth=lead_profiles, response={204: None}, operation_id="retireProcedure")
def retire_own(request: HttpRequest, procedure_id: str) -> tuple[int, None]:
    """It is offered no more; jobs that follow it keep it."""
    get_object_or_404(OwnProcedure, slug=procedure_id)
    own.retire_own(request.user, procedure_id)
    return 204, None
