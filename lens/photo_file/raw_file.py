"""Raw photos in the DNG form: the sensor's numbers before the camera developed them for the eye.

No tone curve bends them, no colour matrix drives a pure colour out of the scale, nothing was sharpened, smoothed or lifted by place.
Each channel is the camera's own and ends at its own ceiling; the numbers are told as sRGB codes of linear light, like any other photo's.
That rounds, 0.9 % of the light between two codes at white: less than a tenth of a photosite's noise is added.
"""

import io
import struct
from typing import NamedTuple

import cv2
import numpy as np
import rawpy
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.srgb import linear_to_srgb, srgb_to_linear
from lens.tiff import Tiff

OPCODES = 51009  # OpcodeList2, applied to the mosaic (DNG specification 1.4, chapters 4 and 7; from memory)
GAIN_MAP = 9
MOST_MAP_POINTS = 1 << 20
TURNED = (5, 6)  # of the flips: by 90 degrees
CODES = 65536
_CODE_OF_LIGHT: NDArray[np.uint8] = linear_to_srgb(np.arange(CODES) / (CODES - 1))


class RawPicture(NamedTuple):
    """``pixels`` is (h, w, 3) uint8, sRGB codes of the camera's own linear B, G, R, upright. ``balance`` (3,) multiplies linear B, G, R so
    that white looks white. ``developed`` when the file holds no mosaic: some program has been at work before."""

    pixels: NDArray[np.uint8]
    balance: NDArray[np.float64]
    developed: bool


def _opened(data: bytes) -> rawpy.RawPy:
    raw = rawpy.RawPy()
    try:
        raw.open_buffer(io.BytesIO(data))
    except rawpy.LibRawError:
        raise _unread() from None
    return raw


def _unread() -> BadInput:
    return BadInput(
        "This DNG is cut short, damaged, or of a camera that cannot be read. Send it again, or the same photo as JPEG.",
        "raw_unread",
    )


def raw_size(data: bytes) -> tuple[int, int]:
    """(width, height) in px as it is shown, from the head; raises BadInput."""
    with _opened(data) as raw:
        sizes = raw.sizes
        return (sizes.height, sizes.width) if sizes.flip in TURNED else (sizes.width, sizes.height)


def read_raw(data: bytes, half: bool = False) -> RawPicture:
    """The sensor's picture; ``half`` makes one pixel of each group of four. Raises BadInput."""
    with _opened(data) as raw:
        try:
            flip = raw.sizes.flip
            raw.unpack()
            linear = raw.postprocess(
                half_size=half,
                # the fewest false places of four methods at 1.3 to 2.4 px a panel px (Chang, Cheung, Pang 1999)
                demosaic_algorithm=rawpy.DemosaicAlgorithm.VNG,
                output_color=rawpy.ColorSpace.raw,
                user_wb=[1.0, 1.0, 1.0, 1.0],  # balance would push a channel over the ceiling
                gamma=(1, 1),
                no_auto_bright=True,
                adjust_maximum_thr=0.0,
                output_bps=16,
                user_flip=0,
            )
        except rawpy.LibRawError:
            raise _unread() from None
        mosaic = raw.raw_type == rawpy.RawType.Flat
        balance = np.array(raw.camera_whitebalance[:3], float)[::-1]
        sites = np.array(raw.raw_pattern, int) if mosaic and raw.raw_pattern is not None else None
        colours = raw.color_desc.decode("ascii", "replace")
    if linear.ndim != 3 or linear.shape[2] != 3:
        raise _unread()
    light = np.ascontiguousarray(linear[..., ::-1], np.uint16)
    if sites is not None:
        _even_out(light, _gain_maps(data), sites, colours)
    balance = balance / balance[1] if balance.min() > 0 else np.ones(3)
    return RawPicture(_upright(_CODE_OF_LIGHT[light], flip), balance, developed=not mosaic)


