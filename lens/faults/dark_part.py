"""A half, a side or a broad strip of the panel that shows nothing, while the rest shows its picture.

It is told by itself and left out of everything else: a light field that falls to nothing has no surroundings to compare with.
"""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.faults.light_model import background, main_channel
from lens.faults.words import listed
from lens.panel import Panel
from lens.photo import BLOCK_PX, PhotoRead
from lens.records import Finding

DARK_SHARE, LIT_QUANTILE = 0.08, 0.95  # of the light that the lit part has; glare and blur leave some
WHOLE_LENGTH = 0.95
LEAST_AT_RIM_BLOCKS, LEAST_INSIDE_SHARE, MOST_SHARE = 3, 0.1, 0.8
HALF = (0.45, 0.55)
LEAST_LIGHT = 1e-5
EDGE_BLOCKS = 4
BESIDE_BLOCKS = 2  # what blur and coder make of its edge
SIDES = {"row": ("upper", "lower"), "column": ("left", "right")}


class DarkPart(NamedTuple):
    """``first`` to ``last`` are its rows or columns of blocks."""

    orientation: Literal["row", "column"]
    first: int
    last: int
    finding: Finding


def find_dark_part(panel: Panel, photos: Sequence[PhotoRead]) -> DarkPart | None:
    """The broadest strip over the panel's whole width or height that is dark in every lit solid; None without one."""
    lit = [photo for photo in photos if photo.pattern.solid and max(photo.pattern.drive) > 0 and photo.view.whole]
    if not lit:
        return None
    shares = np.array([_share(photo) for photo in lit])
    dark = (shares < DARK_SHARE).all(axis=0)
    found = []
    for orientation, across in (("row", dark.mean(axis=1)), ("column", dark.mean(axis=0))):
        first, last = _longest(across >= WHOLE_LENGTH)
        count, blocks = last - first + 1, len(across)
        least = LEAST_AT_RIM_BLOCKS if first == 0 or last == blocks - 1 else LEAST_INSIDE_SHARE * blocks
        if least <= count <= MOST_SHARE * blocks:
            found.append((count / blocks, orientation, first, last))
    if not found:
        return None
    _, orientation, first, last = max(found)
    profile = np.median(shares, axis=(0, 2 if orientation == "row" else 1))
    names = list(dict.fromkeys(photo.pattern.id for photo in lit))
    way: Literal["row", "column"] = "row" if orientation == "row" else "column"
    return DarkPart(way, first, last, _told(panel, way, *_edges(panel, way, profile, first, last), names))


def without_part(photo: PhotoRead, part: DarkPart | None) -> PhotoRead:
    """The photo without the dark part: it proves nothing there, and its light is taken to go on as beside it."""
    if part is None or max(photo.pattern.drive) == 0:
        return photo
    first, last = max(0, part.first - BESIDE_BLOCKS), part.last + BESIDE_BLOCKS
    view, axis = photo.view, 0 if part.orientation == "row" else 1
    own = np.zeros(view.level.shape[:2], bool)
    np.moveaxis(own, axis, 0)[first : last + 1] = True
    rows = slice(first * BLOCK_PX, (last + 1) * BLOCK_PX)
    pixels = (rows, slice(None)) if axis == 0 else (slice(None), rows)
    response, energy, trust = view.response.copy(), view.energy.copy(), view.trust.copy()
    for image in (response, energy, trust):
        image[pixels] = 0
    return photo._replace(
        view=view._replace(response=response, energy=energy, trust=trust, level=_carried_on(view.level, own))
    )


def _carried_on(level: NDArray[np.float32], own: NDArray[np.bool_]) -> NDArray[np.float32]:
    """(h, w, 3) the light with its own blocks replaced by the quadratic surface that the rest has, in logarithms."""
    y, x = np.meshgrid(np.linspace(-1, 1, own.shape[0]), np.linspace(-1, 1, own.shape[1]), indexing="ij")
    basis = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1)
    seen = np.log(np.maximum(level, LEAST_LIGHT))
    surface = basis[own] @ np.linalg.lstsq(basis[~own], seen[~own], rcond=None)[0]
    out = level.copy()
    out[own] = np.exp(np.clip(surface, seen.min(), seen.max()))
    return out


