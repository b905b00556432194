"""From a photo of a panel's label to the part numbers that it may show; a person always sees the candidates."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.label.codes import Code, read_codes
from lens.label.lines import TextLine, available, read_lines
from lens.label.numbers import Candidate, Ranked, Register, by_shape, rank
from lens.photo_file import decode
from lens.records import Problem
from lens.records.base import Record

LARGEST_SIDE_PX = 4200  # a larger photo is reduced: letters are large enough in it
GAP_LINES = 4.0  # line heights between what belongs to one label at most: its columns stand closer (common practice)
SPEAKS_FOR = 0.5  # the likeliest number of a part of the photo, as likely as all others together
APART_SHARE = 0.45  # codes that lie farther apart than this share of the photo are probably on two labels


class LabelReading(Record):
    """``accepted`` where one candidate stands alone. Lines come twice where a second look read them otherwise."""

    codes: tuple[Code, ...]
    lines: tuple[TextLine, ...]
    candidates: tuple[Candidate, ...]
    accepted: str | None
    problems: tuple[Problem, ...]


def read_label_photo(data: bytes, register: Register | None = None) -> LabelReading:
    """What the label in a photo file says. Raises BadInput for a file that is no photo."""
    pixels = decode(data).pixels
    return read_label(np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGR2GRAY), np.uint8), register)


def read_label(grey: NDArray[np.uint8], register: Register | None = None) -> LabelReading:
    """Codes, lines and candidate part numbers of a grey photo.

    Parameters
    ----------
    register : the numbers that are known; without it candidates are judged by their shape alone
    """
    factor = LARGEST_SIDE_PX / max(grey.shape)
    if factor < 1:
        grey = np.asarray(cv2.resize(grey, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA), np.uint8)
    codes, problems = read_codes(grey), []
    lines = read_lines(grey)
    ranked = _ranked(lines, codes, register)
    if not ranked.candidates:
        mirrored = np.ascontiguousarray(grey[:, ::-1])
        other = read_lines(mirrored)
        turned = _ranked(other, (), register)
        if turned.accepted or (turned.candidates and turned.candidates[0].p > 0.5):
            lines, ranked = other, Ranked(turned.candidates, None)
            problems.append(
                Problem(
                    code="mirrored", message="The photo is mirrored. Take it with the rear camera, not as a selfie."
                )
            )
    if not available():
        problems.append(
            Problem(
                code="no_text_reader",
                message="Printed text is not read here: the text recogniser is not installed. Codes are.",
            )
        )
    if not codes and not lines:
        problems.append(
            Problem(
                code="nothing_read",
                message="No code and no text was found. Take the label from closer, sharp and without glare.",
            )
        )
    elif not ranked.candidates:
        problems.append(
            Problem(
                code="no_number",
                message="No part number was found. Is it the panel's own label? Take it from closer, or type the number.",
            )
        )
    if _two_labels(ranked, codes, grey.shape) or (ranked.accepted and _two_numbers(lines, register)):
        problems.append(Problem(code="two_labels", message="There seem to be two labels. Photograph one alone."))
        ranked = Ranked(ranked.candidates, None)
    back = min(factor, 1.0)
    return LabelReading(
        codes=tuple(c.model_copy(update={"corners": tuple((x / back, y / back) for x, y in c.corners)}) for c in codes),
        lines=tuple(_scaled(line, back) for line in lines),
        candidates=ranked.candidates,
        accepted=ranked.accepted,
        problems=tuple(problems),
    )


def _ranked(lines: tuple[TextLine, ...], codes: tuple[Code, ...], register: Register | None) -> Ranked:
    texts, held = [line.text for line in lines], [code.text for code in codes]
    return rank(texts, held, register) if register is not None else by_shape(texts, held)


def _two_labels(ranked: Ranked, codes: tuple[Code, ...], shape: tuple[int, ...]) -> bool:
    """Whether two numbers stand equally sure, each in a code of its own that lies apart."""
    sure = [c for c in ranked.candidates if c.reason.startswith("A code")]
    if len(sure) < 2 or len(codes) < 2:
        return False
    middles = np.array([np.mean(code.corners, axis=0) for code in codes])
    return bool(np.ptp(middles, axis=0).max() > APART_SHARE * max(shape) * 0.5)


def _two_numbers(lines: tuple[TextLine, ...], register: Register | None) -> bool:
    """Whether lines that lie apart speak, each by themselves, for another number."""
    group = _groups([line.box for line in lines])
    parts = (tuple(line for line, g in zip(lines, group, strict=True) if g == one) for one in set(group))
    told = [_ranked(part, (), register).candidates for part in parts]
    return len({ranked[0].part_number for ranked in told if ranked and ranked[0].p >= SPEAKS_FOR}) > 1


def _groups(boxes: list[tuple[float, float, float, float]]) -> list[int]:
    """A number for each (x, y, width, height), alike for those that hang together by gaps of at most some line heights."""
    group = list(range(len(boxes)))
    if not boxes:
        return group
    x, y, w, h = np.array(boxes).T
    high = float(np.median(np.minimum(w, h)))  # of a line, whichever way it runs
    across = np.maximum(x[:, None] - (x + w)[None], x[None] - (x + w)[:, None])
    down = np.maximum(y[:, None] - (y + h)[None], y[None] - (y + h)[:, None])
    near = np.maximum(across, down) < GAP_LINES * high
    for n in range(len(boxes)):
        for m in np.flatnonzero(near[n, :n]):
            old, new = group[n], group[int(m)]
            group = [new if g == old else g for g in group]
    return group


def _scaled(line: TextLine, back: float) -> TextLine:
    if back == 1.0:
        return line
    x, y, w, h = (value / back for value in line.box)
    return line.model_copy(update={"box": (x, y, w, h)})
