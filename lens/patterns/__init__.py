"""Test patterns as data, rendered pixel-exactly, and the coded markers that they carry."""

from lens.patterns.bits import BitCell, bit_cells
from lens.patterns.catalogue import PATTERNS, Pattern, get_pattern
from lens.patterns.export import numbered_files, write_folder, zip_bytes
from lens.patterns.hidden import marker_mask, marker_rings
from lens.patterns.ladder import Patch, ladder_patches
from lens.patterns.markers import (
    DICTIONARY_BITS,
    MARKER_MODULES,
    MAX_RUN_CODE,
    Marker,
    Probe,
    Reading,
    marker_layout,
    probe_layout,
    read_symbols,
)
from lens.patterns.render import encode_png, render
from lens.patterns.sets import MAX_YAML_CHARACTERS, PatternSet, built_in_sets, get_set, patterns_of, read_set

__all__ = [
    "DICTIONARY_BITS",
    "MARKER_MODULES",
    "MAX_RUN_CODE",
    "MAX_YAML_CHARACTERS",
    "PATTERNS",
    "BitCell",
    "Marker",
    "Patch",
    "Pattern",
    "PatternSet",
    "Probe",
    "Reading",
    "bit_cells",
    "built_in_sets",
    "encode_png",
    "get_pattern",
    "get_set",
    "ladder_patches",
    "marker_layout",
    "marker_mask",
    "marker_rings",
    "numbered_files",
    "patterns_of",
    "probe_layout",
    "read_set",
    "read_symbols",
    "render",
    "write_folder",
    "zip_bytes",
]
