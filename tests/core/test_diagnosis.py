"""Diagnosis: exact inference held to full enumeration, decisions held to worked numbers."""

import itertools
from unittest import TestCase

from lens.diagnosis import Cause, Check, EvidenceItem, Model, check_model, diagnose, evidence_from_inspection, expected_cost, load_model, posterior
from lens.errors import BadInput, ModelInconsistent
from lens.inspecting import inspect_files
from lens.records import Decision, Finding
from tests.core.sets import FAULTS, PANEL, files


def cause(prior: float, minutes: float, cost: float = 0) -> Cause:
    told = dict.fromkeys(("clamshell", "handset", "tablet", "all_in_one"), prior)
    return Cause.model_validate({"title": "x", "prior": told, "repair": {"title": "x", "minutes": minutes, "cost": cost}})


class Inference(TestCase):
    def test_posterior_equals_full_enumeration(self) -> None:
        model = load_model()
        for outcomes in itertools.islice(itertools.product(*[check.outcomes for check in model.checks.values()]), 0, None, 7):
            evidence = list(zip(model.checks, outcomes, strict=True))
            joint = {}
            for cause_id, told in model.causes.items():
                p = told.prior["clamshell"]
                for check_id, outcome in evidence:
                    row = model.checks[check_id].likelihood[outcome]
                    p *= max(row.get(cause_id, row.get("other", 0.0)), 1e-6)
                joint[cause_id] = p
            found = posterior(model, "clamshell", evidence)
            for cause_id in joint:
                self.assertAlmostEqual(found[cause_id], joint[cause_id] / sum(joint.values()), delta=1e-12)

    def test_bayes_by_hand(self) -> None:
        # 0.2 x 0.9 / (0.2 x 0.9 + 0.8 x 0.3) = 0.428571...
        check = Check.model_validate({"title": "x", "minutes": 1, "how": "x", "outcomes": {"a": "a", "b": "b"},
                                      "likelihood": {"a": {"one": 0.9, "two": 0.3}, "b": {"one": 0.1, "two": 0.7}}})
        model = Model(causes={"one": cause(0.2, 10), "two": cause(0.8, 10)}, checks={"look": check})
        check_model(model)
        self.assertAlmostEqual(posterior(model, "tablet", [("look", "a")])["one"], 0.18 / 0.42)

    def test_repairs_go_by_probability_over_cost(self) -> None:
        # Heckerman, Breese, Rommelse 1995: order by p / cost. 0.3/10 before 0.7/60: 10 + 0.7 x 60 = 52, the other way 60 + 0.3 x 10 = 63
        model = Model(causes={"cheap": cause(0.3, 10), "dear": cause(0.7, 60)}, checks={})
        self.assertAlmostEqual(expected_cost(model, {"cheap": 0.3, "dear": 0.7}), 52.0)


class Advice(TestCase):
    def test_trade_facts(self) -> None:
        # common practice: a faint picture under a torch is the backlight; a picture that moves with the hinge is cable or plug;
        # the same fault on the external output is not the panel
        def first(*told: tuple[str, str]) -> str:
            return diagnose("clamshell", [EvidenceItem(check=c, outcome=o) for c, o in told]).causes[0].id
        self.assertEqual(first(("light", "no"), ("picture", "torch"), ("external_output", "clean")), "backlight")
        self.assertIn(first(("light", "yes"), ("picture", "faulty"), ("hinge", "yes")), ("cable", "connector"))
        self.assertIn(first(("light", "yes"), ("picture", "faulty"), ("external_output", "same_fault")), ("graphics", "software"))
        self.assertEqual(first(("light", "no"), ("picture", "none"), ("external_output", "none")), "power")

    def test_reseating_is_advised_before_a_new_panel(self) -> None:
        # common practice: reseat is the first repair for nearly every signal fault, as it is cheap
        told = diagnose("clamshell", [EvidenceItem(check="photos", outcome="lines", source="measured")])
        repairs = [step.id for step in told.next if step.kind == "repair"]
        self.assertLess(repairs.index("connector"), repairs.index("cell"))

    def test_measured_evidence_counts_and_outweighs_a_told_answer(self) -> None:
        measured = EvidenceItem(check="photos", outcome="pixels", source="measured")
        both = diagnose("clamshell", [measured, EvidenceItem(check="photos", outcome="clean", source="told")])
        self.assertEqual(both.causes, diagnose("clamshell", [measured]).causes)
        self.assertEqual(both.causes[0].id, "cell")

    def test_photos_become_evidence(self) -> None:
        item = evidence_from_inspection(inspect_files(PANEL, files()))
        self.assertEqual(item, EvidenceItem(check="photos", outcome="pixels", source="measured"))
        self.assertIsNone(evidence_from_inspection(inspect_files(PANEL, files(faults=())[:1])))
        self.assertTrue(FAULTS)

    def test_what_people_rejected_is_no_evidence_and_a_crack_outweighs_its_lines(self) -> None:
        whole = inspect_files(PANEL, files(faults=()))
        dot, line, crack = (
            Finding.model_validate({"kind": kind, "x": 9, "y": 9, "w": 1, "h": 1, "contrast": -1, "confidence": 0.9})
            for kind in ("dead_pixel", "line", "crack"))
        rejected = dot.model_copy(update={"decision": Decision(verdict="rejected", by="mira", measured_kind="dead_pixel")})
        for findings, outcome in (((rejected,), "clean"), ((dot, line), "lines"), ((line, crack), "crack")):
            told = evidence_from_inspection(whole.model_copy(update={"findings": findings}))
            self.assertEqual(told and told.outcome, outcome)
        sure = diagnose("clamshell", [EvidenceItem(check="photos", outcome="crack", source="measured")])
        self.assertEqual(sure.causes[0].id, "cell")

    def test_bad_evidence_is_refused(self) -> None:
        for device, check, outcome, words in (
            ("toaster", "light", "yes", "device type"), ("tablet", "lihgt", "yes", "no check"), ("tablet", "light", "maybe", "choose yes, no"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                diagnose(device, [EvidenceItem(check=check, outcome=outcome)])


class ModelChecks(TestCase):
    def test_all_faults_of_the_data_are_listed_at_once(self) -> None:
        model = load_model()
        light = model.checks["light"]
        broken = light.model_copy(update={"likelihood": {**light.likelihood, "yes": {"backlite": 0.2, "other": 0.5}}})
        with self.assertRaises(ModelInconsistent) as caught:
            check_model(model.model_copy(update={"checks": {"light": broken}, "causes": {**model.causes, "extra": cause(0.1, 1)}}))
        text = str(caught.exception)
        self.assertIn("did you mean 'backlight'", text)
        self.assertIn("prior of tablet", text)
        self.assertIn("sums to", text)
