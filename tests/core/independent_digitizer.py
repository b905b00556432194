"""A touch layer and a hand that share nothing with the simulator: self-capacitance by rows and columns, a spring-like hand.

Each row and each column is measured by itself (projected self-capacitance, common practice of simple layers), so a dead line takes all
of its strip; a place is the weighted mean of all lines that feel the finger, put right by the maker's table. The hand is a damped spring that is
pulled by the dot, so it lags and cuts corners; it slips off the glass now and then. Habits, one at a time: a pace of its
own, a lift or a detour in one place, a finger that stays too long, a palm.
"""

import bisect
import json
import math
import random
from collections.abc import Callable, Sequence
from typing import Any

Place = tuple[float, float]


def _along(path: Sequence[Sequence[float]], share: float) -> Place:
    ways = [((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2) ** 0.5 for a, b in zip(path, path[1:], strict=False)]
    left = share * sum(ways)
    for (a, b), way in zip(zip(path, path[1:], strict=False), ways, strict=True):
        if way and left <= way:
            return (a[0] + (b[0] - a[0]) * left / way, a[1] + (b[1] - a[1]) * left / way)
        left -= way
    return (path[-1][0], path[-1][1])


class Lines:
    """One direction of the layer: strengths of its lines under a finger, and the place that they tell."""

    def __init__(self, size_px: float, pitch_px: float, dead: Callable[[float], bool], dice: random.Random) -> None:
        count = max(3, round(size_px / pitch_px))
        self.places = [(n + 0.5) * size_px / count - 0.5 for n in range(count)]
        self.reach, self.dead, self.dice = 1.2 * pitch_px, [dead(place) for place in self.places], dice
        self.at = [n * size_px / 400 for n in range(401)]
        self.means = [self._mean(self._felt(at)) for at in self.at]

    def place(self, at: float) -> float | None:
        strengths = [
            0.0 if dead or not felt else felt + self.dice.gauss(0, 0.01)
            for felt, dead in zip(self._felt(at), self.dead, strict=True)
        ]
        best = max(range(len(strengths)), key=strengths.__getitem__)
        nearest = min(range(len(self.places)), key=lambda n: abs(self.places[n] - at))
        if (
            strengths[best] < 0.5 or self.dead[nearest]
        ):  # the line under the finger is pulled down, and the controller gives up on it
            return None
        return self._calibrated(self._mean(strengths))

    def _felt(self, at: float) -> list[float]:
        return [max(0.0, 1 - ((place - at) / (2 * self.reach)) ** 2) for place in self.places]

    def _mean(self, strengths: Sequence[float]) -> float:
        weights = [max(strength, 0.0) for strength in strengths]
        return sum(w * place for w, place in zip(weights, self.places, strict=True)) / sum(weights)

    def _calibrated(self, mean: float) -> float:
        """The place whose mean on a sound layer this is: the maker's table, without which the rims would be drawn inwards."""
        n = min(max(bisect.bisect(self.means, mean), 1), len(self.means) - 1)
        low, high = self.means[n - 1], self.means[n]
        return self.at[n - 1] + (self.at[n] - self.at[n - 1]) * (mean - low) / max(high - low, 1e-9)


def drawn(
    size: tuple[int, int],
    pitch_px: float,
    plan: dict[str, Any],
    dead: Callable[[float, float], bool],
    seed: int,
    lines: tuple[Callable[[float], bool], Callable[[float], bool]] = (lambda x: False, lambda y: False),
    phantoms: Sequence[Place] = (),
    habit: str = "",
) -> bytes:
    """A session. ``dead`` says where the glass does not couple, ``lines`` which columns and rows are dead; ``phantoms`` touch in the soaks;
    ``habit`` is the hand's: pace, lift, detour, late or palm."""
    dice = random.Random(seed)
    across, down = Lines(size[0], pitch_px, lines[0], dice), Lines(size[1], pitch_px, lines[1], dice)
    stiffness, every_ms = dice.uniform(250, 900), 1000 / dice.choice((60, 90, 120))
    events: list[dict[str, Any]] = []

    def add(t: float, ev: str, x: float, y: float) -> None:
        events.append(
            {"t": round(t, 2), "id": 1, "ev": ev, "x": round(x, 1), "y": round(y, 1), "p": None, "w": None, "h": None}
        )

    guided = [step["id"] for step in plan["steps"] if step["kind"] != "hands_off" and step["path"]]
    strays_in = dice.choice(guided) if guided else ""
    for step in plan["steps"]:
        took = step["end_ms"] - step["start_ms"]
        if step["kind"] == "hands_off":
            if habit == "palm":
                rest = (0.8 * size[0], 0.9 * size[1])
                for t in range(600, int(dice.uniform(1200, 1900)), 12):
                    add(
                        step["start_ms"] + t,
                        "down" if t == 600 else "move",
                        rest[0] + dice.gauss(0, 2),
                        rest[1] + dice.gauss(0, 2),
                    )
                add(step["start_ms"] + t + 12, "up", *rest)
            for x, y in phantoms:
                start = step["start_ms"] + dice.uniform(0.1, 0.9) * took
                for n, ev in enumerate(("down", "move", "up")):
                    add(start + 10 * n, ev, x, y)
            continue
        if not step["path"]:
            continue
        x, y = step["path"][0]
        vx = vy = 0.0
        t, slipped, on = 0.0, -1.0, False
        # up to a third faster or slower than the dot, so that it runs away by some dozens of cells and comes back
        waves, phase = dice.choice((1.0, 1.5, 2.0)), dice.uniform(0, 6.28)
        strayed = [
            share * took
            for share in ([dice.uniform(0.2, 0.8)] if habit in ("lift", "detour") and step["id"] == strays_in else [])
        ]
        stays = took + (dice.uniform(300, 1000) if habit == "late" else 150)
        while t < stays:
            share = min(1.0, t / took)
            if habit == "pace":
                share = min(
                    1.0,
                    max(
                        0.0,
                        share
                        + 0.33
                        / (6.28 * waves)
                        * (
                            math.sin(6.28 * waves * share + phase)
                            - math.sin(phase) * (1 - share)
                            - math.sin(6.28 * waves + phase) * share
                        ),
                    ),
                )
            away = any(start <= t < start + 450 for start in strayed)
            if away and habit == "lift":
                slipped = t + every_ms
            to = _along(step["path"], share)
            if away and habit == "detour":
                to = (to[0] + 0.08 * size[0], to[1] + 0.08 * size[1])
            dt = every_ms / 1000
            vx += (stiffness * (to[0] - x) - 2 * stiffness**0.5 * vx) * dt
            vy += (stiffness * (to[1] - y) - 2 * stiffness**0.5 * vy) * dt
            x, y = x + vx * dt + dice.gauss(0, 0.4), y + vy * dt + dice.gauss(0, 0.4)
            if dice.random() < 0.02 * dt:
                slipped = t + dice.uniform(50, 180)
            told = (across.place(x), down.place(y)) if t >= slipped and not dead(x, y) else (None, None)
            if told[0] is not None and told[1] is not None:
                add(step["start_ms"] + t, "move" if on else "down", told[0], told[1])
                on = True
            elif on:
                add(step["start_ms"] + t, "up", x, y)
                on = False
            t += every_ms
        if on:
            add(step["start_ms"] + t, "up", x, y)
    events.sort(key=lambda event: event["t"])
    head = {
        "type": "session",
        "panel": {"width": size[0], "height": size[1], "diagonal_in": None},
        "started": "2026-02-03T04:05:06Z",
        "plan": plan,
    }
    return "\n".join(json.dumps(line) for line in [head, *events]).encode() + b"\n"
