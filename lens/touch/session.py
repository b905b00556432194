"""Touch sessions as JSON Lines: a first line with panel and plan, then an event a line."""

import json
from collections.abc import Sequence
from typing import Any, Literal, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray
from pydantic import Field, ValidationError

from lens.errors import BadInput
from lens.panel import Panel, make_panel
from lens.records.base import Record

MOST_BYTES, MOST_EVENTS = 200 * 1024 * 1024, 3_000_000
EVENTS = ("down", "move", "up", "cancel")
MOST_INCHES = 120
BEYOND_PX = 50.0  # a finger at the rim is reported a little outside; further out is no touch of this panel
_HOW = "Send the session as it was recorded: JSON Lines, the first with type 'session'."
Numbers = NDArray[np.float64]


class Grid(Record):
    columns: int = Field(ge=1, le=400)
    rows: int = Field(ge=1, le=400)


class Step(Record):
    """A step of the plan. While a guided one runs, a dot moves along ``path`` at an even pace and the finger follows it."""

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


class _Line(msgspec.Struct):
    t: float | None = None
    id: int | str | None = None
    ev: str | None = None
    x: float | None = None
    y: float | None = None


def _head(line: bytes, plan: bytes | None) -> tuple[tuple[int, int] | None, float | None, Plan | None]:
    """The panel's size and diagonal as the session tells them, and the plan."""
    try:
        head = json.loads(line)
    except (ValueError, RecursionError):
        raise BadInput(f"The first line is no JSON. {_HOW}", "touch_session") from None
    if not isinstance(head, dict) or head.get("type") != "session":
        raise BadInput(f"The first line is no session. {_HOW}", "touch_session")
    told: Any = head.get("plan")
    if plan is not None:
        try:
            told = json.loads(plan)
        except (ValueError, RecursionError):
            raise BadInput("The plan is no JSON.", "touch_plan") from None
    size = head.get("panel")
    width, height, inches = (size.get(name) if isinstance(size, dict) else None for name in ("width", "height", "diagonal_in"))
    own = (width, height) if isinstance(width, int) and isinstance(height, int) else None
    diagonal = float(inches) if isinstance(inches, (int, float)) and 0 < inches < MOST_INCHES else None
    try:
        return own, diagonal, Plan.model_validate(told) if told else None
    except ValidationError as error:
        first = error.errors()[0]
        raise BadInput(f"The plan is wrong at {'.'.join(str(part) for part in first['loc'])}: {first['msg']}.", "touch_plan") from None


def read_session(data: bytes, panel: Panel | None = None, plan: bytes | None = None) -> Session:
    """Read a session; ``panel`` and ``plan`` stand in for, or are held against, its own.

    Raises
    ------
    BadInput
        when the file is no session, too large, of another panel, or holds neither events nor a plan.
    """
    if len(data) > MOST_BYTES:
        raise BadInput(f"The session has {len(data) / 2**20:.0f} MB; at most 200 MB are read.", "touch_session")
    first, _, rest = data.lstrip().partition(b"\n")
    size, diagonal, told = _head(first, plan)
    if panel is None and size is None:
        raise BadInput("The session does not say how large the panel is. Give its resolution.", "touch_panel")
    if panel is not None and size is not None and size != (panel.width, panel.height):
        raise BadInput(f"The session is of a panel of {size[0]} x {size[1]}, not {panel.width} x {panel.height}.", "touch_panel")
    screen = panel or make_panel(*(size or (0, 0)))
    if screen.diagonal_in is None and diagonal is not None:
        screen = make_panel(screen.width, screen.height, diagonal)
    lines, cut = _decoded(rest)
    session = _arrays(screen, told, lines)
    if not len(session.t) and told is None:
        raise BadInput("The session holds neither touches nor a plan, so it says nothing. Record it with a plan.", "touch_session")
    return session._replace(problems=(*session.problems, *(["The file is cut short: its last line is not whole."] if cut else [])))


def _decoded(rest: bytes) -> tuple[Sequence[_Line], bool]:
    """The events, and whether the last line is cut; a line that is none is said with its number."""
    decoder = msgspec.json.Decoder(_Line)
    try:
        lines = decoder.decode_lines(rest)
        return lines, False
    except msgspec.DecodeError:
        pass
    out, rows = [], rest.split(b"\n")
    while rows and not rows[-1].strip():
        rows.pop()
    for number, row in enumerate(rows, start=2):
        if not row.strip():
            continue
        try:
            out.append(decoder.decode(row))
        except msgspec.DecodeError:
            if number == len(rows) + 1:
                return out, True
            raise BadInput(f"Line {number} of the session is no event: {row[:60].decode('utf-8', 'replace')}", "touch_session") from None
    return out, False


def _arrays(panel: Panel, plan: Plan | None, lines: Sequence[_Line]) -> Session:
    if len(lines) > MOST_EVENTS:
        raise BadInput(f"The session holds {len(lines)} events; at most {MOST_EVENTS} are read.", "touch_session")
    nan = float("nan")
    place = {name: n for n, name in enumerate(EVENTS)}
    t = np.array([nan if line.t is None else line.t for line in lines], float)
    x = np.array([nan if line.x is None else line.x for line in lines], float)
    y = np.array([nan if line.y is None else line.y for line in lines], float)
    kind = np.array([place.get(line.ev or "", -1) for line in lines], np.int8)
    names = {name: n for n, name in enumerate(dict.fromkeys(line.id for line in lines))}
    finger = np.array([names[line.id] for line in lines], np.int64)
    lifted = kind >= 2
    inside = (x >= -BEYOND_PX) & (x <= panel.width + BEYOND_PX) & (y >= -BEYOND_PX) & (y <= panel.height + BEYOND_PX)
    # where a finger was lifted is not always told, and does not matter
    good = np.isfinite(t) & (kind >= 0) & (inside | lifted)
    problems = []
    if not good.all():
        problems.append(f"{int((~good).sum())} of {len(lines)} events are of no use: no time, unknown kind, or far outside the panel.")
    order = np.argsort(t[good], kind="stable")
    t, x, y, kind, finger = (values[good][order] for values in (t, x, y, kind, finger))
    if len(t) > 1 and (np.diff(np.flatnonzero(good)[order]) < 0).any():
        problems.append("Events were out of order and were sorted by their time.")
    if len(t) > 1:
        again = np.concatenate([[False], (np.diff(t) == 0) & (np.diff(finger) == 0) & (np.diff(kind) == 0) & (np.diff(x) == 0) & (np.diff(y) == 0)])
        if again.any():
            problems.append(f"{int(again.sum())} events came twice and count once.")
        t, x, y, kind, finger = (values[~again] for values in (t, x, y, kind, finger))
    # a finger's number is used again: each coming down is a contact of its own, and so is what moves without one
    started = (kind == 0).astype(np.int64)
    contact = np.zeros(len(t), np.int64)
    for name in range(len(names)):
        own = finger == name
        contact[own] = np.cumsum(started[own])
    return Session(panel, plan, t, finger * 1_000_000 + contact, kind, x, y, tuple(problems))
