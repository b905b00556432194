"""What the bench's doors of a job take and give."""

from datetime import datetime
from typing import Literal

from ninja import Field, Schema

from lens.diagnosis import Diagnosis
from lens.edid import Edid
from lens.inspecting import Comparison, Witness
from lens.meter import Reading
from lens.progress import JobVerdict
from lens.records import Outcome, StationId, StationState
from lens.touch import TouchComparison
from server.inspections.api import RunOut
from server.touch.api import RecheckOut, TouchOut

Short = Field(default="", max_length=300)
Long = Field(default="", max_length=2000)


class JobFields(Schema):
    title: str = Field(max_length=120)
    device_type: str
    owner: str = Field(default="", max_length=120)
    complaint: str = Long
    visible_damage: str = Long
    accessories: str = Short
    panel_width: int
    panel_height: int
    diagonal_in: float | None = None
    profile: str = "class-II"
    build: str = "ears"


class JobChange(Schema):
    """Only the fields that changed; ``version`` is the one that they were read at."""

    version: int
    title: str | None = Field(default=None, max_length=120)
    device_type: str | None = None
    owner: str | None = Field(default=None, max_length=120)
    complaint: str | None = Field(default=None, max_length=2000)
    visible_damage: str | None = Field(default=None, max_length=2000)
    accessories: str | None = Field(default=None, max_length=300)
    panel_width: int | None = None
    panel_height: int | None = None
    diagonal_in: float | None = None
    profile: str | None = None
    build: str | None = None
    hand_over_note: str | None = Field(default=None, max_length=2000)


class JobLine(Schema):
    id: int
    title: str
    owner: str
    device_type: str
    station: StationId
    panel_width: int
    panel_height: int
    complaint: str
    changed_at: datetime
    closed_at: datetime | None
    verdict: JobVerdict
    stages: dict[str, Outcome]


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


class ReadingsOut(Schema):
    """The last readings of a meter; the brightest is white, held to the nominal figure."""

    readings: list[Reading]
    white_cd_m2: float
    nominal_cd_m2: float
    nominal_on_record: bool


class EdidOut(Schema):
    """As last read, and what differs: the panel's from the record, a replacement's from the panel before it."""

    decoded: Edid
    differences: list[str]


class JobOut(JobFields):
    id: int
    version: int
    station: StationId
    skipped: list[str]
    hand_over_note: str
    closed_at: datetime | None
    created_at: datetime
    created_by: str
    can_simulate: bool
    verdict: JobVerdict
    stations: list[StationState]
    evidence: list[EvidenceOut]
    diagnosis: Diagnosis
    runs: list[RunOut]
    touches: list[TouchOut]
    touch_comparison: TouchComparison | None
    rechecks: list[RecheckOut]
    comparison: Comparison | None
    true_causes: list[str]
    edid: EdidOut | None
    replacement_edid: EdidOut | None
    readings: ReadingsOut | None
    witness: Witness | None


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
    unmeasured_because: str = Short


class Reason(Schema):
    reason: str = Short
