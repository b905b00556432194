"""Touch sessions: what the simulated finger drew against what is found, on good and sloppy hands, and bad files."""

import json
from unittest import TestCase

import numpy as np
from scipy.stats import poisson

from lens.diagnosis import with_suspects
from lens.errors import BadInput
from lens.panel import make_panel
from lens.simulate.touch import DeadBox, Ghost, Person, touch_fault, touch_session
from lens.touch import Step, TouchResult, analyse, read_session, standard_plan
from lens.touch.passes import _cut, _from_path

PANEL = make_panel(1080, 2400, 6.5)
SIZE = (PANEL.width, PANEL.height)
PLAN = standard_plan(PANEL)
SLOPPY = Person(lag_ms=260, wander_px=14, lifts_a_minute=3)


def recorded(name: str = "none", person: Person | None = None, seed: int = 3, plan: dict | None = None) -> bytes:
    dead, ghosts = touch_fault(name, SIZE)
    return touch_session(
        SIZE, 6.5, plan or PLAN.model_dump(mode="json"), dead, ghosts, person, rng=np.random.default_rng(seed)
    )


def judged(name: str = "none", person: Person | None = None, seed: int = 3) -> TouchResult:
    return with_suspects(analyse(read_session(recorded(name, person, seed), PANEL)))


def true_cells(dead: tuple[DeadBox, ...]) -> set[tuple[int, int]]:
    """Cells whose middle three fifths lie in a dead box."""
    wide, high = PANEL.width / PLAN.grid.columns, PANEL.height / PLAN.grid.rows
    return {
        (c, r)
        for c in range(PLAN.grid.columns)
        for r in range(PLAN.grid.rows)
        for box in dead
        if box.left <= (c + 0.2) * wide
        and (c + 0.8) * wide <= box.right
        and box.top <= (r + 0.2) * high
        and (r + 0.8) * high <= box.bottom
    }


class Plans(TestCase):
    def test_the_plan_crosses_every_cell_in_under_a_minute_of_drawing(self) -> None:
        for panel, minutes in ((PANEL, 1.0), (make_panel(1920, 1080, 15.6), 3.0)):
            plan = standard_plan(panel)
            drawn = sum(step.end_ms - step.start_ms for step in plan.steps if step.guided)
            self.assertLess(drawn / 60_000, minutes)
            self.assertEqual([step.charging for step in plan.steps if step.kind == "hands_off"], [False, True])


