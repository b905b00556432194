"""Findings as a table (CSV, RFC 4180)."""

import csv
import io
from collections.abc import Mapping, Sequence

from lens.records import Finding

COLUMNS = (
    "kind",
    "channel",
    "orientation",
    "x_px",
    "y_px",
    "w_px",
    "h_px",
    "contrast",
    "confidence",
    "patterns",
    "reasons",
)


def findings_csv(findings: Sequence[Finding], about: Mapping[str, str] | None = None) -> str:
    """One line a finding, header first; ``about`` are columns that say the same in each line, such as whose findings they are."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    about = about or {}
    writer.writerow((*COLUMNS, *about))
    for f in findings:
        writer.writerow(
            (
                f.kind,
                f.channel or "",
                f.orientation or "",
                f.x,
                f.y,
                f.w,
                f.h,
                f.contrast,
                f.confidence,
                " ".join(f.patterns),
                " ".join(f.reasons),
                *about.values(),
            )
        )
    return out.getvalue()
