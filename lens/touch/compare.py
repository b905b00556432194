"""Two touch sessions of one panel held against each other: before and after, first and later."""

from typing import Literal

from lens.records.base import Record
from lens.touch.analyse import TouchResult
from lens.touch.zones import DeadZone

SAME_SHARE = 0.3  # of the smaller of two boxes that the other one covers


class TouchComparison(Record):
    """Dead zones that are new, gone or still there, whether phantoms came or went, and both in words."""

    result: Literal["unchanged", "better", "worse", "not_proven"]
    new: tuple[DeadZone, ...]
    gone: tuple[DeadZone, ...]
    same: tuple[DeadZone, ...]
    text: str


def compare_touch(before: TouchResult, after: TouchResult) -> TouchComparison:
    """What became of the dead zones and of phantoms from one session to the other. A zone is the same where the boxes share a part."""
    same = tuple(zone for zone in after.dead_zones if any(_alike(zone, one) for one in before.dead_zones))
    new = tuple(zone for zone in after.dead_zones if zone not in same)
    gone = tuple(zone for zone in before.dead_zones if not any(_alike(zone, one) for one in after.dead_zones))
    came, went = bool(after.phantom and not before.phantom), bool(before.phantom and not after.phantom)
    told_of = ((new, "new"), (gone, "gone"), (same, "as before"))
    parts = [f"{len(zones)} dead {'zone' if len(zones) == 1 else 'zones'} {word}" for zones, word in told_of if zones]
    parts += [words for true, words in ((came, "phantom touches are new"), (went, "phantom touches are gone")) if true]
    open_after = after.verdict == "not_proven"
    result: Literal["unchanged", "better", "worse", "not_proven"] = (
        "worse" if new or came else "not_proven" if open_after else "better" if gone or went else "unchanged"
    )
    told = "; ".join(parts) or "The touch answers as before"
    text = f"{told[0].upper()}{told[1:]}.{' Not all of the later session is proven.' if open_after else ''}"
    return TouchComparison(result=result, new=new, gone=gone, same=same, text=text)


def _alike(one: DeadZone, other: DeadZone) -> bool:
    across = min(one.x + one.w / 2, other.x + other.w / 2) - max(one.x - one.w / 2, other.x - other.w / 2)
    down = min(one.y + one.h / 2, other.y + other.h / 2) - max(one.y - one.h / 2, other.y - other.h / 2)
    return across > 0 and down > 0 and across * down >= SAME_SHARE * min(one.w * one.h, other.w * other.h)
