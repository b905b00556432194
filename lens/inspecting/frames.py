"""A frame that is a copy of the signal: from a capture device on the external output, or a screenshot file of the device itself.

Such a copy is compared with the pattern pixel by pixel. Converters stretch levels, thin out colour and scale the picture, so a straight
line of levels is fitted first and what markers and their edges show is left out.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.faults import listed
from lens.panel import Panel
from lens.patterns import get_pattern, marker_mask, render
from lens.photo import decode_frame, read_frame_markers
from lens.records import Finding, PictureFault

FRAME = "frame"  # stands where a photo's pattern is named: the file is a copy of the signal
SAME_SHAPE = 0.02
LEAST_CODES, SIGMAS = 28.0, 8.0  # by which a pixel must differ: compression leaves about half of the first
LINE_SHARE, WHOLE_SHARE, MOST_LINES = 0.6, 0.25, 24
SWAPPED_CODES, EVERYWHERE = 90.0, 0.8
MOST_OFFSET = 22.0  # levels of 16 to 235 for 0 to 255
NORMAL_QUARTILE, MOST_NOISE = 0.319, 8.0  # of |N(0, 1)|; in codes
FEW_PX, SPREAD_SHARE = 6, 0.02
CHANNELS = ("red", "green", "blue")


class FrameRead(NamedTuple):
    """``pattern`` that the frame shows, its run code (None when too few markers were read), and what differs from the pattern."""

    pattern: str
    run: int | None
    findings: tuple[Finding, ...]


def read_frame(data: bytes, panel: Panel, expected_run: int | None = None) -> FrameRead:
    """Compare a frame with the pattern that its markers name.

    Raises
    ------
    BadInput
        when the file is no picture, is not the whole screen, or shows no pattern or another run's.
    """
    pixels = decode_frame(data)
    height, width = pixels.shape[:2]
    if abs(width / height / (panel.width / panel.height) - 1) > SAME_SHAPE:
        raise BadInput(
            f"The frame has {width} x {height} pixels, which is not the shape of {panel.width} x {panel.height}. Capture the whole screen.",
            "frame_shape",
        )
    reading = read_frame_markers(panel, pixels)
    if reading.pattern is None:
        raise BadInput("The frame shows no test pattern. Show one full screen and capture it again.", "no_markers")
    if expected_run is not None and not reading.may_be_of(expected_run):
        raise BadInput(
            "The frame shows another job's, screen's or stage's pattern. Open this inspection's patterns and capture again.",
            "wrong_run",
        )
    pattern = get_pattern(reading.pattern)
    shrunk = (width, height) != (panel.width, panel.height)
    if shrunk:
        how = cv2.INTER_AREA if width > panel.width else cv2.INTER_LINEAR
        pixels = np.asarray(cv2.resize(pixels, (panel.width, panel.height), interpolation=how), np.uint8)
    seen = pixels[..., ::-1].astype(np.float32)
    sent = render(panel, pattern, reading.run or 0).astype(np.float32)
    usable = ~marker_mask(panel, pattern, 6 if shrunk else 3)
    findings = _swapped(panel, pattern.id, seen, sent, usable) or _differing(panel, pattern.id, seen, sent, usable)
    return FrameRead(pattern.id, reading.run, tuple(findings))


def _whole(panel: Panel, fault: PictureFault, name: str, reason: str) -> Finding:
    return Finding(
        kind="artifact",
        x=(panel.width - 1) / 2,
        y=(panel.height - 1) / 2,
        w=panel.width,
        h=panel.height,
        contrast=0.0,
        confidence=0.95,
        patterns=(name,),
        reasons=(reason,),
        picture=fault,
    )


def _swapped(
    panel: Panel, name: str, seen: NDArray[np.float32], sent: NDArray[np.float32], usable: NDArray[np.bool_]
) -> list[Finding]:
    """Whole colours that are missing or exchanged."""
    shares = (np.abs(seen - sent)[usable] > SWAPPED_CODES).mean(axis=0)
    wrong = [CHANNELS[c] for c in range(3) if shares[c] > EVERYWHERE]
    reason = f"{listed(wrong).capitalize()} of the frame are not what was sent on {name}: colours are wrong before the output."
    return [_whole(panel, "colours", name, reason)] if wrong else []


def _differing(
    panel: Panel, name: str, seen: NDArray[np.float32], sent: NDArray[np.float32], usable: NDArray[np.bool_]
) -> list[Finding]:
    # no converter shifts levels further; what does is a picture that is partly another one
    offset = np.median((seen - sent)[usable], axis=0)
    rest = np.abs(seen - sent - np.where(np.abs(offset) <= MOST_OFFSET, offset, 0.0)).max(axis=2)
    sigma = min(float(np.quantile(rest[usable], 0.25)) / NORMAL_QUARTILE, MOST_NOISE)
    differs = (rest > max(LEAST_CODES, SIGMAS * sigma)) & usable
    if differs.sum() > WHOLE_SHARE * usable.sum() or _displaced(differs):
        return [
            _whole(
                panel,
                "other",
                name,
                f"The frame is not the picture that was sent on {name}: it is displaced or broken before the output.",
            )
        ]
    told: list[Finding] = []
    for orientation, axis in (("column", 0), ("row", 1)):
        share = differs.sum(axis=axis) / np.maximum(usable.sum(axis=axis), 1)
        for first, last in _runs(share > LINE_SHARE)[:MOST_LINES]:
            width, middle = last - first + 1, (first + last) / 2
            across = orientation == "column"
            told.append(
                Finding.model_validate(
                    {
                        "kind": "line" if width <= 3 else "band",
                        "orientation": orientation,
                        "x": middle if across else (panel.width - 1) / 2,
                        "y": (panel.height - 1) / 2 if across else middle,
                        "w": width if across else panel.width,
                        "h": panel.height if across else width,
                        "contrast": -1.0,
                        "confidence": 0.99,
                        "patterns": (name,),
                        "reasons": (f"In the signal: {orientation} {middle:g} of the frame.",),
                    }
                )
            )
            differs[(slice(None), slice(first, last + 1)) if across else (slice(first, last + 1), slice(None))] = False
    return told


def _displaced(differs: NDArray[np.bool_]) -> bool:
    """Markers that stand elsewhere leave dark shapes on the ground: many pixels in both directions that fill no line."""
    rows, columns = differs.sum(axis=1), differs.sum(axis=0)
    spread = min(float((rows > FEW_PX).mean()), float((columns > FEW_PX).mean()))
    longest = max(float(rows.max()) / differs.shape[1], float(columns.max()) / differs.shape[0])
    return spread > SPREAD_SHARE and longest < LINE_SHARE


def _runs(flags: NDArray[np.bool_]) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(int), [0]]))).reshape(-1, 2)
    return [(int(first), int(stop) - 1) for first, stop in edges]
