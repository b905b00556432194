"""The touch figures on sessions of a layer and a hand that the simulator does not know."""

from unittest import TestCase

from lens.panel import Panel, make_panel
from lens.touch import TouchResult, analyse, read_session, standard_plan
from tests.core.independent_digitizer import drawn

PANELS = (make_panel(1080, 2400, 6.5), make_panel(1280, 800, 10.1))
SEEDS = range(3)
LINE_MM = 4.7


def cells_in(
    panel: Panel, result: TouchResult, box: tuple[float, float, float, float], least: float
) -> set[tuple[int, int]]:
    """Cells of which a box covers at least this share in both directions."""
    wide, high = panel.width / result.cells.columns, panel.height / result.cells.rows
    left, top, right, bottom = box

    def share(low: float, up: float, start: float, size: float) -> float:
        return max(0.0, min(up, start + size) - max(low, start)) / size

    return {
        (c, r)
        for c in range(result.cells.columns)
        for r in range(result.cells.rows)
        if share(left, right, c * wide, wide) >= least and share(top, bottom, r * high, high) >= least
    }


class IndependentLayer(TestCase):
    def judged(self, panel: Panel, seed: int, **faults: object) -> TouchResult:
        plan = standard_plan(panel).model_dump(mode="json")
        pitch = LINE_MM / (panel.pitch_mm or 1)
        data = drawn((panel.width, panel.height), pitch, plan, faults.pop("dead", lambda x, y: False), seed, **faults)  # type: ignore[arg-type]
        return analyse(read_session(data, panel))

    def test_a_sound_layer_passes(self) -> None:
        for panel in PANELS:
            for seed in SEEDS:
                result = self.judged(panel, seed)
                self.assertEqual((result.verdict, result.dead_zones, result.phantom), ("pass", (), ()), result.reasons)

    def test_dead_parts_cell_by_cell(self) -> None:
        truth = hit = told = right = 0
        for panel in PANELS:
            w, h = panel.width, panel.height
            for box, kind in (
                ((-99, h / 2, w + 99, h + 99), "half"),
                ((0.68 * w, 0.7 * h, w + 99, h + 99), "corner"),
                ((0.3 * w, 0.3 * h, 0.7 * w, 0.6 * h), "rectangle"),
            ):
                for seed in SEEDS:
                    left, top, right_, bottom = box
                    result = self.judged(
                        panel, seed, dead=lambda x, y, a=left, b=top, c=right_, d=bottom: a <= x <= c and b <= y <= d
                    )
                    found = {cell for zone in result.dead_zones for cell in zone.cells}
                    surely, perhaps = cells_in(panel, result, box, 0.6), cells_in(panel, result, box, 0.15)
                    truth, hit, told, right = (
                        truth + len(surely),
                        hit + len(surely & found),
                        told + len(found),
                        right + len(found & perhaps),
                    )
                    self.assertEqual(
                        (result.verdict, result.dead_zones[0].kind), ("fail", kind), f"{kind} {seed} {panel}"
                    )
        self.assertGreaterEqual(hit / truth, 0.97)
        self.assertGreaterEqual(right / told, 0.97)

    def test_a_single_dead_line_of_the_layer_is_a_row_or_column(self) -> None:
        for panel in PANELS:
            pitch = LINE_MM / (panel.pitch_mm or 1)
            middle_x, middle_y = 0.4 * panel.width, 0.6 * panel.height
            for seed in SEEDS:
                dead_x, dead_y = (lambda at, m=middle, p=pitch: abs(at - m) <= p / 2 for middle in (middle_x, middle_y))
                column = self.judged(panel, seed, lines=(dead_x, lambda y: False))
                row = self.judged(panel, seed, lines=(lambda x: False, dead_y))
                self.assertEqual(
                    (column.verdict, {zone.kind for zone in column.dead_zones}), ("fail", {"column"}), f"{seed} {panel}"
                )
                self.assertEqual(
                    (row.verdict, {zone.kind for zone in row.dead_zones}), ("fail", {"row"}), f"{seed} {panel}"
                )

    def test_phantoms(self) -> None:
        for panel in PANELS:
            for seed in SEEDS:
                place = (0.7 * panel.width, 0.2 * panel.height)
                result = self.judged(panel, seed, phantoms=[place] * 3)
                self.assertEqual((result.verdict, [one.kind for one in result.phantom]), ("fail", ["fixed_spot"]))

    def test_a_hand_with_habits_breaks_no_sound_layer(self) -> None:
        for panel in PANELS:
            for seed in SEEDS:
                for habit in ("pace", "lift", "detour", "late", "palm"):
                    result = self.judged(panel, seed, habit=habit)
                    self.assertEqual((result.dead_zones, result.phantom), ((), ()), f"{habit} {seed} {panel}")
                    self.assertIn(
                        result.verdict,
                        ("pass", "not_proven") if habit in ("lift", "detour") else ("pass",),
                        f"{habit} {result.reasons}",
                    )

    def test_a_half_is_dead_at_any_pace(self) -> None:
        for panel in PANELS:
            for seed in SEEDS:
                for left, top in ((-99.0, panel.height / 2), (panel.width / 2, -99.0)):
                    result = self.judged(panel, seed, habit="pace", dead=lambda x, y, a=left, b=top: a <= x and b <= y)
                    self.assertEqual(
                        (result.verdict, [zone.kind for zone in result.dead_zones]),
                        ("fail", ["half"]),
                        f"{seed} {panel} {left}",
                    )
