"""What the diagnosis makes of answers, photos and the shop's own closed jobs, and how it says why."""

from unittest import TestCase

import numpy as np

from lens.diagnosis import (
    DEVICES,
    EvidenceItem,
    Seen,
    diagnose,
    evidence_from_inspection,
    load_model,
    network_for,
    seen_of,
)
from lens.diagnosis.evidence import likelihood
from lens.errors import BadInput
from lens.inspecting import inspect_files
from lens.records import Decision, Finding
from tests.core.sets import PANEL, files


class Reasons(TestCase):
    def test_a_contradiction_is_shown(self) -> None:
        measured = evidence_from_inspection(inspect_files(PANEL, files()))
        told = diagnose("clamshell", [EvidenceItem(check="light", outcome="no", source="told"), *measured])
        self.assertRegex(
            told.contradictions[0], "Told: '.* No light at all'. Measured: '.* Yes, light'. The measurement counts"
        )
        self.assertEqual(told.causes[0].id, "pixel_faults")
        odd = diagnose(
            "clamshell",
            [
                EvidenceItem(check="external_output", outcome="same_fault"),
                EvidenceItem(check="known_panel", outcome="clean"),
            ],
        )
        self.assertIn("hardly go together", odd.contradictions[0])
        fitting = [EvidenceItem(check="light", outcome="no"), EvidenceItem(check="picture", outcome="torch")]
        self.assertEqual(diagnose("clamshell", fitting).contradictions, ())

    def test_evidence_is_named_with_its_weight(self) -> None:
        told = diagnose(
            "clamshell",
            [EvidenceItem(check="hinge", outcome="yes"), EvidenceItem(check="external_output", outcome="clean")],
        )
        self.assertEqual(told.causes[0].id, "cable")
        self.assertRegex(
            told.causes[0].for_[0], r"Does the picture move with the hinge\? Yes, it changes \(about \d+ to 1\)"
        )
        graphics = next(c for c in told.causes if c.id == "graphics")
        self.assertTrue(any("external output clean" in words for words in graphics.against))
        self.assertTrue(all("% likely): then '" in words for words in told.would_change))

    def test_measured_evidence_outweighs_a_told_answer(self) -> None:
        measured = EvidenceItem(check="photos", outcome="pixels", source="measured")
        both = diagnose("clamshell", [measured, EvidenceItem(check="photos", outcome="clean", source="told")])
        self.assertEqual(both.causes, diagnose("clamshell", [measured]).causes)
        self.assertEqual(both.causes[0].id, "pixel_faults")

    def test_an_owner_s_word_weighs_less_than_a_look_and_both_stand(self) -> None:
        """By hand: who is mistaken (share 1 - b) names any of n outcomes, so P = b P(outcome | h) + (1 - b) / n."""
        model = load_model()
        network = network_for(model, "clamshell")
        told, seen = (
            likelihood(
                model, network, seen_of(model, [EvidenceItem(check="first_look", outcome="broken", source=source)])[0]
            )
            for source in ("told", "seen")
        )
        belief, outcomes = model.sources["told"], len(model.checks["first_look"].outcomes)
        np.testing.assert_allclose(told, belief * seen + (1 - belief) / outcomes)
        both = [
            EvidenceItem(check="light", outcome="no", source="told"),
            EvidenceItem(check="light", outcome="yes", source="seen"),
        ]
        self.assertEqual({one.outcomes for one in seen_of(model, both)}, {("no",), ("yes",)})
        clean = EvidenceItem(check="photos", outcome="clean", source="measured")
        cell = {}
        for source in ("told", "seen"):
            causes = diagnose(
                "clamshell", [EvidenceItem(check="first_look", outcome="broken", source=source), clean]
            ).causes
            cell[source] = next(one.p for one in causes if one.id == "cell")
        self.assertLess(cell["told"], cell["seen"])

    def test_a_black_screen_is_never_asked_for_what_needs_a_picture(self) -> None:
        """Common practice: no squeeze, no photos, no touch on a screen that shows nothing; nothing that needs a system of a dead device."""
        for device in DEVICES:
            for check, outcome in (("first_look", "black"), ("light", "no"), ("picture", "none")):
                told = diagnose(device, [EvidenceItem(check=check, outcome=outcome)])
                asked = {step.id for step in told.next if step.kind == "check"}
                self.assertFalse(
                    asked & {"squeeze", "ramp", "flicker_at_full", "touch_draw", "touch_soak", "fades"}, (device, check)
                )
            dead = diagnose(device, [EvidenceItem(check="sound", outcome="no")])
            self.assertFalse({step.id for step in dead.next} & {"screenshot", "safe_mode", "update", "edid"})
            back = diagnose(
                device,
                [EvidenceItem(check="first_look", outcome="black"), EvidenceItem(check="picture", outcome="faulty")],
            )
            self.assertIn("photos", {step.id for step in back.next})

    def test_there_is_one_advice(self) -> None:
        """The first step is the repair that is advised, or else the check that is worth the most."""
        rng = np.random.default_rng(12)
        model = load_model()
        for _ in range(120):
            device = DEVICES[int(rng.integers(len(DEVICES)))]
            names = [n for n in model.checks if device in model.checks[n].devices]
            picked = rng.choice(names, size=int(rng.integers(0, 6)), replace=False)
            items = [
                EvidenceItem(check=str(name), outcome=str(rng.choice(list(model.checks[str(name)].outcomes))))
                for name in picked
            ]
            told = diagnose(device, items)
            first = told.next[0]
            if told.stop.advised:
                self.assertEqual((first.kind, first.id), ("repair", told.stop.repair))
            elif items:
                self.assertEqual((first.kind, first.id), (told.plan[0].kind, told.plan[0].id), items)
            self.assertTrue(told.causes[0].for_)

    def test_the_last_answer_counts(self) -> None:
        items = [EvidenceItem(check="light", outcome=outcome) for outcome in ("no", "yes")]
        self.assertEqual(seen_of(load_model(), items), [Seen("light", ("yes",), True)])

    def test_bad_evidence_is_refused(self) -> None:
        for device, check, outcome, words in (
            ("toaster", "light", "yes", "device type"),
            ("tablet", "lihgt", "yes", "no check 'lihgt'. Did you mean 'light'"),
            ("tablet", "light", "maybe", "choose yes, dim, no"),
            ("tablet", "repair:panle", "same", "Did you mean 'panel'"),
            ("tablet", "repair:panel", "yes", "choose same, mended"),
        ):
            with self.assertRaisesRegex(BadInput, words.replace("?", r"\?")):
                diagnose(device, [EvidenceItem(check=check, outcome=outcome)])


