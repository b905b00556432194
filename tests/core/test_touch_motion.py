"""Motion of touches, plans of shaped glass, what is drawn again, and sessions held against each other."""

import json
import math
from collections.abc import Callable
from unittest import TestCase

import numpy as np
from scipy.stats import linregress

from lens.diagnosis import with_suspects
from lens.panel import make_panel
from lens.simulate.touch import DeadBox, Person, touch_fault, touch_session
from lens.touch import (
    Outline,
    Plan,
    TouchResult,
    again_over,
    analyse,
    compare_touch,
    read_session,
    session_lines,
    standard_plan,
)
from lens.touch.session import Step

PANEL = make_panel(720, 1280, 5.0)
SIZE = (720, 1280)
PLAN = standard_plan(PANEL, 2000, fingers=3)


def session(dead: tuple[DeadBox, ...] = (), plan: Plan = PLAN, person: Person | None = None, seed: int = 1) -> bytes:
    return touch_session(SIZE, 5.0, plan.model_dump(mode="json"), dead, person=person, rng=np.random.default_rng(seed))


def judged(data: bytes, asked: tuple[Step, ...] = ()) -> TouchResult:
    return analyse(read_session(data, PANEL), asked)


def moved(data: bytes, change: Callable[[float, float], tuple[float, float]]) -> bytes:
    """The same session on a layer that reports other places."""
    head, *lines = data.splitlines()
    events = [json.loads(line) for line in lines]
    for event in events:
        event["x"], event["y"] = change(event["x"], event["y"])
    return b"\n".join([head, *(json.dumps(event).encode() for event in events)])


class AgainstThePath(TestCase):
    def test_axes_offset_and_scale(self) -> None:
        data = session(person=Person(lag_ms=150, wander_px=3))
        for change, axes, displaced in (
            (lambda x, y: (x, y), "right", False),
            (lambda x, y: (719 - x, y), "mirrored", True),
            (lambda x, y: (y * 720 / 1280, x * 1280 / 720), "swapped", True),
            (lambda x, y: (x + 60, y), "right", True),
            (lambda x, y: (360 + 0.9 * (x - 360), y), "right", True),
        ):
            result = judged(moved(data, change))
            assert result.fit is not None
            self.assertEqual((result.fit.axes, result.fit.displaced), (axes, displaced), result.fit.text)
            self.assertEqual(result.verdict, "fail" if displaced else "pass")
            self.assertEqual(result.dead_zones, ())
            if (
                axes != "right"
            ):  # the trade's first thought: a controller, or its data, that is not this panel's (common practice)
                self.assertEqual(with_suspects(result).suspects[0].cause, "touch_controller")
                self.assertGreaterEqual(result.coverage, 0.99)
        stuck = judged(moved(data, lambda x, y: (360 - 0.0001 * x, y)))  # one column whatever is touched
        self.assertEqual(stuck.verdict, "fail")
        self.assertTrue(all(math.isfinite(one.x) for one in stuck.dropouts))
        shifted = judged(moved(data, lambda x, y: (x + 60, y - 50)))
        assert shifted.fit is not None
        self.assertAlmostEqual(shifted.fit.offset_px[0], 60, delta=6)
        self.assertAlmostEqual(shifted.fit.offset_px[1], -50, delta=6)
        self.assertAlmostEqual(shifted.fit.lag_ms, 150, delta=25)

    def test_straightness_agrees_with_a_line_fitted_by_scipy(self) -> None:
        # one line across with a known bow; reference: scipy's least squares in y, the same for so flat a line
        x = np.linspace(40, 680, 400)
        y = 640 + 12 * np.sin(x / 640 * np.pi)
        step = Step(id="line", kind="guided_path", path=((40, 640), (680, 640)), start_ms=0, end_ms=4000)
        plan = Plan(grid=PLAN.grid, steps=(step,))
        t = np.linspace(0, 4000, 400)
        places = zip(t.tolist(), x.tolist(), y.tolist(), strict=True)
        rows = [(a, 1, "down" if n == 0 else "move", b, c, None, None, None) for n, (a, b, c) in enumerate(places)]
        result = judged(b"".join(session_lines(PANEL, plan, "2026-01-01T00:00:00Z", iter(rows))))
        inner = (x >= 40 + 1.5 * 80) & (x <= 680 - 1.5 * 80)
        line = linregress(x[inner], y[inner])
        wanted = float(np.abs(y[inner] - line.intercept - line.slope * x[inner]).max())
        self.assertAlmostEqual(result.linearity_px_max or 0, wanted, delta=0.3)


