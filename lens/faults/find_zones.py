"""All zones of a set: dark, bright and tinted ones, bands, mura, and light that comes through on black, each told once."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import LightField, around_zones
from lens.faults.light_model import LightModel
from lens.faults.tints import tint_zones
from lens.faults.zones import ZONE_CONTRAST, bleed_zones, covers, light_zones, spoiled, spoiled_by
from lens.panel import Panel
from lens.patterns import marker_mask
from lens.photo import BLOCK_PX, PhotoRead
from lens.records import Finding

MARKER_SPOILS_PX = 12
SAME_PLACE = 0.4
GROWN, MOST_PULLING = (
    1.6,
    0.4,
)  # of a strong zone's box, that it may darken or brighten; of the panel, else too little is left
HALO_SHARE, HALO_REACH = 0.25, 0.75  # of a strong zone's contrast and size: what tone mapping by place leaves beside it


def find_zones(
    panel: Panel,
    photos: Sequence[PhotoRead],
    model: LightModel,
    field: LightField | None,
    lines: Sequence[Finding] = (),
    speckles: NDArray[np.bool_] | None = None,
) -> list[Finding]:
    """All zones of a set; the lines found already and (h, w) blocks with ``speckles`` are left out of the light."""
    if field is None:
        return []
    names = tuple(dict.fromkeys(p.pattern.id for p in photos if max(p.pattern.drive) > 0))
    full = tuple(dict.fromkeys(p.pattern.id for p in photos if p.pattern.neutral))
    hidden = spoiled_by(panel, field, lines)
    if speckles is not None:
        hidden = hidden | speckles
    black = next(
        (
            (p, seen)
            for p, seen in zip(photos, model.seen, strict=True)
            if max(p.pattern.drive) == 0 and p.view.whole and p.ink_level is not None
        ),
        None,
    )
    bleed: list[Finding] = []
    if black:
        height, width = hidden.shape
        marked = np.zeros((height * BLOCK_PX, width * BLOCK_PX), bool)
        marked[: panel.height, : panel.width] = marker_mask(panel, black[0].pattern, MARKER_SPOILS_PX)
        beside = marked.reshape(height, BLOCK_PX, width, BLOCK_PX).any(axis=(1, 3))
        bleed = bleed_zones(panel, *black, field, hidden | beside)
    lit = light_zones(panel, field, names, hidden)
    # a strong zone pulls at the smooth light that all else is held against
    strong = [zone for zone in lit if zone.kind != "mura" and abs(zone.contrast) >= ZONE_CONTRAST]
    pulling = spoiled(panel, field.light.shape, [(f.x, f.y, GROWN * f.w, GROWN * f.h) for f in strong])
    if strong and pulling.mean() < MOST_PULLING:
        lit = light_zones(panel, around_zones(field, pulling), names, hidden)
    # light that leaks through black brightens the dim patterns too: told once
    lit = [
        zone for zone in without_halos(lit) if zone.contrast < 0 or not any(covers(b, zone.x, zone.y) for b in bleed)
    ]
    return _joined(lit, tint_zones(panel, field, full, hidden)) + bleed


def without_halos(zones: Sequence[Finding]) -> list[Finding]:
    """The zones without faint spots of opposite sign beside strong ones, which cameras make that lift the dark and hold the bright by place."""
    strong = [zone for zone in zones if zone.kind != "mura" and abs(zone.contrast) >= ZONE_CONTRAST]
    return [
        zone
        for zone in zones
        if zone.kind != "mura"
        or not any(
            zone.contrast * other.contrast < 0
            and abs(zone.contrast) <= HALO_SHARE * abs(other.contrast)
            and _gap(zone, other) <= HALO_REACH * max(other.w, other.h)
            for other in strong
        )
    ]


def _gap(one: Finding, other: Finding) -> float:
    """Distance of two boxes, 0 where they touch."""
    across, down = abs(one.x - other.x) - (one.w + other.w) / 2, abs(one.y - other.y) - (one.h + other.h) / 2
    return float(np.hypot(max(across, 0.0), max(down, 0.0)))


def _joined(lit: Sequence[Finding], tints: Sequence[Finding]) -> list[Finding]:
    """A tint that darkens is one thing: a faint spot that covers nearly the same place is told with it."""
    kept, joined = list(lit), []
    for tint_zone in tints:
        own = next((f for f in kept if f.kind == "mura" and _share_of_union(f, tint_zone) >= SAME_PLACE), None)
        if own is not None:
            kept.remove(own)
            tint_zone = tint_zone.model_copy(
                update={"contrast": own.contrast, "semu": own.semu, "reasons": (*tint_zone.reasons, *own.reasons)}
            )
        joined.append(tint_zone)
    return kept + joined


def _share_of_union(one: Finding, other: Finding) -> float:
    """Overlap of two boxes over their union."""
    width, height = (
        max(0.0, min(a + p / 2, b + q / 2) - max(a - p / 2, b - q / 2))
        for a, p, b, q in ((one.x, one.w, other.x, other.w), (one.y, one.h, other.y, other.h))
    )
    return width * height / (one.w * one.h + other.w * other.h - width * height)
