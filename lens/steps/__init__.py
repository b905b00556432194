"""Precedence graphs: what may come next, why something may not, the way back, and how long it takes.

Procedures, plans and training stand on it.
"""

from lens.steps.checking import check, circles, reachable
from lens.steps.graph import MOST_STEPS, Done, Graph, Step, comes_before, held, last_choice
from lens.steps.ordering import CriticalPath, Policy, Slot, critical_path, order, schedule, tails
from lens.steps.walking import (
    applies,
    blocked,
    check_log,
    done_after,
    due,
    finished,
    open_steps,
    step_of,
    undo,
    way_back,
)

__all__ = [
    "MOST_STEPS",
    "CriticalPath",
    "Done",
    "Graph",
    "Policy",
    "Slot",
    "Step",
    "applies",
    "blocked",
    "check",
    "check_log",
    "circles",
    "comes_before",
    "critical_path",
    "done_after",
    "due",
    "finished",
    "held",
    "last_choice",
    "open_steps",
    "order",
    "reachable",
    "schedule",
    "step_of",
    "tails",
    "undo",
    "way_back",
]
