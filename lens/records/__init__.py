"""Frozen records that cross a border: the results and inputs of the core and, as they are, the schemas of the API."""

from lens.records.base import Record
from lens.records.findings import Channel, Colour, Decision, Finding, GreyLevel, Greys, Kind, Uniformity, UniformityPoint
from lens.records.inspection import Inspection, LightMap, NextShot, PanelSize, PhotoMap, PhotoReport, Problem, Proven
from lens.records.verdict import Criterion, Outcome, Verdict

__all__ = [
    "Channel", "Colour", "Criterion", "Decision", "Finding", "GreyLevel", "Greys", "Inspection", "Kind", "LightMap", "NextShot", "Outcome",
    "PanelSize", "PhotoMap", "PhotoReport", "Problem", "Proven", "Record", "Uniformity", "UniformityPoint", "Verdict",
]
