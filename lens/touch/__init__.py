"""Touch: sessions, what was crossed, what did not answer, and touches that nobody made."""

from lens.touch.analyse import Suspect, TouchResult, analyse
from lens.touch.by_eye import TouchSeen, eye_grid, touch_seen
from lens.touch.compare import TouchComparison, compare_touch
from lens.touch.event_lines import MOST_EVENTS
from lens.touch.limits import TouchLimit, touch_limits
from lens.touch.linux_events import Ev, Row
from lens.touch.plan import SOAK_MS, Outline, again_over, free_step, grid_for, soak_steps, standard_plan
from lens.touch.session import (
    Grid,
    Plan,
    Recording,
    Session,
    Step,
    check_plan,
    read_recording,
    read_session,
    session_lines,
)

__all__ = [
    "TouchLimit",
    "touch_limits",
    "MOST_EVENTS",
    "SOAK_MS",
    "Ev",
    "Grid",
    "Outline",
    "Plan",
    "Recording",
    "Row",
    "Session",
    "Step",
    "Suspect",
    "TouchComparison",
    "TouchResult",
    "TouchSeen",
    "again_over",
    "analyse",
    "check_plan",
    "compare_touch",
    "eye_grid",
    "free_step",
    "grid_for",
    "read_recording",
    "read_session",
    "session_lines",
    "soak_steps",
    "standard_plan",
    "touch_seen",
]
