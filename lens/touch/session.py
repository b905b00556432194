"""Touch sessions as JSON Lines: a first line with panel and plan, then an event a line."""

import io
import itertools
import json
import math
from collections.abc import Iterator, Sequence
from typing import Any, BinaryIO, Literal, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray
from pydantic import Field, ValidationError

from lens.errors import BadInput
from lens.panel import Panel, make_panel
from lens.records.base import Record
from lens.touch.event_lines import MOST_BYTES, EventLine, RawEvents, pieces
from lens.touch.linux_events import Row, kind_of, linux_rows
from lens.touch.plain_lines import EVENTS

MOST_INCHES = 120
MOST_STEPS, MOST_STEP_MS, MOST_WORK = 400, 86_400_000.0, 200_000_000
START_BYTES, ROWS_AT_ONCE = 8192, 50_000
BEYOND_PX = 50.0  # a finger at the rim is reported a little outside; further out is no touch of this panel
_HOW = "Send the session as it was recorded: JSON Lines, the first with type 'session'."
Numbers = NDArray[np.float64]


class Grid(Record):
    """Cells that cover the panel; ``hidden`` ones (column, row) lie where it is cut out and are asked of nobody."""

    columns: int = Field(ge=1, le=400)
    rows: int = Field(ge=1, le=400)
    hidden: tuple[tuple[int, int], ...] = ()


class Step(Record):
    """A step of the plan. While a guided one runs, a dot moves along ``path`` at an even pace and the finger follows it; of several
    fingers ``path`` has the places."""

    id: str
    kind: Literal["guided_path", "hands_off", "multi_touch", "edge", "hold", "free"]
    path: tuple[tuple[float, float], ...] = ()
    start_ms: float
    end_ms: float
    charging: bool | None = None
    fingers: int | None = None

    @property
    def guided(self) -> bool:
        return self.kind in ("guided_path", "edge") and len(self.path) >= 2


class Plan(Record):
    grid: Grid
    steps: tuple[Step, ...] = ()


class Session(NamedTuple):
    """Events as arrays in the order of time: ``t`` ms, ``contact`` a number for each finger that came down, ``kind`` the place in EVENTS,
    ``x`` and ``y`` panel px. ``problems`` say what was left out of the file."""

    panel: Panel
    plan: Plan | None
    t: Numbers
    contact: NDArray[np.int64]
    kind: NDArray[np.int8]
    x: Numbers
    y: Numbers
    problems: tuple[str, ...]

    def by_contact(self, own: NDArray[np.bool_]) -> NDArray[np.intp]:
        """Places of some events, contact after contact, each in the order of time."""
        places = np.flatnonzero(own)
        return np.asarray(places[_order(self.contact[places])], np.intp)


def _order(numbers: NDArray[np.int64]) -> NDArray[np.intp]:
    """Stable order of numbers from 0 on; of few, small ones are made, which numpy sorts by counting."""
    return np.argsort(numbers.astype(np.min_scalar_type(numbers.max(initial=0))), kind="stable")


def _plan_of(plan: bytes | None, own: Any = None) -> Plan | None:
    """The plan that was given, else the session's own."""
    told: Any = own
    if plan is not None:
        try:
            told = json.loads(plan)
        except (ValueError, RecursionError):
            raise BadInput("The plan is no JSON.", "touch_plan") from None
    try:
        return Plan.model_validate(told) if told else None
    except ValidationError as error:
        first = error.errors()[0]
        raise BadInput(
            f"The plan is wrong at {'.'.join(str(part) for part in first['loc'])}: {first['msg']}.", "touch_plan"
        ) from None


