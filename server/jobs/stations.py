"""The seven stations, and what each knows, lacks, and asks for next."""

from typing import Literal

from lens.records.base import Record

StationId = Literal["intake", "isolate", "inspect", "match", "fit", "prove", "hand_over"]
STATIONS: tuple[tuple[StationId, str], ...] = (
    ("intake", "Intake"),
    ("isolate", "Isolate"),
    ("inspect", "Inspect"),
    ("match", "Match"),
    ("fit", "Fit"),
    ("prove", "Prove"),
    ("hand_over", "Hand over"),
)
TITLES: dict[str, str] = dict(STATIONS)


class StationState(Record):
    """``state`` is told by shape and word in the interface; ``next`` is the one best next thing."""

    id: StationId
    title: str
    state: Literal["open", "active", "done", "failed", "not_proven", "skipped"]
    known: str
    next: str
