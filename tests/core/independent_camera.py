"""A second camera, written for the tests on scipy and scikit-image only: it shares no code with lens.simulate.

Panel pixels are three stripes of nine samples; the lens is a Gaussian; the sensor is a plain RGB one with Poisson noise.
"""

import io

import numpy as np
from PIL import Image
from scipy import ndimage
from skimage.transform import ProjectiveTransform

from lens.panel import Panel
from lens.patterns import encode_png, get_pattern, render
from lens.simulate import DeviceFault

SUB = 3
PHOTO = (1300, 1750)
MIX = np.array([[0.86, 0.12, 0.02], [0.09, 0.82, 0.09], [0.02, 0.13, 0.85]])


def _decoded(png: bytes, gamma: float | None) -> np.ndarray:
    """The exported PNG as a panel of that gamma (sRGB when None) would show it, in linear light."""
    value = np.asarray(Image.open(io.BytesIO(png)).convert("RGB")) / 255
    if gamma is not None:
        return value**gamma
    return np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)


def independent_photo(
    panel: Panel,
    pattern: str,
    faults: tuple[DeviceFault, ...],
    seed: int,
    gamma: float | None = None,
    curve: float | None = None,
) -> bytes:
    """A JPEG of the exported pattern on a panel with these faults and this gamma; the camera codes light by the power ``1 / curve``,
    by sRGB when it is None."""
    rng = np.random.default_rng(1000 + seed)
    light = 0.001 + 0.999 * _decoded(encode_png(render(panel, get_pattern(pattern))), gamma)
    names = ["red", "green", "blue"]
    for fault in faults:
        part = slice(None) if fault.channel is None else names.index(fault.channel)
        light[int(fault.y), int(fault.x), part] = 1.0 if fault.kind.startswith("bright") else 0.0
    fine = np.zeros((panel.height * SUB, panel.width * SUB, 3))
    for channel in range(3):
        fine[:, channel::SUB, channel] = np.repeat(light[..., channel], SUB, axis=0) * 3
    corners = np.array([[110, 95], [1650, 120], [1638, 1085], [96, 1060]], float) + rng.uniform(-12, 12, (4, 2))
    outline = np.array(
        [[-0.5, -0.5], [panel.width - 0.5, -0.5], [panel.width - 0.5, panel.height - 0.5], [-0.5, panel.height - 0.5]]
    )
    to_panel = ProjectiveTransform.from_estimate(corners, outline)
    y, x = np.mgrid[: PHOTO[0], : PHOTO[1]]
    seen_at = to_panel(np.stack([x.ravel(), y.ravel()], axis=1)) * SUB + (SUB - 1) / 2
    scale = (corners[1, 0] - corners[0, 0]) / panel.width
    seen = np.stack(
        [
            ndimage.map_coordinates(
                ndimage.gaussian_filter(fine[..., c], 0.8 / scale * SUB), seen_at.T[::-1], order=1
            ).reshape(PHOTO)
            for c in range(3)
        ],
        axis=-1,
    )
    seen = seen @ MIX.T * 0.7
    seen = rng.poisson(np.maximum(seen, 0) * 5000) / 5000 + rng.normal(0, 0.0006, seen.shape)
    seen = np.clip(seen, 0, 1)
    code = (
        np.where(seen <= 0.0031308, 12.92 * seen, 1.055 * seen ** (1 / 2.4) - 0.055)
        if curve is None
        else seen ** (1 / curve)
    )
    buffer = io.BytesIO()
    Image.fromarray(np.round(code * 255).astype(np.uint8)).save(buffer, "JPEG", quality=93)
    return buffer.getvalue()
