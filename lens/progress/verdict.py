"""One verdict of picture, touch, functions, what closing changed and what still runs. Every screen, gate, list and report shows this one.

The job's verdict is that of the device as it is handed over: what was looked at on the closed device, or at a re-test later. What was found before
the repair is history; where nothing was measured after it, the verdict is 'not proven', whatever the old panel's was.
"""

import datetime as dt
from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

from lens.progress.conditions import doubt_of_picture, doubt_of_touch
from lens.records.base import Record
from lens.records.conditions import StageConditions
from lens.records.verdict import Outcome

WITH_TOUCH = ("handset", "tablet")
FINAL_STAGES = ("recheck", "closed")  # the latest first
WORDS: dict[Outcome, str] = {"pass": "passes", "fail": "fails", "not_proven": "not proven"}
Part = Literal["picture", "touch", "closing", "touch_change", "functions", "eye"]
Grade = Literal["measured", "seen", "told"]
Change = Literal["unchanged", "changed", "not_proven", "better", "worse"]
OF_CHANGE: dict[Change, Outcome] = {
    "unchanged": "pass",
    "better": "pass",
    "changed": "fail",
    "worse": "fail",
    "not_proven": "not_proven",
}


class VerdictPart(Record):
    """``grade``: how it is known; ``at``: when it was looked at, where that is on record."""

    part: Part
    stage: str
    result: Outcome
    text: str
    grade: Grade = "measured"
    at: dt.datetime | None = None


class JobVerdict(Record):
    """``result`` is the worst of its parts, and 'not proven' where one that is wanted is missing; ``next`` is the one thing that would help most.
    ``conditions``: what must be told with it, such as steps that were passed without proof or functions that are lost as was told."""

    result: Outcome
    parts: tuple[VerdictPart, ...]
    missing: tuple[str, ...]
    next: str
    conditions: tuple[str, ...] = ()

    @property
    def measured(self) -> bool:
        return bool(self.parts)

    @property
    def text(self) -> str:
        """The parts in a line."""
        return " ".join(one.text for one in self.parts) or " ".join(self.missing)

    @property
    def findings(self) -> tuple[str, ...]:
        """What is known and what is missing, each thing once."""
        told = [one.text for one in self.parts]
        return (*told, *(words for words in self.missing if not any(words in text for text in told)))

    @property
    def sentences(self) -> tuple[str, ...]:
        """All that it says: what is known, what is missing, conditions."""
        return (*self.findings, *self.conditions)


class Seen(NamedTuple):
    """What was measured at a stage: the picture's verdict and its profile's title, the touch's verdict; None where nothing was. ``picture_fails``
    and ``touch_fails`` are the ids of the criteria that they fail by."""

    picture: Outcome | None = None
    profile: str = ""
    touch: Outcome | None = None
    picture_fails: frozenset[str] = frozenset()
    touch_fails: frozenset[str] = frozenset()
    conditions: StageConditions = StageConditions()
    picture_at: dt.datetime | None = None
    touch_at: dt.datetime | None = None


class Missing(NamedTuple):
    """What is wanted and not there, and the step that would bring it."""

    words: str
    step: str


class Told(NamedTuple):
    """What others than the measuring rooms add to the verdict."""

    parts: Sequence[VerdictPart] = ()
    missing: Sequence[Missing] = ()
    conditions: Sequence[str] = ()


def has_touch(device_type: str, panel_has_touch: bool = False, touch_recorded: bool = False) -> bool:
    """Whether a device is one whose touch must be proven: by its kind, by the panel on record, or because its touch was recorded before."""
    return device_type in WITH_TOUCH or panel_has_touch or touch_recorded


def _joined(
    parts: Sequence[VerdictPart], missing: Sequence[Missing], failed_next: str, conditions: Sequence[str] = ()
) -> JobVerdict:
    results = {part.result for part in parts}
    result: Outcome = "fail" if "fail" in results else "not_proven" if missing or "not_proven" in results else "pass"
    step = (
        failed_next
        if result == "fail"
        else missing[0].step
        if missing
        else "Show what is not proven yet."
        if result == "not_proven"
        else ""
    )
    return JobVerdict(
        result=result,
        parts=tuple(parts),
        missing=tuple(one.words for one in missing),
        next=step,
        conditions=tuple(conditions),
    )


