"""Accuracy of cracks and of wrong pictures on seeded sets."""

import statistics
from collections.abc import Sequence
from typing import Literal

import numpy as np

from benchmarks.zones import PANEL, camera_for, inspected, random_lines
from lens.faults.lvds import LANES
from lens.inspecting import PhotoFile, bear_witness, inspect_files
from lens.panel import make_panel
from lens.records import Inspection
from lens.simulate import Camera, DeviceFault, FaultyPanel, crack_mask, shoot_set

OUTSIDE = make_panel(1024, 640)
SOLIDS = ("white", "black", "red", "green", "blue", "grey50")
DISTORTIONS: tuple[Literal["shifted", "torn", "repeated", "half", "ghost"], ...] = (
    "shifted",
    "torn",
    "repeated",
    "half",
    "ghost",
)
WIRINGS: tuple[tuple[tuple[int | None, int | None, int | None], bool, str], ...] = (
    ((2, 1, 0), False, "exchanged"),
    ((1, 0, 2), False, "exchanged"),
    ((0, 2, 1), False, "exchanged"),
    ((None, 1, 2), False, "No red"),
    ((0, None, 2), False, "No green"),
    ((0, 1, None), False, "No blue"),
    ((0, 1, 2), True, "inverted"),
)


def random_crack(rng: np.random.Generator) -> DeviceFault:
    """From a small star to a quarter of the panel."""
    return DeviceFault(
        kind="crack",
        x=float(rng.uniform(100, PANEL.width - 100)),
        y=float(rng.uniform(80, PANEL.height - 80)),
        size_px=float(rng.uniform(20, 140)),
        w=int(rng.integers(4, 10)),
        h=float(rng.uniform(150, 500)),
        depth=float(rng.uniform(0, 1)),
    )


def _cracked(result: Inspection) -> float | None:
    """The live share that the crack's finding tells, None without a crack."""
    crack = next((f for f in result.findings if f.kind == "crack"), None)
    return None if crack is None else 1 + crack.contrast


def _crack_rows(sets: int, seed: int) -> None:
    errors, missed, false = [], 0, 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        fault = random_crack(rng)
        live = _cracked(inspected([fault], camera_for(rng), rng))
        missed += live is None
        if live is not None:
            errors.append(abs(live - 1 + float((crack_mask(PANEL, fault) > 0.5).mean())))
        lines = random_lines(rng)
        false += _cracked(inspected(lines, camera_for(rng), rng)) is not None
    print(
        f"{'crack':16s} {sets:5d} {sets:6d} {sets - missed:6d} {missed:7d}   live share: error median {statistics.median(errors):.3f}, "
        f"largest {max(errors):.3f}; {false} of {sets} sets of lines called cracked",
        flush=True,
    )


def _picture_row(sets: int, seed: int) -> None:
    named = false = put = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng)
        wiring, inverted, word = WIRINGS[number % len(WIRINGS)]
        for device, wanted in (
            (FaultyPanel(panel=PANEL, wiring=wiring, inverted=inverted), word),
            (FaultyPanel(panel=PANEL), ""),
        ):
            told = _artifacts(device, ("white", "black") if inverted else SOLIDS, camera, rng)
            put += bool(wanted)
            named += bool(wanted) and wanted in told
            false += not wanted and bool(told)
    print(
        f"{'wrong picture':16s} {sets:5d} {put:6d} {named:6d} {put - named:7d}   {false} of {sets} right pictures called wrong",
        flush=True,
    )


def _distortion_row(sets: int, seed: int) -> None:
    named = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        picture = DISTORTIONS[number % len(DISTORTIONS)]
        device = FaultyPanel(
            panel=PANEL,
            picture=picture,
            offset_px=int(rng.choice([-1, 1]) * rng.integers(40, 80 if picture == "ghost" else 300)),
        )
        named += picture in _artifacts(device, ("white", "black", "grey50"), camera_for(rng), rng)
    print(
        f"{'displaced picture':16s} {sets:4d} {sets:6d} {named:6d} {sets - named:7d}   "
        "shifted, torn, repeated, halved or with a ghost, by name",
        flush=True,
    )


def _bits_row(sets: int, seed: int) -> None:
    named = sound = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng)
        lane, stuck = LANES[number % len(LANES)], int(rng.integers(2))
        maps = tuple(tuple((-1, -2)[stuck] if n in bits else n for n in range(8)) for bits in lane.bits)
        for device, wanted in ((FaultyPanel(panel=PANEL, bit_maps=maps), lane), (FaultyPanel(panel=PANEL), None)):
            shot = shoot_set(device, ("bits",), camera, rng)["bits"]
            told = inspect_files(PANEL, [PhotoFile("bits.jpg", shot.data)]).data_bits
            found = tuple(frozenset(one.bits) for one in told.channels) if told else ()
            if wanted is None:
                sound += told is not None and told.outcome == "smooth"
            else:
                named += found == wanted.bits
    print(
        f"{'open data lane':16s} {sets:5d} {sets:6d} {named:6d} {sets - named:7d}   every bit and colour right; {sound} of {sets} sound ones called "
        "smooth",
        flush=True,
    )


def _external_row(sets: int, seed: int) -> None:
    """A line outside only, on both, or a second one on the panel: what the external screen says of it."""
    right = put = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng)
        share, other = (float(rng.uniform(0.1, 0.9)) for _ in range(2))
        own = DeviceFault(kind="dark_column", x=round(share * PANEL.width), y=0)
        outside = DeviceFault(kind="dark_column", x=round((own.x + 0.5) / PANEL.width * OUTSIDE.width - 0.5), y=0)
        second = DeviceFault(kind="dark_row", x=0, y=round(other * PANEL.height))
        for faults, shown, wanted in (
            ((own,), (), "clean"),
            ((own,), (outside,), "same_fault"),
            ((own, second), (outside,), "partly"),
        ):
            results = []
            for panel, told in ((PANEL, faults), (OUTSIDE, shown)):
                shots = shoot_set(FaultyPanel(panel=panel, faults=told), ("white", "grey50"), camera, rng)
                results.append(inspect_files(panel, [PhotoFile(name, shot.data) for name, shot in shots.items()]))
            put += 1
            right += bear_witness(*results).outcome == wanted
    print(
        f"{'external screen':16s} {sets:5d} {put:6d} {right:6d} {put - right:7d}   clean, the same line, or one of two there",
        flush=True,
    )


def _artifacts(device: FaultyPanel, patterns: Sequence[str], camera: Camera, rng: np.random.Generator) -> str:
    shots = shoot_set(device, tuple(patterns), camera, rng)
    result = inspect_files(PANEL, [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()])
    return " ".join(f.reasons[0] for f in result.findings if f.kind == "artifact")


def print_damage(sets: int, first_seed: int) -> None:
    """The rows of cracks and wrong pictures."""
    _crack_rows(sets, first_seed)
    _picture_row(sets, first_seed)
    _distortion_row(sets, first_seed)
    _bits_row(sets, first_seed)
    _external_row(sets, first_seed)
