"""What the bench's doors of a job take and give."""

from datetime import date, datetime
from typing import Literal

from ninja import Field, Schema

from lens.progress import JobVerdict
from lens.records import StartConsentId, StationId, StationState, Subject, WaitingFor
from server.isolate.facet import Conditions, IsolateOut
from server.jobs.facet import DocumentsOut

Short = Field(default="", max_length=300)
Long = Field(default="", max_length=2000)


class JobFields(Schema):
    title: str = Field(max_length=120)
    device_type: str
    owner: str = Field(default="", max_length=120)
    complaint: str = Long
    visible_damage: str = Long
    accessories: str = Short
    start_consent: StartConsentId | Literal[""] = ""
    serial_printed: str = Field(default="", max_length=60)
    serial_system: str = Field(default="", max_length=60)
    panel_width: int
    panel_height: int
    diagonal_in: float | None = None
    profile: str = "class-II"
    build: str = ""


class JobChange(Schema):
    """Only the fields that changed; ``version`` is the one that they were read at."""

    version: int
    title: str | None = Field(default=None, max_length=120)
    device_type: str | None = None
    owner: str | None = Field(default=None, max_length=120)
    complaint: str | None = Field(default=None, max_length=2000)
    visible_damage: str | None = Field(default=None, max_length=2000)
    accessories: str | None = Field(default=None, max_length=300)
    start_consent: StartConsentId | Literal[""] | None = None
    serial_printed: str | None = Field(default=None, max_length=60)
    serial_system: str | None = Field(default=None, max_length=60)
    panel_serial: str | None = Field(default=None, max_length=60)
    panel_width: int | None = None
    panel_height: int | None = None
    diagonal_in: float | None = None
    profile: str | None = None
    build: str | None = None
    hand_over_note: str | None = Field(default=None, max_length=2000)
    assigned_to: str | None = Field(default=None, max_length=150)
    due_on: date | None = None
    urgent: bool | None = None
    waiting_for: WaitingFor | Literal[""] | None = None


class JobHead(JobFields):
    """What every station shows of a job; its facets are read by themselves."""

    id: int
    subject: Subject
    panel_serial: str
    version: int
    station: StationId
    skipped: list[str]
    hand_over_note: str
    closed_at: datetime | None
    created_at: datetime
    created_by: str
    can_simulate: bool
    verdict: JobVerdict
    hindrances: list[str]
    stations: list[StationState]
    true_causes: list[str]
    assigned_to: str
    due_on: date | None
    urgent: bool
    waiting_for: WaitingFor | None


class JobChanged(JobHead):
    """The head after a change, and the facets that the change was about."""

    isolate: IsolateOut | None = None
    documents: DocumentsOut | None = None


class EntryOut(Schema):
    id: int
    at: datetime
    who: str
    kind: str
    text: str


class Station(Schema):
    station: StationId
    skip: bool = False


class Answer(Schema):
    check: str
    outcome: str
    source: Literal["seen", "told"] = "seen"
    conditions: Conditions | None = None


class Luminance(Schema):
    """White as read off a meter."""

    cd_m2: float


class HandOverIn(Schema):
    true_causes: list[str] = Field(default=[], max_length=5)
    because: str = Short
    lesson: str = Short


class Reason(Schema):
    reason: str = Short
