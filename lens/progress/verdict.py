"""One verdict of picture, touch and what closing changed. Every screen, gate, list and report shows this one.

The job's verdict is that of the device as it is handed over: what was measured on the closed device, or at a re-test later. What was found before
the repair is history; where nothing was measured after it, the verdict is 'not proven', whatever the old panel's was.
"""

from collections.abc import Mapping
from typing import Literal, NamedTuple

from lens.records.base import Record
from lens.records.verdict import Outcome

WITH_TOUCH = ("handset", "tablet")
FINAL_STAGES = ("recheck", "closed")  # the latest first
WORDS: dict[Outcome, str] = {"pass": "passes", "fail": "fails", "not_proven": "not proven"}
Part = Literal["picture", "touch", "closing", "touch_change"]
Change = Literal["unchanged", "changed", "not_proven", "better", "worse"]
OF_CHANGE: dict[Change, Outcome] = {
    "unchanged": "pass",
    "better": "pass",
    "changed": "fail",
    "worse": "fail",
    "not_proven": "not_proven",
}


class VerdictPart(Record):
    part: Part
    stage: str
    result: Outcome
    text: str


class JobVerdict(Record):
    """``result`` is the worst of its parts, and 'not proven' where one that is wanted is missing; ``next`` is the one thing that would help most."""

    result: Outcome
    parts: tuple[VerdictPart, ...]
    missing: tuple[str, ...]
    next: str

    @property
    def measured(self) -> bool:
        return bool(self.parts)

    @property
    def text(self) -> str:
        """The parts in a line."""
        return " ".join(one.text for one in self.parts) or " ".join(self.missing)


class Seen(NamedTuple):
    """What was measured at a stage: the picture's verdict and its profile's id, the touch's verdict; None where nothing was."""

    picture: Outcome | None = None
    profile: str = ""
    touch: Outcome | None = None


def has_touch(device_type: str, panel_has_touch: bool = False, touch_recorded: bool = False) -> bool:
    """Whether a device is one whose touch must be proven: by its kind, by the panel on record, or because its touch was recorded before."""
    return device_type in WITH_TOUCH or panel_has_touch or touch_recorded


def _joined(parts: list[VerdictPart], missing: list[tuple[str, str]], failed_next: str) -> JobVerdict:
    results = {part.result for part in parts}
    result: Outcome = "fail" if "fail" in results else "not_proven" if missing or "not_proven" in results else "pass"
    step = (
        failed_next
        if result == "fail"
        else missing[0][1]
        if missing
        else "Show what is not proven yet."
        if result == "not_proven"
        else ""
    )
    return JobVerdict(result=result, parts=tuple(parts), missing=tuple(words for words, _ in missing), next=step)


def _parts(stage: str, seen: Seen) -> list[VerdictPart]:
    parts = []
    if seen.picture is not None:
        parts.append(
            VerdictPart(
                part="picture",
                stage=stage,
                result=seen.picture,
                text=f"Picture {WORDS[seen.picture]} ({seen.profile}).",
            )
        )
    if seen.touch is not None:
        parts.append(VerdictPart(part="touch", stage=stage, result=seen.touch, text=f"Touch {WORDS[seen.touch]}."))
    return parts


def stage_verdict(
    stage: str, seen: Seen, touch_wanted: bool, picture_step: str = "Show the patterns and photograph them."
) -> JobVerdict:
    """Picture and touch of one stage."""
    missing = []
    if seen.picture is None:
        missing.append(("No photo was measured.", picture_step))
    if seen.touch is None and touch_wanted:
        missing.append(("Touch was not measured.", "Draw over the touch surface."))
    return _joined(_parts(stage, seen), missing, "")


def job_verdict(
    stages: Mapping[str, Seen],
    touch_wanted: bool,
    closing: tuple[Change, str] | None = None,
    touch_change: tuple[Change, str] | None = None,
) -> JobVerdict:
    """The verdict of the device as it is handed over.

    Parameters
    ----------
    stages : what was measured, by stage
    touch_wanted : see ``has_touch``
    closing : what became of the picture between dry fit and closed, and the sentence that says so; None where one of them is missing
    touch_change : likewise of the touch, against the stage before
    """
    parts: list[VerdictPart] = []
    missing: list[tuple[str, str]] = []
    latest = {
        part: next((stage for stage in FINAL_STAGES if getattr(stages.get(stage, Seen()), part) is not None), None)
        for part in ("picture", "touch")
    }
    if latest["picture"] is None:
        missing.append(
            ("The picture of the closed device was not measured.", "Photograph the closed device once more.")
        )
    else:
        parts += [one for one in _parts(latest["picture"], stages[latest["picture"]]) if one.part == "picture"]
    if latest["touch"] is None and touch_wanted:
        missing.append(
            ("Touch was not measured on the closed device.", "Draw over the touch surface of the closed device.")
        )
    elif latest["touch"] is not None:
        parts += [one for one in _parts(latest["touch"], stages[latest["touch"]]) if one.part == "touch"]
    if closing is not None:
        parts.append(VerdictPart(part="closing", stage="closed", result=OF_CHANGE[closing[0]], text=closing[1]))
    if touch_change is not None and latest["touch"] is not None:
        parts.append(
            VerdictPart(
                part="touch_change", stage=latest["touch"], result=OF_CHANGE[touch_change[0]], text=touch_change[1]
            )
        )
    changed = any(one.part in ("closing", "touch_change") and one.result == "fail" for one in parts)
    return _joined(
        parts,
        missing,
        "Open again and look at what closing did." if changed else "See the findings, and put right what fails.",
    )