def _head(line: bytes, plan: bytes | None) -> tuple[tuple[int, int] | None, float | None, Plan | None]:
    """The panel's size and diagonal as the session tells them, and the plan."""
    try:
        head = json.loads(line)
    except (ValueError, RecursionError):
        raise BadInput(f"The first line is no JSON. {_HOW}", "touch_session") from None
    if not isinstance(head, dict) or head.get("type") != "session":
        raise BadInput(f"The first line is no session. {_HOW}", "touch_session")
    size = head.get("panel")
    width, height, inches = (
        size.get(name) if isinstance(size, dict) else None for name in ("width", "height", "diagonal_in")
    )
    own = (width, height) if isinstance(width, int) and isinstance(height, int) else None
    diagonal = float(inches) if isinstance(inches, (int, float)) and 0 < inches < MOST_INCHES else None
    return own, diagonal, _plan_of(plan, head.get("plan"))


def read_session(data: bytes | BinaryIO, panel: Panel | None = None, plan: bytes | None = None) -> Session:
    """Read a session in JSON Lines, or a recording of the Linux input layer; ``panel`` and ``plan`` stand in for, or are held against,
    its own. An open file is read piece by piece.

    Raises
    ------
    BadInput
        when the file is no session, too large, or of another panel.
    """
    file = io.BytesIO(data) if isinstance(data, bytes) else data
    start = file.read(START_BYTES)
    file.seek(0)
    kind = kind_of(start)
    if kind is not None:
        if panel is None:
            raise BadInput("The recording does not say how large the panel is. Give its resolution.", "touch_panel")
        screen, told = panel, _plan_of(plan)
        if told is not None:
            check_plan(panel, told)
        rows, raw = linux_rows(file, panel, kind), RawEvents()
        while part := [EventLine(*row[:5]) for row in itertools.islice(rows, ROWS_AT_ONCE)]:
            raw.add(part)
    else:
        screen, told = _begin(file, panel, plan)
        raw = RawEvents()
        for piece, last in pieces(file):
            raw.take(piece, last)
    session = session_of(screen, told, raw)
    return session._replace(
        problems=(*session.problems, *(["The file is cut short: its last line is not whole."] if raw.cut else []))
    )


def check_plan(panel: Panel, plan: Plan) -> None:
    """Raises BadInput for a plan that cannot be of this panel, or that is too long to be worked through."""
    if len(plan.steps) > MOST_STEPS:
        raise BadInput(f"The plan has {len(plan.steps)} steps; at most {MOST_STEPS} are read.", "touch_plan")
    columns, rows = plan.grid.columns, plan.grid.rows
    if any(not (0 <= column < columns and 0 <= row < rows) for column, row in plan.grid.hidden):
        raise BadInput("The plan hides cells that are not in its grid.", "touch_plan")
    if columns * rows * sum(len(step.path) for step in plan.steps) > MOST_WORK:
        raise BadInput(
            "The plan has too many cells and corners. Give it a coarser grid or shorter paths.", "touch_plan"
        )
    for step in plan.steps:
        if not (
            math.isfinite(step.start_ms)
            and math.isfinite(step.end_ms)
            and 0 <= step.end_ms - step.start_ms <= MOST_STEP_MS
        ):
            raise BadInput(
                f"The plan's step '{step.id}' has no right times: it must end after it starts, within a day.",
                "touch_plan",
            )
        if not all(
            -BEYOND_PX <= x <= panel.width + BEYOND_PX and -BEYOND_PX <= y <= panel.height + BEYOND_PX
            for x, y in step.path
        ):
            raise BadInput(
                f"The path of step '{step.id}' leaves the panel of {panel.width} x {panel.height}. Give the plan that was drawn.",
                "touch_plan",
            )


class Recording(NamedTuple):
    """A recording as it is kept: its events (t, id, ev, x, y, p, w, h), and the plan that says what the finger did, where there is one."""

    rows: Iterator[Row]
    plan: Plan | None


def read_recording(file: BinaryIO, panel: Panel, plan: bytes | None = None) -> Recording:
    """Read what ``read_session`` reads, event by event with pressure and size; raises BadInput as it does."""
    kind = kind_of(file.read(START_BYTES))
    file.seek(0)
    told = _plan_of(plan) if kind is not None else _begin(file, panel, plan)[1]
    if told is not None:
        check_plan(panel, told)
    return Recording(linux_rows(file, panel, kind) if kind is not None else _rows(file), told)


