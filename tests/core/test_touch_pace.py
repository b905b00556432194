"""The alignment of a stroke to its path, held to a slow reference, and what hands do that are no robots."""

from unittest import TestCase

import numpy as np

from lens.panel import make_panel
from lens.simulate.digitizer import Controller, sense_grid
from lens.simulate.touch import DeadBox, Person, touch_session
from lens.touch import analyse, read_session, standard_plan
from lens.touch.pace import BACK_COST, CLOCK_COST, STRAYED_CELLS2, Places, aligned, own_pace
from tests.core.independent_digitizer import drawn

PANEL, SIZE = make_panel(1080, 2400, 6.5), (1080, 2400)


def slowly_aligned(
    places: Places, pace: float, t: np.ndarray, x: np.ndarray, y: np.ndarray
) -> tuple[np.ndarray, float]:
    """Every place from every place, one by one."""
    step = places.way[1] - places.way[0]
    index = np.arange(len(places.way))
    cost, came = CLOCK_COST * step * np.abs(index), []
    for n in range(len(t)):
        moved = (t[n] - t[max(0, n - 1)]) * pace / step
        on = index[None, :] - index[:, None]
        each = cost[:, None] + step * np.where(
            on >= 0, CLOCK_COST * np.abs(on - moved), CLOCK_COST * moved - BACK_COST * on
        )
        came.append(each.argmin(axis=0))
        cost = each.min(axis=0) + np.minimum((places.x - x[n]) ** 2 + (places.y - y[n]) ** 2, STRAYED_CELLS2)
    place, out = int(cost.argmin()), []
    for n in range(len(t) - 1, -1, -1):
        out.append(place)
        place = int(came[n][place])
    return places.way[out[::-1]], float(cost.min())


class Alignment(TestCase):
    def places(self) -> Places:
        # three rows a cell apart, there and back
        way = np.arange(0, 62, 0.5)
        row = np.minimum(way // 20, 2)
        along = way - 20 * row
        return Places(np.where(row % 2 == 0, along, 20 - along), row, way)

    def test_it_is_what_a_slow_reference_finds(self) -> None:
        places = self.places()
        for seed in range(8):
            rng = np.random.default_rng(seed)
            t = np.sort(rng.uniform(0, 6000, 40))
            at = np.clip(t * 0.01 * rng.uniform(0.8, 1.2), 0, 61)
            x, y = (np.interp(at, places.way, values) + rng.normal(0, 0.2, 40) for values in (places.x, places.y))
            (told, cost), (slow, slow_cost) = aligned(places, 0.01, t, x, y), slowly_aligned(places, 0.01, t, x, y)
            self.assertAlmostEqual(cost, slow_cost / 40, 6)
            self.assertLess(np.abs(told - slow).max(), 1.01, seed)  # ties of equal cost lie beside each other
            self.assertLess(np.abs(told - at).mean(), 0.6, seed)

    def test_a_stroke_that_runs_ahead_stays_in_its_row(self) -> None:
        places = self.places()
        t = np.arange(0, 3000, 20.0)
        at = np.minimum(t * 0.015, 61)  # half as fast again as the dot
        told = aligned(places, 0.01, t, np.interp(at, places.way, places.x), np.interp(at, places.way, places.y)).way
        self.assertLess(np.abs(told - at).max(), 1.0)
        pace = own_pace(t, told, np.ones(len(t) - 1, bool))
        np.testing.assert_allclose(pace[20:-20], 0.015, rtol=0.05)


class Hands(TestCase):
    def test_one_gap_is_suspected_and_asked_for_again(self) -> None:
        plan = standard_plan(PANEL)
        lines = plan.steps[0]
        once = plan.model_copy(update={"steps": (lines, *plan.steps[-2:])})  # every cell is crossed once only
        for seed in range(3):
            data = drawn(
                (PANEL.width, PANEL.height), 74.0, once.model_dump(mode="json"), lambda x, y: False, seed, habit="lift"
            )
            result = analyse(read_session(data, PANEL))
            self.assertEqual((result.dead_zones, result.verdict), ((), "not_proven"))
            self.assertGreaterEqual(len(result.suspected_cells), 2)
            self.assertLessEqual(set(result.suspected_cells), set(result.unproven_cells))
            self.assertTrue(any("draw them again" in reason for reason in result.reasons))

    def test_who_stays_through_the_soak_proves_no_silence_and_is_no_phantom(self) -> None:
        plan = standard_plan(PANEL)
        data = drawn(
            (PANEL.width, PANEL.height), 74.0, plan.model_dump(mode="json"), lambda x, y: False, 4, habit="palm"
        )
        result = analyse(read_session(data, PANEL))
        self.assertEqual(result.phantom, ())
        self.assertLess(result.soaked_minutes, 2.0)


class SimulatedHabits(TestCase):
    def test_no_habit_of_the_simulated_hand_breaks_a_sound_layer(self) -> None:
        plan = standard_plan(PANEL).model_dump(mode="json")
        for seed, habit in enumerate(
            (
                {"own_pace": 0.12},
                {"detours_a_minute": 1.0},
                {"late_ms": 800.0},
                {"palm": True},
                {"roll_px": 12.0},
                {"bias_px": (-11.0, 6.0)},
            )
        ):
            data = touch_session(SIZE, 6.5, plan, person=Person(**habit), rng=np.random.default_rng(seed))  # type: ignore[arg-type]
            result = analyse(read_session(data, PANEL))
            self.assertEqual((result.dead_zones, result.phantom), ((), ()), habit)
            self.assertIn(
                result.verdict,
                ("pass", "not_proven") if "detours_a_minute" in habit else ("pass",),
                f"{habit} {result.reasons}",
            )

    def test_drift_and_smoothing_pass_and_a_wet_place_shakes(self) -> None:
        plan = standard_plan(PANEL).model_dump(mode="json")
        jitter = []
        for change in (
            {"drift": 0.05, "smoothing": 0.4},
            {"wet": (DeadBox(left=0, top=0, right=SIZE[0], bottom=SIZE[1]),)},
        ):
            grid = sense_grid(PANEL).model_copy(update=change)
            rng = np.random.default_rng(5)
            data = touch_session(SIZE, 6.5, plan, rng=rng, layer=Controller(grid, rng))
            result = analyse(read_session(data, PANEL))
            jitter.append(result.jitter_moving_px_rms or 0.0)
            self.assertEqual(result.dead_zones, ())
            self.assertTrue("wet" in change or result.verdict == "pass", result.reasons)
        self.assertGreater(jitter[1], 3 * jitter[0])
