"""What goes wrong with a whole touch surface, done to a recorded session event by event: displaced, shaken, reported seldom, fingers merged.

Shares nothing with the simulator. A session is its JSON Lines.
"""

import json
import random
from collections.abc import Callable
from typing import Any

Place = tuple[float, float]


def _changed(data: bytes, change: Callable[[dict[str, Any], list[dict[str, Any]]], list[dict[str, Any]]]) -> bytes:
    head, *events = (json.loads(line) for line in data.splitlines())
    return "\n".join(json.dumps(line) for line in [head, *change(head, events)]).encode() + b"\n"


def displaced(data: bytes, to: Callable[[float, float], Place]) -> bytes:
    """Every report at ``to`` of its place; what leaves the panel is reported at its border, as controllers do."""

    def change(head: dict[str, Any], events: list[dict[str, Any]]) -> list[dict[str, Any]]:
        width, height = head["panel"]["width"], head["panel"]["height"]
        for event in events:
            x, y = to(event["x"], event["y"])
            event["x"], event["y"] = round(min(max(x, 0.0), width - 1.0), 1), round(min(max(y, 0.0), height - 1.0), 1)
        return events

    return _changed(data, change)


def shaken(data: bytes, rms_px: float, seed: int) -> bytes:
    """Every report off its place by noise of ``rms_px`` (both directions together)."""
    dice = random.Random(seed)
    sigma = rms_px / 2**0.5

    def change(head: dict[str, Any], events: list[dict[str, Any]]) -> list[dict[str, Any]]:
        for event in events:
            event["x"], event["y"] = (
                round(event["x"] + dice.gauss(0, sigma), 1),
                round(event["y"] + dice.gauss(0, sigma), 1),
            )
        return events

    return _changed(data, change)


def seldom(data: bytes, every_ms: float) -> bytes:
    """Moves at most every so many ms."""

    def change(head: dict[str, Any], events: list[dict[str, Any]]) -> list[dict[str, Any]]:
        out, last = [], -1e9
        for event in events:
            if event["ev"] == "move" and event["t"] - last < every_ms:
                continue
            last = event["t"]
            out.append(event)
        return out

    return _changed(data, change)


def with_fingers(data: bytes, step_id: str, merge_px: float, seed: int, left_out: int = 0) -> bytes:
    """The fingers of a step laid on their places, 60 reports a second; those nearer than ``merge_px`` to one that lies already are one
    contact at the middle of both. ``left_out`` fingers are never laid down."""
    dice = random.Random(seed)

    def change(head: dict[str, Any], events: list[dict[str, Any]]) -> list[dict[str, Any]]:
        step = next(step for step in head["plan"]["steps"] if step["id"] == step_id)
        events = [event for event in events if not step["start_ms"] - 300 <= event["t"] <= step["end_ms"] + 300]
        fingers = [(x + dice.gauss(0, 8), y + dice.gauss(0, 8)) for x, y in step["path"]]
        fingers = fingers[: len(fingers) - left_out]
        down_at = [step["start_ms"] + dice.uniform(30, 300) for _ in fingers]
        on: set[int] = set()
        for tick in range(int((step["end_ms"] - step["start_ms"]) * 0.06)):
            t = step["start_ms"] + tick / 0.06
            lying = [n for n in range(len(fingers)) if down_at[n] <= t]
            groups: list[list[int]] = []
            for n in sorted(lying, key=lambda n: down_at[n]):
                near = next(
                    (group for group in groups for m in group if _apart(fingers[n], fingers[m]) < merge_px), None
                )
                if near is None:
                    groups.append([n])
                else:
                    near.append(n)
            names = {group[0] for group in groups}
            events += [_event(t, name, "up", fingers[name]) for name in on - names]
            for group in groups:
                x, y = (sum(fingers[n][k] for n in group) / len(group) + dice.gauss(0, 0.5) for k in (0, 1))
                events.append(_event(t, group[0], "move" if group[0] in on else "down", (x, y)))
            on = names
        return sorted(
            events + [_event(step["end_ms"], name, "up", fingers[name]) for name in on],
            key=lambda event: float(event["t"]),
        )

    return _changed(data, change)


def _apart(one: Place, other: Place) -> float:
    return float(((one[0] - other[0]) ** 2 + (one[1] - other[1]) ** 2) ** 0.5)


def _event(t: float, name: int, ev: str, at: Place) -> dict[str, Any]:
    return {
        "t": round(t, 2),
        "id": 20 + name,
        "ev": ev,
        "x": round(at[0], 1),
        "y": round(at[1], 1),
        "p": None,
        "w": None,
        "h": None,
    }
