"""What people decided on findings, put beside what was measured."""

from collections.abc import Sequence

from pydantic import Field

from lens.records import PIXEL_KINDS, Channel, Decision, Finding, Kind, clusters
from lens.records.base import Record

SAME_PLACE_PX = 3.0


class Ruling(Record):
    """A decision and the finding it was made on, told by kind and place, so that it holds when the set is measured again."""

    kind: Kind
    channel: Channel | None = None
    x: float
    y: float
    w: float = 1
    h: float = 1
    decision: Decision
    becomes: Kind | None = Field(
        default=None, description="the kind that counts instead, when the decision corrects it"
    )
    becomes_channel: Channel | None = None


def measured(finding: Finding) -> Finding:
    """The finding as the photos told it."""
    if finding.decision is None:
        return finding
    return finding.model_copy(
        update={"kind": finding.decision.measured_kind, "channel": finding.decision.measured_channel, "decision": None}
    )


def same_place(first: Finding | Ruling, second: Finding | Ruling) -> bool:
    """True when two things lie within three pixels of each other, or half of their size where they are large."""
    reach_x, reach_y = max(SAME_PLACE_PX, (first.w + second.w) / 4), max(SAME_PLACE_PX, (first.h + second.h) / 4)
    return abs(first.x - second.x) <= reach_x and abs(first.y - second.y) <= reach_y


def decided(findings: Sequence[Finding], rulings: Sequence[Ruling]) -> tuple[Finding, ...]:
    """The findings with the decisions that stand, the last one on each; clusters follow from what is left."""
    out = []
    for finding in (measured(f) for f in findings if f.kind != "cluster"):
        ruling = next((r for r in reversed(rulings) if about(r, finding)), None)
        if ruling is None:
            out.append(finding)
            continue
        change: dict[str, object] = {"decision": ruling.decision}
        if ruling.decision.verdict == "corrected" and ruling.becomes is not None:
            change |= {"kind": ruling.becomes, "channel": ruling.becomes_channel}
        out.append(finding.model_copy(update=change))
    return (*out, *clusters(out))


def about(ruling: Ruling, finding: Finding) -> bool:
    """True when a decision was made on this finding as it was measured."""
    family = ruling.kind == finding.kind or (ruling.kind in PIXEL_KINDS and finding.kind in PIXEL_KINDS)
    return family and ruling.channel == finding.channel and same_place(ruling, finding)
