"""Findings as a table (CSV, RFC 4180)."""

import csv
import io
from collections.abc import Sequence

from lens.records import Finding

COLUMNS = ("kind", "channel", "orientation", "x_px", "y_px", "w_px", "h_px", "contrast", "confidence", "patterns", "reasons")


def findings_csv(findings: Sequence[Finding]) -> str:
    """One line a finding, header first."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for f in findings:
        writer.writerow((
            f.kind, f.channel or "", f.orientation or "", f.x, f.y, f.w, f.h, f.contrast, f.confidence, " ".join(f.patterns), " ".join(f.reasons)))
    return out.getvalue()
