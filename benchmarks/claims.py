"""Rows that hold what is stated to what is true: the smallest fault that would have been seen, what counts as proven, lines of one colour and
their repeat distance, tint in u'v', and whether what stayed fades."""

import math
import statistics
from collections.abc import Iterator
from typing import Literal

import numpy as np

from benchmarks.pixels import shoot_solids
from benchmarks.tones import XYZ_OF_RGB, uv_of_xyz
from benchmarks.zones import PANEL, SAME_PLACE, SOLIDS, camera_for, inspected, overlap, soft_box
from lens.inspecting import PhotoFile, inspect_files
from lens.inspecting.maps import CELL_COLUMNS, cell_rows
from lens.panel import make_panel
from lens.records import Finding, SmallestFault
from lens.simulate import CHANNELS, DeviceFault, FaultyPanel, random_camera, shoot

STATED = 0.95  # probability at which a smallest fault is stated
PIXELS_A_SET, LINES_A_SET = 24, 6
FADING_DEPTH, FADED = 0.05, (0.0, 0.6)
NINE = (0.1, 0.5, 0.9)
FULL_HD, COARSE_A_SET, COARSE_BLUR_PX, COARSE_PX_PER_PX = make_panel(1920, 1080), 200, (0.7, 1.05), (1.15, 1.35)
MOSTLY_BLUE: tuple[Literal["red", "green", "blue"], ...] = ("blue", "blue", "red", "blue", "green")


def _weak_pixels(smallest: tuple[SmallestFault, ...], rng: np.random.Generator) -> Iterator[DeviceFault]:
    """Subpixels and pixels, dark and lit, just as strong as is stated for their place, far apart."""
    stated = [one for one in smallest if one.map is not None]
    places = rng.permutation(
        [(x, y) for x in range(80, PANEL.width - 60, 100) for y in range(70, PANEL.height - 50, 90)]
    )
    for n, (x, y) in enumerate(places[:PIXELS_A_SET]):
        one = stated[n % len(stated)]
        assert one.map is not None
        cell = one.map.values[
            int(y / PANEL.height * one.map.rows) * one.map.columns + int(x / PANEL.width * one.map.columns)
        ]
        if cell <= 1:
            depth = -cell if one.kind.startswith("bright") else cell
            yield DeviceFault(kind="block", x=float(x), y=float(y), w=1, h=1, depth=depth, channel=one.channel)


