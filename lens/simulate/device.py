"""A simulated panel: what light each of its subpixels gives when a pattern is sent to it, faults included."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import get_pattern, render
from lens.records.base import Record
from lens.simulate.camera import Camera, Shot, photograph, random_pose

FaultKind = Literal[
    "dead_pixel", "bright_pixel", "dark_subpixel", "bright_subpixel", "dark_column", "dark_row", "dust", "shade",
]
CHANNELS: tuple[Literal["red", "green", "blue"], ...] = ("red", "green", "blue")
BLACK_LEAK = 0.0008  # share of full light that a liquid-crystal cell lets through when dark (contrast about 1250:1)


class DeviceFault(Record):
    """One true fault. ``size_px`` and ``depth`` belong to dust and shade only (Gaussian sigma and darkest share)."""

    kind: FaultKind
    x: float
    y: float
    channel: Literal["red", "green", "blue"] | None = None
    size_px: float = 0.0
    depth: float = 0.0


class FaultyPanel(Record):
    """A panel with its true faults."""

    panel: Panel
    faults: tuple[DeviceFault, ...] = ()


def _to_light(image: NDArray[np.uint8]) -> NDArray[np.float32]:
    code = np.arange(256) / 255.0
    table = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4).astype(np.float32)
    return table[image]


def _spot(light: NDArray[np.float32], fault: DeviceFault) -> None:
    height, width, _ = light.shape
    reach = int(4 * fault.size_px) + 1
    x0, x1 = max(0, int(fault.x) - reach), min(width, int(fault.x) + reach + 1)
    y0, y1 = max(0, int(fault.y) - reach), min(height, int(fault.y) + reach + 1)
    yy, xx = np.mgrid[y0:y1, x0:x1]
    falloff = np.exp(-((xx - fault.x) ** 2 + (yy - fault.y) ** 2) / (2 * fault.size_px**2))
    light[y0:y1, x0:x1] *= (1 - fault.depth * falloff)[..., None].astype(np.float32)


def emit(device: FaultyPanel, image: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(H, W, 3) float32 linear light of each subpixel, 1 = full, for an (H, W, 3) uint8 picture sent to the panel."""
    light = BLACK_LEAK + (1 - BLACK_LEAK) * _to_light(image)
    for fault in device.faults:
        x, y = int(round(fault.x)), int(round(fault.y))
        channel = slice(None) if fault.channel is None else CHANNELS.index(fault.channel)
        match fault.kind:
            case "dead_pixel" | "dark_subpixel":
                light[y, x, channel] = 0.0
            case "bright_pixel" | "bright_subpixel":
                light[y, x, channel] = 1.0
            case "dark_column":
                light[:, x, channel] = 0.0
            case "dark_row":
                light[y, :, channel] = 0.0
            case "dust" | "shade":
                _spot(light, fault)
    return light


def random_faults(panel: Panel, count: int, rng: np.random.Generator, keep_clear: int = 3) -> tuple[DeviceFault, ...]:
    """``count`` single pixel and subpixel faults of mixed kinds, at least six pixels apart and off the rim."""
    faults: list[DeviceFault] = []
    kinds: tuple[FaultKind, ...] = ("dead_pixel", "dark_subpixel", "bright_subpixel", "bright_pixel")
    while len(faults) < count:
        x, y = int(rng.integers(keep_clear, panel.width - keep_clear)), int(rng.integers(keep_clear, panel.height - keep_clear))
        if any(abs(x - f.x) < 12 and abs(y - f.y) < 12 for f in faults):
            continue
        kind = kinds[int(rng.choice(4, p=(0.25, 0.4, 0.25, 0.1)))]
        channel = CHANNELS[int(rng.integers(3))] if kind.endswith("subpixel") else None
        faults.append(DeviceFault(kind=kind, x=x, y=y, channel=channel))
    return tuple(faults)


def shoot_set(
    device: FaultyPanel, pattern_ids: tuple[str, ...], camera: Camera, rng: np.random.Generator, run: int = 0,
) -> dict[str, Shot]:
    """One handheld photo of each pattern, every one from its own pose, by pattern id."""
    shots = {}
    for pattern_id in pattern_ids:
        light = emit(device, render(device.panel, get_pattern(pattern_id), run))
        shots[pattern_id] = photograph(light, camera, random_pose(device.panel, camera, rng), rng)
    return shots