class Good(TestCase):
    def test_a_sound_panel_passes_for_good_and_sloppy_hands(self) -> None:
        for seed in range(6):
            for person in (None, SLOPPY):
                result = judged("none", person, seed)
                self.assertEqual(
                    (result.verdict, result.dead_zones, result.phantom, result.suspects),
                    ("pass", (), (), ()),
                    f"{seed} {person}",
                )
                self.assertGreaterEqual(result.coverage, 0.99)

    def test_cells_are_told_in_millimetres(self) -> None:
        told = analyse(read_session(recorded(), make_panel(1080, 2400)))
        # 6.5 in over sqrt(1080^2 + 2400^2) px: 0.0627 mm a px, cells of 108 and 109 px
        self.assertAlmostEqual(told.cells.size_mm or 0, 6.81, delta=0.02)

    def test_motion_is_told(self) -> None:
        result = judged()
        self.assertAlmostEqual(result.report_rate_hz or 0, 120, delta=3)
        # the finger trembles by 0.8 px in x and in y: rms 1.13, somewhat less after its own mean is taken off, and with its drift
        self.assertAlmostEqual(result.jitter_px_rms or 0, 1.2, delta=0.6)
        self.assertLess(result.linearity_px_max or 99, 25)

    def test_a_report_on_the_path_is_found_there(self) -> None:
        # plane geometry: points of the path itself, at the dot's own time and up to a cell late, and points beside it
        for step in (step for step in PLAN.steps if step.guided):
            path = _cut(step, 100.0)
            places = np.arange(len(path.t))[20:-20:7]
            for late in (-9, 0, 9):
                near, way = _from_path(path, np.clip(places + late, 0, len(path.t) - 1), path.x[places], path.y[places])
                self.assertLess(near.max(), 1e-6, step.id)
                ends = abs(path.way[:, None] - np.array([path.way[0], path.way[-1]])).min(axis=1)[places] > 200
                crossing = (
                    np.hypot(path.x[places] - path.x[0], path.y[places] - path.y[0]) < 1
                )  # a circle ends where it began
                self.assertLess(abs(way - path.way[places])[ends & ~crossing].max(), 1e-6, step.id)
        straight = _cut(
            Step(id="s", kind="guided_path", path=((0, 500), (1000, 500)), start_ms=0, end_ms=10_000), 100.0
        )
        near, way = _from_path(straight, np.searchsorted(straight.way, [500.0]), np.array([520.0]), np.array([530.0]))
        self.assertAlmostEqual(float(near[0]), 30.0)
        self.assertAlmostEqual(float(way[0]), 520.0)

    def test_silence_bounds_the_rate(self) -> None:
        result = judged()
        self.assertEqual(result.soaked_minutes, 2.0)
        # Poisson: a rate that shows nothing with 5 % (reference: scipy)
        self.assertAlmostEqual(float(poisson.pmf(0, (result.phantom_bound_a_minute or 0) * 2.0)), 0.05, delta=0.001)

    def test_what_was_left_out_is_not_proven(self) -> None:
        plan = PLAN.model_dump(mode="json")
        half = {**plan, "steps": [step for step in plan["steps"] if step["id"] != "lines down"]}
        half["steps"][0] = {
            **half["steps"][0],
            "path": half["steps"][0]["path"][:24],
            "end_ms": half["steps"][0]["end_ms"] / 2,
        }
        result = analyse(read_session(recorded(plan=half), PANEL))
        self.assertEqual((result.verdict, result.dead_zones), ("not_proven", ()))
        self.assertTrue(result.unproven_cells)
        no_soak = {**plan, "steps": [step for step in plan["steps"] if step["kind"] != "hands_off"]}
        self.assertEqual(analyse(read_session(recorded(plan=no_soak), PANEL)).verdict, "not_proven")


class Dead(TestCase):
    def test_zones_are_found_cell_by_cell_and_named(self) -> None:
        for name, kinds in (
            ("half", {"half"}),
            ("row", {"row"}),
            ("column", {"column"}),
            ("corner", {"corner"}),
            ("rectangle", {"rectangle"}),
        ):
            for person in (None, SLOPPY):
                result = judged(name, person)
                truth, found = (
                    true_cells(touch_fault(name, SIZE)[0]),
                    {cell for zone in result.dead_zones for cell in zone.cells},
                )
                self.assertEqual(result.verdict, "fail", name)
                near = {(c + dc, r + dr) for c, r in truth for dc in (-1, 0, 1) for dr in (-1, 0, 1)}
                self.assertLessEqual(found, near, name)
                self.assertGreaterEqual(len(truth & found) / len(truth), 0.9 if person is None else 0.75, name)
                if person is None:
                    self.assertEqual({zone.kind for zone in result.dead_zones}, kinds)
                    self.assertFalse(result.dead_zones[0].intermittent)

    def test_what_answers_at_times_is_told_so(self) -> None:
        found = [zone for seed in range(4) for zone in judged("at_times", seed=seed).dead_zones]
        self.assertTrue(found)
        self.assertTrue(any(zone.intermittent for zone in found))

    def test_a_panel_that_answers_nowhere_is_dead_and_no_empty_input(self) -> None:
        result = judged("all")
        self.assertEqual((result.verdict, [zone.kind for zone in result.dead_zones]), ("fail", ["all"]))
        self.assertEqual(len(result.dead_zones[0].cells), PLAN.grid.columns * PLAN.grid.rows)

    def test_whom_it_suspects(self) -> None:
        # common practice: one strip is a sense line, a whole half the controller or its data, all of it the flex
        for name, causes in (
            ("row", {"row_or_column_sense_line"}),
            ("half", {"touch_controller"}),
            ("all", {"touch_flex", "touch_controller"}),
            ("corner", {"digitizer_glass"}),
            ("charger_rows", {"charger_noise"}),
            ("spot", {"adhesive_or_film", "digitizer_glass"}),
        ):
            result = judged(name)
            self.assertIn(result.suspects[0].cause, causes, name)
            self.assertAlmostEqual(sum(one.p for one in result.suspects), 1, delta=1e-3)


