"""The chequers of the data bits in a photo: how far apart the two levels of each are."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import BitCell, bit_cells
from lens.photo.light import bilinear_light
from lens.photo.registration import Registration

SAMPLES, EDGE_SHARE = 7, 0.22  # points a square each way, and how much of it is left to blur at each rim
LEAST_LIGHT = 2e-4


class BitSeen(NamedTuple):
    """``contrast`` is the natural logarithm of the light of the squares with the bit over that of those without, ``sd`` its standard
    deviation, ``level`` the light of the squares without it as a share of the white around; all in the bit's own colour."""

    cell: BitCell
    contrast: float
    sd: float
    level: float


def see_bits(panel: Panel, pixels: NDArray[np.uint8], registration: Registration) -> tuple[BitSeen, ...]:
    """Every chequer that lies whole in the photo.

    pixels : (h, w, 3) uint8, B, G, R
    """
    return tuple(seen for cell in bit_cells(panel) if (seen := _see(cell, pixels, registration)) is not None)


def _see(cell: BitCell, pixels: NDArray[np.uint8], registration: Registration) -> BitSeen | None:
    left, top, right, bottom = cell.box
    columns, rows = cell.squares
    own = (np.arange(SAMPLES) + 0.5) / SAMPLES * (1 - 2 * EDGE_SHARE) + EDGE_SHARE
    x = left - 0.5 + (np.arange(columns)[:, None] + own).ravel() * cell.square_px
    y = top - 0.5 + (np.arange(rows)[:, None] + own).ravel() * cell.square_px
    inside = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    beyond = cell.square_px * 0.6
    ring = np.array([(u, v) for u in np.linspace(left, right, 9) for v in (top - beyond, bottom + beyond)])
    light = _light(pixels, registration, np.concatenate([inside, ring]), 2 - cell.channel)
    if light is None:
        return None
    squares = light[: len(inside)].reshape(rows, SAMPLES, columns, SAMPLES).mean(axis=(1, 3))
    v, u = np.mgrid[:rows, :columns]
    sign = np.where((u + v) % 2, 0.5, -0.5)
    logs = np.log(np.maximum(squares, LEAST_LIGHT)).ravel()
    basis = np.stack([sign.ravel(), np.ones(logs.size), u.ravel() / columns, v.ravel() / rows], axis=1)
    solution, *_ = np.linalg.lstsq(basis, logs, rcond=None)
    rest = logs - basis @ solution
    sd = float(np.sqrt((rest**2).sum() / max(logs.size - 4, 1)) / np.linalg.norm(basis[:, 0]))
    white = max(float(np.median(light[len(inside) :])), LEAST_LIGHT)
    return BitSeen(cell, float(solution[0]), sd, float(np.median(squares[sign < 0])) / white)


def _light(
    pixels: NDArray[np.uint8], registration: Registration, points: NDArray[np.float64], channel: int
) -> NDArray[np.float64] | None:
    at = registration.to_photo(points)
    height, width = pixels.shape[:2]
    if at.min() < 1 or (at[:, 0] > width - 3).any() or (at[:, 1] > height - 3).any():
        return None
    return bilinear_light(pixels, channel, at[:, 0], at[:, 1])