def _parts(stage: str, seen: Seen) -> tuple[list[VerdictPart], list[Missing]]:
    """Picture and touch of a stage, and what must be looked at again since its conditions make it worthless."""
    parts, again = [], []
    if seen.picture is not None:
        doubt = doubt_of_picture(seen.conditions, seen.picture_fails)
        result: Outcome = "not_proven" if doubt.why else seen.picture
        text = " ".join(filter(None, (f"Picture {WORDS[result]} ({seen.profile}).", doubt.why)))
        parts.append(VerdictPart(part="picture", stage=stage, result=result, text=text, at=seen.picture_at))
        if doubt.why:
            again.append(Missing(doubt.why, doubt.instead))
    if seen.touch is not None:
        doubt = doubt_of_touch(seen.conditions, seen.touch_fails)
        result = "not_proven" if doubt.why else seen.touch
        text = " ".join(filter(None, (f"Touch {WORDS[result]}.", doubt.why)))
        parts.append(VerdictPart(part="touch", stage=stage, result=result, text=text, at=seen.touch_at))
        if doubt.why:
            again.append(Missing(doubt.why, doubt.instead))
    return parts, again


def stage_verdict(
    stage: str, seen: Seen, touch_wanted: bool, picture_step: str = "Show the patterns and photograph them."
) -> JobVerdict:
    """Picture and touch of one stage."""
    parts, missing = _parts(stage, seen)
    if seen.picture is None:
        missing.append(Missing("No photo was measured.", picture_step))
    if seen.touch is None and touch_wanted:
        missing.append(Missing("Touch was not measured.", "Draw over the touch surface."))
    return _joined(parts, missing, "")


def job_verdict(
    stages: Mapping[str, Seen],
    touch_wanted: bool,
    closing: tuple[Change, str] | None = None,
    touch_change: tuple[Change, str] | None = None,
    told: Told | None = None,
) -> JobVerdict:
    """The verdict of the device as it is handed over.

    Parameters
    ----------
    stages : what was measured, by stage
    touch_wanted : see ``has_touch``
    closing : what became of the picture between dry fit and closed, and the sentence that says so; None where one of them is missing
    touch_change : likewise of the touch, against the stage before
    told : functions, clocks, what was passed without proof
    """
    parts: list[VerdictPart] = []
    missing: list[Missing] = []
    latest = {
        part: next((stage for stage in FINAL_STAGES if getattr(stages.get(stage, Seen()), part) is not None), None)
        for part in ("picture", "touch")
    }
    for part, stage in latest.items():
        if stage is not None:
            of_stage, again = _parts(stage, stages[stage])
            mine = [one for one in of_stage if one.part == part]
            parts += mine
            missing += [one for one in again if any(one.words in done.text for done in mine)]
    if latest["picture"] is None:
        missing.append(
            Missing("The picture of the closed device was not measured.", "Photograph the closed device once more.")
        )
    if latest["touch"] is None and touch_wanted:
        missing.append(
            Missing("Touch was not measured on the closed device.", "Draw over the touch surface of the closed device.")
        )
    if closing is not None:
        parts.append(VerdictPart(part="closing", stage="closed", result=OF_CHANGE[closing[0]], text=closing[1]))
    if touch_change is not None and latest["touch"] is not None:
        parts.append(
            VerdictPart(
                part="touch_change", stage=latest["touch"], result=OF_CHANGE[touch_change[0]], text=touch_change[1]
            )
        )
    changed = any(one.part in ("closing", "touch_change") and one.result == "fail" for one in parts)
    told = told or Told()
    return _joined(
        [*parts, *told.parts],
        [*missing, *told.missing],
        "Open again and look at what closing did." if changed else "See the findings, and put right what fails.",
        told.conditions,
    )
