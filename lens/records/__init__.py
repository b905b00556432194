"""Frozen records that cross a border: the results and inputs of the core and, as they are, the schemas of the API."""

from lens.records.base import Record
from lens.records.findings import Colour, Finding, Kind, Uniformity, UniformityPoint
from lens.records.inspection import Inspection, PanelSize, PhotoReport, Problem
from lens.records.verdict import Criterion, Outcome, Verdict

__all__ = [
    "Colour", "Criterion", "Finding", "Inspection", "Kind", "Outcome", "PanelSize", "PhotoReport", "Problem", "Record",
    "Uniformity", "UniformityPoint", "Verdict",
]
