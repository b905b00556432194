"""Isolate: the answers to checks, and the ranked causes."""

from datetime import datetime
from typing import Any, Literal

from ninja import Field, Schema

from lens.diagnosis import Diagnosis, is_cracked
from lens.progress import StationTold, stations
from server.jobs.core_adapter import set_aside_because
from server.jobs.facets import Facet
from server.jobs.models import Evidence
from server.verdicts.look import JobLook


class Conditions(Schema):
    """Under which a check was done, as far as it was said."""

    mains: bool | None = None
    battery_percent: int | None = Field(default=None, ge=0, le=100)
    room: Literal["dark", "dim", "bright"] | None = None


class EvidenceOut(Schema):
    id: int
    check: str
    outcome: str
    source: str
    by: str
    at: datetime
    withdrawn: bool
    withdrawn_because: str
    conditions: Conditions
    set_aside: str = ""  # why it does not count under its conditions


class IsolateOut(Schema):
    evidence: list[EvidenceOut]
    cracked: bool  # the glass of the device as it came
    diagnosis: Diagnosis


def _evidence(item: Evidence) -> dict[str, Any]:
    names = ("outcome", "source", "at", "withdrawn", "withdrawn_because", "conditions")
    return {
        **{name: getattr(item, name) for name in names},
        "id": item.pk,
        "check": item.check_id,
        "set_aside": set_aside_because(item),
        "by": item.by.username,
    }


def _view(look: JobLook) -> dict[str, Any]:
    standing = [answer for answer in look.answers if not answer.withdrawn]
    return {
        "evidence": [_evidence(answer) for answer in look.answers],
        "cracked": is_cracked((answer.check_id, answer.outcome) for answer in standing),
        "diagnosis": look.diagnosis,
    }


def _isolate(look: JobLook) -> StationTold:
    told = look.diagnosis
    stop = told.stop.reason if told.stop.advised else ""
    return stations.isolate(look.answered, told.causes[0].title, told.causes[0].p, stop, told.plan[0].title)


FACET = Facet("isolate", IsolateOut, _view, stations={"isolate": _isolate})
