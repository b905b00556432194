"""A simulated panel: what light each of its subpixels gives when a pattern is sent to it, faults included."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.records.base import Record
from lens.simulate.camera import shared_light
from lens.simulate.glass import Blemish, glass_map
from lens.simulate.scene import Dimming, Glass

FaultKind = Literal[
    "dead_pixel",
    "bright_pixel",
    "dark_subpixel",
    "bright_subpixel",
    "dark_column",
    "dark_row",
    "block",
    "dust",
    "shade",
    "leak",
    "tint",
    "crack",
    "ghost",
]
LOWEST_SHARE, CONTROL_EXPONENT = 0.06, 1.6
CLOSED_CELL = 0.75  # of what an open cell sends back of light from outside
CHANNELS: tuple[Literal["red", "green", "blue"], ...] = ("red", "green", "blue")
GHOST_SHARE = 0.15
BLACK_LEAK = 0.0008  # share of full light that a liquid-crystal cell lets through when dark (contrast about 1250:1)


class DeviceFault(Record):
    """One true fault, ``x, y`` being its centre.

    block : a rectangle of ``w`` x ``h`` px (lines and bands too) whose cells let through ``1 - depth`` of what they should;
        with a negative depth they add that share of full light
    dust, shade : a soft spot of sigma ``size_px`` (``h`` as sigma down where it differs), darkest share ``depth``; negative is
        a hot spot
    leak : light of ``depth`` x white that comes through every cell, of the same soft shape
    crack : a panel broken at ``x, y``: a lake of ink of radius ``size_px``, ``w`` rays of ``h`` px that leave it, and dead columns
        below it; ``depth`` seeds its shape
    ghost : an earlier picture of ``w`` x ``h`` px that stayed, its parts darker by ``depth``; ``size_px`` seeds what it shows
    tint : ``rgb`` are the shares that the three colours lose in the middle of the same soft shape
    """

    kind: FaultKind
    x: float
    y: float
    channel: Literal["red", "green", "blue"] | None = None
    size_px: float = 0.0
    depth: float = 0.0
    w: float = 0.0
    h: float = 0.0
    rgb: tuple[float, float, float] = (0.0, 0.0, 0.0)


class FaultyPanel(Record):
    """A panel with its true faults. ``wiring`` says which colour of the signal each of red, green and blue shows, None for none;
    an ``inverted`` one shows the negative. ``gamma`` are the exponents of red, green and blue; None is the sRGB curve.
    ``picture`` says what comes of the picture on its way: all of it or its lower part rolled by ``offset_px``, its left half twice, all
    of it moved by ``offset_px`` with black in its place (cut), its right half black (half), or mixed with ``GHOST_SHARE`` of itself
    ``offset_px`` to the right (ghost).
    ``blemishes`` lie on a glass that stands ``glass_above_px`` above the pixels. ``view_loss`` is the share of light lost at 45
    degrees, ``brightness`` what the backlight gives of what it should, ``black_leak`` is 0 for pixels that light themselves.
    ``bit_maps`` says, for red, green and blue, which bit of the signal each of a level's bits from 0 to 7 shows, -1 for always 0, -2
    for always 1; with ``bits_of_every_second`` only odd columns are so.
    ``layout`` is striped, or shared: a red or a blue subpixel for two pixels in turn, as many self-lit panels have.
    The brightness ``control`` works or is stuck; below full it may dim by pulses, ``dimmed_hz`` times a second.
    ``outside_light`` is what open cells send back of a torch or a bright room, in shares of white; closed ones send back less."""

    panel: Panel
    faults: tuple[DeviceFault, ...] = ()
    inverted: bool = False
    wiring: tuple[int | None, int | None, int | None] = (0, 1, 2)
    gamma: tuple[float, float, float] | None = None
    dimming: Dimming | None = None
    picture: Literal["whole", "shifted", "torn", "repeated", "cut", "half", "ghost"] = "whole"
    offset_px: int = 0
    blemishes: tuple[Blemish, ...] = ()
    glass_above_px: float = 0.0
    view_loss: float = 0.0
    brightness: float = 1.0
    outside_light: float = 0.0
    black_leak: float = BLACK_LEAK
    layout: Literal["striped", "shared"] = "striped"
    bit_maps: tuple[tuple[int, ...], ...] | None = None
    bits_of_every_second: bool = False
    control: Literal["works", "stuck"] = "works"
    dimmed_hz: float | None = None


def _to_light(image: NDArray[np.uint8], gamma: tuple[float, float, float] | None) -> NDArray[np.float32]:
    code = np.arange(256) / 255.0
    if gamma is not None:
        return np.stack(
            [(code**exponent).astype(np.float32)[image[..., c]] for c, exponent in enumerate(gamma)], axis=-1
        )
    table = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4).astype(np.float32)
    return table[image]


def _spot(light: NDArray[np.float32], fault: DeviceFault) -> tuple[tuple[slice, slice], NDArray[np.float32]]:
    """Where a soft spot lies, and its (h, w, 1) shape, 1 in the middle."""
    height, width, _ = light.shape
    sigma_x, sigma_y = fault.size_px, fault.h or fault.size_px
    x0, x1 = max(0, int(fault.x - 4 * sigma_x)), min(width, int(fault.x + 4 * sigma_x) + 2)
    y0, y1 = max(0, int(fault.y - 4 * sigma_y)), min(height, int(fault.y + 4 * sigma_y) + 2)
    yy, xx = np.mgrid[y0:y1, x0:x1]
    shape = np.exp(-((xx - fault.x) ** 2) / (2 * sigma_x**2) - (yy - fault.y) ** 2 / (2 * sigma_y**2))
    return (slice(y0, y1), slice(x0, x1)), shape[..., None].astype(np.float32)


def _block(light: NDArray[np.float32], fault: DeviceFault, channel: slice | int) -> None:
    x0, y0 = round(fault.x - (fault.w - 1) / 2), round(fault.y - (fault.h - 1) / 2)
    part = (slice(max(0, y0), y0 + round(fault.h)), slice(max(0, x0), x0 + round(fault.w)), channel)
    if fault.depth >= 0:
        light[part] *= np.float32(1 - fault.depth)
    else:
        light[part] = np.minimum(1, light[part] - np.float32(fault.depth))


def crack_mask(panel: Panel, fault: DeviceFault) -> NDArray[np.float32]:
    """(H, W) share of light that a crack takes: 1 under the ink and its dead columns, less along the rays."""
    rng = np.random.default_rng(round(1000 * fault.depth))
    mask = np.zeros((panel.height, panel.width), np.float32)
    angles = np.sort(rng.uniform(0, 2 * np.pi, round(fault.w)))
    for angle in angles:
        point, heading, walked = np.array([fault.x, fault.y]), float(angle), 0.0
        while walked < fault.h:
            step = float(rng.uniform(15, 40))
            heading += float(rng.normal(0, 0.18))
            ahead = point + step * np.array([np.cos(heading), np.sin(heading)])
            cv2.line(
                mask,
                [int(v) for v in point],
                [int(v) for v in ahead],
                float(rng.uniform(0.6, 0.95)),
                int(rng.integers(1, 4)),
            )
            point, walked = ahead, walked + step
    turn = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    radius = fault.size_px * (1 + 0.35 * np.sin(turn * 3 + rng.uniform(0, 6)) + rng.uniform(-0.2, 0.2, 40))
    outline = np.stack([fault.x + radius * np.cos(turn), fault.y + radius * np.sin(turn)], axis=1)
    cv2.fillPoly(mask, [np.round(outline).astype(np.int32)], 1.0)
    for _ in range(int(rng.integers(1, 5))):
        x = int(np.clip(fault.x + rng.uniform(-1, 1) * fault.size_px, 0, panel.width - 1))
        mask[max(0, int(fault.y)) :, x : x + int(rng.integers(1, 3))] = 1.0
    return mask


def ghost_mask(panel: Panel, fault: DeviceFault) -> NDArray[np.float32]:
    """(H, W) 1 where the picture that stayed had its bars, tiles and lines of text."""
    rng = np.random.default_rng(round(1000 * fault.size_px))
    mask = np.zeros((panel.height, panel.width), np.float32)
    left, top = round(fault.x - (fault.w - 1) / 2), round(fault.y - (fault.h - 1) / 2)
    width, height = round(fault.w), round(fault.h)

    def part(x: float, y: float, w: float, h: float) -> None:
        x0, y0 = left + round(x), top + round(y)
        mask[max(0, y0) : max(0, y0 + round(h)), max(0, x0) : max(0, x0 + round(w))] = 1

    part(0, 0, width, max(40, height / 9))
    menu = float(rng.uniform(0.14, 0.24)) * width
    part(0, height * 0.2, menu, height * 0.8)
    tile = max(48.0, min(width, height) / 7)
    for row in range(2):
        for column in range(int(rng.integers(2, 4))):
            part(menu + tile * (0.7 + 1.6 * column), height * 0.22 + 1.5 * tile * row, tile, tile)
    for line in range(4):
        part(menu + 0.7 * tile, height * 0.78 + 16 * line, float(rng.uniform(0.4, 0.7)) * width, 7)
    return mask


def _distorted(device: FaultyPanel, image: NDArray[np.uint8]) -> NDArray[np.uint8]:
    height, width, _ = image.shape
    match device.picture:
        case "shifted":
            return np.roll(image, device.offset_px, axis=1)
        case "torn":
            cut = round(0.55 * height)
            return np.concatenate([image[:cut], np.roll(image[cut:], device.offset_px, axis=1)])
        case "repeated":
            left = image[:, : width // 2]
            return np.concatenate([left, left, image[:, 2 * left.shape[1] :]], axis=1)
        case "cut":
            moved = np.roll(image, device.offset_px, axis=1)
            moved[:, slice(0, device.offset_px) if device.offset_px > 0 else slice(device.offset_px, None)] = 0
            return moved
        case "half":
            return np.concatenate([image[:, : width // 2], np.zeros_like(image[:, width // 2 :])], axis=1)
        case "ghost":
            late = np.roll(image, device.offset_px, axis=1).astype(float)
            return np.round((1 - GHOST_SHARE) * image + GHOST_SHARE * late).astype(np.uint8)
        case "whole":
            return image


def _wired(bit_maps: tuple[tuple[int, ...], ...], image: NDArray[np.uint8], every_second: bool) -> NDArray[np.uint8]:
    """The picture as the panel's inputs get it."""
    out = image.copy()
    columns = slice(1, None, 2) if every_second else slice(None)
    for channel, sources in enumerate(bit_maps):
        codes = np.arange(256)
        shown = np.zeros(256, int)
        for bit, source in enumerate(sources):
            shown |= ((codes >> source & 1) if source >= 0 else np.full(256, int(source == -2))) << bit
        out[:, columns, channel] = shown.astype(np.uint8)[image[:, columns, channel]]
    return out


