"""A second phone that exposes by itself, written for the tests from the physics on numpy, scipy and scikit-image only: it shares no code and no
constants with lens.simulate.

Panel pixels are three openings in a black matrix; the lens is a disc out of focus and a Gaussian; behind it lie Bayer photosites (BGGR) that count
electrons; the picture is metered in its middle, balanced, demosaiced by colour differences, brought to sRGB, smoothed by gain, toned, sharpened.
Constants are typical ones, from memory.
"""

import io
import math

import numpy as np
from PIL import Image
from scipy import ndimage
from skimage.color import rgb2ycbcr, ycbcr2rgb
from skimage.transform import ProjectiveTransform

from lens.panel import Panel
from lens.patterns import encode_png, get_pattern, render
from lens.simulate import DeviceFault

ACROSS, DOWN = 6, 3  # samples of a pixel: two for each stripe
OPEN_DOWN = 0.8  # of the pitch; what is left carries transistors
FULL_WELL_E, READ_E, BITS = 5200.0, 1.8, 10
# what photosites of red, green and blue take of the panel's red, green and blue
FILTERS = np.array([[0.61, 0.21, 0.03], [0.11, 0.72, 0.13], [0.01, 0.22, 0.70]])
MIDDLE_GREY, HIGHLIGHT = 0.17, 0.97
MOST_GAIN, LONGEST = 32.0, 12.0  # and times as long as white needs, before the hand shakes
CONTRAST = 1100.0


