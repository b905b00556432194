"""What an ordinary library pipeline finds on the same sets: a median background and OpenCV's blob detector, corners known.

It stands for what one would write in an afternoon; it tells neither channels nor kinds, so only places are compared.
"""

import time
from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np

from lens.inspecting import PhotoFile
from lens.panel import Panel
from lens.patterns import get_pattern, marker_mask
from lens.simulate import FaultyPanel

Corners = tuple[tuple[float, float], ...]
UPSCALED, MEDIAN_PX, SIGMAS, NEAR_PX, HIDDEN_PX = 3, 9, 6.0, 1.5, 4


class LibraryCount(NamedTuple):
    """Counts over sets so far."""

    faults: int = 0
    found: int = 0
    false: int = 0
    sets: int = 0
    seconds: float = 0.0

    def with_set(self, device: FaultyPanel, files: Sequence[PhotoFile], corners: Sequence[Corners]) -> "LibraryCount":
        """One more set."""
        start = time.perf_counter()
        places = _found(device.panel, files, corners)
        seconds = time.perf_counter() - start
        hidden = marker_mask(device.panel, get_pattern("white"), HIDDEN_PX)
        true = np.array([(f.x, f.y) for f in device.faults if not hidden[int(f.y), int(f.x)]])
        apart = (
            np.hypot(*(places[:, None] - true[None]).transpose(2, 0, 1))
            if len(places)
            else np.full((0, len(true)), np.inf)
        )
        found = int((apart.min(axis=0, initial=np.inf) <= NEAR_PX).sum())
        false = int((apart.min(axis=1) > NEAR_PX).sum())
        return LibraryCount(
            self.faults + len(true), self.found + found, self.false + false, self.sets + 1, self.seconds + seconds
        )

    def row(self) -> str:
        """The counts as a line of the table."""
        return f"{self.faults:6d}  {self.found / max(self.faults, 1):5.3f}  {self.false / self.sets:9.1f}  {self.seconds / self.sets:5.1f}"


def _found(panel: Panel, files: Sequence[PhotoFile], corners: Sequence[Corners]) -> np.ndarray:
    """(n, 2) places of the panel, each told once however many photos show it."""
    outline = np.array(panel.corners, np.float32)
    told: list[tuple[int, int]] = []
    for file, seen in zip(files, corners, strict=True):
        pattern = get_pattern(file.name)
        photo = np.asarray(cv2.imdecode(np.frombuffer(file.data, np.uint8), cv2.IMREAD_COLOR), np.uint8)
        # three samples a panel pixel, so that a pixel is a blob and not a point
        to_panel = cv2.getPerspectiveTransform(np.array(seen, np.float32), (outline + 0.5) * UPSCALED - 0.5)
        flat = cv2.warpPerspective(
            photo, to_panel, (panel.width * UPSCALED, panel.height * UPSCALED), flags=cv2.INTER_LINEAR
        ).max(axis=2)
        rest = flat.astype(np.int16) - cv2.medianBlur(flat, MEDIAN_PX)
        sigma = max(1.4826 * float(np.median(np.abs(rest[::3, ::3]))), 1.0)
        hidden = np.repeat(np.repeat(marker_mask(panel, pattern, HIDDEN_PX), UPSCALED, axis=0), UPSCALED, axis=1)
        for sign in (-1, 1):
            spots = np.where((sign * rest > SIGMAS * sigma) & ~hidden, 0, 255).astype(np.uint8)
            told += [
                (round((p.pt[0] - 1) / UPSCALED), round((p.pt[1] - 1) / UPSCALED)) for p in _detector().detect(spots)
            ]
    return np.array(sorted(set(told)), float).reshape(-1, 2)


def _detector() -> cv2.SimpleBlobDetector:
    options = cv2.SimpleBlobDetector.Params()
    options.minThreshold, options.maxThreshold, options.thresholdStep = 100, 200, 50
    options.filterByArea, options.minArea, options.maxArea = True, 2, 200
    options.filterByCircularity = options.filterByConvexity = options.filterByInertia = False
    options.minDistBetweenBlobs = 2.0
    return cv2.SimpleBlobDetector.create(options)
