"""A report as one ZIP: PDF, JSON, tables and photos, with a signed list of every file in it."""

import hashlib
import io
import json
import zipfile
from collections.abc import Collection, Mapping
from typing import Any

from lens.errors import BadInput
from lens.reporting.pdf_signing import read_signed_pdf
from lens.reporting.report import ReportCheck, verify_report
from lens.reporting.signing import fingerprint, signature_holds, signed

MANIFEST, REPORT = "manifest.json", "report.json"
FORMAT = "clear-lens-package-1"
MOST_BYTES = 4 * 1024**3  # unpacked; beyond it is no report of ours
MOST_FILES = 2000
STORED = (".jpg", ".jpeg", ".png", ".heic", ".pdf", ".zip")  # packed already
NO_PACKAGE = "This is no packed report of ours: a ZIP that was saved from Hand over is expected."
MADE = (1980, 1, 1, 0, 0, 0)  # the same content is the same file, whenever it was packed


def packed(files: Mapping[str, bytes], closing_hash: str, private: str) -> bytes:
    """The ZIP of some files, first the signed list of them. ``closing_hash`` is that of the report in it."""
    listed = {name: {"sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)} for name, data in files.items()}
    manifest = signed({"format": FORMAT, "closing_hash": closing_hash, "files": listed}, private)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in {MANIFEST: _json(manifest), **files}.items():
            how = zipfile.ZIP_STORED if name.lower().endswith(STORED) else zipfile.ZIP_DEFLATED
            archive.writestr(zipfile.ZipInfo(name, MADE), data, how, 6)
    return out.getvalue()


def _json(document: Mapping[str, Any]) -> bytes:
    return json.dumps(document, indent=1, ensure_ascii=False).encode()


def verify_file(data: bytes, known: Collection[str] = ()) -> ReportCheck:
    """Check a report as JSON, PDF or ZIP, by what is in it; nothing is fetched. Raises BadInput when it is no report of ours."""
    if data.startswith(b"PK"):
        return _verify_package(data, known)
    if data[:1024].find(b"%PDF-") >= 0:
        return _verify_pdf(data, known)
    return verify_report(_parsed(data, "report"), known)


def _parsed(data: bytes, what: str) -> Any:
    try:
        return json.loads(data)
    except (ValueError, RecursionError):
        raise BadInput(f"The {what} cannot be read as JSON, PDF or ZIP.", "no_report") from None


def _broken(place: str, text: str) -> ReportCheck:
    return ReportCheck(result="broken", place=place, signer=None, text=text)


def _verify_pdf(data: bytes, known: Collection[str]) -> ReportCheck:
    told = read_signed_pdf(data)
    if not told.whole:
        return _broken(
            "pdf", "The PDF is not what was signed: it was changed after the shop signed it, or signed anew."
        )
    report = _parsed(told.attached, "report in the PDF")
    inside = verify_report(report, known)
    if inside.result == "broken":
        return inside.model_copy(update={"text": f"The report inside the PDF: {inside.text}"})
    if report.get("pdf_signer") != told.signer:
        return _broken("pdf", f"The PDF was signed by another key than its report names: {told.signer}.")
    return inside.model_copy(update={"text": f"The PDF is whole. {inside.text}"})


def _verify_package(data: bytes, known: Collection[str]) -> ReportCheck:
    files = _unpacked(data)
    manifest = _parsed(files.pop(MANIFEST), "list of files")
    listed = manifest.get("files") if isinstance(manifest, dict) else None
    if not isinstance(listed, dict) or manifest.get("format") != FORMAT:
        raise BadInput(NO_PACKAGE, "no_report")
    for name, told in listed.items():
        if name not in files:
            return _broken(name, f"'{name}' is on the list and not in the file.")
        if not isinstance(told, dict) or told.get("sha256") != hashlib.sha256(files[name]).hexdigest():
            return _broken(name, f"'{name}' is not what was packed: it was changed.")
    for name in files:
        if name not in listed:
            return _broken(name, f"'{name}' was added: it is not on the list.")
    if not signature_holds(manifest):
        return _broken(MANIFEST, "The list of files was changed, or its signature was.")
    report = _parsed(files.get(REPORT, b""), "report in the file")
    inside = verify_report(report, known)
    if inside.result == "broken":
        return inside
    if (
        manifest["closing_hash"] != report["head"]["closing_hash"]
        or manifest["signature"]["key"] != report["signature"]["key"]
    ):
        return _broken(MANIFEST, "The list of files belongs to another report.")
    for photo in report.get("photos", ()):
        if photo["file"] in files and hashlib.sha256(files[photo["file"]]).hexdigest() != photo["sha256"]:
            return _broken(photo["file"], f"The photo '{photo['file']}' is not the one that was measured.")
    for name in (one for one in files if one.endswith(".pdf")):
        pdf = _verify_pdf(files[name], known)
        if pdf.result == "broken":
            return pdf
        if read_signed_pdf(files[name]).attached != files[REPORT]:
            return _broken(name, "The PDF is of another report.")
    return inside.model_copy(
        update={
            "text": f"All {len(listed)} files hold, signed by {fingerprint(str(manifest['signature']['key']))}. {inside.text}"
        }
    )


def _unpacked(data: bytes) -> dict[str, bytes]:
    """The files by name; raises BadInput for what is no ZIP of ours, is damaged, or too large."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
            names = [one.filename for one in entries]
            if len(entries) > MOST_FILES or sum(one.file_size for one in entries) > MOST_BYTES:
                raise BadInput("The ZIP holds far more than a report does.", "no_report")
            if MANIFEST not in names or len(set(names)) != len(names):
                raise BadInput(NO_PACKAGE, "no_report")
            if not _nothing_between(data, entries):
                raise BadInput("The ZIP is damaged, or something was put into it beside its files.", "no_report")
            return {one.filename: archive.read(one) for one in entries}
    except BadInput:
        raise
    except Exception as error:  # a damaged stream makes the library stumble in many ways; none of them is a report
        raise BadInput(
            f"The ZIP is damaged ({type(error).__name__}). Save it again from Hand over.", "no_report"
        ) from None


def _nothing_between(data: bytes, entries: Collection[zipfile.ZipInfo]) -> bool:
    """Whether the files lie one after the other from the first byte on, as we pack them."""
    return min((one.header_offset for one in entries), default=1) == 0 and all(
        data[one.header_offset : one.header_offset + 4] == b"PK\x03\x04" and not one.comment and not one.extra
        for one in entries
    )
