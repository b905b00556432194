"""What fits, and in which order gates open. The rules are common practice of the trade."""

from unittest import TestCase

from lens.errors import BadInput
from lens.fitting import builds, check_gate, get_build, procedure_for
from lens.matching import PanelSpec, match

WANTED = PanelSpec(
    part_number="A",
    width=1366,
    height=768,
    outline_mm=(320.4, 188.1),
    thickness_mm=3.2,
    mounting="ears",
    connector_pins=30,
    connector_family="narrow",
    connector_side="right",
    signal="eDP",
    lanes=1,
    touch=False,
    finish="matt",
    luminance_cd_m2=220,
)


class Matching(TestCase):
    def test_the_part_number_may_differ_freely(self) -> None:
        self.assertEqual(match(WANTED, WANTED.model_copy(update={"part_number": "B"})).result, "fits")

    def test_what_must_agree_stops(self) -> None:
        for change in (
            {"signal": "LVDS"},
            {"connector_pins": 40},
            {"connector_family": "wide"},
            {"connector_side": "left"},
            {"mounting": "side_brackets"},
            {"outline_mm": (344.0, 194.0)},
            {"thickness_mm": 5.2},
            {"lanes": 2},
        ):
            self.assertEqual(match(WANTED, WANTED.model_copy(update=change)).result, "stop", change)

    def test_the_pin_count_does_not_tell_the_signal(self) -> None:
        told = match(WANTED, WANTED.model_copy(update={"signal": "LVDS"}))
        item = next(i for i in told.items if i.property == "signal")
        self.assertIn("lamp voltage", item.reason)

    def test_what_may_differ_has_a_consequence(self) -> None:
        for change in (
            {"finish": "glossy"},
            {"width": 1920, "height": 1080},
            {"luminance_cd_m2": 150},
            {"refresh_hz": 120},
            {"touch": True},
        ):
            self.assertEqual(match(WANTED, WANTED.model_copy(update=change)).result, "fits_with_consequences", change)

    def test_losing_touch_stops(self) -> None:
        self.assertEqual(match(WANTED.model_copy(update={"touch": True}), WANTED).result, "stop")


class Gates(TestCase):
    def test_gates_open_in_order_only(self) -> None:
        build = get_build("ears")
        order = [gate.id for gate in build.gates]
        self.assertEqual(order[0], "make_safe")
        self.assertLess(order.index("dry_fit"), order.index("close"))
        for index, gate in enumerate(order[1:], 1):
            with self.assertRaisesRegex(BadInput, "comes first"):
                check_gate(build, gate, order[: index - 1], {"dry_fit": "pass"}, "all")

    def test_the_dry_fit_needs_its_inspection(self) -> None:
        build, before = get_build("ears"), ["make_safe", "open"]
        with self.assertRaisesRegex(BadInput, "needs its inspection"):
            check_gate(build, "dry_fit", before, {}, "")
        with self.assertRaisesRegex(BadInput, "fails its inspection"):
            check_gate(build, "dry_fit", before, {"dry_fit": "fail"}, "")
        with self.assertRaisesRegex(BadInput, "say why you go on"):
            check_gate(build, "dry_fit", before, {"dry_fit": "not_proven"}, "")
        for told in ({"dry_fit": "not_proven"}, {}):
            self.assertEqual(check_gate(build, "dry_fit", before, told, "", "The owner waits.").id, "dry_fit")
        with self.assertRaisesRegex(BadInput, "fails its inspection"):
            check_gate(build, "dry_fit", before, {"dry_fit": "fail"}, "", "The owner waits.")

    def test_a_device_without_a_procedure_gets_no_other_ones(self) -> None:
        self.assertIsNotNone(procedure_for("ears", "clamshell"))
        self.assertEqual(
            [procedure_for("ears", device) for device in ("handset", "tablet", "all_in_one")], [None, None, None]
        )
        self.assertIsNone(procedure_for("sofa", "clamshell"))

    def test_choices_and_names_are_checked(self) -> None:
        build = get_build("ears")
        with self.assertRaisesRegex(BadInput, "asks for a choice"):
            check_gate(build, "film", ["make_safe", "open", "dry_fit"], {}, "")
        with self.assertRaisesRegex(BadInput, "no gate"):
            check_gate(build, "paint", [], {}, "")
        with self.assertRaisesRegex(BadInput, "no procedure"):
            get_build("sofa")

    def test_every_build_begins_with_making_safe_and_warns(self) -> None:
        for build in builds().values():
            self.assertEqual(build.gates[0].id, "make_safe")
            self.assertTrue(build.gates[0].caution)
