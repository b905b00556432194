"""Light that the glass mirrors, told from light of the panel: what the panel does stands in all photos, what is mirrored moves."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import SMOOTH_BLOCKS, Field, LightField, smoothed
from lens.faults.light_model import LightModel
from lens.faults.regions import region_box, regions
from lens.faults.words import listed
from lens.faults.zones import FAINTEST_BLEED, covers
from lens.panel import Panel
from lens.photo import BLOCK_PX, PhotoRead
from lens.records import Alternative, Finding

CORE_SHARE, RING_SHARE = 0.5, 2.0  # of a spot's box: what is taken as its middle, and how far its surroundings reach
SIGMAS = 2.0
FAINTEST_MIRRORED = 0.1  # of the light of a lit pattern: moire and the lens make fainter spots in single photos
WHITE_SHARE = 0.3
SURE, UNSURE = 0.95, 0.6
ADDS_AT_MOST = 1.4  # of its light on black: the lit photos are exposed alike
ASK = "Darken the room, and photograph black again from another side, a hand's breadth to the left or right."
ADVICE = "Darken the room, or shoot from another side."


def _added_light(photo: PhotoRead, seen: NDArray[np.float64]) -> Field | None:
    """(h, w) white light that a photo shows where its pattern has none, in shares of white; None when it has no dark colour.

    The camera's colours overlap, so a dark channel repeats the lit one in a fixed ratio; what exceeds that was added.
    """
    white = seen.sum(axis=1)
    drive = np.array(photo.pattern.drive)
    level = photo.view.level.astype(float)
    if drive.max() == 0:
        channel = int(np.argmax(white))
        return np.asarray(level[..., channel] / max(float(white[channel]), 1e-9), float)
    dark = [c for c in range(3) if drive[2 - c] == 0]
    if not dark:
        return None
    main = level[..., int(np.argmax([0 if c in dark else white[c] for c in range(3)]))]
    # the channel that sees the least of the lit colour tells added light best
    channel = min(dark, key=lambda c: float(np.median(level[..., c])) / max(float(white[c]), 1e-9))
    ratio = level[..., channel] / np.maximum(main, 1e-6)
    return np.asarray((ratio - np.median(ratio)) * main / max(float(white[channel]), 1e-9), float)


def _at(zone: Finding, added: Field) -> tuple[float, float]:
    """Mean of a field in the middle of a zone over its surroundings, and the spread of the surroundings."""
    y, x = np.mgrid[: added.shape[0], : added.shape[1]] * BLOCK_PX + (BLOCK_PX - 1) / 2
    across, down = np.abs(x - zone.x) / max(zone.w, 4 * BLOCK_PX), np.abs(y - zone.y) / max(zone.h, 4 * BLOCK_PX)
    middle, ring = (across <= CORE_SHARE / 2) & (down <= CORE_SHARE / 2), np.maximum(across, down)
    around = added[(ring > 0.8) & (ring <= RING_SHARE)]
    if not middle.any() or not around.size:
        return 0.0, float("inf")
    usual = float(np.median(around))
    return float(added[middle].mean()) - usual, 1.4826 * float(np.median(np.abs(around - usual)))


def told_bleed(photos: Sequence[PhotoRead], model: LightModel, zones: Sequence[Finding]) -> list[Finding]:
    """The zones, light on black being asked for in the dark colours of the other photos: it must be there too."""
    fields = []
    for photo, seen in zip(photos, model.seen, strict=True):
        added = _added_light(photo, seen) if photo.view.whole else None
        if added is not None:
            fields.append((photo.pattern.id, smoothed(added, SMOOTH_BLOCKS), photo.eye))
    told = []
    for zone in zones:
        if zone.kind != "bleed":
            told.append(zone)
            continue
        expected = max((_at(zone, added)[0] for name, added, _ in fields if name in zone.patterns), default=0.0)
        witnesses = [(name, *_at(zone, added)) for name, added, _ in fields if name not in zone.patterns]
        stands = (
            [eye for name, _, eye in fields if name in zone.patterns],
            [eye for name, _, eye in fields if name not in zone.patterns],
        )
        moved = (
            max((_mirror_moves_px(a, b) for a in stands[0] for b in stands[1]), default=0.0) > min(zone.w, zone.h) / 2
        )
        told.append(
            _weighed(
                zone,
                expected,
                [(name, level, max(spread, FAINTEST_BLEED / 8)) for name, level, spread in witnesses],
                moved,
            )
        )
    return told


def _mirror_moves_px(eye: NDArray[np.float64], other: NDArray[np.float64]) -> float:
    """How far on the panel the image of something in the room goes between two standpoints: half as far as the camera, for what is as far from
    the glass as the camera is."""
    return float(np.linalg.norm((eye - other)[:2])) / 2


def _weighed(zone: Finding, expected: float, witnesses: Sequence[tuple[str, float, float]], moved: bool) -> Finding:
    """``moved`` where something mirrored would stand elsewhere on the panel for one of the witnesses."""
    weights = [1 / spread**2 for _, _, spread in witnesses if np.isfinite(spread)]
    names = listed([name for name, _, _ in witnesses])
    if expected <= 0 or not weights:
        return _unsure(zone)
    # one photo may mirror something of its own there: the middle one of all speaks
    share = float(np.median([level for _, level, _ in witnesses])) / expected
    spread = SIGMAS * (sum(weights) / len(weights)) ** -0.5 / expected
    if share + spread < 0.5:
        return zone.model_copy(
            update={
                "kind": "reflection",
                "confidence": SURE,
                "reasons": (
                    f"Light of {100 * zone.contrast:.1f} % of white on {listed(zone.patterns)}, but not on {names}: it is mirrored in the glass "
                    f"and not of the panel. {ADVICE}",
                ),
            }
        )
    if share - spread > 0.5 and moved:
        stays = f"It is there on {names} too, so it does not move with the camera."
        return zone.model_copy(update={"confidence": SURE, "reasons": (*zone.reasons, stays)})
    return _unsure(zone)


def _unsure(zone: Finding) -> Finding:
    return zone.model_copy(
        update={
            "confidence": UNSURE,
            "alternatives": (Alternative(kind="reflection", p=round(1 - UNSURE, 2)),),
            "ask": ASK,
            "reasons": (
                *zone.reasons,
                f"Something mirrored in the glass would look the same; no other photo tells them apart. {ASK}",
            ),
        }
    )


def without_mirrored(zones: Sequence[Finding]) -> list[Finding]:
    """The zones without faint bright ones that a reflection explains: it stands near by on every photo and adds as much light."""
    mirrored = [zone for zone in zones if zone.kind == "reflection"]

    def explained(zone: Finding) -> bool:
        return zone.kind == "mura" and any(
            0 < zone.contrast <= ADDS_AT_MOST * spot.contrast
            and abs(zone.x - spot.x) <= (zone.w + spot.w) / 2 + spot.w
            and abs(zone.y - spot.y) <= (zone.h + spot.h) / 2 + spot.h
            for spot in mirrored
        )

    return [zone for zone in zones if not explained(zone)]


def mirrored_in_lit(
    panel: Panel, photos: Sequence[PhotoRead], model: LightModel, field: LightField | None, zones: Sequence[Finding]
) -> list[Finding]:
    """Bright spots that one lit photo has alone. They are left out of the light field, which is the middle of all photos."""
    if field is None or len(field.names) < 3:
        return []
    found = []
    for name, apart in zip(field.names, field.apart, strict=True):
        own = [(photo, seen) for photo, seen in zip(photos, model.seen, strict=True) if photo.pattern.id == name]
        for region in regions(smoothed(apart, SMOOTH_BLOCKS), FAINTEST_MIRRORED):
            level = float(np.expm1(region.peak))
            told = Finding.model_validate(
                {
                    **region_box(panel, region),
                    "kind": "reflection",
                    "contrast": round(level, 3),
                    "confidence": 0.9,
                    "patterns": (name,),
                    "reasons": (
                        f"Brighter by {100 * level:.0f} % in the photo of {name} only: something is mirrored in the glass. {ADVICE}",
                    ),
                }
            )
            if not any(covers(zone, told.x, told.y) for zone in zones) and any(
                _is_white(photo, seen, told) for photo, seen in own
            ):
                found.append(told)
    return found


def _is_white(photo: PhotoRead, seen: NDArray[np.float64], spot: Finding) -> bool:
    """Whether a spot has light of all three colours; moire brightens each colour elsewhere."""
    added = _added_light(photo, seen)
    if added is not None:
        return _at(spot, added)[0] > WHITE_SHARE * spot.contrast
    level = np.maximum(photo.view.level.astype(float), 1e-6)
    return all(_at(spot, level[..., c] / np.median(level[..., c]))[0] > WHITE_SHARE * spot.contrast for c in range(3))
