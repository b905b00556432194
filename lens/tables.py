"""The one way to load checked data: YAML tables that ship with the core, and a shop's own through the same door.

A table is read strictly (no aliases, no doubled keys, no huge files), validated in full, and every fault is told at once, by place, with the
name that was probably meant.
"""

import difflib
from collections.abc import Hashable, Iterable, Mapping
from pathlib import Path
from typing import Any, TypeVar

import yaml
from pydantic import BaseModel, ValidationError

from lens.canonical import digest
from lens.errors import BadInput, ModelInconsistent

MOST_CHARACTERS = 200_000  # a shop's own file; the largest shipped table has a third of it
MOST_FAULTS = 8  # told of a file; the rest is counted
M = TypeVar("M", bound=BaseModel)
EXTRA, LITERAL = "extra_forbidden", "literal_error"


def near(name: str, known: Iterable[str]) -> str:
    """A question after the name that was probably meant, empty when none is near."""
    found = difflib.get_close_matches(name, list(known), n=1)
    return f" Did you mean '{found[0]}'?" if found else ""


def unknown(name: str, known: Iterable[str]) -> str:
    """Why a name does not do."""
    return f"'{name}' is unknown.{near(name, known)}"


def not_known(what: str, name: str, known: Iterable[str], code: str) -> BadInput:
    """The error for a name that somebody asked for: what there is, and what was probably meant."""
    names = list(known)
    return BadInput(f"There is no {what} '{name}'.{near(name, names)} Known: {', '.join(names)}.", code)


class _Strict(yaml.SafeLoader):
    """YAML without aliases, which can blow a small file up to any size, and without keys that silently replace others."""

    def compose_node(self, parent: Any, index: Any) -> Any:
        if self.check_event(yaml.events.AliasEvent):
            mark = self.peek_event().start_mark  # type: ignore[no-untyped-call]
            raise yaml.YAMLError(f"line {mark.line + 1}: aliases (*) are not read")
        return super().compose_node(parent, index)

    def construct_mapping(self, node: Any, deep: bool = False) -> dict[Hashable, Any]:
        seen: set[str] = set()
        for key, _ in node.value:
            if key.value in seen:
                raise yaml.YAMLError(f"line {key.start_mark.line + 1}: '{key.value}' is there twice")
            seen.add(str(key.value))
        return super().construct_mapping(node, deep)


class _Plain(_Strict):
    """All values as the text that was written: yes and no are words here."""


_Plain.yaml_implicit_resolvers = {
    letter: [one for one in resolvers if one[0] != "tag:yaml.org,2002:bool"]
    for letter, resolvers in _Strict.yaml_implicit_resolvers.items()
}


def parse(text: str | bytes, what: str, plain_words: bool = False, most_characters: int = MOST_CHARACTERS) -> Any:
    """The content of a YAML (or JSON) text.

    Parameters
    ----------
    what : how a sentence calls the file, for example 'The pattern set'
    plain_words : yes, no, on, off stay words

    Raises
    ------
    BadInput
        with the line where there is one.
    """
    if len(text) > most_characters:
        raise BadInput(f"{what} has at most {most_characters} characters.", "table")
    try:
        if isinstance(text, bytes):
            text = text.decode("utf-8-sig")
        return yaml.load(text.removeprefix("\ufeff"), Loader=_Plain if plain_words else _Strict)  # noqa: S506 - both are safe loaders
    except UnicodeDecodeError:
        raise BadInput(f"{what} is no UTF-8 text. Save it as UTF-8.", "table") from None
    except (yaml.YAMLError, RecursionError, ValueError, TypeError) as error:
        raise BadInput(f"{what} is no YAML file{_place_of(error)}.", "table") from None


def _place_of(error: Exception) -> str:
    mark = getattr(error, "problem_mark", None)
    if mark is not None:
        return f": line {mark.line + 1}, {getattr(error, 'problem', '') or 'it cannot be read'}"
    return f": {error}" if isinstance(error, yaml.YAMLError) else ""


def faults_of(error: ValidationError, model: type[BaseModel]) -> dict[str, str]:
    """Every fault that validation found, by place, in plain words."""
    told: dict[str, str] = {}
    for one in error.errors():
        place = ".".join(str(part) for part in one["loc"]) or "the file"
        words = one["msg"].removeprefix("Value error, ").rstrip(".")
        if one["type"] == EXTRA:
            words = f"'{one['loc'][-1]}' is unknown.{near(str(one['loc'][-1]), _fields_at(model, one['loc']))}".rstrip(
                "."
            )
        elif one["type"] == LITERAL:
            words = f"'{one['input']}' is none of {one['ctx']['expected']}"
        told[place] = words
    return told


def _fields_at(model: type[BaseModel], place: tuple[int | str, ...]) -> list[str]:
    """The fields of the record that a place lies in, as far as plain nesting tells; else the outermost record's."""
    found: type[BaseModel] = model
    for part in place[:-1]:
        field = found.model_fields.get(str(part))
        inner = [
            a
            for a in _arguments(field.annotation if field else None)
            if isinstance(a, type) and issubclass(a, BaseModel)
        ]
        found = inner[0] if inner else found
    return list(found.model_fields)


def _arguments(annotation: Any) -> list[Any]:
    inside = [inner for argument in getattr(annotation, "__args__", ()) for inner in _arguments(argument)]
    return [annotation, *inside]


def validated(model: type[M], content: Any, what: str, code: str = "table") -> M:
    """A checked record of somebody's file; raises BadInput that names every fault (the first eight of many)."""
    try:
        return model.model_validate(content)
    except ValidationError as error:
        faults = [f"{place}: {words}" for place, words in faults_of(error, model).items()]
    more = f"; and {len(faults) - MOST_FAULTS} more" if len(faults) > MOST_FAULTS else ""
    raise BadInput(f"{what}, {'; '.join(faults[:MOST_FAULTS])}{more}.", code)


def shipped(model: type[M], file: Path, overrides: Mapping[str, Any] | None = None, plain_words: bool = False) -> M:
    """A table that ships with the core, with a shop's values laid over it where it has some; raises ModelInconsistent with all faults."""
    try:
        content = parse(file.read_text(encoding="utf-8"), file.name, plain_words)
        return model.model_validate(laid_over(content, overrides or {}))
    except BadInput as error:
        raise ModelInconsistent({file.name: error.message}) from None
    except ValidationError as error:
        raise ModelInconsistent(faults_of(error, model)) from None


def laid_over(content: Any, overrides: Mapping[str, Any]) -> Any:
    """Content with single values replaced, tables inside tables kept; what is given stays as it is."""
    if not isinstance(content, Mapping):
        return dict(overrides) if overrides else content
    out = dict(content)
    for name, value in overrides.items():
        out[name] = laid_over(out[name], value) if isinstance(value, Mapping) and name in out else value
    return out


def table_digest(record: BaseModel) -> str:
    """The version of a table: SHA-256 of what it sets, whatever the order of its keys or the defaults that come later."""
    return digest(record.model_dump(mode="json", exclude_defaults=True))
