"""Causes of a display fault, the checks that tell them apart, and the next one worth its minutes."""

from lens.diagnosis.infer import (
    Diagnosis, EvidenceItem, NextStep, RankedCause, Stop, diagnose, evidence_from_inspection, expected_cost, posterior,
)
from lens.diagnosis.load import DEVICES, Cause, Check, Device, Model, check_model, load_model

__all__ = [
    "DEVICES", "Cause", "Check", "Device", "Diagnosis", "EvidenceItem", "Model", "NextStep", "RankedCause", "Stop", "check_model",
    "diagnose", "evidence_from_inspection", "expected_cost", "load_model", "posterior",
]
