"""The one verdict, as a table: what was measured, and what may be said of the device that is handed over (common practice: the last test counts)."""

from unittest import TestCase

from lens.fitting import PlacedFastener, get_procedure, parts
from lens.progress import Seen, has_touch, job_verdict, not_comparable, stage_verdict
from lens.proving import (
    EyeAnswer,
    FunctionAnswer,
    closing_hints,
    eye_verdict,
    functions,
    functions_asked,
    functions_told,
    no_start_ladder,
)
from lens.proving.functions import CARRIED_AS
from lens.records import Finding, StageConditions
from lens.steps import Done

PASS, FAIL, OPEN = (
    Seen("pass", "class-II", "pass"),
    Seen("fail", "class-II", "pass"),
    Seen("not_proven", "class-II", "pass"),
)
NO_TOUCH = Seen("pass", "class-II")


class OneVerdict(TestCase):
    def test_what_was_measured_and_what_may_be_said(self) -> None:
        for stages, touch, closing, wanted in (
            ({}, False, None, "not_proven"),
            ({"inspect": PASS}, False, None, "not_proven"),  # the old panel's verdict is not the device's
            ({"inspect": FAIL}, True, None, "not_proven"),
            ({"dry_fit": PASS}, True, None, "not_proven"),
            ({"closed": PASS}, True, None, "pass"),
            ({"closed": NO_TOUCH}, False, None, "pass"),
            ({"closed": NO_TOUCH}, True, None, "not_proven"),
            (
                {"closed": Seen("pass", "class-II", "fail")},
                True,
                None,
                "fail",
            ),  # a passed picture over a failed touch is no pass
            ({"closed": Seen("pass", "class-II", "fail")}, False, None, "fail"),
            ({"closed": FAIL}, True, None, "fail"),
            ({"closed": OPEN}, True, None, "not_proven"),
            ({"inspect": FAIL, "closed": PASS}, True, None, "pass"),
            ({"dry_fit": PASS, "closed": PASS}, True, "unchanged", "pass"),
            ({"dry_fit": PASS, "closed": PASS}, True, "changed", "fail"),
            ({"dry_fit": PASS, "closed": PASS}, True, "not_proven", "not_proven"),
            ({"closed": FAIL, "recheck": PASS}, True, None, "pass"),
            ({"closed": PASS, "recheck": Seen(touch="fail")}, True, None, "fail"),
            ({"closed": NO_TOUCH, "recheck": Seen(touch="pass")}, True, None, "pass"),
        ):
            told = job_verdict(stages, touch, (closing, "Words.") if closing else None)  # type: ignore[arg-type]
            self.assertEqual(told.result, wanted, (stages, touch, closing))
            self.assertEqual(told.result == "pass", not told.next)
            self.assertTrue(told.text)

    def test_a_worse_touch_after_closing_fails(self) -> None:
        self.assertEqual(job_verdict({"closed": PASS}, True, None, ("worse", "1 dead zone new.")).result, "fail")
        self.assertEqual(job_verdict({"closed": PASS}, True, None, ("better", "1 dead zone gone.")).result, "pass")

    def test_a_stage_by_itself(self) -> None:
        for seen, touch, wanted in (
            (PASS, True, "pass"),
            (NO_TOUCH, True, "not_proven"),
            (NO_TOUCH, False, "pass"),
            (Seen(), False, "not_proven"),
            (Seen(touch="fail"), True, "fail"),
            (Seen("pass", "x", "fail"), False, "fail"),
        ):
            self.assertEqual(stage_verdict("inspect", seen, touch).result, wanted, (seen, touch))

    def test_who_has_touch(self) -> None:
        self.assertTrue(
            has_touch("handset")
            and has_touch("clamshell", panel_has_touch=True)
            and has_touch("clamshell", touch_recorded=True)
        )
        self.assertFalse(has_touch("clamshell"))


class Conditions(TestCase):
    """Common practice: a device at the end of its charge dims by itself, a loose panel is not grounded, a film hides what lies under it."""

    def test_worthless_evidence_asks_for_a_look_again(self) -> None:
        flat = StageConditions(battery_percent=0, mains=False, room="bright")
        told = job_verdict({"closed": Seen("pass", "class-II", conditions=flat)}, False)
        self.assertEqual((told.result, told.next), ("not_proven", "Plug it in or charge it, then photograph it again."))
        dim = StageConditions(battery_percent=3, room="dark")
        for fails, wanted in (({"uniformity"}, "not_proven"), ({"uniformity", "lines"}, "fail"), ({"type_2"}, "fail")):
            seen = Seen("fail", "class-II", picture_fails=frozenset(fails), conditions=dim)
            self.assertEqual(stage_verdict("closed", seen, False).result, wanted, fails)
        charged = StageConditions(battery_percent=3, mains=True)
        seen = Seen("fail", "class-II", picture_fails=frozenset({"uniformity"}), conditions=charged)
        self.assertEqual(stage_verdict("closed", seen, False).result, "fail")

    def test_phantom_touches_of_a_loose_panel_are_provisional(self) -> None:
        loose, held = StageConditions(panel="loose"), StageConditions(panel="mounted")
        for conditions, fails, wanted in (
            (loose, {"phantoms"}, "not_proven"),
            (held, {"phantoms"}, "fail"),
            (loose, {"phantoms", "dead_cells"}, "fail"),
            (StageConditions(hand="glove"), {"dead_cells"}, "not_proven"),
        ):
            seen = Seen(touch="fail", touch_fails=frozenset(fails), conditions=conditions)
            self.assertEqual(stage_verdict("dry_fit", seen, False).parts[0].result, wanted, (conditions, fails))

    def test_looks_under_different_conditions_are_not_held_against_each_other(self) -> None:
        film, bare = StageConditions(film="on", bezel="off"), StageConditions(film="off", bezel="on")
        self.assertEqual(not_comparable(film, bare), ("film", "bezel"))
        self.assertEqual(not_comparable(StageConditions(), StageConditions()), ())


