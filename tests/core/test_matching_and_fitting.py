"""What fits, and in which order gates open. The rules are common practice of the trade."""

from unittest import TestCase

from pydantic import ValidationError

from lens.errors import BadInput
from lens.fitting import Balance, check_build, check_counts, check_step, get_procedure, procedure_for
from lens.matching import SCHOOLS, PanelSpec, check_school, match, reduced_blanking, rules
from lens.steps import Done

WANTED = PanelSpec(
    part_number="A",
    width=1366,
    height=768,
    visible_mm=(309.4, 174.0),
    outline_mm=(320.4, 188.1),
    thickness_mm=3.2,
    mounting="ears",
    connector_pins=30,
    connector_family="narrow",
    connector_side="right",
    connector_edge="bottom",
    locking_bar=False,
    signal="eDP",
    lanes=1,
    touch=False,
    finish="matt",
    luminance_cd_m2=220,
    refresh_hz=60,
    bits_per_colour=8,
    gamut_srgb_percent=64,
)
FREE = ("part_number", "other_numbers", "revision", "edid_identity")  # these may differ


class Matching(TestCase):
    def test_the_part_number_may_differ_freely(self) -> None:
        self.assertEqual(match(WANTED, WANTED.model_copy(update={"part_number": "B"})).result, "fits")

    def test_what_must_agree_stops(self) -> None:
        for change in (
            {"signal": "LVDS"},
            {"connector_pins": 40},
            {"connector_family": "wide"},
            {"connector_side": "left"},
            {"connector_edge": "top"},
            {"visible_mm": (305.0, 172.0)},
            {"mounting": "side_brackets"},
            {"outline_mm": (344.0, 194.0)},
            {"thickness_mm": 5.2},
        ):
            told = match(WANTED, WANTED.model_copy(update=change))
            self.assertEqual((told.result, told.items[0].property), ("stop", next(iter(change))), change)
            self.assertEqual(
                match(WANTED.model_copy(update=change), WANTED).result == "stop", change.get("thickness_mm") is None
            )

    def test_the_pin_count_does_not_tell_the_signal_and_no_school_takes_that_risk(self) -> None:
        for school in SCHOOLS:
            told = match(WANTED, WANTED.model_copy(update={"signal": "LVDS"}), school)
            self.assertEqual(told.result, "stop", school)
            self.assertIn("lamp voltage", next(i for i in told.items if i.property == "signal").reason)

    def test_what_may_differ_has_a_consequence(self) -> None:
        for change in (
            {"finish": "glossy"},
            {"luminance_cd_m2": 150},
            {"refresh_hz": 75},
            {"bits_per_colour": 6},
            {"gamut_srgb_percent": 45},
            {"locking_bar": True},
            {"touch": True},
        ):
            told = match(WANTED, WANTED.model_copy(update=change))
            self.assertEqual(
                (told.result, told.items[0].property), ("fits_with_consequences", next(iter(change))), change
            )
        self.assertIn("a glossy screen", match(WANTED, WANTED.model_copy(update={"finish": "glossy"})).items[0].reason)

    def test_what_is_not_known_is_never_told_as_alike(self) -> None:
        for name in set(PanelSpec.model_fields) - {*FREE, "touch_controller"}:
            for wanted, offered in (
                (WANTED, WANTED.model_copy(update={"part_number": "B", name: None})),
                (WANTED.model_copy(update={"part_number": "B", name: None}), WANTED),
            ):
                told = match(wanted, offered)
                items = [i for i in told.items if i.result == "unknown"]
                self.assertEqual(len(items), 1, name)
                self.assertFalse(any(item.ask is None for item in items), name)
        told = match(WANTED, PanelSpec(signal="eDP", connector_pins=30))
        self.assertEqual(told.result, "ask")
        costs = [rules().rules[i.property].cost for i in told.items if i.result == "unknown"][:5]
        self.assertEqual(costs, sorted(costs))  # the cheapest to find out first
        self.assertEqual(match(WANTED, PanelSpec(signal="LVDS")).result, "stop")  # whatever else is not known
        other = WANTED.model_copy(update={"part_number": "B"})
        self.assertEqual(match(WANTED, other.model_copy(update={"luminance_cd_m2": None})).result, "fits")
        self.assertEqual(match(WANTED, other.model_copy(update={"finish": None})).result, "fits_with_consequences")
        # one number is one panel: what nobody knows of it is alike, what is known to differ still counts
        same = PanelSpec(part_number=" a")
        self.assertEqual(match(WANTED, same).result, "fits")
        self.assertEqual(match(WANTED, same.model_copy(update={"signal": "LVDS"})).result, "stop")

    def test_each_school_draws_its_own_line(self) -> None:
        thick, other = WANTED.model_copy(update={"thickness_mm": 4.0}), WANTED.model_copy(update={"part_number": "B-7"})
        self.assertEqual([match(WANTED, thick, s).result for s in SCHOOLS], ["stop", "stop", "fits_with_consequences"])
        self.assertEqual([match(WANTED, other, s).result for s in SCHOOLS], ["stop", "fits", "fits"])
        spaced = WANTED.model_copy(update={"part_number": "b 7"})
        self.assertEqual(match(other, spaced, "exact").result, "fits")
        with self.assertRaisesRegex(BadInput, "Did you mean 'exact'"):
            check_school("exakt")

    def test_a_second_number_on_the_label_names_the_same_panel(self) -> None:
        two = PanelSpec(part_number="X-1", other_numbers=("a", "Z 9"))
        self.assertEqual(match(WANTED, two).result, "fits")
        self.assertEqual(match(PanelSpec(part_number="z9"), two, "exact").result, "fits")

    def test_where_the_touch_controller_sits_counts_only_for_touch(self) -> None:
        touch = WANTED.model_copy(update={"touch": True, "touch_controller": "panel"})
        other = touch.model_copy(update={"touch_controller": "mainboard"})
        self.assertEqual([match(touch, other, s).result for s in SCHOOLS[1:]], ["stop", "fits_with_consequences"])
        self.assertEqual(match(WANTED, WANTED.model_copy(update={"touch_controller": "panel"})).result, "fits")

    def test_losing_touch_stops(self) -> None:
        self.assertEqual(match(WANTED.model_copy(update={"touch": True}), WANTED).result, "stop")

    def test_values_that_no_panel_has_are_refused(self) -> None:
        for values in ({"width": 0}, {"thickness_mm": -1}, {"lanes": 99}, {"signal": "smoke"}, {"colour": "red"}):
            with self.assertRaises(ValidationError):
                PanelSpec.model_validate(values)


