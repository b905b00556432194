"""Procedures per build, as gates that open in order, and what to do about a new panel whose touch fails."""

from lens.fitting.gates import Build, Gate, builds, check_gate, get_build, procedure_for
from lens.fitting.touch_choice import (
    DEFAULT_SCHOOL,
    OfferTerms,
    SchoolRule,
    TouchChoice,
    check_school,
    schools,
    touch_choice,
)

__all__ = [
    "DEFAULT_SCHOOL",
    "Build",
    "Gate",
    "OfferTerms",
    "SchoolRule",
    "TouchChoice",
    "builds",
    "check_gate",
    "check_school",
    "get_build",
    "procedure_for",
    "schools",
    "touch_choice",
]
