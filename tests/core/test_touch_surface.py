"""Whole surfaces, limits of motion, several fingers, and recordings without a plan, on sessions of a layer and a hand that the simulator does not
know."""

import json
from unittest import TestCase

import numpy as np

from lens.panel import Panel, make_panel
from lens.touch import TouchResult, analyse, read_session, standard_plan
from lens.touch.fingers import taken_for_one
from lens.touch.limits import touch_limits
from lens.touch.motion import moving_jitter_px
from tests.core import independent_troubles as troubles
from tests.core.independent_digitizer import drawn

PHONE, TABLET = make_panel(1080, 2400, 6.5), make_panel(1280, 800, 10.1)
SIZE = (1080, 2400)


def lines_only(panel: Panel, columns: int, rows: int, ms: float) -> dict[str, object]:
    """Somebody else's plan: every row of cells once, to and fro, and one soak."""
    wide, high = panel.width / columns, panel.height / rows
    ends = (0.5 * wide, panel.width - 0.5 * wide)
    path = [[x, (row + 0.5) * high] for row in range(rows) for x in (ends if row % 2 == 0 else ends[::-1])]
    return {
        "grid": {"columns": columns, "rows": rows},
        "steps": [
            {"id": "rows", "kind": "guided_path", "path": path, "start_ms": 500, "end_ms": 500 + ms},
            {
                "id": "soak",
                "kind": "hands_off",
                "path": [],
                "start_ms": ms + 2500,
                "end_ms": ms + 62500,
                "charging": False,
            },
        ],
    }


def session(
    panel: Panel, seed: int, habit: str = "", plan: dict[str, object] | None = None, dead: object = None
) -> bytes:
    pitch = 4.7 / (panel.pitch_mm or 1)
    told = plan or standard_plan(panel, fingers=3).model_dump(mode="json")
    data = drawn((panel.width, panel.height), pitch, told, dead or (lambda x, y: False), seed, habit=habit)  # type: ignore[arg-type]
    several = [step["id"] for step in told["steps"] if step["kind"] == "multi_touch"]  # type: ignore[attr-defined]
    for step in several:
        data = troubles.with_fingers(data, step, 1, seed)
    return data


def judged(data: bytes, panel: Panel) -> TouchResult:
    return analyse(read_session(data, panel))


def failed(result: TouchResult) -> set[str]:
    return {one.id for one in result.criteria if one.result == "fail"}


class Surfaces(TestCase):
    def test_displaced_surfaces_are_told_at_any_pace_and_make_no_dead_cell(self) -> None:
        w, h = SIZE
        for habit in ("", "pace"):
            for seed, (change, wanted) in enumerate(
                (
                    (lambda x, y: (y * w / h, x * h / w), {"axes"}),
                    (lambda x, y: (w - 1 - x, y), {"axes"}),
                    (lambda x, y: (0.87 * x, 0.87 * y), {"scale_off", "offset_mm"}),
                    (lambda x, y: (x + 85, y), {"offset_mm"}),
                    (lambda x, y: (x, y - 120), {"offset_mm"}),
                    (lambda x, y: (w / 2 + 0.87 * (x - w / 2), y), {"scale_off"}),
                )
            ):
                result = judged(troubles.displaced(session(PHONE, 40 + seed, habit), change), PHONE)
                self.assertEqual((failed(result), result.dead_zones), (wanted, ()), f"{habit} {seed} {result.reasons}")
                assert result.surface is not None
                self.assertEqual(result.surface.swapped, seed == 0)
                self.assertEqual(result.surface.mirrored, seed == 1)
        self.assertAlmostEqual(result.surface.scale[0], 0.87, delta=0.02)

    def test_a_sound_surface_at_an_own_pace_is_where_it_is(self) -> None:
        for panel in (PHONE, TABLET):
            for seed in range(60, 63):
                surface = judged(session(panel, seed, "pace"), panel).surface
                assert surface is not None
                self.assertLess(max(abs(value) for value in surface.offset_px) * (panel.pitch_mm or 1), 1.0)
                self.assertLess(max(abs(value - 1) for value in surface.scale), 0.02)


