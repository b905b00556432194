"""The cheapest photos that would prove what is not proven yet."""

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.faults import CHANNELS, Evidence, Seen, listed
from lens.panel import Panel
from lens.patterns import get_pattern, get_set, marker_mask
from lens.photo import BLOCK_PX, PhotoRead
from lens.records import Finding, Kind, NextShot

DEMANDED_SHARE = 0.98
# A set's solids by what they are a kind of.
SOLIDS = tuple(
    {
        pattern.family: pattern.id
        for pattern in map(get_pattern, get_set(name).patterns)
        if pattern.solid and not pattern.variant
    }
    for name in ("standard", "manual")
)
BESIDE_MARKER_PX = 16
LEAST_SHARE = 0.002  # of the panel: what is less is not worth a photo
LARGE_SHARE = 0.5
ONCE_MORE = 2.0  # a second photo like the first doubles what is known
CLOSER = 1.15  # margin on the scale that is asked for
BLURRED_PHOTO_PX = 1.4  # a sharp phone photo has 0.6 to 1.1
MAX_SHOTS = 4
MAYBE_ON_GLASS: tuple[Kind, ...] = ("dead_pixel", "mura")
# The thinnest glass and polariser above a cell, divided by its refractive index (common practice), and the same in px without a size.
LEAST_GLASS_MM, LEAST_GLASS_PX, SURE_SIGMAS = 0.27, 1.5, 3.0


_WHOLE_WHITE = NextShot(
    pattern="white",
    count=1,
    share=1.0,
    text=(
        "Photograph the whole panel on white, not over-exposed and without HDR or night mode: dark and bright areas are told from that."
    ),
)


class _Need(NamedTuple):
    """Blocks where patterns of a family tell too little, and how many times too little in the middle of them."""

    family: str
    blocks: NDArray[np.bool_]
    lack: float


def next_shots(
    panel: Panel, evidence: Evidence, proven: float, findings: Sequence[Finding] = (), evenly_seen: bool = True
) -> tuple[NextShot, ...]:
    """What to shoot next, the most telling first; empty when enough is proven. ``proven`` is the share of the panel, ``evenly_seen``
    whether the photos tell its evenness."""
    telling = _from_side(panel, findings) + _once_more(findings)
    proving = _proving(panel, evidence, proven)
    if not evenly_seen and not any(shot.pattern == "white" and shot.frame is None for shot in proving):
        proving = (_WHOLE_WHITE, *proving)
    return proving[: MAX_SHOTS - len(telling)] + telling


def _once_more(findings: Sequence[Finding]) -> tuple[NextShot, ...]:
    """A later photo tells a retention that fades from wear."""
    if not any(f.kind == "retained_image" and f.faded is None and f.counts for f in findings):
        return ()
    return (
        NextShot(
            pattern="grey50",
            count=1,
            share=0.0,
            later=True,
            text=(
                "Show moving pictures for ten minutes, then photograph grey50 once more: it tells a retention that fades from wear."
            ),
        ),
    )


def _from_side(panel: Panel, findings: Sequence[Finding]) -> tuple[NextShot, ...]:
    """A photo from the side, where the others were taken from too like places to tell dirt on the glass from dark pixels."""
    least_px = LEAST_GLASS_MM / panel.pitch_mm if panel.pitch_mm else LEAST_GLASS_PX
    open_ones = [
        f
        for f in findings
        if f.kind in MAYBE_ON_GLASS
        and f.counts
        and (f.above_px is None or f.above_sd_px is None or f.above_px + SURE_SIGMAS * f.above_sd_px > least_px)
    ]
    if not open_ones:
        return ()
    what = f"whether {len(open_ones)} dark spots lie" if len(open_ones) > 1 else "whether the dark spot lies"
    return (
        NextShot(
            pattern="white",
            count=1,
            share=0.0,
            from_side=True,
            text=(
                f"Photograph white once more from the side, 20 to 30 degrees off: it tells {what} on the glass or in the pixels."
            ),
        ),
    )


def _proving(panel: Panel, evidence: Evidence, proven: float) -> tuple[NextShot, ...]:
    """Photos that prove more of the panel."""
    if proven >= DEMANDED_SHARE:
        return ()
    photos = evidence.photos
    have = {photo.pattern.family for photo in photos}
    missing = [name for family, name in _begun(photos).items() if family not in have]
    if missing:
        return (
            NextShot(
                pattern=missing[0],
                count=len(missing),
                share=round(1 - proven, 3),
                text=(f"Photograph {listed(missing)} too: each colour shows faults that the others hide."),
            ),
        )
    seen = evidence.seen
    marked = _marked(panel, photos, seen.known.shape[:2])
    needs = _needs(seen, marked)
    shots = [_shot(panel, photos, need) for need in needs]
    hidden = float((marked & (seen.known < seen.demand).any(axis=2)).mean())
    if hidden > LEAST_SHARE and not any(photo.pattern.variant for photo in photos):
        shots.append(
            NextShot(
                pattern="white-b",
                count=len(SOLIDS[0]),
                share=round(hidden, 3),
                text=(
                    "Shoot the thorough set: its second half has the markers elsewhere, so that what lies under them is seen."
                ),
            )
        )
    return tuple(sorted(shots, key=lambda shot: -shot.share)[:MAX_SHOTS])


