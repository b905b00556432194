"""Rework, return or rebuy: expected values by hand, and what each school does first."""

from unittest import TestCase

from lens.errors import BadInput
from lens.fitting import TOUCH_RULE, OfferTerms, picture_choice, touch_choice
from lens.house_rules import check_school, house_rules

BOUGHT = OfferTerms(supplier="Nordhang", panel="A", price=31, shipping=11, delivery_days=5, doa_days=7)
OTHER = OfferTerms(supplier="Talstation", panel="B", price=44, shipping=7, delivery_days=4, doa_days=14)
CONTROLLER = {"touch_controller": 0.9, "touch_flex": 0.05}
GLASS = {"digitizer_glass": 0.9, "touch_controller": 0.05}


class Choice(TestCase):
    def test_expected_costs_by_hand(self) -> None:
        told = {one.way: one for one in touch_choice(CONTROLLER, BOUGHT, [OTHER], "when_fails").options}
        # return: 20 min and 11 to post, one in twenty twice; 2 x 5 days
        self.assertAlmostEqual(told["return"].cost, 31 * 1.05, places=2)
        self.assertAlmostEqual(told["return"].days, 10.5)
        # rebuy: 44 + 7 and 11 to post and 20 min, 31 come back; a twentieth of 27 more
        self.assertAlmostEqual(told["rebuy"].cost, 51 + 31 - 31 + 0.05 * 27, places=2)
        # rework: .9 x .85 + .05 x .5 = .79 mended; else the other panel, and the first is lost
        self.assertAlmostEqual(told["rework"].mended, 0.79)
        self.assertAlmostEqual(told["rework"].cost, 40 + 0.21 * (52.35 + 31), places=1)

    def test_each_school_does_its_own_first(self) -> None:
        first = {
            school: touch_choice(CONTROLLER, BOUGHT, [OTHER], school).options[0].way  # type: ignore[arg-type]
            for school in house_rules()[TOUCH_RULE].schools
        }
        self.assertEqual(first, {"always_move": "rework", "when_fails": "rework", "return_panel": "return"})
        self.assertEqual(touch_choice(GLASS, BOUGHT, [OTHER], "when_fails").options[0].way, "return")

    def test_without_a_right_of_return_the_price_is_lost(self) -> None:
        bought = BOUGHT.model_copy(update={"doa_days": 0})
        told = touch_choice(GLASS, bought, [OTHER], "return_panel")
        self.assertEqual(told.options[0].way, "rebuy")
        self.assertIn("no return", next(one.text for one in told.options if one.way == "return"))

    def test_with_nothing_else_on_offer(self) -> None:
        self.assertEqual(
            {one.way for one in touch_choice(CONTROLLER, BOUGHT, [], "when_fails").options}, {"rework", "return"}
        )
        with self.assertRaisesRegex(BadInput, "Known: always_move"):
            check_school(TOUCH_RULE, "pray")
        with self.assertRaisesRegex(BadInput, "Did you mean 'touch_controller'"):
            check_school("touch_controler", "when_fails")


class Picture(TestCase):
    def test_only_what_comes_by_the_signal_is_mended_by_a_plug(self) -> None:
        """Common practice: seating is the first repair of lines and lost pictures after a swap, and of nothing else."""
        signal, pixels = (picture_choice(kinds, BOUGHT, [OTHER]) for kinds in (("line",), ("dead_pixel", "mura")))
        self.assertEqual(signal.options[0].way, "rework")
        self.assertEqual({one.way for one in pixels.options}, {"return", "rebuy"})
        # seating costs no right of return, so what it loses is a few minutes
        self.assertLess(signal.options[0].cost, next(one.cost for one in signal.options if one.way == "return"))

    def test_a_supplier_that_often_sends_dead_ones_is_dearer_to_wait_for(self) -> None:
        often = BOUGHT.model_copy(update={"dead_rate": 0.4})
        seldom = BOUGHT.model_copy(update={"dead_rate": 0.01})
        cost = [
            next(o.cost for o in picture_choice(("mura",), one, ()).options if o.way == "return")
            for one in (often, seldom)
        ]
        self.assertGreater(cost[0], cost[1])
