"""Between stored touch sessions and the core."""

import io
import itertools
from collections.abc import Iterator, Sequence
from typing import Annotated, Any, Literal

import msgspec

from lens.diagnosis import DEVICES, with_suspects
from lens.errors import BadInput
from lens.records.upgrade import stamped, upgraded
from lens.touch import (
    MOST_EVENTS,
    Plan,
    Row,
    Step,
    TouchResult,
    analyse,
    check_plan,
    read_session,
    session_lines,
    touch_limits,
)
from server.inspections.models import Run
from server.profiles.actions import find_profile
from server.touch.models import TouchSession

MOST_ROWS, ROWS_A_PART = 6000, 5000
CONTACTS_A_SENDER = 10_000
_rows = msgspec.json.Decoder(list[Row])
_encode = msgspec.json.Encoder().encode


class Now(msgspec.Struct):
    """What the glass does just now."""

    phase: Literal["ready", "running", "asking", "end"]
    step: Annotated[str, msgspec.Meta(max_length=100)] | None = None
    index: int = 0
    count: int = 0
    left: int = 0
    unasked: int = 0
    left_ms: float = 0.0


class PartIn(msgspec.Struct):
    """What a glass sends: events, steps that ended with them, where its clock began, and what it does now."""

    sender: str
    number: int
    events: list[Row] = []
    steps: list[dict[str, Any]] = []
    origin_ms: float | None = None
    now: Now | None = None


def read_part(body: bytes) -> PartIn:
    """Raises BadInput for what is no part."""
    try:
        part = msgspec.json.decode(body, type=PartIn)
    except (msgspec.DecodeError, RecursionError) as error:
        raise BadInput(f"This is no part of a touch session: {error}. Reload the device page.", "touch_part") from None
    if (
        not 0 < len(part.sender) <= 32
        or not 0 <= part.number < 2**31
        or len(part.events) > MOST_ROWS
        or len(part.steps) > 20
    ):
        raise BadInput("This part of a touch session is out of bounds. Reload the device page.", "touch_part")
    return part


def steps_of(told: Sequence[dict[str, Any]]) -> list[Step]:
    """Steps as records; raises BadInput."""
    try:
        return [Step.model_validate(step) for step in told]
    except ValueError:
        raise BadInput("A step of the touch session cannot be read. Reload the device page.", "touch_part") from None


def checked_steps(session: TouchSession, told: Sequence[dict[str, Any]]) -> list[dict[str, Any]]:
    """Steps that a glass says were carried out, as they are stored; raises BadInput when they cannot be this session's."""
    steps = steps_of(told)
    check_plan(session.run.panel, Plan(grid=plan_of(session).grid, steps=(*steps_of(session.done), *steps)))
    return [step.model_dump(mode="json") for step in steps]


def to_text(rows: Sequence[Row]) -> str:
    return _encode(rows).decode()


def rows_of(session: TouchSession) -> Iterator[Row]:
    """All events that came, part by part. Two glasses, or one before and after a reload, number their contacts alike: those of each
    further sender are set apart."""
    senders: list[str] = []
    for sender, text in session.parts.order_by("id").values_list("sender", "rows").iterator(chunk_size=20):
        if sender not in senders:
            senders.append(sender)
        apart = CONTACTS_A_SENDER * senders.index(sender)
        for t, contact, kind, x, y, pressure, width, height in _rows.decode(text):
            yield t, contact + apart if isinstance(contact, int) else contact, kind, x, y, pressure, width, height


def plan_of(session: TouchSession) -> Plan:
    """What was asked for."""
    return Plan.model_validate(stored_plan(session))


def stored_plan(session: TouchSession) -> dict[str, Any]:
    """The stored plan in today's shape."""
    return upgraded("touch_plan", session.plan)


def to_store(plan: Plan) -> dict[str, Any]:
    """A plan as it is stored."""
    return stamped("touch_plan", plan.model_dump(mode="json"))


def performed(session: TouchSession) -> Plan:
    """The steps that were carried out, in the order of time."""
    steps = sorted(steps_of(session.done), key=lambda step: step.start_ms)
    return Plan(grid=plan_of(session).grid, steps=tuple(steps))


def exported(session: TouchSession) -> Iterator[bytes]:
    """The session as JSON Lines."""
    return session_lines(session.run.panel, performed(session), session.made_at.isoformat(), rows_of(session))


def judged(session: TouchSession) -> TouchResult:
    """The session as it stands, analysed."""
    data = io.BytesIO(b"".join(exported(session)))
    limits = touch_limits().agreed(find_profile(session.run.job.profile).touch)
    device = next(name for name in DEVICES if name == session.run.job.device_type)
    return with_suspects(analyse(read_session(data, session.run.panel), plan_of(session).steps, limits), device)


def result_of(session: TouchSession | None) -> TouchResult | None:
    """The stored result."""
    stored = stored_result(session) if session is not None else None
    return TouchResult.model_validate(stored) if stored else None


def stored_result(session: TouchSession) -> dict[str, Any] | None:
    """The stored result in today's shape."""
    return upgraded("touch_result", session.result) if session.result else None


def counting(run: Run) -> TouchSession | None:
    """The session of a run that counts: the last one that was judged and not withdrawn."""
    judged_ones = [one for one in run.touches.all() if one.result and one.status != "withdrawn"]
    return judged_ones[-1] if judged_ones else None


def verdict_of(run: Run) -> str | None:
    """What the counting session came to, without reading all of its result; None where there is none."""
    session = counting(run)
    return str(session.result["verdict"]) if session is not None and session.result else None


def sliced(rows: Iterator[Row]) -> Iterator[list[Row]]:
    """Parts of a long recording; raises BadInput when it is too long."""
    count = 0
    while part := list(itertools.islice(rows, ROWS_A_PART)):
        count += len(part)
        if count > MOST_EVENTS:
            raise BadInput(
                f"The recording holds more than {MOST_EVENTS} events. Record a shorter one.", "touch_session"
            )
        yield part
