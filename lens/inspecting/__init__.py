"""One inspection from photo files to a verdict, and two inspections compared."""

from lens.inspecting.compare import Comparison, compare
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
from lens.inspecting.witness import Witness, bear_witness

__all__ = [
    "FRAME",
    "REFERENCE",
    "Comparison",
    "PhotoFile",
    "Read",
    "Witness",
    "bear_witness",
    "check_row_time",
    "compare",
    "inspect_files",
    "inspect_reads",
    "judge_again",
    "read_file",
]