def as_the_eye(pixels: NDArray[np.uint8], balance: NDArray[np.float64]) -> NDArray[np.uint8]:
    """The picture with white looking white: to be shown, not measured."""
    linear = srgb_to_linear(np.arange(256) / 255)
    table = np.stack([linear_to_srgb(linear * gain) for gain in balance], axis=-1)[None]
    return np.asarray(cv2.LUT(pixels, table), np.uint8)


def _upright(pixels: NDArray[np.uint8], flip: int) -> NDArray[np.uint8]:
    """By the decoder's flip: 3 is half a turn, 5 a quarter to the left, 6 a quarter to the right."""
    turn = {3: cv2.ROTATE_180, 5: cv2.ROTATE_90_COUNTERCLOCKWISE, 6: cv2.ROTATE_90_CLOCKWISE}.get(flip)
    return pixels if turn is None else np.asarray(cv2.rotate(pixels, turn), np.uint8)


class _GainMap(NamedTuple):
    """``gains`` (v, h) stand at ``origin`` + n x ``spacing``, as shares of the picture, (vertical, horizontal); they are for the photosites
    at ``site`` of each group of ``pitch``."""

    site: tuple[int, int]
    pitch: tuple[int, int]
    spacing: tuple[float, float]
    origin: tuple[float, float]
    gains: NDArray[np.float32]


def _gain_maps(data: bytes) -> list[_GainMap]:
    """What the camera says its lens loses by place, per colour of the mosaic."""
    tiff = Tiff(data)
    blocks = [
        bytes(data[entry.value_at : entry.value_at + entry.size])
        for _, entries in tiff.directories()
        for entry in entries
        if entry.tag == OPCODES and entry.value_at >= 0
    ]
    maps = []
    for block in blocks:
        try:
            maps += _maps_of(block)
        except (struct.error, ValueError):
            continue  # a damaged list says nothing; the fall-off is then the lens's whole
    return maps


def _maps_of(block: bytes) -> list[_GainMap]:
    maps, at = [], 4
    for _ in range(min(struct.unpack_from(">I", block)[0], 64)):
        kind, _, _, size = struct.unpack_from(">4I", block, at)
        at += 16
        if kind == GAIN_MAP:
            top, left, _, _, _, _, rows, columns, points_v, points_h = struct.unpack_from(">10I", block, at)
            step_v, step_h, from_v, from_h = struct.unpack_from(">4d", block, at + 40)
            planes = struct.unpack_from(">I", block, at + 72)[0]
            if planes != 1 or not 0 < points_v * points_h <= MOST_MAP_POINTS:
                raise ValueError("no map of one plane")
            gains = np.frombuffer(block, ">f4", points_v * points_h, at + 76).reshape(points_v, points_h)
            maps.append(
                _GainMap((top, left), (rows, columns), (step_v, step_h), (from_v, from_h), gains.astype(np.float32))
            )
        at += size
    return maps


def _even_out(light: NDArray[np.uint16], maps: list[_GainMap], sites: NDArray[np.int_], colours: str) -> None:
    """Multiply each channel (B, G, R) of (h, w, 3) light in place with the mean of the maps for photosites of its colour."""
    height, width = light.shape[:2]
    for channel, letter in enumerate("BGR"):
        own = [
            one.gains
            for one in maps
            if one.pitch == (1, 1)
            or colours[int(sites[one.site[0] % len(sites), one.site[1] % len(sites[0])])] == letter
        ]
        if not own or len({gains.shape for gains in own}) > 1:
            continue
        gains, one = np.asarray(np.mean(own, axis=0), np.float32), maps[0]
        if not (np.isfinite(gains).all() and gains.min() > 0):
            continue
        y = ((np.arange(height) + 0.5) / height - one.origin[0]) / (one.spacing[0] or 1)
        x = ((np.arange(width) + 0.5) / width - one.origin[1]) / (one.spacing[1] or 1)
        band = 256
        for start in range(0, height, band):
            at_x, at_y = np.meshgrid(x.astype(np.float32), y[start : start + band].astype(np.float32))
            gain = cv2.remap(gains, at_x, at_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
            part = light[start : start + band, :, channel]
            part[...] = np.minimum(part * gain + 0.5, CODES - 1).astype(np.uint16)
