"""Where the values of a panel come from, and which of two that differ stands: what was measured over what a label says, over what was told."""

import datetime as dt
from collections.abc import Mapping
from typing import Any, Literal

from lens.matching.specification import PanelSpec
from lens.records.base import Record

Source = Literal["measured", "label", "edid", "typed", "supplier"]


class SourceKind(Record):
    """``strength``: of two values the one of the stronger source stands."""

    title: str
    strength: int


# A caliper settles a data sheet's slip; labels are the maker's own; an EDID is copied from board to board; a person may mistype; suppliers copy each
# other's lists (common practice). Of two of one strength the later stands.
VALUE_SOURCES: dict[Source, SourceKind] = {
    "measured": SourceKind(title="measured", strength=5),
    "label": SourceKind(title="from the label", strength=4),
    "edid": SourceKind(title="from the EDID", strength=3),
    "typed": SourceKind(title="typed", strength=2),
    "supplier": SourceKind(title="by the supplier", strength=1),
}
NUMBER = "part_number"  # names the panel, so no value to be weighed


class ValueSource(Record):
    """Where a value came from, and when."""

    source: Source
    on: dt.date


class Taken(Record):
    """A specification with what was new taken over. ``kept``: fields whose own value stood against a weaker one, with the value that was refused."""

    spec: PanelSpec
    sources: dict[str, ValueSource]
    kept: dict[str, Any]


def stronger(one: Source, other: Source) -> bool:
    """Whether a value of the one source stands against a later one of the other."""
    return VALUE_SOURCES[one].strength > VALUE_SOURCES[other].strength


def known(value: Any) -> bool:
    """Whether a value says anything; no further numbers are not known, like None."""
    return value is not None and value != ()


def take_over(
    spec: PanelSpec, sources: Mapping[str, ValueSource], told: PanelSpec, source: Source, on: dt.date
) -> Taken:
    """What is told of a panel by one source, joined with what is known of it.

    A value replaces one of a source that is no stronger; what ``told`` does not know stays. Raises nothing: both are checked specifications.
    """
    values, kept, now = spec.model_dump(), {}, dict(sources)
    for name in PanelSpec.model_fields:
        new, old = getattr(told, name), getattr(spec, name)
        if name == NUMBER or not known(new):
            continue
        before = now.get(name)
        if known(old) and old != new and before is not None and stronger(before.source, source):
            kept[name] = new
        elif old != new or before is None or stronger(source, before.source):
            values[name], now[name] = new, ValueSource(source=source, on=on)
    return Taken(spec=PanelSpec.model_validate(values), sources=now, kept=kept)


def set_by_hand(
    spec: PanelSpec, sources: Mapping[str, ValueSource], entered: PanelSpec, named: Mapping[str, Source], on: dt.date
) -> dict[str, ValueSource]:
    """The sources after somebody saved a form that shows every value: what is changed there stands, whatever it was.

    Parameters
    ----------
    named : of fields that something filled in, by what; all others that changed were typed
    """
    told: dict[str, ValueSource] = {}
    for name in PanelSpec.model_fields:
        new, old = getattr(entered, name), getattr(spec, name)
        if name == NUMBER or not known(new):
            continue
        if new == old and name in sources and named.get(name, sources[name].source) == sources[name].source:
            told[name] = sources[name]
        else:
            told[name] = ValueSource(source=named.get(name, "typed"), on=on)
    return told
