"""A report closed and signed, and checked later: every fact in it, every entry of its record, and who signed it.

A report is ``{"format", facts..., "head", "entries", "signature"}``. The last entry holds all facts once more, so that the chain covers them;
``head`` says how many entries there are and the last one's hash, so that none can be cut off; the signature covers all of it, so that nobody
without the shop's key can compute a changed one anew.
"""

from collections.abc import Collection, Iterator, Sequence
from typing import Any, Literal

from lens.errors import BadInput
from lens.records.base import Record
from lens.reporting.chain import START, chain, check_chain
from lens.reporting.signing import fingerprint, signature_holds, signed

FORMAT, UNSIGNED_FORMAT = "clear-lens-report-2", "clear-lens-report-1"
AROUND = ("format", "head", "entries", "signature")  # what is not a fact
NO_REPORT = "This is no report with a hash chain: a JSON report that was saved from Hand over is expected."


class ReportCheck(Record):
    """``holds``: every figure and entry is as it was signed by a known key; ``unknown``: it is whole, but unsigned or signed by somebody else;
    ``broken``: something was changed, at ``place``."""

    result: Literal["holds", "unknown", "broken"]
    place: str | None
    signer: str | None
    text: str


def closed(facts: dict[str, Any], entries: Sequence[dict[str, Any]], at: str, private: str) -> dict[str, Any]:
    """The report of some facts and a record's chained entries, closed at a time and signed.

    facts : JSON; none may be named like the parts around them
    entries : with their hashes, first to last
    private : the shop's key
    """
    last = {"at": at, "who": "report", "kind": "report", "text": "Results as they stood.", "data": facts}
    closing = chain([last], entries[-1]["hash"] if entries else START)
    whole = [*entries, *closing]
    return signed(
        {
            "format": FORMAT,
            **facts,
            "head": {"entries": len(whole), "closing_hash": whole[-1]["hash"]},
            "entries": whole,
        },
        private,
    )


def verify_report(report: object, known: Collection[str] = ()) -> ReportCheck:
    """Check a report against itself and against known public keys; raises BadInput when it is no report of ours."""
    entries = report.get("entries") if isinstance(report, dict) else None
    if (
        not isinstance(report, dict)
        or not isinstance(entries, list)
        or not entries
        or not all(isinstance(e, dict) and "hash" in e for e in entries)
    ):
        raise BadInput(NO_REPORT, "no_report")
    chained = check_chain(entries)
    if not chained.holds:
        return ReportCheck(result="broken", place=f"entries.{chained.broken_at}", signer=None, text=chained.text)
    if report.get("format") in (UNSIGNED_FORMAT, None) and not {"head", "signature"} & set(report):
        return _unsigned(report, entries)
    place = _changed_place(report, entries)
    if place is not None:
        return ReportCheck(
            result="broken",
            place=place,
            signer=None,
            text=f"'{place}' is not what was signed: it was changed, added or taken away.",
        )
    if not signature_holds(report):
        return ReportCheck(
            result="broken",
            place="signature",
            signer=None,
            text="The signature does not fit: something was changed and its hashes computed anew, or the signature itself was changed.",
        )
    key = str(report["signature"]["key"])
    signer = fingerprint(key)
    if key not in known:
        return ReportCheck(
            result="unknown",
            place=None,
            signer=signer,
            text=f"Whole, with {len(entries)} entries, but signed by a key that is not known here: {signer}. Compare it with the shop that made it.",
        )
    return ReportCheck(
        result="holds",
        place=None,
        signer=signer,
        text=f"Every fact and all {len(entries)} entries hold, signed by {signer}.",
    )


def _unsigned(report: dict[str, Any], entries: Sequence[dict[str, Any]]) -> ReportCheck:
    """An earlier report: its last entry covered the facts, and nobody signed it."""
    data = entries[-1].get("data")
    facts = {key: value for key, value in report.items() if key not in AROUND}
    place = next(
        _differences("", data if isinstance(data, dict) and entries[-1].get("kind") == "report" else {}, facts), None
    )
    if place is not None:
        return ReportCheck(
            result="broken", place=place, signer=None, text=f"'{place}' is not what the last entry of the record says."
        )
    return ReportCheck(
        result="unknown",
        place=None,
        signer=None,
        text=f"The chain of {len(entries)} entries holds, but this report is not signed, as those of earlier versions: anybody could have made it.",
    )


def _changed_place(report: dict[str, Any], entries: Sequence[dict[str, Any]]) -> str | None:
    """The first place where the report says something else than its own closing entry and head."""
    if report.get("format") != FORMAT:
        return "format"
    last = entries[-1]
    head = {"entries": len(entries), "closing_hash": last["hash"]}
    told = report.get("head")
    for path in _differences("head", head, told if isinstance(told, dict) else {}):
        return (
            "entries"
            if path == "head.entries" and isinstance(told, dict) and told.get("closing_hash") != head["closing_hash"]
            else path
        )
    if last.get("kind") != "report" or not isinstance(last.get("data"), dict):
        return f"entries.{len(entries) - 1}"
    facts = {key: value for key, value in report.items() if key not in AROUND}
    return next(_differences("", last["data"], facts), None)


def _differences(path: str, was: object, now: object) -> Iterator[str]:
    """Paths (dots between keys and places) at which two JSON values differ."""
    if isinstance(was, dict) and isinstance(now, dict):
        for key in [*was, *(key for key in now if key not in was)]:
            here = f"{path}.{key}" if path else str(key)
            if (key in was) != (key in now):
                yield here
            else:
                yield from _differences(here, was[key], now[key])
    elif isinstance(was, list) and isinstance(now, list):
        if len(was) != len(now):
            yield path
        for n, (a, b) in enumerate(zip(was, now, strict=False)):
            yield from _differences(f"{path}.{n}", a, b)
    elif type(was) is not type(now) or was != now:
        yield path
