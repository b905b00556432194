"""How an entry of the registers, a profile or a house rule came to say what it says: its kept versions, told by what changed."""

import datetime as dt
from itertools import zip_longest
from typing import Any

from ninja import Schema

from lens.matching import VALUE_SOURCES
from server.profiles.models import KeptVersion

MOST_VERSIONS = 50
SOURCES, TOUCH = "sources", "touch"  # of a panel's values; of a profile, whose limits may be no limit
NOT_JUDGED = "not judged"
NOTHING: tuple[Any, ...] = ("", None, [])


class Change(Schema):
    field: str
    before: str
    after: str


class PastVersion(Schema):
    version: int
    by: str
    at: dt.datetime
    changes: list[Change]


def history_of(what: str) -> list[PastVersion]:
    """The newest versions of what is kept under a name first, each with what it changed of the one before; the first tells all that it began with."""
    kept = list(
        KeptVersion.objects.filter(what=what).select_related("made_by").order_by("-version")[: MOST_VERSIONS + 1]
    )
    told = []
    for newer, older in zip_longest(kept, kept[1:]):
        before = older.content if older is not None else {}
        changes = _changes(before, newer.content)
        told.append(PastVersion(version=newer.version, by=newer.made_by.username, at=newer.made_at, changes=changes))
    return told[:MOST_VERSIONS]


def _changes(before: dict[str, Any], after: dict[str, Any]) -> list[Change]:
    old, new = _flat(before), _flat(after)
    names = dict.fromkeys([*new, *old])
    return [
        Change(field=name, before=words(old.get(name)), after=words(new.get(name)) + _from(after, name))
        for name in names
        if old.get(name) != new.get(name)
    ]


def _flat(content: dict[str, Any]) -> dict[str, Any]:
    """Fields and those of what they hold side by side; sources are told beside their values."""
    held = [value for name, value in content.items() if isinstance(value, dict) and name != SOURCES]
    plain = {name: value for name, value in content.items() if not isinstance(value, dict) and value not in NOTHING}
    parts = {
        name: NOT_JUDGED if value is None and held_in is content.get(TOUCH) else value
        for held_in in held
        for name, value in held_in.items()
        if (value not in NOTHING or held_in is content.get(TOUCH)) and name != "part_number"
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
    if isinstance(value, dict):
        told = {name: words(part) for name, part in value.items()}
        return ", ".join(f"{name.replace('_', ' ')} {part}" for name, part in told.items() if part)
    if isinstance(value, list) and value and isinstance(value[0], dict):
        return "; ".join(words(part) for part in value)
    if isinstance(value, list):
        return (" x " if value and isinstance(value[0], float | int) else ", ").join(words(part) for part in value)
    return f"{value:g}" if isinstance(value, float) else str(value)