class Functions(TestCase):
    def test_parts_that_moved_bring_their_functions(self) -> None:
        asked = {
            one.id: one
            for one in functions_asked("phone_front", {"home_button": "damaged", "earpiece": "moved"}, "copy")
        }
        self.assertIn("no other brings it back", asked["fingerprint"].expected)
        self.assertEqual(asked["earpiece"].because, "Earpiece: moved over.")
        self.assertIn("Gone", asked["colour_adaption"].expected)
        self.assertNotIn("home_key", {one.id for one in functions_asked("phone_front", {"home_button": "not_there"})})

    def test_every_function_of_a_part_is_known_and_every_function_is_asked_somewhere(self) -> None:
        carried = {CARRIED_AS.get(name, name) for part in parts().values() for name in part.functions}
        self.assertEqual(carried - set(functions()), set())
        self.assertEqual({name for name, facts in functions().items() if not facts.builds} - carried, set())

    def test_their_answers_make_one_part(self) -> None:
        asked = functions_asked("whole_lid", {})
        self.assertEqual(functions_told(asked, (), "closed").parts, ())
        good = [FunctionAnswer(function=one.id, outcome="good") for one in asked]
        self.assertEqual([one.result for one in functions_told(asked, good, "closed").parts], ["pass"])
        for outcome, wanted in (
            ("faulty", "fail"),
            ("not_tested", "not_proven"),
            ("lost", "pass"),
            ("not_there", "pass"),
        ):
            answers = [*good, FunctionAnswer(function="wireless", outcome=outcome, grade="told")]  # type: ignore[arg-type]
            told = functions_told(asked, answers, "closed")
            self.assertEqual(told.parts[0].result, wanted, outcome)
        told_grade = functions_told(
            asked, [*good, FunctionAnswer(function="hinges", outcome="good", grade="told")], "x"
        )
        self.assertEqual(told_grade.parts[0].grade, "told")

    def test_a_look_by_eye_is_seen_only_when_all_of_it_was_good(self) -> None:
        def look(**told: str) -> str | None:
            return eye_verdict([EyeAnswer(aspect=name, outcome=one) for name, one in told.items()], touch=True)  # type: ignore[arg-type]

        self.assertIsNone(look())
        self.assertEqual(look(picture="good", light="good"), "not_proven")
        self.assertEqual(look(picture="good", light="good", touch="cannot_tell"), "not_proven")
        self.assertEqual(look(picture="good", light="good", touch="good"), "seen")
        self.assertEqual(look(picture="good", light="bad"), "fail")


class AfterClosing(TestCase):
    PANEL = (1920, 1080)

    def hints(self, kind: str, x: float, y: float, *done: str) -> tuple[str, ...]:
        ears = get_procedure("ears")
        log = [Done(step=one, choice=next(iter(ears.graph.by_id[one].choices), None)) for one in done]
        found = Finding.model_validate(
            {"kind": kind, "x": x, "y": y, "w": 60, "h": 60, "contrast": -0.1, "confidence": 0.9}
        )
        spots = {
            "front": [
                PlacedFastener(x=0.05, y=0.05),
                PlacedFastener(x=0.05, y=0.95),
                PlacedFastener(x=0.5, y=0.5, hole="inner"),
            ]
        }
        return closing_hints(ears, log, [found], self.PANEL, spots)

    def test_a_mark_at_a_screw_names_the_screw_and_its_step(self) -> None:
        told = self.hints(
            "pressure_mark", 130, 1020, "make_safe", "plug", "dry_fit", "make_safe", "panel_in", "bezel_on"
        )
        self.assertIn("screw 2 of 'Front screws'", told[0])
        self.assertIn("'Front screws in'", told[0])

    def test_a_mark_elsewhere_names_the_steps_from_the_end(self) -> None:
        # nothing was screwed since the dry fit, a look-alike hole holds no screw, and the middle is far from any
        for x, y, done in ((130, 1020, ("dry_fit", "bezel_on")), (960, 540, ("dry_fit", "panel_in", "bezel_on"))):
            told = self.hints("mura", x, y, *done)
            self.assertIn("at no screw", told[0])
            self.assertIn("'Bezel on'", told[0])
        self.assertNotIn("start", self.hints("mura", 960, 540, "dry_fit", "make_safe", "bezel_on", "power_on")[0])

    def test_what_comes_by_the_cable_is_looked_for_at_the_plug(self) -> None:
        self.assertIn("cable", self.hints("line", 130, 1020, "dry_fit", "panel_in")[0])
        self.assertEqual(self.hints("dead_pixel", 130, 1020, "dry_fit", "panel_in"), ())

    def test_a_rebuild_that_ran_at_its_dry_fit_has_a_ladder(self) -> None:
        phone = get_procedure("phone_front")
        self.assertEqual(no_start_ladder(phone, [Done(step="tray")]), ())
        told = no_start_ladder(phone, [Done(step="plug"), Done(step="dry_fit"), Done(step="plates_on")])
        self.assertIn("Charger", told[0])
        self.assertIn("Plugs on, plates on", " ".join(told))
        self.assertIn("it ran so", told[-1])