def _rows(file: BinaryIO) -> Iterator[Row]:
    raw = RawEvents()
    for piece, last in pieces(file):
        for line in raw.decoded(piece, last):
            if line.t is not None and line.ev in EVENTS:
                yield (line.t, "" if line.id is None else line.id, line.ev, line.x, line.y, line.p, line.w, line.h)  # type: ignore[misc]


def _begin(file: BinaryIO, panel: Panel | None, plan: bytes | None) -> tuple[Panel, Plan | None]:
    """The panel and the plan by the first line, or those that were given."""
    first = b""
    while not first.strip():
        first = file.readline(MOST_BYTES)
        if not first:
            break
    size, diagonal, told = _head(first, plan)
    if panel is None and size is None:
        raise BadInput("The session does not say how large the panel is. Give its resolution.", "touch_panel")
    if panel is not None and size is not None and size != (panel.width, panel.height):
        raise BadInput(
            f"The session is of a panel of {size[0]} x {size[1]}, not {panel.width} x {panel.height}.", "touch_panel"
        )
    screen = panel or make_panel(*(size or (0, 0)))
    if screen.diagonal_in is None and diagonal is not None:
        screen = make_panel(screen.width, screen.height, diagonal)
    if told is not None:
        check_plan(screen, told)
    return screen, told


def session_of(panel: Panel, plan: Plan | None, raw: RawEvents) -> Session:
    """Sorted, without what is of no use, each coming down a contact of its own."""
    t, x, y, kind, finger = (np.concatenate(field) for field in raw.fields)
    lifted = kind >= 2
    inside = (x >= -BEYOND_PX) & (x <= panel.width + BEYOND_PX) & (y >= -BEYOND_PX) & (y <= panel.height + BEYOND_PX)
    # where a finger was lifted is not always told, and does not matter
    good = np.isfinite(t) & (kind >= 0) & (inside | lifted)
    problems = []
    if not good.all():
        problems.append(
            f"{int((~good).sum())} of {len(t)} events are of no use: no time, unknown kind, or far outside the panel."
        )
        t, x, y, kind, finger = (values[good] for values in (t, x, y, kind, finger))
    if (t[1:] < t[:-1]).any():
        problems.append("Events were out of order and were sorted by their time.")
        order = np.argsort(t, kind="stable")
        t, x, y, kind, finger = (values[order] for values in (t, x, y, kind, finger))
    again = np.zeros(len(t), bool)
    again[1:] = np.logical_and.reduce([values[1:] == values[:-1] for values in (t, x, y, kind, finger)])
    if again.any():
        problems.append(f"{int(again.sum())} events came twice and count once.")
        t, x, y, kind, finger = (values[~again] for values in (t, x, y, kind, finger))
    # a finger's number is used again: each coming down is a contact of its own, and so is what moves without one
    by_finger = _order(finger)
    begins = (kind == 0)[by_finger]
    begins |= np.diff(finger[by_finger], prepend=-1) != 0
    contact = np.empty(len(t), np.int64)
    contact[by_finger] = np.cumsum(begins) - 1
    return Session(panel, plan, t, contact, kind, x, y, tuple(problems))


def session_lines(panel: Panel, plan: Plan | None, started: str, events: Iterator[Sequence[Any]]) -> Iterator[bytes]:
    """A session as JSON Lines: its first line, then one for each event (t, id, ev, x, y, p, w, h)."""
    head: dict[str, Any] = {
        "type": "session",
        "panel": panel.model_dump(mode="json"),
        "started": started,
        "plan": plan.model_dump(mode="json") if plan else None,
    }
    encode = msgspec.json.Encoder().encode
    yield encode(head) + b"\n"
    names = ("t", "id", "ev", "x", "y", "p", "w", "h")
    for event in events:
        yield encode(dict(zip(names, event, strict=True))) + b"\n"
