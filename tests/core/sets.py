"""Simulated photo sets of a small panel, shot once for all tests of a process."""

from functools import cache

import numpy as np

from lens.faults.light_model import build_light_model
from lens.faults.pixels import Evidence
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import Panel, make_panel
from lens.photo import read_photo
from lens.records import Finding
from lens.simulate import Camera, DeviceFault, FaultyPanel, Shot, shoot_set

PANEL: Panel = make_panel(800, 500, 10.1)
SOLIDS = ("white", "black", "red", "green", "blue", "grey50")
CAMERA = Camera(width=1800, height=1350, blur_px=0.8, barrel=0.004)
FAULTS: tuple[DeviceFault, ...] = (
    DeviceFault(kind="dead_pixel", x=120, y=90),
    DeviceFault(kind="dark_subpixel", x=400, y=300, channel="green"),
    DeviceFault(kind="dark_subpixel", x=600, y=130, channel="red"),
    DeviceFault(kind="bright_subpixel", x=300, y=400, channel="blue"),
    DeviceFault(kind="bright_subpixel", x=700, y=420, channel="red"),
    DeviceFault(kind="bright_pixel", x=222, y=222),
    DeviceFault(kind="dead_pixel", x=505, y=211),
    DeviceFault(kind="dead_pixel", x=508, y=213),
)


@cache
def shots(
    faults: tuple[DeviceFault, ...] = FAULTS, patterns: tuple[str, ...] = SOLIDS, camera: Camera = CAMERA, seed: int = 7
) -> dict[str, Shot]:
    """The photos with their truth."""
    return shoot_set(FaultyPanel(panel=PANEL, faults=faults), patterns, camera, np.random.default_rng(seed))


def files(**kwargs: object) -> list[PhotoFile]:
    """The photos as files, without saying what they show."""
    return [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots(**kwargs).items()]  # type: ignore[arg-type]


def evidence_of(photos: list[PhotoFile]) -> Evidence:
    """The photos read and put together."""
    reads = [read_photo(photo.data, PANEL) for photo in photos]
    return Evidence(PANEL, reads, build_light_model(reads))


@cache
def found(
    faults: tuple[DeviceFault, ...], seed: int, patterns: tuple[str, ...] = SOLIDS, camera: Camera = CAMERA
) -> tuple[Finding, ...]:
    """The findings of a set of these faults."""
    return inspect_files(PANEL, files(faults=faults, seed=seed, patterns=patterns, camera=camera)).findings