def _begun(photos: Sequence[PhotoRead]) -> dict[str, str]:
    """The solids of the set of which most was shot, the standard one where that does not tell."""
    shot = {photo.pattern.id for photo in photos}
    return max(SOLIDS, key=lambda solids: len(shot & set(solids.values())))


def _marked(panel: Panel, photos: Sequence[PhotoRead], shape: tuple[int, ...]) -> NDArray[np.bool_]:
    """(h, w) blocks that markers hide in all photos, or whose images of markers spoil them."""
    masks = {photo.pattern.variant: marker_mask(panel, photo.pattern, BESIDE_MARKER_PX) for photo in photos}
    hidden = np.logical_and.reduce(list(masks.values()))
    whole = np.zeros((shape[0] * BLOCK_PX, shape[1] * BLOCK_PX), bool)
    whole[: panel.height, : panel.width] = hidden
    return np.asarray(whole.reshape(shape[0], BLOCK_PX, shape[1], BLOCK_PX).any(axis=(1, 3)))


def _needs(seen: Seen, marked: NDArray[np.bool_]) -> list[_Need]:
    """Every pattern that a weak kind of fault would show best on."""
    needs: list[_Need] = []
    for number, fault in enumerate(seen.kinds):
        if len(fault.channels) != 1:
            continue
        weak = (seen.known[..., number] < seen.demand[number]) & ~marked
        if weak.mean() < LEAST_SHARE:
            continue
        family = "black" if fault.lit else CHANNELS[fault.channels[0]]
        lack = float(seen.demand[number]) / max(float(np.median(seen.known[..., number][weak])), 1e-6)
        same = next((n for n in needs if n.family == family), None)
        if same is not None:
            needs.remove(same)
            weak, lack = weak | same.blocks, max(lack, same.lack)
        needs.append(_Need(family, weak, lack))
    return needs


def _shot(panel: Panel, photos: Sequence[PhotoRead], need: _Need) -> NextShot:
    share = round(float(need.blocks.mean()), 3)
    own = [photo for photo in photos if photo.pattern.family == need.family]
    best = max(own, key=lambda photo: photo.px_per_px)
    name = best.pattern.id.removesuffix("-b")
    clipped = max(photo.view.clipped_fraction for photo in own)
    if clipped > 1 - DEMANDED_SHARE:
        held = SOLIDS[0].get(need.family, name)
        how = (
            f"Photograph {name} again with less exposure"
            if held == name
            else f"Photograph {held} instead, which a camera exposes well by itself"
        )
        return NextShot(
            pattern=held, count=1, share=share, text=f"{how}: {100 * clipped:.0f} % of {name} is over-exposed."
        )
    if best.blur_px > BLURRED_PHOTO_PX:
        return NextShot(
            pattern=name,
            count=1,
            share=share,
            text=(
                f"Photograph {name} again, focused and held still: its blur is {best.blur_px:.1f} camera pixels, up to 1 is sharp."
            ),
        )
    frame = _box(panel, need.blocks)
    if need.lack <= ONCE_MORE and frame[2] * frame[3] > LARGE_SHARE * panel.pixels:
        return NextShot(pattern=name, count=1, share=share, text=f"One more sharp photo of {name} is enough.")
    scale = best.px_per_px * min(math.sqrt(need.lack) * CLOSER, 3.0)
    across = math.ceil(frame[2] / (0.92 * best.registration.width / scale))
    down = math.ceil(frame[3] / (0.92 * best.registration.height / scale))
    count = across * down
    tiles = "a close-up" if count == 1 else f"{count} close-ups ({across} by {down})"
    return NextShot(
        pattern=name,
        count=count,
        share=share,
        frame=frame,
        text=f"On {name}, take {tiles} of {_place(panel, frame)} at {scale:.1f} camera px per panel px or more, four markers in each.",
    )


def _box(panel: Panel, blocks: NDArray[np.bool_]) -> tuple[float, float, float, float]:
    """Centre and size in panel px of nearly all weak blocks; a few strays do not widen it."""
    y, x = np.nonzero(blocks)
    left, right = (float(v) * BLOCK_PX for v in np.percentile(x, (2, 98)) + (0, 1))
    top, bottom = (float(v) * BLOCK_PX for v in np.percentile(y, (2, 98)) + (0, 1))
    right, bottom = min(right, panel.width), min(bottom, panel.height)
    return ((left + right - 1) / 2, (top + bottom - 1) / 2, right - left, bottom - top)


def _place(panel: Panel, frame: tuple[float, float, float, float]) -> str:
    """A part of the panel in words."""
    x, y, w, h = frame
    if w > 0.8 * panel.width and h > 0.8 * panel.height:
        return "the whole panel"
    down = (
        ""
        if h > 0.8 * panel.height
        else "upper "
        if y < panel.height / 3
        else "lower "
        if y > 2 * panel.height / 3
        else "middle "
    )
    across = (
        ""
        if w > 0.8 * panel.width
        else "left"
        if x < panel.width / 3
        else "right"
        if x > 2 * panel.width / 3
        else "middle"
    )
    return f"the {(down + across).strip()} part".replace("middle middle", "middle")
