"""Names that are easily taken for one another: near by spelling, or the same with another size or generation."""

import re
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from lens.matching.specification import normal_number

NEAR_EDITS, SHORT_EDITS, SHORT = (
    2,
    1,
    10,
)  # changes between names that are read as the same at a glance; of names below so many characters
SHORTEST = 4  # shorter names are all near one another
SIZE_APART_IN = 0.2  # 11.6 against 13.3; 15.6 and 15.55 are one size


class Named(NamedTuple):
    """A device as far as it can be mistaken. ``id`` is the caller's."""

    id: int
    names: Sequence[str]
    generation: str = ""
    diagonal_in: float | None = None


class LookAlike(NamedTuple):
    id: int
    why: str


def look_alikes(one: Named, others: Iterable[Named]) -> list[LookAlike]:
    """Which of the others are easily taken for this one, each with what tells them apart; the nearest names first."""
    from rapidfuzz.distance import Levenshtein

    told: list[tuple[int, LookAlike]] = []
    for other in others:
        if other.id == one.id:
            continue
        best: tuple[int, str, str] | None = None
        for a in one.names:
            for b in other.names:
                plain_a, plain_b = normal_number(a), normal_number(b)
                if min(len(plain_a), len(plain_b)) < SHORTEST:
                    continue
                most = SHORT_EDITS if min(len(plain_a), len(plain_b)) < SHORT else NEAR_EDITS
                edits = Levenshtein.distance(plain_a, plain_b, score_cutoff=most)
                if edits <= most and (best is None or edits < best[0]):
                    best = (edits, a, b)
        if best is not None:
            told.append((best[0], LookAlike(other.id, _apart(one, other, *best))))
    return [alike for _, alike in sorted(told, key=lambda pair: pair[0])]


def _apart(one: Named, other: Named, edits: int, a: str, b: str) -> str:
    """What tells two near names apart, in a sentence."""
    words = []
    if edits:
        digits_a, digits_b = re.findall(r"\d+", a), re.findall(r"\d+", b)
        pairs = [(x, y) for x, y in zip(digits_a, digits_b, strict=False) if x != y]
        words.append(f"'{pairs[0][0]}' against '{pairs[0][1]}'" if pairs else f"'{a}' against '{b}'")
    if one.generation != other.generation and (one.generation or other.generation):
        words.append(f"generation {one.generation or 'not known'} against {other.generation or 'not known'}")
    sizes = (one.diagonal_in, other.diagonal_in)
    if None not in sizes and abs((sizes[0] or 0) - (sizes[1] or 0)) > SIZE_APART_IN:
        words.append(f"{sizes[0]:g} against {sizes[1]:g} in")
    return (", ".join(words) or "the same name: look for the size or the generation on the label") + "."
