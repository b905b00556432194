"""The simulated finger: it draws a touch session as a glass would send it, part by part."""

import io

from lens.errors import BadInput
from lens.touch import Plan, read_recording
from server.simbench.device import touch_recording
from server.touch.actions import take_part
from server.touch.core_adapter import Now, PartIn, plan_of, sliced, to_store
from server.touch.models import TouchSession

SENDER = "simulated finger"
PAUSE_MS = 900.0


def draw(session: TouchSession) -> None:
    """Carry out the steps that are asked for and not done. A double click draws once: parts of one sender are numbered."""
    if session.status != "open":
        raise BadInput("The session has ended. Start another one, or ask for what is missing.", "touch_ended")
    plan = _ahead(session)
    if not plan.steps:
        return
    session.plan = to_store(plan)  # of this copy only: what is left, at the times when it is drawn
    recording = read_recording(io.BytesIO(touch_recording(session)), session.run.panel)
    parts = list(sliced(recording.rows)) or [[]]
    first = 1000 * len(session.done)
    for number, rows in enumerate(parts):
        last = number == len(parts) - 1
        steps = [step.model_dump(mode="json") for step in plan.steps] if last else []
        take_part(
            session.run, session.pk, PartIn(SENDER, first + number, rows, steps, 0.0, Now("end") if last else None)
        )


def _ahead(session: TouchSession) -> Plan:
    """What is left, one step after the other, after all that was done."""
    plan = plan_of(session)
    done = {step["id"] for step in session.done}
    clock = max((step["end_ms"] for step in session.done), default=0.0) + PAUSE_MS
    steps = []
    for step in plan.steps:
        if step.id not in done:
            took = step.end_ms - step.start_ms
            steps.append(step.model_copy(update={"start_ms": clock, "end_ms": clock + took}))
            clock += took + PAUSE_MS
    return Plan(grid=plan.grid, steps=tuple(steps))
