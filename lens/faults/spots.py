"""A dark spot of a few pixels that no pixel grid explains: a grain on the glass, most often, and never a handful of faults.

Explained pixel by pixel, a grain becomes a heap of touching faults of all kinds, many of them dark in one colour only, as its edge cuts
through pixels. Faults of one kind that touch stay what they are.
"""

import math
from collections.abc import Sequence

from lens.faults.words import listed
from lens.records import Alternative, Finding

TOUCHING_PX = 2
FEWEST = 3  # two touching dead pixels are a cluster that makers know (ISO 9241-307); three of ragged darkness are not
RAGGED_SHARE = 1 / 3  # of the places: so many are dark in single colours only
CONFIDENCE, OF_THE_PANEL = (
    0.8,
    0.15,
)  # before the calibration on honest photos: what is dirt, and what a damaged place of several pixels
ASK = "Wipe the glass and photograph white again: dirt is gone or has moved, faults stay."


def as_spots(findings: Sequence[Finding]) -> list[Finding]:
    """The findings, every ragged heap of touching dark pixels told as one spot."""
    dark = [n for n, f in enumerate(findings) if f.kind in ("dead_pixel", "dark_subpixel")]
    spots: list[Finding] = []
    gone: set[int] = set()
    for heap in heaps([(findings[n].x, findings[n].y) for n in dark]):
        own = [findings[dark[n]] for n in heap]
        if len({(f.x, f.y) for f in own}) >= FEWEST and _ragged(own):
            gone.update(dark[n] for n in heap)
            spots.append(_spot(own))
    return [f for n, f in enumerate(findings) if n not in gone] + spots


def heaps(places: Sequence[tuple[float, float]]) -> list[list[int]]:
    """Which places touch, each heap once."""
    by_place: dict[tuple[int, int], list[int]] = {}
    for n, (x, y) in enumerate(places):
        by_place.setdefault((math.floor(x), math.floor(y)), []).append(n)
    heaps, free = [], set(by_place)
    around = [(dx, dy) for dx in range(-TOUCHING_PX, TOUCHING_PX + 1) for dy in range(-TOUCHING_PX, TOUCHING_PX + 1)]
    while free:
        edge, heap = [free.pop()], list[int]()
        while edge:
            x, y = edge.pop()
            heap += by_place[x, y]
            near = {(x + dx, y + dy) for dx, dy in around} & free
            free -= near
            edge += near
        heaps.append(heap)
    return heaps


def _ragged(own: Sequence[Finding]) -> bool:
    places, whole = {(f.x, f.y) for f in own}, {(f.x, f.y) for f in own if f.kind == "dead_pixel"}
    return len({(f.kind, f.channel) for f in own}) > 1 and len(places - whole) >= RAGGED_SHARE * len(places)


def _spot(own: Sequence[Finding]) -> Finding:
    left, right = min(f.x for f in own), max(f.x for f in own)
    top, bottom = min(f.y for f in own), max(f.y for f in own)
    names = tuple(dict.fromkeys(name for f in own for name in f.patterns))
    width, height = right - left + 1, bottom - top + 1
    return Finding(
        kind="dust",
        x=(left + right) / 2,
        y=(top + bottom) / 2,
        w=width,
        h=height,
        contrast=round(max(-1.0, min(f.contrast for f in own)), 3),
        confidence=CONFIDENCE,
        patterns=names,
        alternatives=(Alternative(kind="dead_pixel", p=OF_THE_PANEL),),
        ask=ASK,
        reasons=(
            f"A dark spot of {width:.0f} x {height:.0f} px on {listed(names)} that follows no pixel grid: dirt on the glass, most often. {ASK}",
        ),
    )
