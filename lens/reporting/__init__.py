"""Reports that can be checked later: canonical JSON and a chain of hashes over the record of a job."""

from lens.reporting.chain import ChainCheck, canonical, chain, verify_report
from lens.reporting.table import findings_csv

__all__ = ["ChainCheck", "canonical", "chain", "findings_csv", "verify_report"]
