"""Which part number a text means: held to a register by a model of how characters are confused, or to the shapes that part numbers have."""

import re
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import NamedTuple

from lens.records.base import Record

# Characters that print and recognisers confuse (common practice); each class is searched as one.
CLASSES = ("0OQDC", "1ILTJ", "5S", "8B", "2Z", "6G", "UV", "4A", "VY", "WN", "MN")
FOLD = str.maketrans(
    {c: group[0] for group in CLASSES[:6] for c in group if group[0] != c} | {"C": "C", "T": "T", "J": "J"}
)
CONFUSED, OTHER = 0.25, 1.0
ACCEPTED_DISTANCE, ACCEPTED_LEAD = 1.6, 0.5
FARTHEST, SEARCHED = 3, 12
SHORTEST, LONGEST, LONGEST_SHAPED = 5, 24, 20
CODED_DISTANCE = 1.0  # so far what was read may lie from what a code holds
SPLIT_JOINED = 3  # words of a line that may be one number torn apart
LABELLED = re.compile(r"\b(?:P\s*/?\s*N|PART\s*(?:NO|NUMBER)?|MODEL(?:\s*(?:NO|NAME))?|TYPE)\b\s*[.:#]*\s*", re.I)
NOT_A_NUMBER = re.compile(r"^(?:SN|S/N|DATE|REV|VER|LOT|WARNING|MADE|DC|QTY)\b", re.I)
UNCERTAIN_SHARE = 1 / 16  # p falls to this with each unit of distance


class Candidate(Record):
    """``p``: that this is the number, the chance of none of them included; ``reason`` says where it was read."""

    part_number: str
    p: float
    reason: str


class Ranked(NamedTuple):
    """``accepted``: the first one where nothing else comes near it."""

    candidates: tuple[Candidate, ...]
    accepted: str | None


def plain(text: str) -> str:
    """Letters and digits in capitals."""
    return "".join(c for c in text.upper() if c.isalnum() and c.isascii())


@lru_cache(maxsize=2)
def _pairs() -> frozenset[tuple[str, str]]:
    return frozenset((a, b) for group in CLASSES for a in group for b in group if a != b)


def distance(read: str, number: str) -> float:
    """The least cost of turning what was read into the number: 0.25 for characters that look alike, 1 for any other change (Levenshtein)."""
    pairs = _pairs()
    row = [float(n) for n in range(len(number) + 1)]
    for i, a in enumerate(read, 1):
        before, row[0] = row[0], float(i)
        for j, b in enumerate(number, 1):
            change = 0.0 if a == b else CONFUSED if (a, b) in pairs else OTHER
            before, row[j] = row[j], min(row[j] + OTHER, row[j - 1] + OTHER, before + change)
    return row[-1]


class Register:
    """The numbers that are known, prepared for the search."""

    def __init__(self, numbers: Iterable[str]) -> None:
        self.by_plain = {plain(number): number for number in numbers if SHORTEST <= len(plain(number)) <= 40}
        self.folded: dict[str, list[str]] = {}
        for number in self.by_plain:
            self.folded.setdefault(number.translate(FOLD), []).append(number)
        self.keys = list(self.folded)

    def nearest(self, read: str) -> list[tuple[str, float]]:
        """Known numbers near a text that was read, with their distances."""
        from rapidfuzz import process
        from rapidfuzz.distance import Levenshtein

        found = process.extract(
            read.translate(FOLD), self.keys, scorer=Levenshtein.distance, limit=SEARCHED, score_cutoff=FARTHEST
        )
        told = [(number, distance(read, number)) for key, _, _ in found for number in self.folded[key]]
        return sorted(told, key=lambda one: one[1])

    def inside(self, text: str) -> list[str]:
        """Known numbers that a code's text holds whole, the longest first; one that is only part of a longer one is left out."""
        held = plain(text)
        parts = {held[a:b] for a in range(len(held)) for b in range(a + SHORTEST, min(len(held), a + 40) + 1)}
        known = sorted((n for n in parts if n in self.by_plain), key=len, reverse=True)
        return [n for i, n in enumerate(known) if not any(n in longer for longer in known[:i])]


def tokens(lines: Sequence[str]) -> dict[str, bool]:
    """What in these lines may be a part number, in capitals without dashes; whether the label names it as one."""
    found: dict[str, bool] = {}
    for line in lines:
        named = LABELLED.search(line)
        if NOT_A_NUMBER.search(line.strip()) and not named:
            continue
        rest = line[named.end() :] if named else line
        words = rest.split()
        for start in range(len(words)):
            for count in range(1, SPLIT_JOINED + 1):
                if start + count > len(words):
                    break
                text = plain("".join(words[start : start + count]))
                if SHORTEST - 1 <= len(text) <= LONGEST:
                    found[text] = found.get(text, False) or (named is not None and start == 0)
    return found


