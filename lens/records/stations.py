"""The stations of a job and the stages at which a device is looked at: one table each.

A new station is a row here, and its screen in the front end's registry (web/src/bench/stations/registry.tsx); what it knows of a job is told
by the server app that owns it (its facet.py).
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, get_args

from pydantic import Field

from lens.records.base import Record

StationId = Literal["intake", "isolate", "inspect", "match", "fit", "prove", "hand_over", "grade"]
Subject = Literal["device", "panel"]
Stage = Literal["received", "inspect", "external", "bench", "dry_fit", "closed", "recheck"]
WaitingFor = Literal["part", "owner", "cure", "specialist"]
StartConsentId = Literal["account", "guest", "before_system", "not_at_all"]
StationStatus = Literal["open", "active", "done", "failed", "not_proven", "skipped"]


class StationFacts(Record):
    """``subjects``: whether a customer's device passes it, or a panel that came from a supplier or lies on the shelf."""

    id: StationId
    title: str
    stage: Stage = Field(description="the inspection that its panel map draws")
    subjects: tuple[Subject, ...] = ("device",)


class StageFacts(Record):
    id: Stage
    title: str
    judged: bool = Field(description="False: evidence of the way, which the job's verdict does not stand on")
    measured: bool = Field(
        default=True, description="False: photos of the device that are kept and not read for patterns"
    )


class Waiting(Record):
    """What a job waits for, where the shop itself cannot go on."""

    id: WaitingFor
    title: str


class StartConsent(Record):
    """How far the owner lets the shop start the device: tests before the system starts need no account."""

    id: StartConsentId
    title: str


class StationState(Record):
    """``state`` is told by shape and word in the interface; ``next`` is the one best next thing."""

    id: StationId
    title: str
    state: StationStatus
    known: str
    next: str


_STATIONS = (
    # photos of the intake are no measurement, so there is nothing to draw of them
    StationFacts(id="intake", title="Intake", stage="inspect"),
    StationFacts(id="isolate", title="Isolate", stage="inspect"),
    StationFacts(id="inspect", title="Inspect", stage="inspect", subjects=("device", "panel")),
    StationFacts(id="match", title="Match", stage="inspect"),
    StationFacts(id="fit", title="Fit", stage="dry_fit"),
    StationFacts(id="prove", title="Prove", stage="closed"),
    StationFacts(id="hand_over", title="Hand over", stage="closed"),
    StationFacts(id="grade", title="Grade", stage="inspect", subjects=("panel",)),
)
_STAGES = (
    StageFacts(id="received", title="At intake", judged=False, measured=False),
    StageFacts(id="inspect", title="As received", judged=True),
    StageFacts(id="external", title="External output", judged=False),
    StageFacts(id="bench", title="While fitting", judged=False, measured=False),
    StageFacts(id="dry_fit", title="Dry fit", judged=True),
    StageFacts(id="closed", title="Closed", judged=True),
    StageFacts(id="recheck", title="Re-test", judged=True),
)
_WAITING = (
    Waiting(id="part", title="A part"),
    Waiting(id="owner", title="The owner's word"),
    Waiting(id="cure", title="Adhesive to cure"),
    Waiting(id="specialist", title="A specialist"),
)
_CONSENTS = (
    StartConsent(id="account", title="May be started, with the owner's account"),
    StartConsent(id="guest", title="Guest page or set-up page only"),
    StartConsent(id="before_system", title="Only before its system starts"),
    StartConsent(id="not_at_all", title="May not be started"),
)
START_CONSENTS: Mapping[str, StartConsent] = MappingProxyType({row.id: row for row in _CONSENTS})
STATIONS: Mapping[str, StationFacts] = MappingProxyType({row.id: row for row in _STATIONS})
STAGES: Mapping[str, StageFacts] = MappingProxyType({row.id: row for row in _STAGES})
WAITING: Mapping[str, Waiting] = MappingProxyType({row.id: row for row in _WAITING})


def stations_of(subject: str) -> tuple[StationFacts, ...]:
    """The stations that it passes, in order."""
    return tuple(row for row in _STATIONS if subject in row.subjects)


if (tuple(STATIONS), tuple(STAGES), tuple(WAITING)) != (get_args(StationId), get_args(Stage), get_args(WaitingFor)):
    raise TypeError("Every station, stage and reason to wait has one row, in the order of its type.")
