"""Formats of stored records, and how those of earlier versions are brought to today's on reading.

Whatever is stored carries its kind's format number under ``format``; what was stored before there were numbers is format 0. When a record's
shape changes in a way that old documents do not fit, a step is added here that makes the new shape of the old one, and a sample of the old format
is kept under tests/core/samples: a job that is closed today opens in years.
"""

from collections.abc import Callable
from typing import Any, Literal

from lens.errors import BadInput

Kind = Literal["inspection", "photo_report", "touch_result", "touch_plan", "ruling", "job_file"]
Document = dict[str, Any]
KEY = "format"


def _same(document: Document) -> Document:
    """Fields that came meanwhile have defaults."""
    return document


def _picture_faults(document: Document) -> Document:
    """Format 1 told only in words in which way a picture is wrong."""

    def told(finding: Document) -> Document:
        if finding["kind"] != "artifact":
            return finding
        words = (finding.get("reasons") or [""])[0]
        fault = "colours" if any(word in words for word in ("colour", "inverted", "bit")) else "other"
        return {**finding, "picture": fault}

    return {**document, "findings": [told(finding) for finding in document["findings"]]}


# the step at index n makes format n + 1 of format n
STEPS: dict[Kind, tuple[Callable[[Document], Document], ...]] = {
    "inspection": (_same, _picture_faults),
    "photo_report": (_same,),
    "touch_result": (_same,),
    "touch_plan": (_same,),
    "ruling": (_same,),
    "job_file": (_same,),
}


def current(kind: Kind) -> int:
    """The format that is written today."""
    return len(STEPS[kind])


def stamped(kind: Kind, document: Document) -> Document:
    """A record's document as it is stored."""
    return {**document, KEY: current(kind)}


def upgraded(kind: Kind, document: Document) -> Document:
    """A stored document in today's shape, without its number; what is given stays as it is.

    Raises BadInput for one that a newer version wrote.
    """
    number = document.get(KEY, 0)
    if not isinstance(number, int) or isinstance(number, bool) or not 0 <= number <= current(kind):
        raise BadInput(
            f"This was stored by a newer version of Clear Lens (format {number}; this one reads up to {current(kind)}). Update to open it.",
            "newer_format",
        )
    told = {name: value for name, value in document.items() if name != KEY}
    for step in STEPS[kind][number:]:
        told = step(told)
    return told
