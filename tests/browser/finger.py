"""A finger on a page: it follows a touch session's dot by real touch input, and lifts where the layer is to be dead."""

import math
import time
from collections.abc import Callable, Sequence
from typing import Any

from playwright.sync_api import Page, expect

Place = tuple[float, float]
STEP_S = 1 / 60


def along(path: Sequence[Sequence[float]], share: float) -> Place:
    """The place after a share of a path's way."""
    lengths = [math.dist(a, b) for a, b in zip(path, path[1:], strict=False)]
    left = max(0.0, min(1.0, share)) * sum(lengths)
    for (a, b), length in zip(zip(path, path[1:], strict=False), lengths, strict=True):
        if left <= length:
            part = left / length if length else 0.0
            return a[0] + part * (b[0] - a[0]), a[1] + part * (b[1] - a[1])
        left -= length
    return path[-1][0], path[-1][1]


class Finger:
    """Touches in panel pixels; ``ratio`` is the page's device pixels a CSS pixel."""

    def __init__(self, page: Page, ratio: float, dead: Callable[[Place], bool] = lambda place: False) -> None:
        self.page, self.ratio, self.dead = page, ratio, dead
        self.wire = page.context.new_cdp_session(page)
        self.down = False

    def phase(self) -> str:
        return str(self.page.locator("#screen").get_attribute("data-touch"))

    def touch(self, *places: Place) -> None:
        points = [
            {"x": (x + 0.5) / self.ratio, "y": (y + 0.5) / self.ratio, "id": n, "radiusX": 6, "radiusY": 7}
            for n, (x, y) in enumerate(places)
        ]
        self.wire.send(
            "Input.dispatchTouchEvent", {"type": "touchMove" if self.down else "touchStart", "touchPoints": points}
        )
        self.down = True

    def lift(self) -> None:
        if self.down:
            self.wire.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
        self.down = False

    def draw(self, step: dict[str, Any]) -> None:
        """A guided step, from the ring to the end; begun from the bench's side when the ring does not answer."""
        expect(self.page.locator("#screen")).to_have_attribute("data-touch", f"{step['id']}.ready")
        start = (step["path"][0][0], step["path"][0][1])
        if self.dead(start):
            self.page.keyboard.press("Space")
        else:
            self.touch(start)
        began, took = time.monotonic(), (step["end_ms"] - step["start_ms"]) / 1000
        while (passed := time.monotonic() - began) < took:
            place = along(step["path"], passed / took)
            if self.dead(place):
                self.lift()
            else:
                self.touch(place)
            time.sleep(max(0.0, STEP_S - (time.monotonic() - began - passed)))
        self.lift()

    def hold(self, step: dict[str, Any]) -> None:
        """As many fingers as the step has places, until it is over."""
        expect(self.page.locator("#screen")).to_have_attribute("data-touch", f"{step['id']}.ready")
        places = [(x, y) for x, y in step["path"]] if step["kind"] == "multi_touch" else [tuple(step["path"][0])]
        end = time.monotonic() + (step["end_ms"] - step["start_ms"]) / 1000
        while time.monotonic() < end:
            self.touch(*places)
            time.sleep(0.05)
        self.lift()

    def hands_off(self, step: dict[str, Any], unasked: Sequence[Place] = ()) -> None:
        """Begin the soak by key, and let touches come that nobody makes."""
        expect(self.page.locator("#screen")).to_have_attribute("data-touch", f"{step['id']}.ready")
        self.page.keyboard.press("Space")
        for place in unasked:
            time.sleep(0.5)
            self.touch(place)
            time.sleep(0.04)
            self.lift()