def _weak_lines(smallest: tuple[SmallestFault, ...], rng: np.random.Generator) -> Iterator[DeviceFault]:
    """Whole lines of the stated contrast."""
    for one in smallest:
        if one.kind == "line":
            upright = one.orientation == "column"
            size, across = (PANEL.height, PANEL.width) if upright else (PANEL.width, PANEL.height)
            for n in range(LINES_A_SET // 2):
                at, along = float((n + 1) * across // 4 + int(rng.integers(-30, 30))), (size - 1) / 2
                x, y, w, h = (at, along, 1, size) if upright else (along, at, size, 1)
                yield DeviceFault(kind="block", x=x, y=y, w=w, h=h, depth=one.median)


def _weak_spots(smallest: tuple[SmallestFault, ...], rng: np.random.Generator) -> Iterator[DeviceFault]:
    """Two spots of the stated contrast and area, dark or bright."""
    one = next(one for one in smallest if one.kind == "mura")
    assert one.area_mm2 is not None and PANEL.pitch_mm is not None
    sigma = math.sqrt(one.area_mm2 / (2 * math.pi * math.log(2))) / PANEL.pitch_mm
    for share in (0.3, 0.7):
        x, y = (size * share + float(rng.uniform(-80, 80)) for size in (PANEL.width, PANEL.height))
        yield DeviceFault(kind="shade", x=x, y=y, size_px=sigma, depth=one.median * float(rng.choice([-1, 1])))


def _there(fault: DeviceFault, told: tuple[Finding, ...], kind: str) -> bool:
    if kind == "spot":
        return any(
            f.kind in ("mura", "dark_zone", "bright_zone") and overlap(f, soft_box(fault)) >= SAME_PLACE for f in told
        )
    if kind == "line":
        return any(
            f.kind == "line"
            and abs((f.x - fault.x) if fault.h > fault.w else (f.y - fault.y)) <= 1
            and (f.h > f.w) == (fault.h > fault.w)
            for f in told
        )
    return any(abs(f.x - fault.x) <= 1 and abs(f.y - fault.y) <= 1 for f in told)


def _smallest_row(sets: int, seed: int) -> None:
    for kind, make in (("pixel", _weak_pixels), ("line", _weak_lines), ("spot", _weak_spots)):
        put = found = 0
        for number in range(sets):
            rng = np.random.default_rng(seed + number)
            camera = camera_for(rng)
            faults = tuple(make(inspected((), camera, rng).smallest, rng))
            told = inspected(faults, camera, rng).findings
            put += len(faults)
            found += sum(_there(fault, told, kind) for fault in faults)
        print(
            f"{'smallest ' + kind:16s} {sets:5d} {put:6d} {found:6d} {put - found:7d}   as faint as is stated to be seen with probability {STATED}: "
            f"{found / max(put, 1):.2f} found",
            flush=True,
        )


def _proven_row(sets: int, seed: int) -> None:
    """Dark subpixels of coarse photos, most of them blue, counted where the panel is told to be proven."""
    put, found = dict.fromkeys(CHANNELS, 0), dict.fromkeys(CHANNELS, 0)
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        places = rng.permutation(
            [(x, y) for x in range(120, FULL_HD.width - 60, 75) for y in range(110, FULL_HD.height - 60, 75)]
        )
        faults = tuple(
            DeviceFault(
                kind="dark_subpixel",
                x=float(x + rng.integers(20)),
                y=float(y + rng.integers(20)),
                channel=MOSTLY_BLUE[n % len(MOSTLY_BLUE)],
            )
            for n, (x, y) in enumerate(places[:COARSE_A_SET])
        )
        camera = random_camera(rng).model_copy(update={"blur_px": float(rng.uniform(*COARSE_BLUR_PX))})
        files, _ = shoot_solids(
            FaultyPanel(panel=FULL_HD, faults=faults), camera, float(rng.uniform(*COARSE_PX_PER_PX)), rng
        )
        told = inspect_files(FULL_HD, files)
        unproven = {(column, row) for column, row, _ in told.unproven_cells}
        rows = cell_rows(FULL_HD.height, FULL_HD.width)
        for fault in faults:
            assert fault.channel is not None
            if (int(fault.x * CELL_COLUMNS / FULL_HD.width), int(fault.y * rows / FULL_HD.height)) not in unproven:
                put[fault.channel] += 1
                found[fault.channel] += any(
                    (f.kind, f.channel) == (fault.kind, fault.channel)
                    and abs(f.x - fault.x) <= 1
                    and abs(f.y - fault.y) <= 1
                    for f in told.findings
                )
    total, right = sum(put.values()), sum(found.values())
    each = ", ".join(f"{channel} {found[channel] / max(put[channel], 1):.3f} of {put[channel]}" for channel in CHANNELS)
    print(
        f"{'proven subpixels':16s} {sets:5d} {total:6d} {right:6d} {total - right:7d}   dark ones at 1.15 to 1.35 px/px, where proven: {each}",
        flush=True,
    )


def _coloured_row(sets: int, seed: int) -> None:
    """Three lines of one colour that repeat, and two others, each of a colour of its own, dark or lit."""
    put = found = right = periods = false = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        period, start, channel = int(rng.integers(60, 160)), int(rng.integers(60, 200)), CHANNELS[number % 3]
        lit = bool(rng.integers(2))
        depth = -float(rng.uniform(0.1, 0.5)) if lit else float(rng.uniform(0.3, 1))
        lines = [
            DeviceFault(
                kind="block",
                x=start + n * period,
                y=(PANEL.height - 1) / 2,
                w=1,
                h=PANEL.height,
                depth=depth,
                channel=channel,
            )
            for n in range(3)
        ]
        lines += [
            DeviceFault(
                kind="block",
                x=(PANEL.width - 1) / 2,
                y=float(y),
                w=PANEL.width,
                h=1,
                depth=float(rng.uniform(0.3, 1)),
                channel=colour,
            )
            for y, colour in (
                (int(rng.integers(60, 240)), CHANNELS[(number + 1) % 3]),
                (int(rng.integers(340, 540)), CHANNELS[(number + 2) % 3]),
            )
        ]
        told = list(inspected(lines, camera_for(rng), rng).findings)
        for line in lines:
            put += 1
            match = next((f for f in told if _there(line, (f,), "line")), None)
            if match is not None:
                told.remove(match)
                found += 1
                right += match.channel == line.channel
                periods += line.h > line.w and any(f"every {period} px" in reason for reason in match.reasons)
        false += len(told)
    print(
        f"{'coloured lines':16s} {sets:5d} {put:6d} {found:6d} {put - found:7d}   colour right {right / max(found, 1):.3f}; repeat distance told of "
        f"{periods} of {3 * sets}; {false / sets:.2f} false a set",
        flush=True,
    )


def _tint_row(sets: int, seed: int) -> None:
    """Broad tints: the largest distance in u'v' between two of nine points."""
    errors = []
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        tint = DeviceFault(
            kind="tint",
            x=float(rng.uniform(0, PANEL.width)),
            y=float(rng.uniform(0, PANEL.height)),
            size_px=float(rng.uniform(150, 300)),
            rgb=(float(rng.uniform(0, 0.15)), float(rng.uniform(0, 0.05)), float(rng.uniform(0, 0.25))),
        )
        told = inspected([tint], camera_for(rng), rng).colour
        points = np.array([(u * PANEL.width - 0.5, v * PANEL.height - 0.5) for v in NINE for u in NINE])
        share = np.exp(-((points - [tint.x, tint.y]) ** 2).sum(axis=1) / (2 * tint.size_px**2))
        uv = uv_of_xyz((1 - share[:, None] * np.array(tint.rgb)) @ XYZ_OF_RGB.T)
        assert told is not None
        errors.append(abs(told.max_delta_uv - float(np.linalg.norm(uv[:, None] - uv[None], axis=2).max())))
    print(
        f"{'colour, nine pts':16s} {sets:5d} {sets:6d} {'':15s}  error of u'v': median {statistics.median(errors):.4f}, largest {max(errors):.4f}",
        flush=True,
    )


def _fading_row(sets: int, seed: int) -> None:
    """The same ghost in a later grey, faded or not."""
    told_right = told_wrong = 0
    errors = []
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera, gone = camera_for(rng), FADED[number % 2]
        ghosts = [
            DeviceFault(
                kind="ghost",
                x=PANEL.width / 2,
                y=PANEL.height / 2,
                w=640,
                h=420,
                depth=depth,
                size_px=float(number + 1),
            )
            for depth in (FADING_DEPTH, FADING_DEPTH * (1 - gone))
        ]
        now, then = (FaultyPanel(panel=PANEL, faults=(ghost,)) for ghost in ghosts)
        photos = [PhotoFile(name, shoot(now, name, camera, rng).data) for name in SOLIDS]
        photos.append(PhotoFile("later", shoot(then, "grey50", camera, rng).data))
        told = next((f for f in inspect_files(PANEL, photos).findings if f.kind == "retained_image"), None)
        if told is None or told.faded is None:
            continue
        errors.append(abs(told.faded - gone))
        fades, wears = ", not wear." in told.reasons[-1], ": wear," in told.reasons[-1]
        told_right += fades if gone else wears
        told_wrong += wears if gone else fades
    print(
        f"{'fading or wear':16s} {sets:5d} {sets:6d} {told_right:6d} {sets - told_right:7d}   told the wrong way {told_wrong}; error of the faded "
        f"share: median {statistics.median(errors or [1]):.2f}, largest {max(errors, default=1):.2f}",
        flush=True,
    )


def print_claims(sets: int, first_seed: int) -> None:
    """The rows; ``sets`` each."""
    _coloured_row(sets, first_seed)
    _smallest_row(max(1, sets // 2), first_seed)
    _proven_row(max(1, sets // 4), first_seed)
    _tint_row(sets, first_seed)
    _fading_row(sets, first_seed)
