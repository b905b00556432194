"""Procedures per build, as gates that open in order, and what to do about a new panel whose touch fails."""

from lens.fitting.estimates import Estimate, minutes_of
from lens.fitting.gates import Build, Gate, builds, check_gate, get_build, procedure_for
from lens.fitting.touch_choice import RULE as TOUCH_RULE, OfferTerms, School, TouchChoice, touch_choice

__all__ = [
    "TOUCH_RULE",
    "Build",
    "Estimate",
    "Gate",
    "OfferTerms",
    "School",
    "TouchChoice",
    "builds",
    "check_gate",
    "get_build",
    "minutes_of",
    "procedure_for",
    "touch_choice",
]
