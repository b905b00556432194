"""Faults of a panel, from the photos of a set."""

from lens.faults.findings import PIXEL_KINDS, PixelResult, clusters, find_faults
from lens.faults.pixels import DETECTION_Z, FALSE_ALARMS_PER_SET, detection_threshold
from lens.faults.uniformity import delta_e00, measure_uniformity

__all__ = [
    "DETECTION_Z", "FALSE_ALARMS_PER_SET", "PIXEL_KINDS", "PixelResult", "clusters", "delta_e00", "detection_threshold",
    "find_faults", "measure_uniformity",
]
