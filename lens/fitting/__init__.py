"""Procedures per build, as gates that open in order, and what to do about a new panel whose touch fails."""

from lens.fitting.estimates import Estimate, minutes_of
from lens.fitting.gates import Build, Gate, builds, check_gate, get_build, procedure_for
from lens.fitting.procedures import (
    Procedure,
    Standing,
    builds_for,
    get_procedure,
    hazards,
    powers_up,
    procedures,
    read_procedure,
    standing,
)
from lens.fitting.touch_choice import RULE as TOUCH_RULE, OfferTerms, School, TouchChoice, touch_choice

__all__ = [
    "TOUCH_RULE",
    "Build",
    "Estimate",
    "Gate",
    "OfferTerms",
    "Procedure",
    "School",
    "Standing",
    "TouchChoice",
    "builds",
    "builds_for",
    "check_gate",
    "get_build",
    "get_procedure",
    "hazards",
    "minutes_of",
    "powers_up",
    "procedure_for",
    "procedures",
    "read_procedure",
    "standing",
    "touch_choice",
]