class DeadByOnePass(TestCase):
    def test_edges_halves_and_corners_by_strokes_that_stop_in_line(self) -> None:
        plan, (w, h) = lines_only(TABLET, 26, 15, 30_000), (1280, 800)
        for box, cells in (
            ((-99, -99, w / 2, h + 99), 195),
            ((-99, -99, 0.115 * w, h + 99), 45),
            ((0.69 * w, 0.79 * h, w + 99, h + 99), 24),
        ):
            for seed in range(3):
                data = session(
                    TABLET, 80 + seed, plan=plan, dead=lambda x, y, b=box: b[0] <= x <= b[2] and b[1] <= y <= b[3]
                )
                result = judged(data, TABLET)
                self.assertEqual(result.verdict, "fail", f"{cells} {seed} {result.reasons}")
                self.assertAlmostEqual(
                    sum(len(zone.cells) for zone in result.dead_zones), cells, delta=max(3, 0.04 * cells)
                )

    def test_who_stops_half_way_each_time_has_broken_nothing(self) -> None:
        plan = standard_plan(PHONE).model_dump(mode="json")
        head, *events = session(PHONE, 90).splitlines()
        halves = [
            (step["start_ms"] + 0.5 * (step["end_ms"] - step["start_ms"]), step["end_ms"] + 900)
            for step in plan["steps"]
            if step["path"]
        ]
        kept = [line for line in events if not any(start < json.loads(line)["t"] < end for start, end in halves)]
        result = judged(b"\n".join([head, *kept]), PHONE)
        self.assertEqual((result.verdict, result.dead_zones), ("not_proven", ()), result.reasons)


class Limits(TestCase):
    def test_each_limit_fails_by_itself(self) -> None:
        for panel, seed in ((PHONE, 50), (TABLET, 51)):
            data = session(panel, seed)
            self.assertLessEqual(
                failed(judged(troubles.shaken(data, 13, seed), panel)), {"jitter_rest_mm", "jitter_moving_mm"}
            )
            self.assertIn("jitter_rest_mm", failed(judged(troubles.shaken(data, 13, seed), panel)))
            for rate in (17, 28):
                self.assertIn("rate_hz", failed(judged(troubles.seldom(data, 1000 / rate), panel)))
            self.assertEqual(failed(judged(data, panel)), set())

    def test_a_figure_passes_or_fails_only_with_its_whole_interval(self) -> None:
        limits = touch_limits()
        told = [limits.criterion("offset_mm", value, 0.3) for value in (2.6, 2.9, 3.4)]
        self.assertEqual([one.result for one in told if one], ["pass", "not_proven", "fail"])
        self.assertEqual([one.margin for one in told if one], [0.4, 0.1, -0.4])
        for limit in limits.limits.values():
            self.assertTrue(limit.reason and (limit.most is None) != (limit.least is None))

    def test_jitter_in_motion_is_the_noise_that_was_added(self) -> None:
        # closed form: white noise of sigma in x and in y is sigma * sqrt(2) rms, whatever smooth way it lies on
        rng = np.random.default_rng(3)
        angle = np.linspace(0, 9, 3000)
        lines = [json.dumps({"type": "session", "panel": {"width": 1080, "height": 2400}})]
        for n, (x, y) in enumerate(zip(540 + 300 * np.cos(angle), 900 + 300 * np.sin(2 * angle), strict=True)):
            a, b = rng.normal(0, 2.5, 2)
            lines.append(json.dumps({"t": 8 * n, "id": 1, "ev": "move" if n else "down", "x": x + a, "y": y + b}))
        self.assertAlmostEqual(moving_jitter_px(read_session("\n".join(lines).encode())) or 0, 2.5 * 2**0.5, delta=0.15)