class Photos(TestCase):
    def test_photos_become_evidence(self) -> None:
        told = evidence_from_inspection(inspect_files(PANEL, files()))
        self.assertEqual(
            [(item.check, item.outcome, item.source) for item in told],
            [("light", "yes", "measured"), ("photos", "pixels", "measured"), ("photos", "clean", "measured")],
        )
        lone = evidence_from_inspection(inspect_files(PANEL, files(faults=())[:1]))
        self.assertEqual(
            [(item.check, item.outcome) for item in lone], [("light", "yes")]
        )  # one photo does not say that nothing is wrong

    def test_what_people_rejected_is_no_evidence_and_a_crack_explains_its_lines(self) -> None:
        whole = inspect_files(PANEL, files(faults=()))
        dot, line, crack, wrong = (
            Finding.model_validate({"kind": kind, "x": 9, "y": 9, "w": 1, "h": 1, "contrast": -1, "confidence": 0.9})
            for kind in ("dead_pixel", "line", "crack", "artifact")
        )
        rejected = dot.model_copy(
            update={"decision": Decision(verdict="rejected", by="mira", measured_kind="dead_pixel")}
        )
        unsure = wrong.model_copy(update={"confidence": 0.5})
        for findings, outcomes in (
            ((rejected,), ["clean"]),
            ((dot, line), ["pixels", "lines", "clean"]),
            ((line, crack), ["crack"]),
            ((wrong,), ["picture"]),
            ((unsure, dot), ["pixels", "clean"]),
        ):
            told = evidence_from_inspection(whole.model_copy(update={"findings": findings}))
            self.assertEqual([item.outcome for item in told if item.check == "photos"], outcomes)

    def test_a_dead_light_is_told_as_such(self) -> None:
        whole = inspect_files(PANEL, files(faults=()))
        for kind, items in (
            ("no_light", [("light", "no"), ("torch_photo", "alive")]),
            ("dim", [("light", "dim"), ("photos", "clean")]),
        ):
            finding = Finding.model_validate(
                {"kind": kind, "x": 9, "y": 9, "w": 1, "h": 1, "contrast": -1, "confidence": 0.9}
            )
            told = evidence_from_inspection(whole.model_copy(update={"findings": (finding,)}))
            self.assertEqual([(item.check, item.outcome) for item in told], items)
