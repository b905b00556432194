"""Proving the closed device: the functions that ride on what was touched, and looks by eye where nothing can be measured."""

from lens.proving.closing import closing_hints, no_start_ladder
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

__all__ = [
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
