"""What is not of the panel, on seeded sets: dust, scratches, films and reflections against faults that look like them; lamps; and
photos that prove nothing."""

from collections.abc import Sequence

import numpy as np

from benchmarks.zones import PANEL, SOLIDS, camera_for
from lens.inspecting import PhotoFile, inspect_files
from lens.records import Finding, Inspection
from lens.simulate import Blemish, DeviceFault, FaultyPanel, Reflection, shoot, shoot_set, standing_pose

DOTS_A_SET = 6
SIDE_TILT_DEG = (20.0, 28.0)
ABOVE_PX = (2.0, 6.0)


def _told(
    device: FaultyPanel,
    rng: np.random.Generator,
    mirrored: dict[str, Sequence[Reflection]] | None = None,
    from_side: bool = False,
) -> Inspection:
    """A set of six solids, with one more white photo from the side when asked for, inspected."""
    camera = camera_for(rng)
    shots = shoot_set(device, SOLIDS, camera, rng, reflections=mirrored)
    files = [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()]
    if from_side:
        pose = standing_pose(PANEL, camera, rng, tilt_deg=SIDE_TILT_DEG)
        files.append(PhotoFile("side.jpg", shoot(device, "white", camera, rng, pose=pose).data))
    return inspect_files(PANEL, files)


def _near(findings: Sequence[Finding], x: float, y: float, reach_px: float) -> list[Finding]:
    return [f for f in findings if abs(f.x - x) <= reach_px + f.w / 2 and abs(f.y - y) <= reach_px + f.h / 2]


