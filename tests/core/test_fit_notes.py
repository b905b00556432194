"""What steps of fitting ask to be noted, and the clocks that they begin. Hours, minutes and temperatures are common practice of the trade."""

import datetime as dt
from unittest import TestCase

from lens.errors import BadInput
from lens.fitting import (
    CANNOT_TELL,
    DoneAt,
    StepNotes,
    builds_for,
    check_notes,
    check_step,
    find_build,
    get_procedure,
    going_back,
    left_words,
    parts,
    procedures,
    questions,
    running,
    to_move,
)
from lens.steps import Done, order

START = dt.datetime(2026, 10, 25, 0, 30, tzinfo=dt.UTC)  # an hour before clocks go back in much of Europe
PHONE = get_procedure("phone_front")
STEPS = {step.id: step for step in PHONE.steps}


def notes(**told: object) -> StepNotes:
    return StepNotes.model_validate(told)


class Noted(TestCase):
    def refused(self, code: str, step: str, told: StepNotes, carried: tuple[str, ...] = (), reason: str = "") -> None:
        titles = [PHONE.liners[name].title for name in STEPS[step].liners]
        with self.assertRaises(BadInput) as refused:
            check_notes(STEPS[step], told, carried, titles, reason)
        self.assertEqual(refused.exception.code, code)

    def test_a_hot_battery_stops_the_work_whoever_says_why(self) -> None:
        heat = {"source": "plate", "setting_c": 90, "cycles": 3, "seconds": 60}
        check_notes(STEPS["lift"], notes(heat=heat), (), (), "")  # not measured is recorded as that
        check_notes(STEPS["lift"], notes(heat={**heat, "battery_c": 58}), (), (), "")
        self.refused("cell_hot", "lift", notes(heat={**heat, "battery_c": 63}), reason="In a hurry.")
        self.refused("heat_note", "lift", notes())

    def test_parts_liners_and_adhesive_are_told_one_by_one(self) -> None:
        carried = ("earpiece", "sensors")
        self.refused("parts_left", "parts", notes(parts={"earpiece": "moved"}), carried)
        check_notes(STEPS["parts"], notes(parts={"earpiece": "moved", "sensors": "not_there"}), carried, (), "")
        laid = {"kind": "tape", "thickness_mm": 0.3, "gap_mm": 0.35}
        off = {"rear_tabs": "off", "adhesive_device": "off"}
        self.refused("adhesive_note", "adhesive", notes(liners=off))
        self.refused("liners_left", "adhesive", notes(adhesive=laid, liners={"rear_tabs": "none_there"}))
        self.refused("tape_thick", "adhesive", notes(adhesive={**laid, "thickness_mm": 0.5}, liners=off))
        titles = [PHONE.liners[name].title for name in STEPS["adhesive"].liners]
        check_notes(STEPS["adhesive"], notes(adhesive=laid, liners=off), (), titles, "")

    def test_what_comes_with_the_new_one_is_not_moved(self) -> None:
        self.assertIn("home_button", to_move(PHONE.carries, ()))
        self.assertNotIn("home_button", to_move(PHONE.carries, ("button", "film")))
        for procedure in procedures().values():
            for name in procedure.carries:
                self.assertTrue(parts()[name].freed, name)

    def test_the_button_of_a_laptop_is_held_by_a_clock(self) -> None:
        safe = next(step for step in get_procedure("ears").steps if step.id == "make_safe")
        with self.assertRaises(BadInput):
            check_notes(safe, notes(held_s=14), (), (), "")
        check_notes(safe, notes(held_s=15), (), (), "")
        check_notes(safe, notes(), (), (), "The button is broken.")
        self.assertEqual(STEPS["make_safe"].hold_s, 0)  # phones: the battery's plug is off instead


