"""Frozen records that cross a border: the results and inputs of the core and, as they are, the schemas of the API."""

from lens.records.base import Record
from lens.records.brightness import BrightnessControl, BrightnessCurve, BrightnessStep, Pulses, RowTime, WhiteLight
from lens.records.findings import (
    Alternative,
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
    MarkerResidual,
    PhotoMap,
    PhotoReport,
    Problem,
    Proven,
    SmallestFault,
)
from lens.records.verdict import Criterion, Outcome, Verdict

__all__ = [
    "AgainstReference", "BrightnessControl", "BrightnessCurve", "BrightnessStep", "Channel", "ChannelBits", "Colour", "Criterion", "DataBits",
    "Alternative", "Decision", "Finding", "GreyLevel", "Greys", "Inspection", "Kind", "LightMap", "MarkerResidual", "NextShot",
    "Outcome", "PanelMap", "PanelSize", "PhotoMap",
    "PhotoReport", "Problem", "Proven", "Pulses", "Record", "RowTime", "SmallestFault", "Uniformity", "UniformityPoint", "Verdict", "WhiteLight",
]
