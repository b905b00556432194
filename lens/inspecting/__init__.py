"""One inspection from photo files to a verdict, and two inspections compared."""

from lens.inspecting.compare import Comparison, asked_of_before, compare
from lens.inspecting.frames import FRAME
from lens.inspecting.inspect import (
    REFERENCE,
    PhotoFile,
    Read,
    check_row_time,
    inspect_files,
    inspect_reads,
    judge_again,
    read_file,
)
from lens.inspecting.look_back import LookBack, LookedBack, look_back, photos_key
from lens.inspecting.trail import TRAIL, TrailRead, read_trail
from lens.inspecting.witness import Witness, bear_witness

__all__ = [
    "FRAME",
    "REFERENCE",
    "TRAIL",
    "Comparison",
    "LookBack",
    "LookedBack",
    "PhotoFile",
    "Read",
    "TrailRead",
    "Witness",
    "asked_of_before",
    "bear_witness",
    "check_row_time",
    "compare",
    "inspect_files",
    "inspect_reads",
    "judge_again",
    "look_back",
    "photos_key",
    "read_file",
    "read_trail",
]
