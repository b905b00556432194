"""Frozen records that cross a border: the results and inputs of the core and, as they are, the schemas of the API."""

from lens.records.base import Record
from lens.records.findings import (
    AgainstReference,
    Channel,
    ChannelBits,
    Colour,
    DataBits,
    Decision,
    Finding,
    GreyLevel,
    Greys,
    Kind,
    Uniformity,
    UniformityPoint,
)
from lens.records.inspection import (
    Inspection,
    LightMap,
    NextShot,
    PanelMap,
    PanelSize,
    PhotoMap,
    PhotoReport,
    Problem,
    Proven,
    SmallestFault,
    WhiteLight,
)
from lens.records.verdict import Criterion, Outcome, Verdict

__all__ = [
    "AgainstReference", "Channel", "ChannelBits", "Colour", "Criterion", "DataBits", "Decision", "Finding", "GreyLevel", "Greys", "Inspection",
    "Kind", "LightMap", "NextShot", "Outcome", "PanelMap", "PanelSize", "PhotoMap", "PhotoReport", "Problem", "Proven", "Record", "SmallestFault",
    "Uniformity", "UniformityPoint", "Verdict", "WhiteLight",
]