class SeveralFingers(TestCase):
    def test_as_many_as_were_asked_for_or_it_is_not_proven(self) -> None:
        good = judged(session())
        assert good.fingers is not None
        self.assertEqual((good.fingers.asked, good.fingers.most, good.verdict), (3, 3, "pass"))
        fewer = PLAN.model_dump(mode="json")
        for step in fewer["steps"]:
            if step["kind"] == "multi_touch":
                step["path"] = step["path"][:2]
        poor = judged(touch_session(SIZE, 5.0, fewer, rng=np.random.default_rng(1)))
        self.assertEqual(poor.verdict, "not_proven")
        self.assertIn("2 of 3 fingers", " ".join(poor.reasons))

    def test_a_step_that_was_asked_for_and_left_out_is_not_proven(self) -> None:
        done = Plan(grid=PLAN.grid, steps=PLAN.steps[:-1])
        result = judged(session(plan=done), PLAN.steps)
        self.assertEqual(result.verdict, "not_proven")
        self.assertIn("hands off, charger in", " ".join(result.reasons))


class Plans(TestCase):
    def test_corners_and_cut_outs_are_asked_of_nobody(self) -> None:
        plan = standard_plan(PANEL, 2000, outline=Outline(corner_px=180, cutouts=((300, 0, 120, 75),)))
        self.assertTrue({(0, 0), (8, 0), (0, 15), (8, 15), (4, 0)} <= set(plan.grid.hidden))
        top = [x for x, y in plan.steps[0].path if y < 80]
        self.assertGreater(min(top), 80)
        # the layer answers nowhere there, and the panel passes
        boxes = tuple(
            DeadBox(left=80 * c - 60, top=80 * r - 60, right=80 * c + 78, bottom=80 * r + 78) for c, r in ((0, 0),)
        )
        result = judged(session(boxes, plan))
        self.assertEqual((result.verdict, result.dead_zones), ("pass", ()), result.reasons)

    def test_what_is_drawn_again_crosses_each_cell_with_a_run_up(self) -> None:
        cells = [(4, 5), (4, 6), (5, 6), (0, 15), (8, 0)]
        step = again_over(PANEL, PLAN.grid, cells, "again")
        assert step is not None
        result = judged(session(plan=Plan(grid=PLAN.grid, steps=(step,))))
        self.assertEqual({tuple(cell) for cell in cells} & set(result.unproven_cells), set())
        self.assertLess(step.end_ms - step.start_ms, 4000)
        self.assertIsNone(again_over(PANEL, PLAN.grid, [], "again"))

    def test_a_thin_dead_row_is_found_wherever_it_lies_between_cells(self) -> None:
        # a sense line is 4 to 5 mm wide (common practice), less than a cell
        for top in np.arange(400, 481, 10):
            for seed in range(2):
                result = judged(
                    session((DeadBox(left=-60, top=float(top), right=780, bottom=float(top) + 62),), seed=seed)
                )
                self.assertEqual(
                    (result.verdict, {zone.kind for zone in result.dead_zones}), ("fail", {"row"}), f"{top} {seed}"
                )

    def test_a_layer_that_reports_seldom_is_not_dead(self) -> None:
        slow = touch_session(SIZE, 5.0, PLAN.model_dump(mode="json"), rate_hz=28, rng=np.random.default_rng(2))
        self.assertEqual(judged(slow).dead_zones, ())


class Compared(TestCase):
    def test_before_and_after(self) -> None:
        row, half = (judged(session(touch_fault(name, SIZE)[0])) for name in ("row", "half"))
        good = judged(session())
        for before, after, result, words in (
            (row, good, "better", "1 dead zone gone"),
            (good, half, "worse", "1 dead zone new"),
            (row, row, "unchanged", "as before"),
            (good, good, "unchanged", "answers as before"),
        ):
            told = compare_touch(before, after)
            self.assertEqual(told.result, result)
            self.assertIn(words, told.text)