def beside_part(part: DarkPart | None, finding: Finding) -> bool:
    """Whether a finding lies in the dark part, or is what the lens makes of its edge."""
    if part is None:
        return False
    # so far the smoothed light of the lit part reaches over the edge, which leaves faint lines along it
    along = finding.kind == "line" and finding.orientation == part.orientation
    reach = (BESIDE_BLOCKS + (2 if along else 1)) * BLOCK_PX
    at, size = (finding.y, finding.h) if part.orientation == "row" else (finding.x, finding.w)
    return at - size / 2 < (part.last + 1) * BLOCK_PX + reach and at + size / 2 > part.first * BLOCK_PX - reach


def _share(photo: PhotoRead) -> NDArray[np.float64]:
    """(h, w) light of each block against the lit part's."""
    usual = background(photo)
    channel = main_channel(usual)
    level = photo.view.level[..., channel].astype(float)
    return level / max(float(np.quantile(level, LIT_QUANTILE)), float(usual[channel]), 1e-6)


def _longest(flags: NDArray[np.bool_]) -> tuple[int, int]:
    """First and last index of the longest run; (0, -1) without one."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(int), [0]])))
    runs = edges.reshape(-1, 2)
    if not len(runs):
        return 0, -1
    first, stop = runs[int(np.argmax(runs[:, 1] - runs[:, 0]))]
    return int(first), int(stop) - 1


def _edges(
    panel: Panel, way: Literal["row", "column"], profile: NDArray[np.float64], first: int, last: int
) -> tuple[float, float]:
    """Where it begins and ends, panel px: blocks beside it lack as much light as it covers of them, spread by blur and by smoothing."""
    size = panel.height if way == "row" else panel.width

    def dark_px(beside: NDArray[np.float64]) -> float:
        return (
            BLOCK_PX * float(np.maximum(1 - beside / max(float(beside.max()), 1e-6), 0).sum()) if len(beside) else 0.0
        )

    start = first * BLOCK_PX - dark_px(profile[max(0, first - EDGE_BLOCKS) : first])
    stop = min(size, (last + 1) * BLOCK_PX + dark_px(profile[last + 1 : last + 1 + EDGE_BLOCKS]))
    return float(round(start)), float(round(stop))


def _told(panel: Panel, way: Literal["row", "column"], start: float, stop: float, names: Sequence[str]) -> Finding:
    size = panel.height if way == "row" else panel.width
    width_px, share, middle = stop - start, (stop - start) / size, (start + stop - 1) / 2
    side = SIDES[way][int(middle > size / 2)]
    at_rim = start <= 1 or stop >= size - 1
    half = at_rim and HALF[0] <= share <= HALF[1]
    if half:
        reasons = [
            f"Half a picture: the {side} half is dark on {listed(names)}.",
            "Reseat the cable and look at an external screen: one half of a two-channel link, or of the drivers, is out.",
        ]
    else:
        reasons = [
            f"A dark strip over the whole {'width' if way == 'row' else 'height'}, about {width_px:.0f} px "
            f"({100 * share:.0f} % of the panel), on {listed(names)}."
        ]
    if at_rim:
        other = SIDES[way][int(middle <= size / 2)]
        reasons.append(
            f"If it stands at the panel's {other} side, the picture is moved by about {width_px:.0f} px and nothing comes in its place: "
            "look at the timing and the panel on record before the panel itself."
        )
    return Finding.model_validate(
        {
            "kind": "artifact" if half else "band",
            "orientation": None if half else way,
            "contrast": -1.0,
            "confidence": 0.95,
            "x": (panel.width - 1) / 2 if way == "row" else middle,
            "y": middle if way == "row" else (panel.height - 1) / 2,
            "w": panel.width if way == "row" else width_px,
            "h": width_px if way == "row" else panel.height,
            "patterns": tuple(names),
            "reasons": tuple(reasons),
            "picture": "part" if half else None,
        }
    )
