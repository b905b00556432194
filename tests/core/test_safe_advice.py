"""Advice that may hurt: sets on mains, wrong signals, pictures that fade (each common practice of the trade)."""

from unittest import TestCase

from lens.diagnosis import Diagnosis, EvidenceItem, diagnose, load_model


def told(device: str, **answers: str) -> Diagnosis:
    return diagnose(
        device, [EvidenceItem(check=check, outcome=outcome, source="seen") for check, outcome in answers.items()]
    )


class OnMains(TestCase):
    def test_nothing_inside_is_advised_and_every_step_says_who_may(self) -> None:
        model = load_model()
        for answers in (
            {},
            {"first_look": "broken"},
            {"first_look": "black"},
            {"first_look": "lines", "external_output": "clean"},
            {"first_look": "glow", "light": "yes", "picture": "none", "external_output": "clean"},
        ):
            result = told("all_in_one", **answers)
            steps = [*result.next, *result.plan]
            for step in steps:
                known = model.checks[step.id] if step.kind == "check" else model.repairs[step.id]
                self.assertFalse(known.inside, f"{answers} {step.id}")
                self.assertTrue(any("Qualified people only" in line for line in step.cautions), step.id)
            self.assertTrue(any("Qualified people only" in line for line in result.cautions))
            self.assertIn("send_on", [step.id for step in result.next])

    def test_where_checking_is_over_it_is_handed_on_and_says_what_it_points_to(self) -> None:
        answers = {"first_look": "broken", "impact": "cell", "external_output": "clean", "onset": "drop"}
        result = told("all_in_one", **answers)
        for _ in range(8):  # on as long as a check is worth it, each with its likeliest answer
            if result.stop.advised:
                break
            step = result.plan[0]
            answers[step.id] = next(
                name for name, title in load_model().checks[step.id].outcomes.items() if title == step.assumes
            )
            result = told("all_in_one", **answers)
        self.assertTrue(result.stop.advised)
        self.assertEqual((result.stop.repair, result.next[0].id), ("send_on", "send_on"))
        self.assertIn("Replace the panel", result.stop.reason)
        self.assertEqual(
            told("clamshell", first_look="broken", impact="cell", external_output="clean", onset="drop").stop.repair,
            "panel",
        )


class WrongSignal(TestCase):
    def test_power_goes_down_before_anything(self) -> None:
        result = told("clamshell", first_look="wrong", opened_before="display")
        self.assertGreater(sum(cause.p for cause in result.causes if cause.id in ("wrong_signal", "wrong_panel")), 0.1)
        for step in (*result.next, *result.plan):
            self.assertIn("Power down", step.cautions[0])
        self.assertEqual(told("clamshell", first_look="dots").cautions, ())


class Fading(TestCase):
    def test_a_picture_that_fades_never_gets_a_panel(self) -> None:
        result = told("handset", first_look="ghost", fades="fades")
        self.assertNotIn("panel", [step.id for step in (*result.next, *result.plan)])
        self.assertNotEqual(result.stop.repair, "panel")
        stays = told("handset", first_look="ghost", fades="stays")
        self.assertIn("panel", [step.id for step in (*stays.next, *stays.plan)])


class NotNow(TestCase):
    def test_a_repair_that_is_put_aside_gives_way_to_the_next_and_says_nothing_of_the_causes(self) -> None:
        """Common practice: the part is not there yet, or the owner wants to be asked first; nothing was learnt by that."""
        answers = {"first_look": "lines", "external_output": "clean", "onset": "repair"}
        before = told("clamshell", **answers)
        first = next(step for step in before.plan if step.kind == "repair")
        aside = EvidenceItem(check=f"repair:{first.id}", outcome="not_possible", source="seen")
        items = [EvidenceItem(check=check, outcome=outcome, source="seen") for check, outcome in answers.items()]
        after = diagnose("clamshell", [*items, aside])
        self.assertNotIn(first.id, [step.id for step in (*after.plan, *after.next)])
        self.assertTrue(after.plan)
        self.assertEqual([(c.id, c.p) for c in after.causes], [(c.id, c.p) for c in before.causes])

    def test_what_makes_the_work_safe_cannot_be_put_aside(self) -> None:
        answers = {"first_look": "wrong", "onset": "repair", "label": "other"}
        first = told("clamshell", **answers).plan[0]
        self.assertTrue(first.prepares, first.id)
        items = [EvidenceItem(check=check, outcome=outcome, source="seen") for check, outcome in answers.items()]
        aside = EvidenceItem(check=f"repair:{first.id}", outcome="not_possible", source="seen")
        self.assertEqual(diagnose("clamshell", [*items, aside]).plan[0].id, first.id)


class Wet(TestCase):
    def test_nothing_is_charged_while_it_is_wet(self) -> None:
        """Common practice: liquid and current corrode within minutes."""
        for more in ({}, {"first_look": "black"}, {"first_look": "dim"}):
            result = told("clamshell", onset="liquid", liquid_traces="some", **more)
            self.assertIn("no charging while it is wet", " ".join(result.cautions), more)
            self.assertNotIn("charge", [step.id for step in (*result.next, *result.plan)], more)
            self.assertNotEqual(result.stop.repair, "charge", more)
