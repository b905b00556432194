"""House rules: every question has its schools and reasons, and every step that names one finds it (schools as practitioners were seen to differ)."""

from unittest import TestCase

from lens.errors import BadInput
from lens.fitting import procedures, read_procedure
from lens.house_rules import check_school, house_rules

# the questions on which practitioners of fitting differ (common practice)
OF_FITTING = {
    "first_try",
    "made_safe",
    "film",
    "liner",
    "plug_or_mount",
    "base_meanwhile",
    "bezel_prying",
    "bezel_tape",
    "bezel_closing",
    "bezel_screws",
    "missing_screws",
    "heat_source",
    "battery_out",
    "freed_battery",
    "strips_side",
}
OWN = """
title: Own
devices: [clamshell]
steps:
  - {id: a, title: A, school: film}
  - {id: b, title: B, needs: [a], schools: [film, liner]}
"""


class Rules(TestCase):
    def test_every_question_of_fitting_is_asked_at_a_step(self) -> None:
        asked = {rule for one in procedures().values() for step in one.steps for rule in step.schools}
        self.assertEqual(OF_FITTING - asked, set())
        self.assertEqual(asked - set(house_rules()), set())

    def test_every_school_says_why(self) -> None:
        for name, rule in house_rules().items():
            self.assertIn(rule.default, rule.schools, name)
            for school in rule.schools.values():
                self.assertTrue(school.reason.endswith("."), (name, school.title))

    def test_safety_is_no_question_of_taste(self) -> None:
        """No school lets a device be closed without any dry fit, or a bent battery go back."""
        self.assertNotIn("never", house_rules()["first_try"].schools)
        self.assertIn("never goes back", house_rules()["freed_battery"].about)

    def test_a_choice_that_a_step_offers_is_a_school_where_both_name_it(self) -> None:
        for one in procedures().values():
            for step in one.steps:
                for rule in step.schools:
                    shared = set(step.choices) & set(house_rules()[rule].schools)
                    if shared:
                        self.assertLessEqual(len(set(step.choices) - shared), 1, (one.id, step.id, rule))

    def test_own_files_may_name_one_or_several(self) -> None:
        told = read_procedure(OWN, "own_x")
        self.assertEqual([step.schools for step in told.steps], [("film",), ("film", "liner")])
        with self.assertRaisesRegex(BadInput, "house rule"):
            read_procedure(OWN.replace("school: film", "school: flim"), "own_x")
        with self.assertRaises(BadInput):
            check_school("film", "under_water")
