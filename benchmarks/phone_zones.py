"""Zones, bands and mura by a phone that exposes by itself and maps its tones by place, on panels with their natural light."""

from collections import Counter
from collections.abc import Callable

import numpy as np

from benchmarks.calibration import Stated, print_reliability
from benchmarks.zones import PANEL, SAME_PLACE, ZONES, Box, overlap, soft_box
from lens.inspecting import PhotoFile, inspect_files
from lens.patterns import get_set
from lens.records import Inspection
from lens.simulate import DeviceFault, FaultyPanel, shoot_by_phone
from lens.simulate.phone import held_anew, natural_light, random_phone

Made = tuple[DeviceFault, Box]


def _band(rng: np.random.Generator) -> DeviceFault:
    """4 to 40 px wide, over the whole width; dark, as a lit one shines on black too and is told as the light that comes through there."""
    thick = int(rng.integers(4, 41))
    y = float(rng.integers(80, PANEL.height - 80)) + (0.5 if thick % 2 == 0 else 0.0)
    return DeviceFault(
        kind="block", x=(PANEL.width - 1) / 2, y=y, w=PANEL.width, h=thick, depth=float(rng.uniform(0.1, 0.4))
    )


ROWS: tuple[tuple[str, str, Callable[[np.random.Generator], DeviceFault] | None], ...] = (
    ("sound", "", None),
    ("band, 4 to 40 px", "band", _band),
    *ZONES,
)


def shot_by_phone(faults: tuple[DeviceFault, ...], rng: np.random.Generator) -> Inspection:
    """A standard set of a device with its natural light, inspected."""
    device = FaultyPanel(panel=PANEL, faults=faults, glass_above_px=3.0, view_loss=0.15)
    phone, natural = random_phone(rng, 2200, 1650), natural_light(PANEL, rng)
    files = [
        PhotoFile(name, shoot_by_phone(device, name, held_anew(phone, rng), rng, natural=natural)[0].data)
        for name in get_set("standard").patterns
    ]
    return inspect_files(PANEL, files)


def print_phone_zones(sets: int, first_seed: int) -> None:
    """The table."""
    print(
        f"\nzones by a phone that exposes by itself, panel {PANEL.width}x{PANEL.height}, standard sets; seeds from {first_seed}"
    )
    print("what                 sets  found  called else  false/set  edges off, px (median, worst)")
    sure: list[Stated] = []
    for name, kind, make in ROWS:
        hit = false = 0
        other, off = Counter[str](), []
        for seed in range(first_seed, first_seed + sets):
            rng = np.random.default_rng(seed)
            fault = make(rng) if make else None
            told = list(shot_by_phone((fault,) if fault else (), rng).findings)
            if fault is None:
                false += len(told)
                sure += [Stated(f.confidence, False, f.kind) for f in told]
                continue
            box = (fault.x, fault.y, fault.w, fault.h) if fault.kind == "block" else soft_box(fault)
            same = [f for f in told if overlap(f, box) >= SAME_PLACE]
            right = [f for f in same if f.kind == kind]
            hit += bool(right)
            other.update(f.kind for f in same if not right)
            false += len(told) - max(len(right), bool(same))
            sure += [Stated(f.confidence, f in right, f.kind) for f in told]
            if kind == "band" and right:
                off.append(max(abs(right[0].y - fault.y) + abs(right[0].h - fault.h) / 2, 0))
        edges = f"{np.median(off):.1f}, {max(off):.1f}" if off else ""
        found = f"{hit:6d}" if make else "      "
        told_as = ", ".join(f"{many} {kind}" for kind, many in other.items()) or "-"
        print(f"{name:19s} {sets:5d} {found}  {told_as:11s}  {false / sets:9.2f}  {edges}", flush=True)
    print_reliability(sure)
