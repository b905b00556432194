"""Accuracy of lines, zones and uniformity on seeded sets: what was put in against what was found."""

import statistics
from collections.abc import Callable, Sequence

import numpy as np

from benchmarks.calibration import Stated, print_reliability
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import Panel, make_panel
from lens.records import Finding, Inspection
from lens.simulate import Camera, DeviceFault, FaultyPanel, random_camera, shoot_set

SOLIDS = ("white", "black", "red", "green", "blue", "grey50")
LINES_A_SET = 8
HALF_DEPTH_SIGMAS = 2.3548
SAME_PLACE = 0.3  # overlap of boxes from which a zone counts as the one that was put in
# a panel of a quarter of the size and a camera of a quarter of the pixels: 1.5 to 1.9 camera px per panel px, four times as fast
PANEL: Panel = make_panel(960, 600, 11.6)
Box = tuple[float, float, float, float]


def camera_for(rng: np.random.Generator) -> Camera:
    """An ordinary phone of 3 MP with up to 40 % fall-off."""
    return random_camera(rng, 2000, 1500).model_copy(update={"vignetting": float(rng.uniform(0.1, 0.4))})


def inspected(faults: Sequence[DeviceFault], camera: Camera, rng: np.random.Generator) -> Inspection:
    """A simulated set, inspected."""
    shots = shoot_set(FaultyPanel(panel=PANEL, faults=tuple(faults)), SOLIDS, camera, rng)
    return inspect_files(PANEL, [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()])