class IndependentPhone:
    """One phone in one hand before one panel; ``seed`` draws both."""

    def __init__(self, panel: Panel, seed: int, px_per_px: float) -> None:
        self.rng = np.random.default_rng([seed, 77])
        self.panel, self.scale = panel, px_per_px
        self.shape = (2 * math.ceil(panel.height * px_per_px * 0.56), 2 * math.ceil(panel.width * px_per_px * 0.56))
        draw = self.rng.uniform
        self.disc_px, self.lens_px, self.vignette = draw(0.2, 0.9), draw(0.35, 0.5), draw(0.1, 0.3)
        self.balance, self.sharpening, self.steepness = self.rng.normal(1, 0.02, 3), draw(0.3, 0.9), draw(0.1, 0.3)
        self.quality, self.off = int(draw(90, 96)), self.rng.normal(0, 0.015, (3, 3))
        y, x = np.mgrid[-1 : 1 : panel.height * 1j, -1 : 1 : panel.width * 1j]
        self.sound = 1 - draw(0.02, 0.07) * (x**2 + y**2) + draw(-0.02, 0.02) * x

    def photo(self, pattern: str, faults: tuple[DeviceFault, ...] = (), share: np.ndarray | None = None) -> bytes:
        """A JPEG of the exported pattern on the panel with these faults, that lets through (H, W) a share of its light where one is given."""
        light = self._light(pattern, faults)
        seen = self._seen(light if share is None else light * share[..., None])
        exposure = self._metered(seen)
        gain = min(max(exposure / LONGEST, 1.0), MOST_GAIN)
        return self._developed(self._electrons(seen * exposure, gain), gain, exposure)

    def _light(self, pattern: str, faults: tuple[DeviceFault, ...]) -> np.ndarray:
        code = np.asarray(Image.open(io.BytesIO(encode_png(render(self.panel, get_pattern(pattern)))))) / 255
        light = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
        for fault in faults:
            part = slice(None) if fault.channel is None else ["red", "green", "blue"].index(fault.channel)
            light[int(fault.y), int(fault.x), part] = float(fault.kind.startswith("bright"))
        return (light + 1 / CONTRAST) * self.sound[..., None]

    def _seen(self, light: np.ndarray) -> np.ndarray:
        """(h, w, 3) light of each colour on each photosite: white in the middle is 1 a colour."""
        fine = np.zeros((self.panel.height * DOWN, self.panel.width * ACROSS, 3), np.float32)
        rows = np.arange(fine.shape[0]) % DOWN
        for c in range(3):
            for at in (2 * c, 2 * c + 1):
                fine[:, at::ACROSS, c] = np.repeat(light[..., c], DOWN, axis=0) * 3
        fine *= np.where(rows == DOWN - 1, 3 * OPEN_DOWN - 2, 1.0)[:, None, None] / OPEN_DOWN
        a, b = self.scale / ACROSS, self.scale / DOWN  # photo px a sample
        ry, rx = math.ceil(self.disc_px / b), math.ceil(self.disc_px / a)
        y, x = np.mgrid[-ry : ry + 1, -rx : rx + 1]
        disc = np.clip(self.disc_px + 0.3 - np.hypot(y * b, x * a), 0, 0.6)
        for c in range(3):
            seen = ndimage.convolve(fine[..., c], disc / disc.sum(), mode="constant")
            seen = ndimage.gaussian_filter(seen, (self.lens_px / b, self.lens_px / a), mode="constant")
            fine[..., c] = ndimage.uniform_filter(seen, (max(round(1 / b), 1), max(round(1 / a), 1)), mode="constant")
        height, width = self.shape
        w, h = self.panel.width * self.scale / 2, self.panel.height * self.scale / 2
        square = np.array([[-w, -h], [w, -h], [w, h], [-w, h]]) + np.array([width / 2, height / 2])
        corners = square + self.rng.uniform(-0.012, 0.012, (4, 2)) * width
        to_fine = ProjectiveTransform.from_estimate(
            corners, np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * fine.shape[1::-1]
        )
        py, px = np.mgrid[:height, :width]
        at = to_fine(np.stack([px.ravel() + 0.5, py.ravel() + 0.5], axis=1)).T[::-1] - 0.5
        found = [ndimage.map_coordinates(fine[..., c], at, order=1).reshape(height, width) for c in range(3)]
        out = np.stack(found, axis=-1)
        around = ndimage.gaussian_filter(out, (30, 30, 0)) * 0.008 + 0.004 * out.mean(axis=(0, 1))
        r2 = ((px - width / 2) ** 2 + (py - height / 2) ** 2) / (width**2 + height**2) * 4
        return np.asarray((out * 0.99 + around + 1e-5) * (1 - self.vignette * r2)[..., None])

    def _metered(self, seen: np.ndarray) -> float:
        """How many times white's exposure at which white in the middle fills the photosites the automatics give."""
        luma = ndimage.uniform_filter(seen.mean(axis=2), 16)[::16, ::16]
        y, x = np.mgrid[-1 : 1 : luma.shape[0] * 1j, -1 : 1 : luma.shape[1] * 1j]
        middle = np.clip(1.2 - np.hypot(x, y), 0.1, 1)
        wanted = MIDDLE_GREY / float((luma * middle).sum() / middle.sum())
        guarded = HIGHLIGHT / float(np.quantile(luma, 0.97))
        dimmer = 2.0 ** -min(max(math.log2(wanted) - 3, 0) / 2, 3)  # night stays night
        return float(min(wanted, guarded) * dimmer)

    def _electrons(self, light: np.ndarray, gain: float) -> np.ndarray:
        """(h, w) mosaic, 1 where the converter ends."""
        mosaic = np.empty(self.shape)
        for (y, x), colour in {(0, 0): 2, (0, 1): 1, (1, 0): 1, (1, 1): 0}.items():
            mosaic[y::2, x::2] = light[y::2, x::2] @ FILTERS[colour] / FILTERS[1].sum()
        well = FULL_WELL_E / gain
        counted = self.rng.poisson(np.clip(mosaic, 0, 2) * well) + self.rng.normal(0, READ_E, self.shape)
        return np.asarray(np.round(np.clip(counted / well, -0.03, 1) * 2**BITS) / 2**BITS)

    def _developed(self, mosaic: np.ndarray, gain: float, exposure: float) -> bytes:
        white = FILTERS.sum(axis=1) / FILTERS[1].sum()
        cells = {2: [(0, 0)], 1: [(0, 1), (1, 0)], 0: [(1, 1)]}
        for colour, places in cells.items():
            for y, x in places:
                mosaic[y::2, x::2] = np.minimum(mosaic[y::2, x::2] / white[colour] * self.balance[colour], 1)
        cross = np.array([[0, 1, 0], [1, 4, 1], [0, 1, 0]]) / 4
        tent = np.array([[1, 2, 1], [2, 4, 2], [1, 2, 1]]) / 4
        only = np.zeros((3, *self.shape))
        for colour, places in cells.items():
            for y, x in places:
                only[colour, y::2, x::2] = 1
        green = ndimage.convolve(mosaic * only[1], cross)
        colours = [green + ndimage.convolve((mosaic - green) * only[c], tent) for c in (0, 2)]
        linear = np.stack([colours[0], green, colours[1]], axis=-1)
        matrix = np.linalg.inv(FILTERS / FILTERS.sum(axis=1, keepdims=True)) @ (np.eye(3) + self.off)
        linear = np.clip(linear @ (matrix / matrix.sum(axis=1, keepdims=True)).T, 0, 1)
        code = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
        code = (1 - self.steepness) * code + self.steepness * code**2 * (3 - 2 * code)
        luma, *chroma = np.moveaxis(rgb2ycbcr(code), -1, 0)
        stops = math.log2(max(gain, 1.0))
        chroma = [ndimage.gaussian_filter(one, 0.5 + 0.35 * stops) for one in chroma]
        luma = ndimage.gaussian_filter(luma, 0.1 * stops) if stops else luma
        luma = luma + self.sharpening * (luma - ndimage.gaussian_filter(luma, 1.3))
        picture = np.clip(ycbcr2rgb(np.stack([luma, *chroma], axis=-1)), 0, 1)
        exif = Image.Exif()
        block = exif.get_ifd(0x8769)
        block[0x829A], block[0x829D], block[0x8827] = exposure / gain / 400, 1.9, round(50 * gain)
        buffer = io.BytesIO()
        Image.fromarray((picture * 255 + 0.5).astype(np.uint8)).save(
            buffer, "JPEG", quality=self.quality, subsampling="4:2:0", exif=exif
        )
        return buffer.getvalue()
