"""Standard sets by a phone that exposes by itself and develops for the eye, on panels with their natural light: the world as it is.

No figure of the measuring rooms was tuned on these seeds.
"""

import statistics
from collections import Counter
from typing import NamedTuple

import numpy as np

from benchmarks.calibration import Stated, print_reliability
from benchmarks.pixels import SetCount
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import Panel, parse_panel
from lens.patterns import get_set
from lens.records import Inspection
from lens.simulate import Blemish, DeviceFault, FaultyPanel, random_faults, shoot_by_phone, standing_pose
from lens.simulate.phone import natural_light, random_phone

GRAINS = (10, 30)
SHOT = get_set("standard").patterns


class PhoneRow(NamedTuple):
    """Sets of one kind: the panel, camera px per panel px, how many faults and whether the glass is dirty."""

    panel: str
    scale: float
    faults: int = 12
    grains: bool = False

    @property
    def name(self) -> str:
        return f"{self.panel} {self.scale:g}" + (" dust" if self.grains else "" if self.faults else " clean")


ROWS = (
    PhoneRow("1920x1080", 1.3),
    PhoneRow("1920x1080", 1.7),
    PhoneRow("1366x768", 2.4),
    PhoneRow("1080x2400", 1.45),
    PhoneRow("1366x768", 2.3, faults=0),
    PhoneRow("1366x768", 2.3, faults=0, grains=True),
)


def grains_on(panel: Panel, count: int, rng: np.random.Generator) -> tuple[Blemish, ...]:
    """Dust as it lies: grains of 1 to 3 px of radius, one to four of them near each other."""
    grains: list[Blemish] = []
    while len(grains) < count:
        x, y = float(rng.uniform(20, panel.width - 20)), float(rng.uniform(20, panel.height - 20))
        for _ in range(int(rng.integers(1, 5))):
            dx, dy = rng.normal(0, 6, 2)
            grains.append(
                Blemish(
                    kind="speck",
                    x=float(np.clip(x + dx, 5, panel.width - 5)),
                    y=float(np.clip(y + dy, 5, panel.height - 5)),
                    size_px=float(rng.uniform(1.0, 3.0)),
                    depth=float(rng.uniform(0.5, 0.95)),
                )
            )
    return tuple(grains[:count])


def shoot_row(row: PhoneRow, seed: int, raw: bool = False) -> tuple[FaultyPanel, list[PhotoFile], list[float]]:
    """A set of a row: the device, its photos (the ``raw`` ones of the same moments), and how many times white's exposure each got."""
    panel, rng = parse_panel(row.panel), np.random.default_rng(seed)
    faults: tuple[DeviceFault, ...] = random_faults(panel, row.faults, rng)
    specks = grains_on(panel, int(rng.integers(*GRAINS)), rng) if row.grains else ()
    device = FaultyPanel(panel=panel, faults=faults, blemishes=specks, glass_above_px=3.0, view_loss=0.15)
    phone, light = (
        random_phone(rng, *((3000, 4000) if panel.height > panel.width else (4000, 3000))),
        natural_light(panel, rng),
    )
    fill = min(row.scale / min(phone.camera.width / panel.width, phone.camera.height / panel.height), 0.97)
    files, exposures = [], []
    for name in SHOT:
        pose = standing_pose(panel, phone.camera, rng, fill=fill)
        shot, exposure = shoot_by_phone(device, name, phone, rng, pose=pose, natural=light, raw=raw)
        files.append(PhotoFile(name, shot.data))
        exposures.append(exposure.time_s * exposure.gain)
    return device, files, [one / exposures[0] for one in exposures]


def print_phone(sets: int, first_seed: int) -> None:
    """The tables."""
    print(
        f"\nstandard sets of {len(SHOT)} photos by a phone that exposes by itself; 12 faults each where not clean; seeds from {first_seed}"
    )
    print(
        "panel, px/px           sets  pixels  missed  subpixels      found kind right  place ex.  false/set  no false in  abstained  "
        "proven  p(>=.98)"
    )
    refused: Counter[str] = Counter()
    black_px, black_exposure, kinds = [], [], Counter[str]()
    sure: list[Stated] = []
    photos = 0
    for row in ROWS:
        count = SetCount()
        for seed in range(first_seed, first_seed + sets):
            device, files, exposures = shoot_row(row, seed)
            result: Inspection = inspect_files(device.panel, files)
            _, false = count.add(device, result)
            kinds.update(f.kind for f in false)
            black_exposure.append(exposures[1])
            for name, report in zip(SHOT, result.photos, strict=True):
                photos += 1
                if not report.used:
                    refused[f"{name}: {', '.join(problem.code for problem in report.problems)}"] += 1
                elif name.startswith("black") and report.residual_px is not None:
                    black_px.append(report.residual_px)
        print(count.line(row.name, sets), flush=True)
        sure += count.sure
    print(
        f"\nexposure of black over white's: {min(black_exposure):.0f} to {max(black_exposure):.0f} times; residual of black photos that were read: "
        f"median {statistics.median(black_px) if black_px else float('nan'):.2f} px of {len(black_px)}   (wanted: under 0.15)"
    )
    print(f"photos refused: {sum(refused.values())} of {photos}   (wanted: at most 1 %)")
    for why, many in refused.most_common(8):
        print(f"  {many:3d} {why}")
    print("false findings by kind: " + (", ".join(f"{many} {kind}" for kind, many in kinds.most_common()) or "none"))
    print_reliability(sure)
