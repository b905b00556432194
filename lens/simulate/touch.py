"""A simulated finger on a simulated touch layer: it follows the plan as people do, and the layer answers as it can."""

import json
from collections.abc import Iterator, Sequence
from typing import Any, Literal, Protocol

import numpy as np

from lens.records.base import Record


class DeadBox(Record):
    """A part that does not answer: left, top, right, bottom in panel px; ``share`` of the passes that it misses."""

    left: float
    top: float
    right: float
    bottom: float
    share: float = 1.0


class Ghost(Record):
    """Touches that nobody makes, ``rate_a_minute`` of them about ``x, y``, spread by ``spread_x`` and ``spread_y``; ``events`` each."""

    x: float
    y: float
    rate_a_minute: float
    spread_x: float = 2.0
    spread_y: float = 2.0
    events: int = 3
    charger_only: bool = False


class Person(Record):
    """How the dot is followed: ``lag_ms`` behind it, wandering by ``wander_px`` slowly, trembling by ``jitter_px``; ``lifts_a_minute``
    short lifts, ``left_out`` step ids that were confirmed without drawing.

    Habits: a pace that runs ahead of the dot and behind it by ``own_pace`` of a step; ``detours_a_minute`` strayings by ``detour_px``;
    ``late_ms`` on the glass after a step has ended, ``palm`` resting there as a soak begins; ``roll_px`` by which a resting fingertip smears;
    ``bias_px`` by which the pad of a left or right hand lies beside the place that is aimed at.
    """

    lag_ms: float = 180.0
    wander_px: float = 6.0
    jitter_px: float = 0.8
    lifts_a_minute: float = 0.5
    left_out: tuple[str, ...] = ()
    own_pace: float = 0.0
    detours_a_minute: float = 0.0
    detour_px: float = 120.0
    late_ms: float = 0.0
    palm: bool = False
    roll_px: float = 0.0
    bias_px: tuple[float, float] = (0.0, 0.0)


TOUCH_FAULTS = (
    "none",
    "half",
    "row",
    "column",
    "corner",
    "rectangle",
    "at_times",
    "all",
    "spot",
    "stream",
    "charger_rows",
)


def touch_fault(name: str, size: tuple[int, int]) -> tuple[tuple[DeadBox, ...], tuple[Ghost, ...]]:
    """One fault of the touch by its name, on a panel of this size."""
    w, h = size
    dead = {
        "half": DeadBox(left=-60, top=h / 2, right=w + 60, bottom=h + 60),
        "row": DeadBox(left=-60, top=0.35 * h, right=w + 60, bottom=0.41 * h),
        "column": DeadBox(left=0.4 * w, top=-60, right=0.52 * w, bottom=h + 60),
        "corner": DeadBox(left=0.7 * w, top=0.8 * h, right=w + 60, bottom=h + 60),
        "rectangle": DeadBox(left=0.3 * w, top=0.35 * h, right=0.65 * w, bottom=0.55 * h),
        "at_times": DeadBox(left=0.2 * w, top=0.3 * h, right=0.8 * w, bottom=0.6 * h, share=0.6),
        "all": DeadBox(left=-60, top=-60, right=w + 60, bottom=h + 60),
    }
    ghosts = {
        "spot": Ghost(x=0.3 * w, y=0.2 * h, rate_a_minute=8),
        "charger_rows": Ghost(x=0.5 * w, y=0.4 * h, spread_x=0.25 * w, spread_y=3, rate_a_minute=16, charger_only=True),
        "stream": Ghost(x=0.5 * w, y=0.5 * h, spread_x=0.3 * w, spread_y=0.2 * h, rate_a_minute=120),
    }
    return ((dead[name],) if name in dead else ()), ((ghosts[name],) if name in ghosts else ())


class Layer(Protocol):
    """A touch layer and its controller."""

    def report(self, x: float, y: float) -> tuple[float, float] | None: ...


def _positions(path: np.ndarray, shares: np.ndarray) -> np.ndarray:
    lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    return np.stack([np.interp(shares * lengths[-1], lengths, path[:, n]) for n in (0, 1)], axis=1)


def _stroke(
    step: dict[str, Any],
    dead: Sequence[DeadBox],
    person: Person,
    rate_hz: float,
    rng: np.random.Generator,
    layer: Layer | None,
) -> Iterator[tuple[float, Literal["down", "move", "up"], float, float]]:
    path = np.array(step["path"], float)
    took = step["end_ms"] - step["start_ms"]
    drift, down = np.zeros(2), False
    misses: dict[int, bool] = {}
    lifted_until = -1.0
    last = path[0]
    times = np.arange(0.0, took + person.late_ms + 1e-9, 1000 / rate_hz)
    dot = _positions(path, _shares(times / took if took else times, person.own_pace, rng))
    dot += np.array(person.bias_px) + _rolled(len(dot), person.roll_px if step["kind"] == "hold" else 0.0, rng)
    strays_until, aside = -1.0, np.zeros(2)
    wander, tremble = rng.normal(0, person.wander_px * 0.17, dot.shape), rng.normal(0, person.jitter_px, dot.shape)
    for n, t in enumerate(times):
        now = step["start_ms"] + person.lag_ms + t
        drift = 0.985 * drift + wander[n]
        if person.detours_a_minute and rng.random() < person.detours_a_minute / 60 / rate_hz:
            strays_until, aside = t + float(rng.uniform(250, 600)), person.detour_px * _direction(rng)
        at = dot[n] + drift + tremble[n] + (aside if t < strays_until else 0.0)
        if rng.random() < person.lifts_a_minute / 60 / rate_hz:
            lifted_until = t + float(rng.uniform(60, 200))
        answers = t >= lifted_until
        for number, box in enumerate(dead):
            inside = box.left <= at[0] <= box.right and box.top <= at[1] <= box.bottom
            if not inside:
                misses.pop(number, None)
            elif misses.setdefault(number, rng.random() < box.share):
                answers = False
        if answers and layer is not None:
            felt = layer.report(float(at[0]), float(at[1]))
            answers = felt is not None
            at = np.array(felt) if felt is not None else at
        if answers:
            yield now, "move" if down else "down", float(at[0]), float(at[1])
            down, last = True, at
        elif down:
            yield now, "up", float(last[0]), float(last[1])
            down = False
    if down:
        yield step["start_ms"] + person.lag_ms + took + person.late_ms, "up", float(last[0]), float(last[1])


