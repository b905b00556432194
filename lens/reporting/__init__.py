"""Reports that can be checked later: canonical JSON, a chain of hashes over the record of a job, the shop's signature."""

from lens.canonical import canonical, digest
from lens.reporting.chain import START, ChainCheck, chain, check_chain
from lens.reporting.report import ReportCheck, closed, verify_report
from lens.reporting.signing import fingerprint, new_key, public_of, read_public
from lens.reporting.table import findings_csv

__all__ = [
    "START",
    "ChainCheck",
    "ReportCheck",
    "canonical",
    "chain",
    "check_chain",
    "closed",
    "digest",
    "findings_csv",
    "fingerprint",
    "new_key",
    "public_of",
    "read_public",
    "verify_report",
]