def random_lines(rng: np.random.Generator) -> list[DeviceFault]:
    """Lines of 5 to 100 % contrast, whole and part, of one to three pixels, well apart."""
    lines: list[DeviceFault] = []
    tracks = {"column": 60 + 110 * rng.permutation(8), "row": 50 + 100 * rng.permutation(5)}
    for n in range(LINES_A_SET):
        upright = n < LINES_A_SET - 3
        length_all = PANEL.height if upright else PANEL.width
        length = length_all if rng.random() < 0.4 else int(rng.integers(60, length_all // 2))
        width = int(rng.integers(1, 4))
        start = 0 if length == length_all else int(rng.integers(5, length_all - length - 5))
        across = (
            float(tracks["column" if upright else "row"][n if upright else n - 5])
            + int(rng.integers(0, 20))
            + (0.5 if width == 2 else 0)
        )
        along = start + (length - 1) / 2
        x, y, w, h = (across, along, width, length) if upright else (along, across, length, width)
        lines.append(DeviceFault(kind="block", x=x, y=y, w=w, h=h, depth=float(np.exp(rng.uniform(np.log(0.05), 0)))))
    return lines


def overlap(finding: Finding, box: Box) -> float:
    """Intersection over union with a box of centre and size."""
    x, y, w, h = box
    across = min(finding.x + finding.w / 2, x + w / 2) - max(finding.x - finding.w / 2, x - w / 2)
    down = min(finding.y + finding.h / 2, y + h / 2) - max(finding.y - finding.h / 2, y - h / 2)
    both = max(across, 0) * max(down, 0)
    return both / (finding.w * finding.h + w * h - both)


def soft_box(fault: DeviceFault) -> Box:
    half_w, half_h = HALF_DEPTH_SIGMAS * fault.size_px / 2, HALF_DEPTH_SIGMAS * (fault.h or fault.size_px) / 2
    left, right = max(-0.5, fault.x - half_w), min(PANEL.width - 0.5, fault.x + half_w)
    top, bottom = max(-0.5, fault.y - half_h), min(PANEL.height - 0.5, fault.y + half_h)
    return (left + right) / 2, (top + bottom) / 2, right - left, bottom - top


def _place(rng: np.random.Generator, margin: int = 100) -> tuple[float, float]:
    return float(rng.uniform(margin, PANEL.width - margin)), float(rng.uniform(margin, PANEL.height - margin))


def _dark(rng: np.random.Generator) -> DeviceFault:
    x, sigma_x, sigma_y = (
        float(rng.uniform(50, PANEL.width - 50)),
        float(rng.uniform(50, 120)),
        float(rng.uniform(40, 90)),
    )
    return DeviceFault(
        kind="shade", x=x, y=PANEL.height - 1, size_px=sigma_x, h=sigma_y, depth=float(rng.uniform(0.15, 0.6))
    )


def _hot(rng: np.random.Generator) -> DeviceFault:
    x, y = _place(rng)
    return DeviceFault(kind="shade", x=x, y=y, size_px=float(rng.uniform(30, 70)), depth=-float(rng.uniform(0.12, 0.3)))


def _bleed(rng: np.random.Generator) -> DeviceFault:
    x = float(rng.choice([5, PANEL.width - 6]))
    return DeviceFault(
        kind="leak",
        x=x,
        y=float(rng.uniform(50, 550)),
        size_px=float(rng.uniform(30, 60)),
        depth=float(rng.uniform(0.01, 0.05)),
    )


def _mura(rng: np.random.Generator) -> DeviceFault:
    (x, y), sigma = _place(rng), float(rng.uniform(28, 60))
    area_mm2 = np.pi * (HALF_DEPTH_SIGMAS / 2 * sigma * (PANEL.pitch_mm or 1)) ** 2
    # SEMI D31, from memory: the contrast in percent that one SEMU is for this area
    depth = float(rng.uniform(2, 4)) * (1.97 / area_mm2**0.33 + 0.72) / 100
    return DeviceFault(kind="shade", x=x, y=y, size_px=sigma, depth=float(rng.choice([-1, 1]) * depth))


def _tint(rng: np.random.Generator) -> DeviceFault:
    x, y = _place(rng, 150)
    return DeviceFault(
        kind="tint", x=x, y=y, size_px=float(rng.uniform(50, 90)), rgb=(0.0, 0.01, float(rng.uniform(0.1, 0.2)))
    )


ZONES: tuple[tuple[str, str, Callable[[np.random.Generator], DeviceFault]], ...] = (
    ("dark zone", "dark_zone", _dark),
    ("hot spot", "bright_zone", _hot),
    ("bleed on black", "bleed", _bleed),
    ("mura, 2 to 4 SEMU", "mura", _mura),
    ("tint", "discoloration", _tint),
)


def _line_row(sets: int, seed: int) -> None:
    put = missed = exact = near = false = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        lines = random_lines(rng)
        told = [
            f
            for f in inspected(lines, camera_for(rng), rng).findings
            if f.kind in ("line", "band", "dark_zone", "mura", "dead_pixel")
        ]
        for line in lines:
            put += 1
            upright = line.h > line.w
            box = (line.x, line.y, max(line.w, 6), max(line.h, 6))
            same = [f for f in told if f.kind == "line" and (f.h > f.w) == upright and overlap(f, box) > 0]
            match = min(same, key=lambda f: abs((f.x - line.x) if upright else (f.y - line.y)), default=None)
            if match is None:
                missed += 1
                continue
            told.remove(match)
            off = abs(match.x - line.x) if upright else abs(match.y - line.y)
            exact += off == 0 and min(match.w, match.h) == min(line.w, line.h)
            near += off <= 1
        false += len(told)
    print(
        f"{'lines from 5 %':16s} {sets:5d} {put:6d} {put - missed:6d} {missed:7d}   place and width exact {exact / put:.3f}, "
        f"within 1 px {near / put:.3f}; {false / sets:.2f} false a set",
        flush=True,
    )


def _zone_row(
    name: str, kind: str, make: Callable[[np.random.Generator], DeviceFault], sets: int, seed: int
) -> list[Stated]:
    """One row; the confidence of each finding and whether it is the one that was put in."""
    boxes, false, hit = [], 0, 0
    sure: list[Stated] = []
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        fault = make(rng)
        told = list(inspected([fault], camera_for(rng), rng).findings)
        same = [f for f in told if f.kind == kind]
        best = max((overlap(f, soft_box(fault)) for f in same), default=0.0)
        sure += [
            Stated(f.confidence, f.kind == kind and overlap(f, soft_box(fault)) >= SAME_PLACE, f.kind) for f in told
        ]
        hit += best >= 0.5
        boxes.append(best)
        false += len(told) - bool(same)
    print(
        f"{name:16s} {sets:5d} {sets:6d} {hit:6d} {sets - hit:7d}   median overlap of boxes {statistics.median(boxes):.2f}; "
        f"{false / sets:.2f} false a set",
        flush=True,
    )
    return sure


def _uniformity_row(sets: int, seed: int) -> None:
    errors, covered = [], 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        side = float(rng.choice([0, PANEL.width - 1]))
        lean = DeviceFault(kind="shade", x=side, y=300, size_px=480, h=5000, depth=float(rng.uniform(0.1, 0.4)))
        told = inspected([lean], camera_for(rng), rng).uniformity
        x = np.array([0.1, 0.5, 0.9]) * PANEL.width - 0.5
        level = 1 - lean.depth * np.exp(-((x - side) ** 2) / (2 * 480**2))
        assert told is not None
        errors.append(abs(told.ratio - float(level.min() / level.max())))
        covered += errors[-1] <= told.uncertainty
    print(
        f"{'uniformity':16s} {sets:5d} {sets:6d} {'':15s}  error of the ratio: median {statistics.median(errors):.3f}, "
        f"largest {max(errors):.3f}; interval covers {covered / sets:.2f}"
    )


def print_table(sets: int, first_seed: int) -> None:
    """The table of lines, zones and uniformity."""
    print(
        f"\nlines, zones, uniformity: panel {PANEL.width}x{PANEL.height}, six solids, fall-off 10 to 40 %; seeds from {first_seed}"
    )
    print("what              sets    put  found  missed")
    _line_row(sets, first_seed)
    sure = [told for name, kind, make in ZONES for told in _zone_row(name, kind, make, sets, first_seed)]
    _uniformity_row(sets, first_seed)
    print_reliability(sure)
