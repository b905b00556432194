"""What Fit sends of a job, as schemas."""

import datetime as dt
from typing import Literal

from ninja import Schema

from lens.fitting import Balance, Fasteners, FitStep, GoingBack, KeepOut, PlacedFastener, StepNotes
from lens.matching import PanelSpec


class FittingStep(FitStep):
    """A step of a procedure, under a name that no other step of the API has."""


class ClockOut(Schema):
    """``left_s`` as the answer was made: 0 has run out. ``known``: False where nobody knows the adhesive's hours."""

    step: str
    title: str
    began: dt.datetime
    ends: dt.datetime
    left_s: float
    known: bool
    blocks: str


class PartOut(Schema):
    """A part that the old display may carry. ``comes``: the new one brings it; ``fate``: what became of it, empty before that."""

    id: str
    title: str
    freed: str
    risk: str
    functions: list[str]
    comes: bool
    fate: str


class LinerOut(Schema):
    id: str
    title: str
    ends_return: bool
    step: str
    state: Literal["on", "off", "none_there"]


class NoteOut(Schema):
    id: int
    step: str
    text: str
    place: str
    was_so: bool | None
    consent_needed: bool
    photo_id: int | None
    by: str
    at: dt.datetime


class LastTime(Schema):
    """The last closed job of this device: by step what was met, and photos taken there."""

    job_id: int
    closed_at: dt.datetime
    told: dict[str, list[str]]
    photos: dict[str, list[int]]


class KeepOutOut(KeepOut):
    """``id`` and ``by`` where somebody found it on this device, 0 and empty where the build has it."""

    id: int = 0
    by: str = ""


class FastenersOut(Fasteners):
    """A group and how it stands. ``placed``: where its places come from - this job, the last job of the device, or as such devices usually are;
    ``spots`` are the places, with look-alike holes; ``photo_id``: they are places of that photo."""

    balance: Balance = Balance()
    placed: Literal["here", "last_time", "usual"] = "usual"
    spots: list[PlacedFastener] = []
    photo_id: int | None = None


class SchoolLine(Schema):
    """What this shop does at a step where practitioners differ."""

    rule: str
    question: str
    title: str
    reason: str


class StepOut(Schema):
    """``blocked`` says why the step cannot be done now, empty when it can; ``with_reason``: it can when somebody says why. ``cautions``: its hazards
    in words; ``counts``: what was met; ``back``: what going back to it means, where it was done."""

    step: FittingStep
    cautions: list[str]
    inspection: str | None
    state: Literal["done", "open", "blocked", "left_out"]
    done_by: str
    done_at: dt.datetime | None
    choice: str
    reason: str
    counts: dict[str, int]
    notes: StepNotes
    blocked: str
    with_reason: bool
    schools: list[SchoolLine] = []
    back: GoingBack | None = None


class BuildOut(Schema):
    id: str
    title: str
    opened_from: str
    held_by: str
    own: bool


class SubOut(Schema):
    """A sub-procedure that may be taken in, or was."""

    id: str
    title: str


class FitState(Schema):
    """``title`` is empty where nobody said yet how the display is built in: ``builds`` are the ways. ``newer``: the procedure changed since the job
    began it. ``out``: loose things by group;
    ``way_back``: titles, in the order of taking back."""

    build: str
    title: str
    builds: list[BuildOut]
    steps: list[StepOut]
    out: dict[str, int]
    unaccounted: int
    way_back: list[str]
    minutes_left: float
    opens: str = ""
    clocks: list[ClockOut] = []
    parts: list[PartOut] = []
    liners: list[LinerOut] = []
    keep_outs: list[KeepOutOut] = []
    fasteners: dict[str, FastenersOut] = {}
    notes: list[NoteOut] = []
    last_time: LastTime | None = None
    newer: bool = False
    subs: list[SubOut] = []
    subs_taken: list[SubOut] = []
    panel: PanelSpec | None = None
