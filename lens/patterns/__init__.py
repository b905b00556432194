"""Test patterns as data, rendered pixel-exactly, and the coded markers that they carry."""

from lens.patterns.catalogue import PATTERNS, SETS, Pattern, get_pattern, pattern_set
from lens.patterns.export import write_folder, zip_bytes
from lens.patterns.markers import (
    DICTIONARY_BITS, MARKER_MODULES, MAX_RUN_CODE, Marker, Probe, Reading, marker_layout, marker_mask, probe_layout,
    read_symbols,
)
from lens.patterns.render import encode_png, render

__all__ = [
    "DICTIONARY_BITS", "MARKER_MODULES", "MAX_RUN_CODE", "PATTERNS", "SETS", "Marker", "Pattern", "Probe", "Reading", "encode_png",
    "get_pattern", "marker_layout", "marker_mask", "pattern_set", "probe_layout", "read_symbols", "render", "write_folder", "zip_bytes",
]
