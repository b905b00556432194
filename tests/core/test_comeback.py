"""Who pays for a comeback, and what seals say. The rules are common practice of the trade; law comes before them."""

from unittest import TestCase

from lens.errors import BadInput
from lens.proving import ComebackFacts, Seal, charge, check_seal, seals_found, supplier_outcome


def payer(**told: object) -> str:
    base: dict[str, object] = {
        "compared": "changed",
        "new_kinds": ("dead_pixel",),
        "part_holds": True,
        "work_holds": True,
    }
    return charge(ComebackFacts.model_validate(base | told)).payer


class WhoPays(TestCase):
    def test_each_rule_once(self) -> None:
        for told, wanted in (
            ({}, "supplier"),
            ({"part_holds": False}, "shop"),
            ({"part_holds": False, "work_holds": False}, "owner"),
            ({"new_kinds": ("pressure_mark", "dead_pixel")}, "shop"),
            ({"new_kinds": ("pressure_mark",), "work_holds": False}, "owner"),
            ({"new_kinds": ("retained_image",)}, "owner"),
            ({"new_kinds": ("retained_image", "line")}, "supplier"),
            ({"new_kinds": ("crack",)}, "owner"),
            ({"said": ("liquid",)}, "owner"),
            ({"seals": "broken"}, "open"),
            ({"seals": "broken", "said": ("drop",)}, "owner"),
            ({"compared": "unchanged", "new_kinds": ()}, "nobody"),
            ({"compared": "not_proven"}, "open"),
            ({"compared": ""}, "open"),
        ):
            self.assertEqual(payer(**told), wanted, told)

    def test_every_proposal_has_its_reason_and_open_ones_a_step(self) -> None:
        for compared in ("", "unchanged", "changed", "not_proven"):
            for seals in ("none", "not_checked", "whole", "broken"):
                told = charge(
                    ComebackFacts.model_validate({"compared": compared, "seals": seals, "new_kinds": ("line",)})
                )
                self.assertTrue(told.reasons and all(told.reasons))
                self.assertTrue(told.step or told.payer != "open")

    def test_an_unproven_look_never_charges_anybody(self) -> None:
        for kinds in ((), ("dead_pixel",), ("pressure_mark",)):
            self.assertEqual(payer(compared="not_proven", new_kinds=kinds), "open")


class Seals(TestCase):
    def test_one_that_is_not_whole_decides(self) -> None:
        whole, unseen, gone = (
            Seal(place=p, number="1", state=s) for p, s in (("a", "whole"), ("b", None), ("c", "gone"))
        )  # type: ignore[arg-type]
        self.assertEqual(
            [seals_found(one) for one in ((), (whole,), (whole, unseen), (whole, unseen, gone))],
            ["none", "whole", "not_checked", "broken"],
        )

    def test_a_seal_has_a_place_and_a_number(self) -> None:
        self.assertEqual(check_seal("  base,  left ", " 07 "), ("base, left", "07"))
        for place, number in (("", "7"), ("base", "  ")):
            with self.assertRaises(BadInput):
                check_seal(place, number)


class SupplierRecord(TestCase):
    def test_only_what_fails_speaks_against_a_supplier(self) -> None:
        self.assertEqual(
            [
                supplier_outcome(decision, result, alive)  # type: ignore[arg-type]
                for decision, result, alive in (
                    ("shelf", "fail", True),
                    ("returned", "pass", True),
                    ("returned", "fail", True),
                    ("returned", "fail", False),
                    ("test_display", "not_proven", True),
                )
            ],
            ["good", "good", "marked", "dead", "marked"],
        )
