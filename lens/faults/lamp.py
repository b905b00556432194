"""No light or too little: a picture that only light from outside shows, and a panel that gives less than it should."""

from collections.abc import Sequence

import numpy as np

from lens.faults.light_model import background
from lens.faults.picture import usable
from lens.faults.words import listed
from lens.panel import Panel
from lens.photo import PhotoRead, drive_light
from lens.records import Finding, WhiteLight

OUTSIDE_SHARE = (
    0.45  # dark parts of a panel that lights itself stay under a tenth of its light; lit from outside, over a half
)
# L = 78 / (0.65 * 100) * level / (exposure at ISO 100 and f/1) = 1.2 by saturation-based speed, 10 / (0.65 * 100 * 0.18) = 0.85 by standard output
# sensitivity (both ISO 12232, from memory), 12.5 / (100 * 0.18) = 0.69 by a meter's grey (ISO 2720, from memory): files do not say which, so their
# middle, and a factor that holds them all and a phone's own third of a stop (common practice).
CD_M2_PER_LEVEL = 0.92
CAMERA_FACTOR = 1.65
DIM_CD_M2, USUAL_CD_M2 = 60.0, 250.0  # portable panels give 200 to 400 at full brightness (common practice)


def lit_from_outside(photo: PhotoRead) -> bool:
    """True when the panel's own light does not show the picture."""
    return photo.dark_share is not None and photo.dark_share > OUTSIDE_SHARE


def luminance_cd_m2(photos: Sequence[PhotoRead]) -> float | None:
    """White's luminance by the cameras' exposure, good to a factor of CAMERA_FACTOR; None when no photo tells."""
    own = [
        photo
        for photo in photos
        if photo.pattern.solid and photo.view.whole and usable(photo) and not lit_from_outside(photo)
    ]
    told = [
        CD_M2_PER_LEVEL * float(background(photo)[1]) / max(drive_light(photo.pattern.drive)) / photo.exposure_s
        for photo in own
        if photo.exposure_s and photo.pattern.neutral
    ]
    return float(np.median(told)) if told else None


def white_light(photos: Sequence[PhotoRead]) -> WhiteLight | None:
    """The same as a record; None when no photo tells."""
    light = luminance_cd_m2(photos)
    return WhiteLight(cd_m2=float(f"{light:.2g}"), factor=CAMERA_FACTOR) if light is not None else None


def find_lamp_faults(panel: Panel, photos: Sequence[PhotoRead]) -> list[Finding]:
    """A dead backlight behind a living picture, or a panel that is much too dim."""
    outside = [photo for photo in photos if lit_from_outside(photo)]
    if outside and 2 * len(outside) >= len(photos):
        names = tuple(dict.fromkeys(photo.pattern.id for photo in outside))
        share = float(np.median([photo.dark_share or 0.0 for photo in outside]))
        return [
            _whole(
                panel,
                "no_light",
                -1.0,
                0.95 if len(outside) > 1 else 0.85,
                names,
                (
                    f"The picture is there, but on {listed(names)} its dark parts are {100 * share:.0f} % as bright as its light ones: only "
                    "light from outside shows it.",
                    "Image alive, light dead: look at lamps or strings, their driver and its fuse before the cell.",
                ),
            )
        ]
    light = luminance_cd_m2(photos)
    if light is None or light > DIM_CD_M2:
        return []
    names = tuple(dict.fromkeys(photo.pattern.id for photo in photos if photo.pattern.neutral))
    return [
        _whole(
            panel,
            "dim",
            light / USUAL_CD_M2 - 1,
            0.7,
            names,
            (
                f"White gives {WhiteLight(cd_m2=light, factor=CAMERA_FACTOR).words}, by the camera's exposure; "
                "200 to 400 are usual at full brightness.",
                "Turn the brightness up, plug the charger in, cover and uncover the light sensor, and shoot white again.",
            ),
        )
    ]


def _whole(
    panel: Panel, kind: str, contrast: float, confidence: float, patterns: Sequence[str], reasons: Sequence[str]
) -> Finding:
    return Finding.model_validate(
        {
            "kind": kind,
            "x": (panel.width - 1) / 2,
            "y": (panel.height - 1) / 2,
            "w": panel.width,
            "h": panel.height,
            "contrast": round(contrast, 2),
            "confidence": confidence,
            "patterns": tuple(patterns),
            "reasons": tuple(reasons),
        }
    )