def rank(lines: Sequence[str], codes: Sequence[str], register: Register) -> Ranked:
    """Candidates of a label by a register: numbers that a code holds first, then by the distance to what was read."""
    in_codes = [number for text in codes for number in register.inside(text)]
    if in_codes:
        different = list(dict.fromkeys(in_codes))
        share = 0.99 / len(different)
        told = tuple(
            Candidate(part_number=register.by_plain[n], p=round(share, 3), reason="A code on the label holds it.")
            for n in different
        )
        return Ranked(told, told[0].part_number if len(different) == 1 else None)
    best: dict[str, tuple[float, str]] = {}
    for token in tokens(lines):
        for number, cost in register.nearest(token):
            if cost < best.get(number, (FARTHEST, ""))[0]:
                best[number] = (cost, token)
    ordered = sorted(best.items(), key=lambda one: one[1][0])[:5]
    weights = [UNCERTAIN_SHARE**cost for _, (cost, _) in ordered]
    nothing = UNCERTAIN_SHARE ** (ACCEPTED_DISTANCE + 0.5)
    total = sum(weights) + nothing
    told = tuple(
        Candidate(
            part_number=register.by_plain[number],
            p=round(min(0.98, weight / total), 3),
            reason="Printed on the label." if cost == 0 else f"Read as '{token}'.",
        )
        for (number, (cost, token)), weight in zip(ordered, weights, strict=True)
    )
    if not ordered or ordered[0][1][0] > ACCEPTED_DISTANCE:
        return Ranked(told, None)
    lead = ordered[1][1][0] - ordered[0][1][0] if len(ordered) > 1 else FARTHEST
    return Ranked(told, told[0].part_number if lead >= ACCEPTED_LEAD else None)


def by_shape(lines: Sequence[str], codes: Sequence[str]) -> Ranked:
    """Candidates where nothing is known yet: texts with letters and digits mixed, those that the label names first; accepted where a code says
    the same as the print."""
    told: dict[str, tuple[float, str]] = {}
    printed, coded = _as_printed(lines), _in_codes(codes)
    for token, named in tokens(lines).items():
        if not _shaped(token):
            continue
        # a code has no misread characters: its spelling holds
        same = next((text for number, text in coded.items() if distance(token, number) <= CODED_DISTANCE), None)
        if same is not None:
            told[same] = (0.95, "Printed, and in a code.")
        else:
            shown = printed.get(token, token)
            reason = "The label names it." if named else "It has the shape of a part number."
            told[shown] = (0.7 if named else 0.3, reason)
    sure = [text for text, (p, _) in told.items() if p == 0.95]
    for text in coded.values():
        # neither the number that is printed alone with its serial, nor the part of it before a dash
        if not any(text.startswith(number) or number.startswith(text) for number in sure):
            told.setdefault(text, (0.5, "In a code on the label."))
    ordered = sorted(told.items(), key=lambda one: -one[1][0])[:5]
    total = max(1.0, sum(p for _, (p, _) in ordered))
    candidates = tuple(Candidate(part_number=n, p=round(p / total, 3), reason=reason) for n, (p, reason) in ordered)
    coded_ones = [n for n, (p, _) in ordered if p == 0.95]
    return Ranked(candidates, coded_ones[0] if len(coded_ones) == 1 else None)


def _shaped(text: str) -> bool:
    """Letters and digits mixed, in a usual length."""
    letters, digits = sum(c.isalpha() for c in text), sum(c.isdigit() for c in text)
    return SHORTEST <= len(text) <= LONGEST_SHAPED and digits >= 2 and letters > 0


def _in_codes(codes: Sequence[str]) -> dict[str, str]:
    """Parts of the codes' texts that may be part numbers: what stands before a separator, without the serial after it."""
    told: dict[str, str] = {}
    for text in codes:
        pieces = re.split(r"([-,;|/ ])", text.strip())
        for end in range(1, len(pieces) + 1, 2):
            part = "".join(pieces[:end])
            if _shaped(plain(part)):
                told.setdefault(plain(part), part)
    return told


def _as_printed(lines: Sequence[str]) -> dict[str, str]:
    """Tokens with the dashes and dots that stood in them."""
    told: dict[str, str] = {}
    for line in lines:
        named = LABELLED.search(line)
        words = (line[named.end() :] if named else line).split()
        for start in range(len(words)):
            for count in range(1, SPLIT_JOINED + 1):
                text = " ".join(words[start : start + count]).strip(".,:;|'\"")
                told.setdefault(plain(text), text)
    return told
