"""The sets that patterns are shot in: those that ship, and a shop's own, as YAML."""

from functools import cache
from pathlib import Path

from pydantic import Field, field_validator

from lens.errors import BadInput
from lens.patterns.catalogue import Pattern, get_pattern
from lens.records.base import Record
from lens.tables import not_known, parse, shipped, validated

DATA = Path(__file__).with_name("sets.yaml")
MAX_PATTERNS, MAX_YAML_CHARACTERS = 40, 10_000


class PatternSet(Record):
    """Patterns by name, in the order in which they are shot."""

    title: str = Field(min_length=1, max_length=40)
    about: str = Field(default="", max_length=300)
    patterns: tuple[str, ...] = Field(min_length=1, max_length=MAX_PATTERNS)

    @field_validator("patterns")
    @classmethod
    def _known_and_once(cls, names: tuple[str, ...]) -> tuple[str, ...]:
        for name in names:
            try:
                get_pattern(name)
            except BadInput as unknown:
                raise ValueError(unknown.message) from None
        twice = {name for name in names if names.count(name) > 1}
        if twice:
            raise ValueError(f"{', '.join(sorted(twice))} is listed twice")
        return names


def read_set(text: str) -> PatternSet:
    """A set from YAML; raises BadInput that says what is wrong."""
    content = parse(text, "The pattern set", most_characters=MAX_YAML_CHARACTERS)
    if not isinstance(content, dict):
        raise BadInput("The pattern set needs 'title: ...' and 'patterns: [white, black, ...]'.", "pattern_set")
    return validated(PatternSet, content, "Pattern set", "pattern_set")


class _Sets(Record):
    sets: dict[str, PatternSet]


@cache
def built_in_sets() -> dict[str, PatternSet]:
    """The sets that ship with the core."""
    return shipped(_Sets, DATA).sets


def get_set(name: str) -> PatternSet:
    """The built-in set of that name; raises BadInput with the known ones."""
    if name not in built_in_sets():
        raise not_known("pattern set", name, built_in_sets(), "unknown_set")
    return built_in_sets()[name]


def patterns_of(chosen: PatternSet) -> tuple[Pattern, ...]:
    """The patterns themselves."""
    return tuple(get_pattern(name) for name in chosen.patterns)