def _places(rng: np.random.Generator, count: int) -> list[tuple[float, float]]:
    """Places well apart: one a cell of a grid of 4 x 3."""
    cells = rng.permutation(12)[:count]
    return [
        (float(120 + 240 * (c % 4) + rng.uniform(-70, 70)), float(100 + 200 * (c // 4) + rng.uniform(-60, 60)))
        for c in cells
    ]


def _dust_row(sets: int, seed: int, from_side: bool) -> None:
    specks = known = pixels = lost = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        places = _places(rng, 2 * DOTS_A_SET)
        dead, dusty = places[:DOTS_A_SET], places[DOTS_A_SET:]
        device = FaultyPanel(
            panel=PANEL,
            glass_above_px=float(rng.uniform(*ABOVE_PX)),
            faults=tuple(DeviceFault(kind="dead_pixel", x=round(x), y=round(y)) for x, y in dead),
            blemishes=tuple(
                Blemish(kind="speck", x=x, y=y, size_px=float(rng.uniform(0.45, 0.8)), depth=0.9) for x, y in dusty
            ),
        )
        told = _told(device, rng, from_side=from_side).findings
        for x, y in dusty:
            near = _near(told, x, y, 4)
            specks += 1
            known += bool(near) and all(f.kind == "dust" for f in near)
        for x, y in dead:
            pixels += 1
            lost += not any(
                f.kind == "dead_pixel" and abs(f.x - round(x)) <= 1 and abs(f.y - round(y)) <= 1 for f in told
            )
    name = "specks, one side" if from_side else "specks"
    print(
        f"{name:16s} {sets:5d} {specks:6d} {known:6d} {specks - known:7d}   dust of a pixel's size told from dead pixels; "
        f"{lost} of {pixels} dead pixels called something else",
        flush=True,
    )


def _blemish_row(sets: int, seed: int) -> None:
    put, known, mura, wrong, pieces = {"scratch": 0, "film": 0}, {"scratch": 0, "film": 0}, 0, 0, 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        (sx, sy), (bx, by), (mx, my) = _places(rng, 3)
        scratch = Blemish(
            kind="scratch",
            x=sx,
            y=sy,
            size_px=float(rng.uniform(0.5, 1)),
            depth=0.4,
            length_px=float(rng.uniform(60, 140)),
            angle_deg=float(rng.uniform(8, 82)),
        )
        bubble = Blemish(
            kind="bubble", x=bx, y=by, size_px=float(rng.uniform(12, 35)), depth=float(rng.uniform(0.1, 0.2))
        )
        soft = DeviceFault(kind="shade", x=mx, y=my, size_px=float(rng.uniform(28, 45)), depth=0.05)
        device = FaultyPanel(
            panel=PANEL, glass_above_px=float(rng.uniform(*ABOVE_PX)), blemishes=(scratch, bubble), faults=(soft,)
        )
        told = _told(device, rng, from_side=True).findings
        for kind, x, y in (("scratch", sx, sy), ("film", bx, by)):
            put[kind] += 1
            known[kind] += any(f.kind == kind for f in _near(told, x, y, 8))
        pieces += sum(f.kind in ("line", "band", "dust") for f in told)
        mura += 1
        wrong += not any(f.kind == "mura" for f in _near(told, mx, my, 8))
    for kind in put:
        print(
            f"{kind:16s} {sets:5d} {put[kind]:6d} {known[kind]:6d} {put[kind] - known[kind]:7d}   one white photo from the side"
            + (f"; {pieces} pieces of them told as lines or dust" if kind == "scratch" else ""),
            flush=True,
        )
    print(
        f"{'mura beside them':16s} {sets:5d} {mura:6d} {mura - wrong:6d} {wrong:7d}   soft spots of the panel, still called so",
        flush=True,
    )


def _reflection_row(sets: int, seed: int) -> None:
    told_mirrored = told_bleed = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)

        def spot(low: float, high: float, rng: np.random.Generator = rng) -> list[Reflection]:
            size_x, size_y, x, y = (
                float(rng.uniform(a, b)) for a, b in ((0.02, 0.09), (0.02, 0.08), (0.35, 0.65), (0.25, 0.5))
            )
            return [
                Reflection(
                    x=x, y=y, size_x=size_x, size_y=size_y, level=float(np.exp(rng.uniform(np.log(low), np.log(high))))
                )
            ]

        leak = DeviceFault(
            kind="leak",
            x=float(rng.choice([5, PANEL.width - 6])),
            y=float(rng.uniform(50, 550)),
            size_px=float(rng.uniform(30, 60)),
            depth=float(rng.uniform(0.01, 0.05)),
        )
        told = _told(FaultyPanel(panel=PANEL, faults=(leak,)), rng, {name: spot(0.01, 0.3) for name in SOLIDS}).findings
        told_mirrored += any(f.kind == "reflection" and "black" in f.patterns for f in told)
        bleeds = [f for f in told if f.kind == "bleed"]
        told_bleed += len(bleeds) == 1 and bleeds[0] in _near(bleeds, leak.x, leak.y, 20)
    print(
        f"{'mirrored on black':17s} {sets:4d} {sets:6d} {told_mirrored:6d} {sets - told_mirrored:7d}   reflections in all six photos",
        flush=True,
    )
    print(
        f"{'bleed beside it':16s} {sets:5d} {sets:6d} {told_bleed:6d} {sets - told_bleed:7d}   and no other place called bleed",
        flush=True,
    )


def _lamp_row(sets: int, seed: int) -> None:
    right = dict.fromkeys(("no_light", "dim", ""), 0)
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        for kind, brightness, outside in (
            ("no_light", 0.0, rng.uniform(0.03, 0.1)),
            ("dim", rng.uniform(0.04, 0.12), 0.0),
            ("", 1.0, 0.03),
        ):
            device = FaultyPanel(panel=PANEL, brightness=float(brightness), outside_light=float(outside))
            shot = shoot(device, "white", camera_for(rng), rng)
            told = {f.kind for f in inspect_files(PANEL, [PhotoFile("white.jpg", shot.data)]).findings} & {
                "no_light",
                "dim",
            }
            right[kind] += told == ({kind} if kind else set())
    for kind, name in (("no_light", "light dead"), ("dim", "dim"), ("", "light as usual")):
        print(
            f"{name:16s} {sets:5d} {sets:6d} {right[kind]:6d} {sets - right[kind]:7d}   by one white photo", flush=True
        )


def _unfit_row(sets: int, seed: int) -> None:
    passed = count = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng)
        for change in ({"width": 1000, "height": 750}, {"blur_px": 3.0}, {"white_level": 1.6}):
            shots = shoot_set(FaultyPanel(panel=PANEL), SOLIDS, camera.model_copy(update=change), rng)
            count += 1
            passed += (
                inspect_files(
                    PANEL, [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()]
                ).verdict.result
                == "pass"
            )
    words = "coarse, blurred, over-exposed sets that do not pass"
    print(f"{'unfit photos':16s} {sets:5d} {count:6d} {count - passed:6d} {passed:7d}   {words}", flush=True)


def print_glass(sets: int, first_seed: int) -> None:
    """The rows of what lies on the glass, of reflections, lamps and unfit photos."""
    _dust_row(sets, first_seed, from_side=False)
    _dust_row(sets, first_seed, from_side=True)
    _blemish_row(sets, first_seed)
    _reflection_row(sets, first_seed)
    _lamp_row(sets, first_seed)
    _unfit_row(sets, first_seed)
