"""A broken cell: rays that leave an impact point, a lake of ink around it, and how much of the panel still lives.

Rays are thin, dark and follow neither rows nor columns; they are looked for in the share of light that a dead pixel would take
(pixel evidence), the ink in the light field, since inside a lake the pixel evidence has nothing to compare with.
"""

import math
from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import LightField
from lens.faults.pixels import HYPOTHESES, Evidence
from lens.panel import Panel
from lens.photo import BLOCK_PX
from lens.records import Finding

SUSPICIOUS_PX = 400  # a panel with fewer striking pixels is not looked at: a crack has thousands
RAY_DEPTH, DEAD_DEPTH, INK_LIGHT = 0.2, 0.5, 0.35
RAY_LENGTH_PX, RAY_WIDTH_PX, RAY_FILL = 40, 8, 0.45
STRAIGHT_PX = 61
INK_BLOCKS = 9
MEET_PX, LEAST_RAYS, MAX_RAYS = 40, 3, 8
HALO_PX = 10
_DEAD = next(i for i, h in enumerate(HYPOTHESES) if len(h.channels) == 3 and not h.lit)


class Crack(NamedTuple):
    """``mask`` is (H, W) bool: what the crack makes of the panel, and its halo; ``live_share`` is the panel's share that still lives."""

    finding: Finding
    mask: NDArray[np.bool_]
    live_share: float


def find_crack(evidence: Evidence, field: LightField | None, snr: NDArray[np.float32]) -> Crack | None:
    """The crack of a panel, None when there is none. ``snr`` is (H, W), what passed the survey."""
    if field is None or np.count_nonzero(snr) < SUSPICIOUS_PX:
        return None
    depth = _depth(evidence)
    dark = _without_lines(depth > RAY_DEPTH)
    ink = _ink(evidence.panel, field)
    point, meeting = _impact(ink, dark)
    if len(meeting) < (1 if ink.any() else LEAST_RAYS):
        return None
    broken = ink.copy()
    for ray in meeting:
        broken[ray[:, 0], ray[:, 1]] = True
    live = 1 - float((ink | (depth > DEAD_DEPTH)).mean())
    finding = _finding(point, broken, ink, len(meeting), live, evidence)
    return Crack(
        finding, cv2.dilate(broken.astype(np.uint8), np.ones((2 * HALO_PX + 1,) * 2, np.uint8)).astype(bool), live
    )


def box_around(finding: Finding, beyond_px: int = 0) -> tuple[slice, slice]:
    """Rows and columns of a finding's box, and of so much around it."""
    rows, columns = (
        slice(max(0, round(middle - size / 2) - beyond_px), round(middle + size / 2) + 1 + beyond_px)
        for middle, size in ((finding.y, finding.h), (finding.x, finding.w))
    )
    return rows, columns


def with_rays(crack: Crack, rays: Sequence[Finding]) -> Crack:
    """The crack with more rays, of which the boxes are known."""
    mask, own = crack.mask.copy(), crack.finding
    for ray in rays:
        mask[box_around(ray, HALO_PX)] = True
    boxes = [own, *rays]
    x0, y0 = min(f.x - f.w / 2 for f in boxes), min(f.y - f.h / 2 for f in boxes)
    x1, y1 = max(f.x + f.w / 2 for f in boxes), max(f.y + f.h / 2 for f in boxes)
    return crack._replace(
        mask=mask, finding=own.model_copy(update={"x": (x0 + x1) / 2, "y": (y0 + y1) / 2, "w": x1 - x0, "h": y1 - y0})
    )


def _depth(evidence: Evidence) -> NDArray[np.float32]:
    """(H, W) share of its light that each pixel lacks, from all photos together."""
    panel = evidence.panel
    told = np.zeros((panel.height, panel.width), np.float32)
    known = np.zeros_like(told)
    for k, photo in enumerate(evidence.photos):
        told += evidence.response[k] @ evidence.signature[k][_DEAD].astype(np.float32)
        blocks = np.repeat(np.repeat(evidence.blocks[k][..., _DEAD], BLOCK_PX, axis=0), BLOCK_PX, axis=1)
        known += blocks[: panel.height, : panel.width] * photo.view.trust
    return np.where(known > 1.0, told / np.maximum(known, 1.0), 0).astype(np.float32)


