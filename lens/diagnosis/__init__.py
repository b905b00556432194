"""Causes of a display fault, the checks that tell them apart, and the next one worth its minutes."""

from lens.diagnosis.conditions import is_cracked, set_aside
from lens.diagnosis.evidence import REPAIR, TRIED, EvidenceItem, Seen, check_items, marginals, posterior, seen_of, words
from lens.diagnosis.infer import diagnose
from lens.diagnosis.learning import BaseRate, base_rates
from lens.diagnosis.load import (
    DEVICES,
    NOT_POSSIBLE,
    Cause,
    Check,
    Device,
    Model,
    Repair,
    check_model,
    load_model,
    read_model,
)
from lens.diagnosis.measured import evidence_from_inspection
from lens.diagnosis.network import Network, build_network, network_for
from lens.diagnosis.steps import Diagnosis, NextStep, PlanStep, RankedCause, Stop
from lens.diagnosis.touch import evidence_from_touch, evidence_from_touch_seen, with_suspects

__all__ = [
    "DEVICES",
    "NOT_POSSIBLE",
    "REPAIR",
    "TRIED",
    "BaseRate",
    "Cause",
    "Check",
    "Device",
    "Diagnosis",
    "EvidenceItem",
    "Model",
    "Network",
    "NextStep",
    "PlanStep",
    "RankedCause",
    "Repair",
    "Seen",
    "Stop",
    "base_rates",
    "build_network",
    "check_items",
    "check_model",
    "diagnose",
    "evidence_from_inspection",
    "evidence_from_touch",
    "evidence_from_touch_seen",
    "load_model",
    "is_cracked",
    "marginals",
    "network_for",
    "posterior",
    "read_model",
    "seen_of",
    "set_aside",
    "with_suspects",
    "words",
]
