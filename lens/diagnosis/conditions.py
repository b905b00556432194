"""Answers that their conditions make worthless: a device at the end of its charge dims by itself, which says nothing of its backlight.

Common practice; the limit is that of ``lens.progress.conditions``.
"""

from collections.abc import Iterable

from lens.progress.conditions import runs_low
from lens.records import StageConditions

CRACKED = frozenset({("first_look", "glass"), ("first_look", "broken"), ("impact", "glass"), ("impact", "cell")})
DIM_ANSWERS = frozenset({("first_look", "dim"), ("light", "dim")})


def set_aside(check: str, outcome: str, conditions: StageConditions) -> str:
    """Why an answer does not count, and what to do instead; empty where it does."""
    if (check, outcome) in DIM_ANSWERS and runs_low(conditions):
        return f"Looked at with {conditions.battery_percent} % of charge: it dims by itself. Plug it in, or charge it, and look again."
    return ""


def is_cracked(answers: Iterable[tuple[str, str]]) -> bool:
    """Whether answers (check, outcome) say that the glass is cracked: nobody draws on it before clear film lies over it (common practice)."""
    return not CRACKED.isdisjoint(answers)
