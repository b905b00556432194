"""Faults of a panel, from the photos of a set."""

from lens.faults.at_place import AtPlace, share_at
from lens.faults.brightness import measure_brightness
from lens.faults.findings import find_faults
from lens.faults.lamp import white_light
from lens.faults.light_field import LightField
from lens.faults.light_model import CHANNELS
from lens.faults.lines import smallest_line
from lens.faults.look import CloseLook, look_at
from lens.faults.pixels import DETECTION_Z, FALSE_ALARMS_PER_SET, Evidence, Seen, detection_threshold
from lens.faults.reference import compare_panels, is_reference_pattern
from lens.faults.row_time import learn_row_time
from lens.faults.uniformity import delta_e00, measure_uniformity
from lens.faults.words import listed
from lens.faults.tints import tint
from lens.faults.zones import smallest_spot, unevenness

__all__ = [
    "AtPlace",
    "CHANNELS",
    "CloseLook",
    "DETECTION_Z",
    "Evidence",
    "FALSE_ALARMS_PER_SET",
    "LightField",
    "Seen",
    "compare_panels",
    "delta_e00",
    "detection_threshold",
    "find_faults",
    "is_reference_pattern",
    "learn_row_time",
    "listed",
    "look_at",
    "measure_brightness",
    "measure_uniformity",
    "share_at",
    "smallest_line",
    "smallest_spot",
    "tint",
    "unevenness",
    "white_light",
]
