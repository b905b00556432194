"""White point and brightness against a known-good panel that was shot under the same settings.

One photo tells no white point: the camera's balance is unknown. Two photos of the same pattern, taken alike, tell how far apart the
panels are, whatever the balance is.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lens.faults.light_model import CHANNELS, TYPICAL_VIEW, background, colour_view
from lens.faults.uniformity import SRGB_TO_XYZ, uv_of
from lens.photo import PhotoRead
from lens.records import AgainstReference

MAX_CLIPPED_SHARE, CLIPPED_TOO_FAR = 0.02, 0.2
SAME_EXPOSURE = 0.05
# of u'v' at 90 %: what noise, glare and a slightly other standpoint leave; and what an automatic balance takes away (common practice)
LOCKED_UNCERTAINTY, FREE_UNCERTAINTY = 0.004, 0.02
LIGHT_UNCERTAINTY, SCALED_LIGHT_UNCERTAINTY = (
    0.06,
    0.15,
)  # shares; the second when exposures differ and the file's numbers bridge them
NOTICED_UV = 0.004


def is_reference_pattern(photo: PhotoRead) -> bool:
    """A lit solid without colour is what panels are compared on."""
    return photo.pattern.solid and photo.pattern.neutral


def compare_panels(photos: Sequence[PhotoRead], reference: PhotoRead | None) -> AgainstReference | None:
    """How the panel's white differs from the reference's; None without a photo of the same pattern that shows it well."""
    if reference is None:
        return None
    name = reference.pattern.family
    own = [
        photo
        for photo in photos
        if photo.pattern.family == name
        and photo.view.whole
        and not photo.composed
        and photo.view.clipped_fraction < CLIPPED_TOO_FAR
    ]
    if not own:
        return None
    photo = min(own, key=lambda one: abs(np.log(_exposure_ratio(one, reference))))
    shares = np.linalg.solve(_view(photos), background(photo)), np.linalg.solve(_view(photos), background(reference))
    ratio = np.maximum(shares[0], 1e-6) / np.maximum(shares[1], 1e-6)
    xyz = SRGB_TO_XYZ @ ratio
    du, dv = uv_of(xyz[None])[0] - uv_of(SRGB_TO_XYZ.sum(axis=1)[None])[0]
    exposures = _exposure_ratio(photo, reference)
    alike = abs(np.log(exposures)) < SAME_EXPOSURE
    locked = photo.balance_locked is True and reference.balance_locked is True
    light, distance = float(xyz[1] / exposures), float(np.hypot(du, dv))
    uncertainty = LOCKED_UNCERTAINTY if locked else FREE_UNCERTAINTY
    return AgainstReference(
        pattern=photo.pattern.id,
        light_ratio=round(light, 2),
        light_uncertainty=LIGHT_UNCERTAINTY if alike else SCALED_LIGHT_UNCERTAINTY,
        delta_u=round(float(du), 4),
        delta_v=round(float(dv), 4),
        delta_uv=round(distance, 4),
        uncertainty=uncertainty,
        settings_locked=locked,
        text=_words(light, float(du), float(dv), distance, uncertainty, locked),
    )


def _view(photos: Sequence[PhotoRead]) -> NDArray[np.float64]:
    """(3, 3) camera B, G, R (rows) of the panel's full red, green, blue, in the proportions that white has."""
    first = {photo.pattern.family: photo for photo in reversed(photos)}
    own = [first.get(name) for name in CHANNELS]
    white = first.get("white") or first.get("grey50")
    solved = colour_view([p for p in own if p], background(white) if white else None)
    if solved is not None:
        return solved
    view = np.stack(
        [
            background(p) / background(p).max() if p and p.pattern.pure else TYPICAL_VIEW[:, i]
            for i, p in enumerate(own)
        ],
        axis=1,
    )
    scale = np.linalg.solve(view, background(white)) if white else np.ones(3)
    return np.asarray(view * scale if (scale > 0).all() else TYPICAL_VIEW, float)


def _exposure_ratio(photo: PhotoRead, reference: PhotoRead) -> float:
    return photo.exposure_s / reference.exposure_s if photo.exposure_s and reference.exposure_s else 1.0


def _words(light: float, du: float, dv: float, distance: float, uncertainty: float, locked: bool) -> str:
    brightness = f"{100 * abs(light - 1):.0f} % {'brighter' if light > 1 else 'darker'} than the reference panel"
    hue = ("yellower" if dv > 0 else "bluer") if abs(dv) > abs(du) else ("pinker" if du > 0 else "greener")
    if distance < max(NOTICED_UV, uncertainty):
        colour = f"its white is the same within {uncertainty:.3f} in u'v'"
    else:
        colour = f"its white is {distance:.3f} in u'v' {hue} (to {uncertainty:.3f})"
    advice = (
        ""
        if locked
        else " The files do not say that the white balance was locked: lock it, or the camera hides what differs."
    )
    return f"{brightness.capitalize()}; {colour}.{advice}"
