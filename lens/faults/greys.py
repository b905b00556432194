"""Gamma and grey tracking from the grey ladder.

Gamma is the slope of log luminance over log drive through full white; tracking is how far the colour of each grey strays from
white's in u'v' (VESA FPDM 2.0, ISO 9241-305; from memory). The panel's primaries are taken as sRGB's (IEC 61966-2-1).
"""

import numpy as np
from numpy.typing import NDArray

from lens.faults.tone import Tone, patch_light
from lens.faults.uniformity import SRGB_TO_XYZ, uv_of
from lens.photo import PhotoRead
from lens.records import GreyLevel, Greys

DARKEST_LEVEL = 56  # below it glare and the photo's noise weigh more than the panel's light
LEARNED_UNCERTAINTY, ASSUMED_UNCERTAINTY = (
    0.03,
    0.35,
)  # of gamma; the second from what phones do to a grey of 50 % (common practice)
MISFIT_WEIGHT = 2.0
TRACKING_UNCERTAINTY, UNLEARNED_TRACKING = 0.003, 0.012
TRUSTED_MISFIT = (
    0.05  # colours that do not add up better than this: a panel with a white subpixel, or a camera that shades by place
)


def measure_greys(photo: PhotoRead | None, tone: Tone | None) -> Greys | None:
    """Gamma and tracking; None without a ladder, or when its greys or full colours are hidden."""
    if photo is None:
        return None
    light = patch_light(tone, photo.ladder)
    place = {(seen.patch.level, seen.patch.channel): n for n, seen in enumerate(photo.ladder) if seen.patch.level}
    levels = np.array(sorted(level for level, channel in place if channel is None))
    primaries = [place.get((255, channel)) for channel in range(3)]
    if len(levels[levels >= DARKEST_LEVEL]) < 4 or any(n is None for n in primaries):
        return None
    # columns: what the camera sees of full red, green and blue, as shares of white
    view = np.stack([light[n] for n in primaries if n is not None], axis=1)
    view = view / view.sum(axis=1, keepdims=True)
    rgb = np.linalg.solve(view, np.stack([light[place[int(level), None]] for level in levels], axis=1)).T
    xyz = rgb @ SRGB_TO_XYZ.T
    off_white = np.linalg.norm(uv_of(np.maximum(xyz, 1e-6)) - uv_of(SRGB_TO_XYZ.sum(axis=1)[None]), axis=1)
    kept = levels >= DARKEST_LEVEL
    gamma = _slope(levels[kept], xyz[kept, 1])
    learned = tone is not None and tone.misfit < TRUSTED_MISFIT
    uncertainty = (
        LEARNED_UNCERTAINTY + MISFIT_WEIGHT * tone.misfit if tone is not None and learned else ASSUMED_UNCERTAINTY
    )
    return Greys(
        gamma=round(gamma, 2),
        uncertainty=round(uncertainty, 2),
        channels=tuple(round(_slope(levels[kept], rgb[kept, c]), 2) for c in range(3)),
        max_delta_uv=round(float(off_white[kept].max()), 4),
        delta_uv_uncertainty=TRACKING_UNCERTAINTY if learned else UNLEARNED_TRACKING,
        camera_curve_learned=learned,
        points=tuple(
            GreyLevel(
                level=int(level),
                light=round(float(y), 4),
                delta_uv=round(float(away), 4) if level >= DARKEST_LEVEL else None,
            )
            for level, y, away in zip(levels, np.maximum(xyz[:, 1], 0), off_white, strict=True)
        ),
    )


def _slope(levels: NDArray[np.int_], light: NDArray[np.float64]) -> float:
    """Least squares of ln light over ln drive through (1, 1)."""
    drive = np.log(levels / 255)
    return float(drive @ np.log(np.maximum(light, 1e-6)) / (drive @ drive))
