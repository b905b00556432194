"""Touch tried by eye: what marked places are called, and what they say to the diagnosis."""

from unittest import TestCase

from lens.diagnosis import diagnose, evidence_from_touch_seen
from lens.errors import BadInput
from lens.panel import make_panel
from lens.touch import touch_seen

TABLET = make_panel(2000, 1200, 10.4)
PHONE = make_panel(1080, 2400, 6.5)


class ByEye(TestCase):
    def test_cells_are_square_and_about_as_fine_as_a_person_looks(self) -> None:
        self.assertEqual((touch_seen(TABLET, ()).columns, touch_seen(TABLET, ()).rows), (20, 12))
        self.assertEqual((touch_seen(PHONE, ()).columns, touch_seen(PHONE, ()).rows), (9, 20))

    def test_what_was_marked_is_called_as_the_trade_calls_it(self) -> None:
        cases = {
            "A column does not answer, 38 % from the left.": [(7, row) for row in range(12)],
            "A row does not answer, 71 % from the top.": [(column, 8) for column in range(20)],
            "The left half does not answer.": [(c, r) for c in range(10) for r in range(12)],
            "The lower half does not answer.": [(c, r) for c in range(20) for r in range(6, 12)],
            "The upper right corner does not answer.": [(19, 0), (18, 0), (19, 1)],
            "A place does not answer, 28 % from the left, 46 % from the top.": [(5, 5)],
            "Nothing answers.": [(c, r) for c in range(20) for r in range(12)],
        }
        for words, cells in cases.items():
            self.assertEqual(touch_seen(TABLET, cells).told, (words,))
        apart = touch_seen(TABLET, [*((7, row) for row in range(12)), (15, 3)])
        self.assertEqual([zone.kind for zone in apart.zones], ["column", "rectangle"])
        self.assertEqual(touch_seen(TABLET, [(3, 3), (3, 3)]).cells, ((3, 3),), "marked twice is marked once")

    def test_places_off_the_panel_are_refused(self) -> None:
        for cell in ((20, 0), (0, 12), (-1, 3)):
            with self.assertRaisesRegex(BadInput, "20 x 12 cells"):
                touch_seen(TABLET, [cell])

    def test_a_dead_column_speaks_for_a_line_of_the_sensor_as_seen(self) -> None:
        """Common practice: a thin dead strip from rim to rim is a sense line or its bond, not the controller."""
        item = evidence_from_touch_seen(touch_seen(TABLET, [(7, row) for row in range(12)]))
        self.assertEqual((item.check, item.outcome, item.source), ("touch_draw", "strip", "seen"))
        causes = diagnose("handset", (item,)).causes
        self.assertEqual(causes[0].id, "row_or_column_sense_line")

    def test_all_that_answers_speaks_against_dead_touch(self) -> None:
        self.assertEqual(evidence_from_touch_seen(touch_seen(TABLET, ())).outcome, "whole")