class Clocks(TestCase):
    def at(self, minutes: float) -> dt.datetime:
        return START + dt.timedelta(minutes=minutes)

    def left(self, choice: str, told: StepNotes, minutes: float) -> float:
        log = [DoneAt("cure", choice, START, told)]
        return running(STEPS, log, self.at(minutes))[0].left_s

    def test_hours_of_the_data_sheet_else_a_day(self) -> None:
        self.assertEqual(self.left("liquid", notes(), 60), 23 * 3600)
        self.assertFalse(running(STEPS, [DoneAt("cure", "liquid", START, notes())], START)[0].known)
        self.assertEqual(
            self.left("liquid", notes(hours=4), 60), 3 * 3600
        )  # two zones of that night make no difference
        self.assertEqual(self.left("tape", notes(), 61), 0)

    def test_a_clock_that_was_set_back_never_makes_it_longer_than_it_began(self) -> None:
        self.assertEqual(self.left("tape", notes(), -600), 3600)

    def test_a_step_done_again_begins_its_clock_again(self) -> None:
        log = [DoneAt("frame_ready", "", START, notes()), DoneAt("frame_ready", "", self.at(4), notes())]
        told = running(STEPS, log, self.at(6))
        self.assertEqual([(one.step, one.left_s) for one in told], [("frame_ready", 180)])

    def test_no_power_while_solvent_is_wet_and_no_board_while_the_display_is_clamped(self) -> None:
        log = (
            "fate",
            "tray",
            "cable_side",
            "make_safe",
            "edge_screws",
            "lift",
            "battery_plug",
            "open",
            "plug",
            "frame_ready",
        )
        done = [Done(step=name, choice=next(iter(STEPS[name].choices), None)) for name in log]
        wet = running(STEPS, [DoneAt("frame_ready", "", START, notes())], self.at(1))
        with self.assertRaisesRegex(BadInput, "solvent dries, 4 min left"):
            check_step(PHONE, "dry_fit", done, {"dry_fit": "pass"}, clocks=wet)
        dry = running(STEPS, [DoneAt("frame_ready", "", START, notes())], self.at(5))
        check_step(PHONE, "dry_fit", done, {"dry_fit": "pass"}, clocks=dry)
        back = get_procedure("phone_back")
        adhesive = next(step for step in back.steps if step.id == "adhesive")
        self.assertEqual((adhesive.clocks[""].minutes, adhesive.clocks[""].blocks), (30, "next"))

    def test_words(self) -> None:
        self.assertEqual([left_words(s) for s in (14.2, 240, 11_520)], ["15 s", "4 min", "3 h 12 min"])


class Finder(TestCase):
    def asked(self, device: str, build: str) -> int:
        """Questions until this build is told, answered as it is; of several possible answers the first."""
        answers: dict[str, str] = {}
        while True:
            found = find_build(device, answers)
            self.assertIn(build, found.builds)
            if found.question is None:
                self.assertEqual(found.builds, (build,))
                return len(answers)
            question = questions()[found.question]
            answers[found.question] = question.builds.get(build, tuple(question.answers))[0]

    def test_every_build_is_found_within_four_questions_on_average(self) -> None:
        counts = [
            self.asked(device, one.id)
            for device in ("clamshell", "handset", "tablet", "all_in_one")
            for one in builds_for(device)
        ]
        self.assertLessEqual(max(counts), 6)
        self.assertLessEqual(sum(counts) / len(counts), 4)

    def test_who_cannot_tell_is_asked_something_else(self) -> None:
        first = find_build("clamshell", {})
        assert first.question is not None
        second = find_build("clamshell", {first.question: CANNOT_TELL})
        self.assertNotIn(second.question, (None, first.question))
        self.assertEqual(len(second.builds), 5)

    def test_answers_that_contradict_each_other_rule_nothing_out(self) -> None:
        told = find_build("clamshell", {"lid_seam": "seam", "held": "sides"})
        self.assertEqual((told.contradiction, len(told.builds)), (True, 5))
        with self.assertRaisesRegex(BadInput, "Did you mean 'held'"):
            find_build("clamshell", {"hold": "front"})


class GoingBack(TestCase):
    def test_it_says_what_it_takes_back_and_what_is_tested_again(self) -> None:
        done = order(PHONE.graph)
        late = going_back(PHONE, done[-1].step, done, closed_seen=False)
        self.assertEqual((late.takes, late.tests), ((), ()))
        early = going_back(PHONE, "plug", done, closed_seen=True)
        titles = {step.id: step.title for step in PHONE.steps}
        self.assertIn(titles["dry_fit"], early.takes)
        self.assertIn("One click", early.tests[0])
        self.assertEqual(early.tests[-2:], (titles["dry_fit"], "The closed device"))
        with self.assertRaises(BadInput):
            going_back(PHONE, "plug", [], closed_seen=False)


class OwnProcedures(TestCase):
    def test_what_is_named_and_not_described_is_refused(self) -> None:
        from lens.fitting import read_procedure

        head = "title: T\ndevices: [handset]\n"
        step = "steps:\n  - {id: a, title: A"
        for text, words in (
            (head + "carries: [earpice]\n" + step + ", moves: true}\n", "earpiece"),
            (head + "carries: [earpiece]\n" + step + "}\n", "moves them over"),
            (head + step + ", liners: [film]}\n", "liner"),
            (head + "liners: {film: {title: Film}}\n" + step + "}\n", "0 name it"),
            (head + step + ", clocks: {tape: {title: T, minutes: 5, blocks: power}}}\n", "clock of choice"),
            (head + step + ", clocks: {'': {title: T, minutes: -5, blocks: power}}}\n", "minutes"),
            (head + "fasteners: {edge: {title: E, where: w}}\n" + step + ", counts: {egde: 2}}\n", "edge"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                read_procedure(text, "own")