class SeveralFingers(TestCase):
    def plan(self, apart_px: float) -> dict[str, object]:
        plan = standard_plan(PHONE, fingers=3).model_dump(mode="json")
        for step in plan["steps"]:
            if step["id"] == "several fingers":
                step["path"] = [[540 - apart_px / 2, 1200], [540 + apart_px / 2, 1200], [540, 1800]]
        return plan

    def test_taken_for_one_fails_and_a_finger_too_few_is_not_proven(self) -> None:
        data = session(PHONE, 70, plan=self.plan(290))  # 18 mm
        sound = judged(troubles.with_fingers(data, "several fingers", 1, 70), PHONE)
        self.assertEqual(
            (sound.verdict, sound.fingers and (sound.fingers.most, sound.fingers.merged_px)), ("pass", (3, None))
        )
        merged = judged(troubles.with_fingers(data, "several fingers", 330, 70), PHONE)
        self.assertEqual((failed(merged), merged.fingers and merged.fingers.merged_px), ({"separation_mm"}, 290))
        fewer = judged(troubles.with_fingers(data, "several fingers", 1, 70, left_out=1), PHONE)
        self.assertEqual((fewer.verdict, failed(fewer)), ("not_proven", set()))
        near = session(PHONE, 70, plan=self.plan(150))  # 9 mm: fingertips do not come so near
        allowed = judged(troubles.with_fingers(near, "several fingers", 200, 70), PHONE)
        self.assertNotIn("separation_mm", failed(allowed))


class NoPlan(TestCase):
    def bare(self, data: bytes) -> bytes:
        head, rest = data.split(b"\n", 1)
        told = json.loads(head)
        del told["plan"]
        return json.dumps(told).encode() + b"\n" + rest

    def test_it_never_passes_and_its_silence_is_no_dead_zone(self) -> None:
        for seed in range(3):
            data = self.bare(session(PHONE, seed, dead=lambda x, y: x > 540))
            result = judged(data, PHONE)
            self.assertEqual((result.verdict, result.dead_zones), ("not_proven", ()))
            self.assertAlmostEqual(result.coverage, 0.5, delta=0.06)
            self.assertEqual(len(result.unproven_cells) + round(result.coverage * 220), 220)

    def test_what_it_can_tell_may_fail(self) -> None:
        data = session(PHONE, 4)
        self.assertEqual(failed(judged(self.bare(troubles.seldom(data, 45)), PHONE)), {"rate_hz"})
        self.assertEqual(failed(judged(self.bare(troubles.shaken(data, 18, 1)), PHONE)), {"jitter_moving_mm"})
        taps = self.bare(session(PHONE, 4, plan={"grid": {"columns": 10, "rows": 22}, "steps": []})) + b"\n".join(
            json.dumps({"t": 400 * n + t, "id": 1, "ev": ev, "x": 300 + n, "y": 500}).encode()
            for n in range(6)
            for t, ev in ((0, "down"), (50, "up"))
        )
        self.assertIn("6 touches rested at 302, 500", " ".join(judged(taps, PHONE).reasons))

    def test_two_contacts_that_become_one_are_told(self) -> None:
        lines = [json.dumps({"type": "session", "panel": {"width": 1080, "height": 2400}})]
        for n in range(60):  # two fingers come together; at 200 px one ends and the other jumps to the middle
            apart = 800 - 12 * n
            both = apart >= 200
            x = 540 - (apart / 2 if both else 0)
            lines.append(json.dumps({"t": 10 * n, "id": 1, "ev": "move" if n else "down", "x": x, "y": 900}))
            if both or apart + 12 >= 200:
                ev = "up" if not both else "move" if n else "down"
                lines.append(
                    json.dumps({"t": 10 * n, "id": 2, "ev": ev, "x": 540 + (apart + 12 * (not both)) / 2, "y": 900})
                )
        told = taken_for_one(read_session("\n".join(lines).encode()), 108.0)
        self.assertEqual([round(value) for value in told], [200])