class Phantoms(TestCase):
    def test_kinds(self) -> None:
        for name, kind in (("spot", "fixed_spot"), ("stream", "stream"), ("charger_rows", "charger_rows")):
            for seed in range(3):
                result = judged(name, seed=seed)
                self.assertEqual((result.verdict, {one.kind for one in result.phantom}), ("fail", {kind}), name)
        far_apart = (Ghost(x=800, y=2000, rate_a_minute=0.6), Ghost(x=200, y=300, rate_a_minute=0.6))
        lone = touch_session(SIZE, 6.5, PLAN.model_dump(mode="json"), (), far_apart, rng=np.random.default_rng(4))
        self.assertEqual({one.kind for one in analyse(read_session(lone, PANEL)).phantom}, {"isolated"})


class Files(TestCase):
    def test_damaged_ones_are_read_as_far_as_they_go_or_refused(self) -> None:
        data = recorded()
        lines = data.splitlines()
        cut = read_session(data[:-30], PANEL)
        self.assertIn("cut short", " ".join(cut.problems))
        shuffled = b"\n".join([lines[0], *np.random.default_rng(1).permutation(lines[1:]).tolist()])
        self.assertEqual(analyse(read_session(shuffled, PANEL)).verdict, "pass")
        odd = [
            json.dumps(event).encode()
            for event in (
                {"t": None, "id": 1, "ev": "move", "x": 1, "y": 1},
                {"t": 5, "id": 1, "ev": "wave", "x": 1, "y": 1},
                {"t": 6, "id": 1, "ev": "move", "x": 1e9, "y": 0},
            )
        ]
        told = read_session(b"\n".join([*lines[:50], *odd, *lines[50:], *lines[50:60]]), PANEL)
        self.assertIn("3 of", " ".join(told.problems))
        for bad, words in (
            (b"", "first line is no JSON"),
            (b"{}\n", "no session"),
            (b"[1]\n", "no session"),
            (lines[0] + b"\nnot json\n{}\n", "Line 2"),
            (lines[0].replace(b'"columns": 10', b'"columns": 0'), "plan is wrong at grid.columns"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                read_session(bad, PANEL)
        told = json.loads(lines[0])
        for change, words in (
            ({"path": [[0, 0], [1e12, 0]]}, "leaves the panel"),
            ({"path": [[0, 0], [float("nan"), 0]]}, "leaves the panel"),
            ({"end_ms": -5}, "no right times"),
            ({"end_ms": float("inf")}, "no right times"),
            ({"path": [[1, 1]] * 2_000_000}, "too many cells"),
        ):
            plan = {**told["plan"], "steps": [{**told["plan"]["steps"][0], **change}]}
            with self.assertRaisesRegex(BadInput, words):
                read_session(json.dumps({**told, "plan": plan}).encode() + b"\n", PANEL)
        plan = {**told["plan"], "grid": {**told["plan"]["grid"], "hidden": [[99, 0]]}}
        with self.assertRaisesRegex(BadInput, "not in its grid"):
            read_session(json.dumps({**told, "plan": plan}).encode() + b"\n", PANEL)
        with self.assertRaisesRegex(BadInput, "1080 x 2400, not 1920 x 1080"):
            read_session(data, make_panel(1920, 1080))
        downs = [json.dumps({**json.loads(line), "ev": "down"}).encode() for line in lines[1:]]
        self.assertEqual(analyse(read_session(b"\n".join([lines[0], *downs]), PANEL)).phantom, ())
        back = [
            json.dumps({**event, "t": -event["t"]}).encode() for event in (json.loads(line) for line in lines[1:200])
        ]
        self.assertIn("out of order", " ".join(read_session(b"\n".join([lines[0], *back]), PANEL).problems))
        bare = lines[0].replace(lines[0][lines[0].index(b', "plan"') : -1], b"")
        for planless in (b"\n".join([bare, *lines[1:]]), bare):
            told = analyse(read_session(planless, PANEL))
            self.assertEqual((told.verdict, told.dead_zones, told.phantom), ("not_proven", (), ()))
            self.assertIn("No plan came", " ".join(told.reasons))
        with_plan = read_session(
            b"\n".join([bare, *lines[1:]]), PANEL, json.dumps(PLAN.model_dump(mode="json")).encode()
        )
        self.assertEqual(analyse(with_plan).verdict, "pass")
