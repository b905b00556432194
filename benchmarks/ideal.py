"""Our recall of dark subpixels beside the best that a linear observer of the same photos could reach.

That observer knows the photo without the fault, what the fault changes in it, and the noise (Hotelling's: SNR^2 = d' C^-1 d over all
photos; Barrett, Myers, Foundations of Image Science, 13.2, from memory). It has the same budget of false findings and no texture to
fear. A finding's threshold is that of a search over the whole panel.
"""

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm

from benchmarks.zones import SOLIDS
from lens.faults import FALSE_ALARMS_PER_SET
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import Panel, make_panel
from lens.patterns import get_pattern, marker_mask
from lens.simulate import Camera, DeviceFault, FaultyPanel, Pose, random_camera, random_pose, shoot
from lens.simulate.device import CHANNELS

PANEL: Panel = make_panel(1920, 1080)
FILL = 0.9
ROWS = ((1.2, 0.8), (1.35, 0.8), (1.5, 0.8), (1.8, 0.8), (1.2, 1.0))
REACH_PX, WINDOWS, KINDS, RIDGE = 4, 4000, 8, 0.02
COLUMNS, LINES = 8, 5
UNDER_INK_PX = 6


class _Observer(NamedTuple):
    """What one photo tells: the change by the faults, (h, w, 3), under two different noises, since the same change twice would count the
    coder's own noise as knowledge; and the inverse covariance of a window's noise."""

    changes: tuple[NDArray[np.float32], NDArray[np.float32]]
    inverse: NDArray[np.float64]
    corners: tuple[tuple[float, float], ...]


def _pixels(data: bytes) -> NDArray[np.float32]:
    return np.asarray(cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR), np.float32)


def _windows(
    noise: NDArray[np.float32], corners: Sequence[tuple[float, float]], rng: np.random.Generator
) -> NDArray[np.float64]:
    """(n, d) windows of pure noise from inside the panel."""
    low, high = np.min(corners, axis=0) + 60, np.max(corners, axis=0) - 60
    places = rng.uniform(low, high, (WINDOWS, 2)).astype(int)
    side = 2 * REACH_PX + 1
    return np.stack([noise[y : y + side, x : x + side].ravel() for x, y in places]).astype(float)


def _observe(device: FaultyPanel, name: str, camera: Camera, pose: Pose, seed: int) -> tuple[_Observer, bytes]:
    """A photo of the faulty panel, and what an observer who knows everything else has from it."""
    faulty = [shoot(device, name, camera, np.random.default_rng([seed, n]), pose=pose) for n in (1, 2)]
    clean = [
        _pixels(shoot(FaultyPanel(panel=PANEL), name, camera, np.random.default_rng([seed, n]), pose=pose).data)
        for n in (1, 2)
    ]
    windows = _windows((clean[0] - clean[1]) / np.float32(np.sqrt(2)), faulty[0].corners, np.random.default_rng(seed))
    covariance = np.cov(windows, rowvar=False)
    covariance += RIDGE * float(np.trace(covariance)) / len(covariance) * np.eye(len(covariance))
    first, second = (_pixels(shot.data) - same for shot, same in zip(faulty, clean, strict=True))
    return _Observer((first, second), np.asarray(np.linalg.inv(covariance), float), faulty[0].corners), faulty[0].data


def _power(observer: _Observer, fault: DeviceFault) -> float:
    """SNR^2 of one fault in one photo; the lens's bending is less than a window is wide."""
    outline = np.array(PANEL.corners, np.float32)
    to_photo = cv2.getPerspectiveTransform(outline, np.array(observer.corners, np.float32))
    at = cv2.perspectiveTransform(np.array([[[fault.x, fault.y]]], np.float32), to_photo)[0, 0]
    x, y = (int(round(float(v))) for v in at)
    near = np.abs(sum(change[y - 8 : y + 9, x - 8 : x + 9] for change in observer.changes)).sum(axis=2)
    row, column = np.unravel_index(int(np.argmax(cv2.blur(near, (3, 3)))), near.shape)
    y, x = y - 8 + int(row), x - 8 + int(column)
    part = (slice(y - REACH_PX, y + REACH_PX + 1), slice(x - REACH_PX, x + REACH_PX + 1))
    first, second = (change[part].ravel().astype(float) for change in observer.changes)
    return float(first @ observer.inverse @ second)


def _faults(rng: np.random.Generator) -> tuple[DeviceFault, ...]:
    """Dark subpixels of the three colours in turn, well apart, none under a marker."""
    step_x, step_y = PANEL.width // COLUMNS, PANEL.height // LINES
    places = [
        (step_x // 2 + step_x * (n % COLUMNS), step_y // 2 + step_y * (n // COLUMNS)) for n in range(COLUMNS * LINES)
    ]
    moved = [(x + int(rng.integers(-60, 61)), y + int(rng.integers(-40, 41))) for x, y in places]
    hidden = marker_mask(
        PANEL, get_pattern("white"), UNDER_INK_PX
    )  # the six solids carry their markers at the same places
    return tuple(
        DeviceFault(kind="dark_subpixel", x=x, y=y, channel=CHANNELS[n % 3])
        for n, (x, y) in enumerate(moved)
        if not hidden[y, x]
    )


def print_ideal(sets: int, first_seed: int) -> None:
    """The table of dark subpixels: our recall, the ideal observer's, and their ratio."""
    threshold = float(norm.isf(FALSE_ALARMS_PER_SET / (PANEL.pixels * KINDS)))
    print(
        f"\ndark subpixels beside an ideal linear observer of the same photos (panel {PANEL.width}x{PANEL.height}); seeds from {first_seed}"
    )
    print("px/px  blur  colour  faults   ours  ideal  ours of ideal")
    for scale, blur in ROWS:
        ours: dict[str, list[bool]] = {channel: [] for channel in CHANNELS}
        ideal: dict[str, list[float]] = {channel: [] for channel in CHANNELS}
        for seed in range(first_seed, first_seed + sets):
            rng = np.random.default_rng(seed)
            width = round(scale * PANEL.width / FILL / 8) * 8
            camera = random_camera(rng, width, width * 3 // 4).model_copy(update={"blur_px": blur})
            faults = _faults(rng)
            told, power = [], np.zeros(len(faults))
            for name in SOLIDS:
                pose = random_pose(PANEL, camera, rng, fill=FILL)
                observer, data = _observe(FaultyPanel(panel=PANEL, faults=faults), name, camera, pose, seed)
                told.append(PhotoFile(f"{name}.jpg", data))
                power += [_power(observer, fault) for fault in faults]
            found = [f for f in inspect_files(PANEL, told).findings if f.kind == "dark_subpixel"]
            for fault, strength in zip(faults, power, strict=True):
                ideal[fault.channel or "red"].append(float(norm.sf(threshold - np.sqrt(max(float(strength), 0.0)))))
                ours[fault.channel or "red"].append(
                    any(abs(f.x - fault.x) <= 1 and abs(f.y - fault.y) <= 1 for f in found)
                )
        for channel in CHANNELS:
            best, own = float(np.mean(ideal[channel])), float(np.mean(ours[channel]))
            ratio = own / max(best, 1e-6)
            print(
                f"{scale:5.2f}  {blur:4.1f}  {channel:6s}  {len(ours[channel]):6d}  {own:5.3f}  {best:5.3f}  {ratio:13.2f}",
                flush=True,
            )
