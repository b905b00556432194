"""A fault that one set of photos shows, looked up in an earlier set of the same panel: was it there?

The search of a whole panel demands eight times the noise, since millions of pixels could be noise. At a place that is known the photos are asked one
question, and four times the noise is enough.
"""

import math
from collections.abc import Sequence
from typing import Literal

from lens.canonical import digest
from lens.faults import look_at, share_at
from lens.inspecting.inspect import Read, usable_reads
from lens.panel import Panel
from lens.photo import FlatField
from lens.records import PIXEL_KINDS, Finding, Inspection, Record
from lens.records.findings import Channel
from lens.records.kinds import Kind

# of a full fault: what a photo shows of one by the model of its light (dark subpixels of phones came to 0.85 to 1.0 on tuning seeds)
FULL_SHARE = 0.9
MODEL_SIGMA = 0.08
# log of how many times likelier one answer must be than the other; 100 to 1, as at most two in a hundred may be told wrongly
SURE = math.log(100)
SEEN_SIGMA = 3.5  # below it the strongest of nine looks may be noise
NEVER = 99.0  # stored for what no photo tells, since JSON knows no infinity


class LookedBack(Record):
    """``share`` of a full fault, +- ``sigma``, that the earlier photos show where ``kind`` was found later, and whether it was there then."""

    kind: Kind
    channel: Channel | None = None
    x: float
    y: float
    share: float
    sigma: float
    was_there: Literal["yes", "no", "open"]

    @property
    def seen(self) -> bool:
        """Whether any photo shows the place; their files may be gone."""
        return self.sigma < NEVER

    def is_of(self, finding: Finding) -> bool:
        """Whether it was asked for this finding."""
        return (self.kind, self.channel, self.x, self.y) == (finding.kind, finding.channel, finding.x, finding.y)


class LookBack(Record):
    """What was looked up in an earlier look, which ``photos`` tells from others (see ``photos_key``)."""

    photos: str = ""
    places: tuple[LookedBack, ...] = ()

    def of(self, earlier: Inspection | None) -> tuple[LookedBack, ...]:
        """The places, where that look is the one they were looked up in."""
        return self.places if earlier is not None and self.photos == photos_key(earlier) else ()


def photos_key(inspection: Inspection) -> str:
    """One hash for the photos of a look and for where they were registered."""
    return digest([(photo.file, photo.pattern, photo.corners) for photo in inspection.photos if photo.used])


def was_there(share: float, sigma: float) -> Literal["yes", "no", "open"]:
    """By the likelihoods of a full fault and of none; the strongest of nine looks lies one sigma above nothing."""
    off_full = max(FULL_SHARE - share, 0.0)
    off_none = max(share - sigma, 0.0)
    odds = (off_full**2 - off_none**2) / (2 * math.hypot(sigma, MODEL_SIGMA) ** 2)
    if odds > SURE:
        return "no"
    return "yes" if odds < -SURE and share > SEEN_SIGMA * sigma else "open"


def look_back(
    panel: Panel, earlier: Sequence[tuple[str, Read]], findings: Sequence[Finding], row_time_us: float | None = None
) -> tuple[LookedBack, ...]:
    """What the photos of an earlier look show where pixel faults were found later; other findings are left out.

    earlier : (file name, photo or reason), as for ``inspect_reads``
    """
    asked = [one for one in findings if one.kind in PIXEL_KINDS]
    used = usable_reads(earlier)
    flat = next((read for _, read in earlier if isinstance(read, FlatField)), None)
    close = look_at(panel, used, row_time_us, flat).close if asked else None
    told = []
    for one in asked:
        share, sigma = share_at(close.evidence, one.x, one.y, one.kind, one.channel) if close else (0.0, math.inf)
        told.append(
            LookedBack(
                kind=one.kind,
                channel=one.channel,
                x=one.x,
                y=one.y,
                share=round(share, 3),
                sigma=round(min(sigma, NEVER), 3),
                was_there=was_there(share, sigma),
            )
        )
    return tuple(told)
