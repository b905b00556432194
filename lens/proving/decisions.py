"""What becomes of a panel that was inspected by itself, and which class or grade it keeps."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

from lens.records.verdict import Outcome

DecisionId = Literal["shelf", "returned", "test_display", "recycled"]


class Decision(NamedTuple):
    """``ends_well``: it is used as a panel."""

    title: str
    ends_well: bool


DECISIONS: Mapping[str, Decision] = MappingProxyType(
    {
        "shelf": Decision("Kept on the shelf", True),
        "returned": Decision("Goes back to the supplier", False),
        "test_display": Decision("Kept as a test display", False),
        "recycled": Decision("Goes to recycling by local rules", False),
    }
)


def supplier_outcome(decision: str, result: Outcome, picture_alive: bool) -> Literal["good", "dead", "marked"]:
    """What a decision tells of the supplier: good, or marked where it shows a picture and fails, or dead where it shows none.

    A panel that is sent back although it passes (the wrong one was ordered) speaks against nobody.
    """
    if DECISIONS[decision].ends_well or result == "pass":
        return "good"
    return "marked" if picture_alive else "dead"