def _shares(even: np.ndarray, own_pace: float, rng: np.random.Generator) -> np.ndarray:
    """(n,) share of the way at each time: a pace that is now faster and now slower than the dot's, never backwards."""
    if own_pace <= 0:
        return np.clip(even, 0, 1)
    waves, phase = int(rng.integers(1, 4)), float(rng.uniform(0, 2 * np.pi))
    grid = np.linspace(0, 1, 401)
    speed = np.maximum(1 + 2 * np.pi * waves * own_pace * np.cos(2 * np.pi * waves * grid + phase), 0.08)
    gone = np.concatenate([[0.0], np.cumsum((speed[1:] + speed[:-1]) / 2)])
    return np.interp(np.clip(even, 0, 1), grid, gone / gone[-1])


def _rolled(count: int, roll_px: float, rng: np.random.Generator) -> np.ndarray:
    """(n, 2) slow smear of a fingertip that rests."""
    if roll_px <= 0:
        return np.zeros((count, 2))
    return np.linspace(0, 1, count)[:, None] * roll_px * _direction(rng)[None, :]


def _direction(rng: np.random.Generator) -> np.ndarray:
    angle = float(rng.uniform(0, 2 * np.pi))
    return np.array([np.cos(angle), np.sin(angle)])


def _event(t: float, contact: int, kind: str, x: float, y: float) -> dict[str, Any]:
    return {
        "t": round(t, 1),
        "id": contact,
        "ev": kind,
        "x": round(x, 1),
        "y": round(y, 1),
        "p": None,
        "w": None,
        "h": None,
    }


def touch_session(
    panel: tuple[int, int],
    diagonal_in: float | None,
    plan: dict[str, Any],
    dead: Sequence[DeadBox] = (),
    ghosts: Sequence[Ghost] = (),
    person: Person | None = None,
    rate_hz: float = 120.0,
    rng: np.random.Generator | None = None,
    layer: Layer | None = None,
) -> bytes:
    """A session as JSON Lines. ``plan`` is the session's, as a dictionary; ``layer`` says what is felt of a finger, else its very place
    is reported."""
    rng, person = rng or np.random.default_rng(0), person or Person()
    events: list[dict[str, Any]] = []
    finger = 0

    def draw(step: dict[str, Any], base: int) -> None:
        nonlocal finger
        for t, kind, x, y in _stroke(step, dead, person, rate_hz, rng, layer):
            finger += kind == "down"
            events.append(_event(t, base + finger % 10, kind, x, y))

    for step in plan["steps"]:
        left_out = step["id"] in person.left_out or not step["path"]
        if step["kind"] in ("guided_path", "edge", "hold", "free") and not left_out:
            draw(step, 0)
        if step["kind"] == "multi_touch" and not left_out:
            for number, place in enumerate(step["path"][: step.get("fingers") or len(step["path"])], start=1):
                draw(
                    {**step, "path": [place, place], "start_ms": step["start_ms"] + float(rng.uniform(50, 400))},
                    10 * number,
                )
        if step["kind"] == "hands_off" and person.palm:
            finger += 1
            side = 0.15 if person.bias_px[0] < 0 else 0.85
            rest, start = (side * panel[0], 0.88 * panel[1]), step["start_ms"] + float(rng.uniform(150, 600))
            for n in range(int(rng.integers(30, 90))):
                x, y = (float(value) for value in rng.normal(rest, 2.0))
                events.append(_event(start + 10 * n, finger % 10, "move" if n else "down", x, y))
            events.append({**events[-1], "t": round(events[-1]["t"] + 10, 1), "ev": "up"})
        if step["kind"] == "hands_off":
            for ghost in ghosts:
                if ghost.charger_only and not step.get("charging"):
                    continue
                for _ in range(int(rng.poisson(ghost.rate_a_minute * (step["end_ms"] - step["start_ms"]) / 60_000))):
                    finger += 1
                    start = float(rng.uniform(step["start_ms"] + 1000, step["end_ms"] - 500))
                    spot = rng.normal((ghost.x, ghost.y), (ghost.spread_x, ghost.spread_y))
                    x, y = (float(value) for value in np.clip(spot, 0, (panel[0] - 1, panel[1] - 1)))
                    for n in range(ghost.events):
                        kind = "down" if n == 0 else "up" if n == ghost.events - 1 else "move"
                        events.append(_event(start + 8 * n, finger % 10, kind, x, y))
    events.sort(key=lambda event: event["t"])
    size = {"width": panel[0], "height": panel[1], "diagonal_in": diagonal_in}
    head = {"type": "session", "panel": size, "started": "2026-01-05T08:00:00Z", "plan": plan}
    return "\n".join(json.dumps(line) for line in [head, *events]).encode() + b"\n"