def _without_lines(dark: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What is dark, its straight runs along rows and columns taken out (morphological opening with a line)."""
    seen = dark.astype(np.uint8)
    straight = cv2.max(
        *(
            cv2.morphologyEx(seen, cv2.MORPH_OPEN, np.ones(size, np.uint8))
            for size in ((STRAIGHT_PX, 1), (1, STRAIGHT_PX))
        )
    )
    return np.asarray(dark & (cv2.dilate(straight, np.ones((5, 5), np.uint8)) == 0))


def _ink(panel: Panel, field: LightField) -> NDArray[np.bool_]:
    """(H, W) lakes of ink: blocks that are almost dark on every lit photo."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        (field.light < INK_LIGHT).astype(np.uint8), connectivity=8
    )
    lakes = np.isin(labels, [n for n in range(1, count) if stats[n, cv2.CC_STAT_AREA] >= INK_BLOCKS])
    whole = np.repeat(np.repeat(lakes, BLOCK_PX, axis=0), BLOCK_PX, axis=1)
    return np.ascontiguousarray(whole[: panel.height, : panel.width])


def _rays(dark: NDArray[np.bool_]) -> list[NDArray[np.int64]]:
    """(N, 2) pixels (row, column) of everything thin, long and off the grid."""
    joined = cv2.dilate(dark.astype(np.uint8), np.ones((3, 3), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    rays = []
    for n in range(1, count):
        x, y, w, h, area = (int(v) for v in stats[n])
        if max(w, h) >= RAY_LENGTH_PX and min(w, h) >= RAY_WIDTH_PX and area <= RAY_FILL * w * h:
            rays.append(
                np.argwhere((labels[y : y + h, x : x + w] == n) & dark[y : y + h, x : x + w]) + np.array([y, x])
            )
    return rays


def _impact(ink: NDArray[np.bool_], dark: NDArray[np.bool_]) -> tuple[tuple[int, int], list[NDArray[np.int64]]]:
    """The place (x, y) that the rays leave, and those rays: the ink's middle, else the place that most of them reach."""
    if ink.any():
        ys, xs = np.nonzero(ink)
        return (round(float(xs.mean())), round(float(ys.mean()))), _reaching(dark, ink.astype(np.uint8))
    best: tuple[tuple[int, int], list[NDArray[np.int64]]] = ((0, 0), [])
    for x, y in _candidates(dark):
        core = np.zeros(dark.shape, np.uint8)
        cv2.circle(core, (x, y), MEET_PX // 2, 1, cv2.FILLED)
        rays = _reaching(dark, core)
        if len(rays) > len(best[1]):
            best = ((x, y), rays)
    return best


def _candidates(dark: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Ends of the largest rays, and where most of what is dark lies close together."""
    rays = sorted(_rays(dark), key=len, reverse=True)[:MAX_RAYS]
    drawn = np.zeros(dark.shape, np.float32)
    for ray in rays:
        drawn[ray[:, 0], ray[:, 1]] = 1
    crowded = cv2.boxFilter(drawn, -1, (2 * MEET_PX + 1,) * 2)
    ends = [ray[n] for ray in rays for n in (0, -1, int(ray[:, 1].argmin()), int(ray[:, 1].argmax()))]
    places = [np.array(np.unravel_index(int(np.argmax(crowded)), crowded.shape)), *ends]
    return list(dict.fromkeys((int(x), int(y)) for y, x in places))


def _reaching(dark: NDArray[np.bool_], core: NDArray[np.uint8]) -> list[NDArray[np.int64]]:
    """The rays that reach a core; it is cut out first, so that they part."""
    near = cv2.dilate(core, np.ones((2 * MEET_PX + 1,) * 2, np.uint8)) > 0
    return [ray for ray in _rays(dark & (core == 0)) if near[ray[:, 0], ray[:, 1]].any()]


def _finding(
    point: tuple[int, int],
    broken: NDArray[np.bool_],
    ink: NDArray[np.bool_],
    rays: int,
    live: float,
    evidence: Evidence,
) -> Finding:
    ys, xs = np.nonzero(broken)
    x0, x1, y0, y1 = int(xs.min()), int(xs.max()), int(ys.min()), int(ys.max())
    reasons = [
        f"{rays} ray{'s' if rays > 1 else ''} from ({point[0]}, {point[1]}), off the grid of rows and columns: the cell is broken."
    ]
    if ink.any():
        reasons.append(
            f"Ink covers {100 * float(ink.mean()):.1f} % of the panel, about {2 * math.sqrt(float(ink.sum()) / math.pi):.0f} px across."
        )
    reasons.append(
        f"{100 * live:.0f} % of the panel still lives. Broken glass can cut: keep the film on, wear eye protection."
    )
    lit = tuple(dict.fromkeys(p.pattern.id for p in evidence.photos if max(p.pattern.drive) > 0))
    return Finding(
        kind="crack",
        x=(x0 + x1) / 2,
        y=(y0 + y1) / 2,
        w=x1 - x0 + 1,
        h=y1 - y0 + 1,
        contrast=-round(1 - live, 3),
        confidence=0.95,
        patterns=lit,
        reasons=tuple(reasons),
    )
