"""Reports that can be checked later: canonical JSON, a chain of hashes over the record of a job, the shop's signature."""

from lens.canonical import canonical, digest
from lens.reporting.chain import START, ChainCheck, chain, check_chain
from lens.reporting.coco import PlacedPhoto, coco
from lens.reporting.owner import OwnerFacts, OwnerPage, SeenFault, owner_page, owner_texts
from lens.reporting.package import packed, verify_file
from lens.reporting.pdf_signing import ATTACHED, new_pdf_key, read_pdf_key, sign_pdf, signer_of
from lens.reporting.report import ReportCheck, closed, verify_report
from lens.reporting.signing import fingerprint, new_key, public_of, read_public
from lens.reporting.table import findings_csv

__all__ = [
    "PlacedPhoto",
    "ATTACHED",
    "OwnerFacts",
    "OwnerPage",
    "SeenFault",
    "coco",
    "new_pdf_key",
    "owner_page",
    "owner_texts",
    "packed",
    "read_pdf_key",
    "sign_pdf",
    "signer_of",
    "verify_file",
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
