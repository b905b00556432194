"""Procedures per build: what may come next, what must be proven for it, and what to do about a new panel whose touch fails."""

from lens.fitting.estimates import Estimate, look_inside_minutes, minutes_of
from lens.fitting.gates import check_build, check_counts, check_step, inspection_of, procedure_for
from lens.fitting.procedures import (
    POWERED,
    Procedure,
    Standing,
    builds_for,
    get_procedure,
    hazards,
    powers_up,
    procedures,
    read_procedure,
    standing,
    with_power,
)
from lens.fitting.touch_choice import RULE as TOUCH_RULE, OfferTerms, School, TouchChoice, touch_choice

__all__ = [
    "POWERED",
    "TOUCH_RULE",
    "Estimate",
    "OfferTerms",
    "Procedure",
    "School",
    "Standing",
    "TouchChoice",
    "builds_for",
    "check_build",
    "check_counts",
    "check_step",
    "get_procedure",
    "hazards",
    "inspection_of",
    "look_inside_minutes",
    "minutes_of",
    "powers_up",
    "procedure_for",
    "procedures",
    "read_procedure",
    "standing",
    "with_power",
    "touch_choice",
]
