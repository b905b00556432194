"""Proving the closed device: the functions that ride on what was touched, and looks by eye where nothing can be measured."""

from lens.proving.closing import closing_hints, no_start_ladder
from lens.proving.comeback import PAYERS, Charge, ComebackFacts, Payer, charge
from lens.proving.decisions import DECISIONS, Decision, DecisionId, supplier_outcome
from lens.proving.eye import ASPECTS, EyeAnswer, aspects_asked, check_aspect, eye_verdict
from lens.proving.functions import (
    OUTCOMES,
    AskedFunction,
    FunctionAnswer,
    FunctionOutcome,
    check_function,
    expected_losses,
    functions,
    functions_asked,
    functions_told,
)
from lens.proving.sensed import SPEAKS_FOR, TONES_HZ, Sensed, SenseId, camera_alive, tone_heard
from lens.proving.seals import MOST_SEALS, SEAL_STATES, Seal, SealState, check_seal, seals_found

__all__ = [
    "SPEAKS_FOR",
    "TONES_HZ",
    "SenseId",
    "Sensed",
    "camera_alive",
    "tone_heard",
    "MOST_SEALS",
    "PAYERS",
    "SEAL_STATES",
    "Charge",
    "ComebackFacts",
    "Payer",
    "Seal",
    "SealState",
    "charge",
    "check_seal",
    "seals_found",
    "ASPECTS",
    "DECISIONS",
    "Decision",
    "DecisionId",
    "supplier_outcome",
    "OUTCOMES",
    "AskedFunction",
    "EyeAnswer",
    "FunctionAnswer",
    "FunctionOutcome",
    "aspects_asked",
    "check_aspect",
    "check_function",
    "closing_hints",
    "expected_losses",
    "eye_verdict",
    "functions",
    "functions_asked",
    "functions_told",
    "no_start_ladder",
]
