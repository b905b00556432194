"""Answers that their conditions make worthless: a device at the end of its charge dims by itself, which says nothing of its backlight.

Common practice; the limit is that of ``lens.progress.conditions``.
"""

from lens.progress.conditions import LOW_CHARGE

DIM_ANSWERS = frozenset({("first_look", "dim"), ("light", "dim")})


def set_aside(check: str, outcome: str, mains: bool | None, battery_percent: int | None) -> str:
    """Why an answer does not count, and what to do instead; empty where it does."""
    low = mains is not True and battery_percent is not None and battery_percent <= LOW_CHARGE
    if (check, outcome) in DIM_ANSWERS and low:
        return f"Looked at with {battery_percent} % of charge: it dims by itself. Plug it in, or charge it, and look again."
    return ""