def emit(device: FaultyPanel, image: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(H, W, 3) float32 linear light of each subpixel, 1 = full, for an (H, W, 3) uint8 picture sent to the panel."""
    image = 255 - image if device.inverted else image
    if device.wiring != (0, 1, 2):
        none = np.zeros(image.shape[:2], np.uint8)
        image = np.stack([none if source is None else image[..., source] for source in device.wiring], axis=-1)
    image = _distorted(device, image)
    if device.bit_maps is not None:
        image = _wired(device.bit_maps, image, device.bits_of_every_second)
    opened = _to_light(image, device.gamma)
    light = device.brightness * (device.black_leak + (1 - device.black_leak) * opened)
    if device.outside_light:
        light += np.float32(device.outside_light) * (
            CLOSED_CELL + (1 - CLOSED_CELL) * opened.mean(axis=2, keepdims=True)
        )
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
            case "block":
                _block(light, fault, channel)
            case "dust" | "shade":
                place, shape = _spot(light, fault)
                light[place] *= 1 - np.float32(fault.depth) * shape
            case "leak":
                place, shape = _spot(light, fault)
                light[place] += np.float32(device.brightness * fault.depth) * shape
            case "crack":
                light *= 1 - crack_mask(device.panel, fault)[..., None]
            case "ghost":
                light *= 1 - np.float32(fault.depth) * ghost_mask(device.panel, fault)[..., None]
            case "tint":
                place, shape = _spot(light, fault)
                light[place] *= 1 - shape * np.array(fault.rgb, np.float32)
    return shared_light(light) if device.layout == "shared" else light


def random_faults(
    panel: Panel, count: int, rng: np.random.Generator, keep_clear: int = 3, shared: bool = False
) -> tuple[DeviceFault, ...]:
    """``count`` single pixel and subpixel faults of mixed kinds, at least six pixels apart and off the rim; only of subpixels that a
    panel with a ``shared`` layout has."""
    faults: list[DeviceFault] = []
    kinds: tuple[FaultKind, ...] = ("dead_pixel", "dark_subpixel", "bright_subpixel", "bright_pixel")
    while len(faults) < count:
        x, y = (
            int(rng.integers(keep_clear, panel.width - keep_clear)),
            int(rng.integers(keep_clear, panel.height - keep_clear)),
        )
        if any(abs(x - f.x) < 12 and abs(y - f.y) < 12 for f in faults):
            continue
        kind = kinds[int(rng.choice(4, p=(0.25, 0.4, 0.25, 0.1)))]
        channel = CHANNELS[int(rng.integers(3))] if kind.endswith("subpixel") else None
        lacking = shared and channel == ("red" if (x + y) % 2 else "blue")
        faults.append(DeviceFault(kind=kind, x=x + lacking, y=y, channel=channel))
    return tuple(faults)


def control_share(percent: float) -> float:
    """What a working brightness control gives of full light: near what looks like even steps."""
    return LOWEST_SHARE + (1 - LOWEST_SHARE) * (percent / 100) ** CONTROL_EXPONENT


def set_to(device: FaultyPanel, percent: int | None) -> FaultyPanel:
    """The panel with its brightness control at ``percent``; None is wherever it stands."""
    if percent is None or device.control == "stuck":
        return device
    share = control_share(percent)
    pulses = Dimming(hz=device.dimmed_hz, duty=share) if device.dimmed_hz and share < 1 else None
    return device.model_copy(update={"brightness": device.brightness * share, "dimming": pulses})


def glass_of(device: FaultyPanel) -> Glass | None:
    """What stands between its pixels and a camera, None where nothing shows."""
    if not (device.blemishes or device.view_loss):
        return None
    return Glass(glass_map(device.panel, device.blemishes), device.glass_above_px, device.view_loss)
