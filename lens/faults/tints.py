"""Zones of the light field whose colour differs from what surrounds them."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import SMOOTH_BLOCKS, Field, LightField, detrended, smoothed, unsure_rim
from lens.faults.regions import regions
from lens.faults.uniformity import SRGB_TO_XYZ
from lens.faults.zones import bridged, only_at_rim, with_rim, zone_finding
from lens.panel import Panel
from lens.records import Finding

FAINTEST_TINT, TINT_SIGMAS = 0.004, 3.0


def tint_zones(
    panel: Panel, field: LightField, patterns: Sequence[str], hidden: NDArray[np.bool_] | None = None
) -> list[Finding]:
    """Zones whose colour differs: distance in CIE 1976 u'v' from their surroundings, the panel's colours taken as sRGB."""
    shifts = _colour_shifts(field, hidden)
    if shifts is None:
        return []
    delta = _in_uv(_agreed(shifts))
    distance = np.hypot(delta[..., 0], delta[..., 1])
    # Coloured moire differs from photo to photo, and two agree by chance in half of all places: what they agree on must exceed what one alone shows.
    each = np.array([_in_uv(shift) for shift in shifts])
    differing = each - each.mean(axis=0)
    noise = 1.4826 * float(np.median(np.abs(differing))) * math.sqrt(len(each) / (len(each) - 1))
    rim = field.rim | unsure_rim(differing[..., 0]) | unsure_rim(differing[..., 1])
    threshold = max(FAINTEST_TINT, TINT_SIGMAS * noise)
    findings = []
    for region in regions(distance, threshold):
        if only_at_rim(rim, region, distance > threshold):
            continue
        part = (slice(region.y0, region.y0 + region.height), slice(region.x0, region.x0 + region.width))
        du, dv = (float(np.median(delta[part][region.inside][:, c])) for c in (0, 1))
        reason = f"{_hue(du, dv)}, {region.peak:.3f} in u'v' from its surroundings."
        findings.append(zone_finding(panel, region, "discoloration", 0.0, patterns, [reason]))
    return findings


def tint(field: LightField, hidden: NDArray[np.bool_] | None = None) -> Field | None:
    """(h, w, 2) distance in u' and v' from the surroundings' colour, the panel's colours taken as sRGB; None with less than two photos,
    since one photo's coloured moire looks just like a tint."""
    shifts = _colour_shifts(field, hidden)
    return None if shifts is None else _in_uv(_agreed(shifts))


def _colour_shifts(field: LightField, hidden: NDArray[np.bool_] | None) -> Field | None:
    """(n, h, w, 2) logarithms of red and of blue against green in each photo, less a smooth surface; None with less than two photos."""
    if field.rgb is None or len(field.rgb) < 2:
        return None
    log, hidden = np.log(np.clip(field.rgb, 1e-3, None)), with_rim(field, hidden)
    each = [
        [smoothed(bridged(detrended(one[..., c] - one[..., 1]), hidden), SMOOTH_BLOCKS) for c in (0, 2)] for one in log
    ]
    return np.moveaxis(np.array(each), 1, -1)


def _in_uv(shift: Field) -> Field:
    """(..., 2) u'v' distance from white of light whose red and blue differ from green by (..., 2) logarithms."""
    xyz = np.exp(np.stack([shift[..., 0], np.zeros(shift.shape[:-1]), shift[..., 1]], axis=-1)) @ SRGB_TO_XYZ.T
    total = xyz @ np.array([1.0, 15.0, 3.0])
    uv = np.stack([4 * xyz[..., 0] / total, 9 * xyz[..., 1] / total], axis=-1)
    white = SRGB_TO_XYZ.sum(axis=1)
    return np.asarray(uv - np.array([4 * white[0], 9 * white[1]]) / (white @ np.array([1.0, 15.0, 3.0])), float)


def _agreed(fields: Field) -> Field:
    """What all photos agree on, of (n, ...): the smallest of one sign, 0 where they differ. Coloured moire stands in one only."""
    least = np.abs(fields).min(axis=0)
    return np.where((fields > 0).all(axis=0), least, np.where((fields < 0).all(axis=0), -least, 0.0))


def _hue(du: float, dv: float) -> str:
    """The tint in a word: v' grows to yellow and falls to blue, u' grows to pink and falls to green."""
    if abs(dv) > abs(du):
        return "Yellowish" if dv > 0 else "Bluish"
    return "Pinkish" if du > 0 else "Greenish"