class Links(TestCase):
    def test_reduced_blanking_is_vesas(self) -> None:
        """VESA DMT 1.13 / CVT 1.1 with reduced blanking at 60 Hz (from memory): total width, total height, MHz."""
        for (width, height), expected in {
            (1280, 800): (1440, 823, 71.0),
            (1440, 900): (1600, 926, 88.75),
            (1680, 1050): (1840, 1080, 119.0),
            (1920, 1080): (2080, 1111, 138.5),
            (1920, 1200): (2080, 1235, 154.0),
            (2560, 1600): (2720, 1646, 268.5),
        }.items():
            self.assertEqual(tuple(reduced_blanking(width, height, 60)), expected)

    def test_the_sum_is_printed_and_decides_over_lanes(self) -> None:
        # one lane of HBR carries 2.7 x 0.8 = 2.16 Gbit/s: enough for 1366 x 768 with 8 bits (1.7), not for 1920 x 1080 (3.3)
        full = WANTED.model_copy(update={"width": 1920, "height": 1080, "lanes": 2})
        told = match(WANTED, full)
        assert told.link is not None
        self.assertAlmostEqual(told.link.needed_gbit_s, 138.5 * 24 / 1000, places=3)
        self.assertAlmostEqual(told.link.offered_gbit_s, 2.16)
        self.assertIn("138.5 MHz x 24 bits = 3.32 Gbit/s", told.link.text)
        self.assertEqual((told.result, told.items[0].property), ("stop", "lanes"))
        two = WANTED.model_copy(update={"lanes": 2})
        self.assertEqual(match(two, full.model_copy(update={"lanes": 4})).result, "fits_with_consequences")
        self.assertIsNone(match(WANTED.model_copy(update={"lanes": None}), full).link)


BEFORE = tuple(
    Done(step=name) for name in ("make_safe", "bezel_screws", "bezel", "fate", "panel_screws", "open", "plug")
)


class Gates(TestCase):
    ears = get_procedure("ears")

    def test_the_dry_fit_needs_its_inspection(self) -> None:
        with self.assertRaisesRegex(BadInput, "needs its inspection"):
            check_step(self.ears, "dry_fit", BEFORE, {})
        for verdict, words in (("fail", "fails its inspection"), ("not_proven", "say why you go on")):
            with self.assertRaisesRegex(BadInput, words):
                check_step(self.ears, "dry_fit", BEFORE, {"dry_fit": verdict})
        for told in ({"dry_fit": "not_proven"}, {}):
            self.assertEqual(check_step(self.ears, "dry_fit", BEFORE, told, reason="The owner waits.").id, "dry_fit")
        with self.assertRaisesRegex(BadInput, "fails its inspection"):
            check_step(self.ears, "dry_fit", BEFORE, {"dry_fit": "fail"}, reason="The owner waits.")

    def test_a_build_is_for_its_own_devices(self) -> None:
        self.assertIsNotNone(procedure_for("ears", "clamshell"))
        self.assertEqual([procedure_for("ears", device) for device in ("handset", "tablet", "all_in_one")], [None] * 3)
        self.assertIsNone(procedure_for("", "clamshell"))

    def test_order_choices_and_names_are_checked(self) -> None:
        with self.assertRaisesRegex(BadInput, "comes first"):
            check_step(self.ears, "plug", BEFORE[:3], {})
        with self.assertRaisesRegex(BadInput, "asks for a choice"):
            check_step(self.ears, "make_safe", (), {})
        with self.assertRaisesRegex(BadInput, "no step"):
            check_step(self.ears, "paint", (), {})
        with self.assertRaisesRegex(BadInput, "no procedure"):
            check_build("sofa")

    def test_counts_are_what_was_met(self) -> None:
        step = self.ears.graph.by_id["panel_in"]
        check_counts(step, {"front": 4}, {"front": Balance(out=4)}, "")
        check_counts(step, {"front": 3}, {"front": Balance(out=4)}, "one stripped, left out")
        for counts, out, words in (
            ({}, {"front": 4}, "Count them"),
            ({"front": -1}, {"front": 4}, "Count them"),
            ({"front": 10_000}, {"front": 4}, "Count them"),
            ({"front": 5}, {"front": 4}, "cannot be accounted for"),
            ({"front": 3}, {"front": 4}, "Say where"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                check_counts(step, counts, {group: Balance(out=n) for group, n in out.items()}, "")
