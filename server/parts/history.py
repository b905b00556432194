"""How an entry of the registers came to say what it says: its kept versions, told by what changed."""

import datetime as dt
from itertools import zip_longest
from typing import Any, Literal, NamedTuple

from lens.matching import VALUE_SOURCES
from server.profiles.models import KeptVersion

Kind = Literal["panel", "device", "supplier", "code"]
MOST_VERSIONS = 50
PARTS, SOURCES = "spec", "sources"


class Change(NamedTuple):
    field: str
    before: str
    after: str


class Past(NamedTuple):
    version: int
    by: str
    at: dt.datetime
    changes: tuple[Change, ...]


def history_of(kind: Kind, row_id: int) -> list[Past]:
    """The newest versions first, each with what it changed of the one before; the first tells all that it began with."""
    kept = list(
        KeptVersion.objects.filter(what=f"{kind}:{row_id}")
        .select_related("made_by")
        .order_by("-version")[: MOST_VERSIONS + 1]
    )
    told = []
    for newer, older in zip_longest(kept, kept[1:]):
        before = older.content if older is not None else {}
        told.append(Past(newer.version, newer.made_by.username, newer.made_at, tuple(_changes(before, newer.content))))
    return told[:MOST_VERSIONS]


def _changes(before: dict[str, Any], after: dict[str, Any]) -> list[Change]:
    old, new = _flat(before), _flat(after)
    names = dict.fromkeys([*new, *old])
    return [
        Change(name, words(old.get(name)), words(new.get(name)) + _from(after, name))
        for name in names
        if old.get(name) != new.get(name)
    ]


def _flat(content: dict[str, Any]) -> dict[str, Any]:
    """Fields and those of the specification side by side; sources are told beside their values."""
    plain = {name: value for name, value in content.items() if name not in (PARTS, SOURCES) and value not in ("", None)}
    parts = {
        name: value
        for name, value in content.get(PARTS, {}).items()
        if value not in (None, []) and name != "part_number"
    }
    return plain | parts


def _from(content: dict[str, Any], name: str) -> str:
    source = content.get(SOURCES, {}).get(name)
    return f" ({VALUE_SOURCES[source['source']].title})" if source else ""


def words(value: Any) -> str:
    """A stored value as it is told."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return (" x " if value and isinstance(value[0], float | int) else ", ").join(words(part) for part in value)
    return f"{value:g}" if isinstance(value, float) else str(value)
