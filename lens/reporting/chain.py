"""The hash chain of a report: every entry's hash covers the entry and the hash before it (SHA-256, FIPS 180-4)."""

import hashlib
from collections.abc import Sequence
from typing import Any

from lens.canonical import canonical
from lens.records.base import Record

START = "0" * 64


class ChainCheck(Record):
    """``broken_at`` is the index of the first entry that does not fit, None when all do."""

    holds: bool
    broken_at: int | None
    text: str


def _link(before: str, content: object) -> str:
    return hashlib.sha256(before.encode() + canonical(content)).hexdigest()


def chain(entries: Sequence[dict[str, Any]], before: str = START) -> list[dict[str, Any]]:
    """The same entries, each with its ``hash``; ``before`` is the hash of the entry that they follow."""
    linked = []
    for entry in entries:
        content = {key: value for key, value in entry.items() if key != "hash"}
        before = _link(before, content)
        linked.append({**content, "hash": before})
    return linked


def check_chain(entries: Sequence[dict[str, Any]]) -> ChainCheck:
    """Whether every entry follows from the one before it."""
    before = START
    for index, entry in enumerate(entries):
        content = {key: value for key, value in entry.items() if key != "hash"}
        try:
            before = _link(before, content)
        except (ValueError, TypeError):
            before = ""
        if entry.get("hash") != before:
            return ChainCheck(
                holds=False,
                broken_at=index,
                text=f"The chain breaks at entry {index + 1} of {len(entries)}: it, or one before it, was changed after it was written.",
            )
    return ChainCheck(holds=True, broken_at=None, text=f"The chain of {len(entries)} entries holds.")
