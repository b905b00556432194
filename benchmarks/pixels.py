"""Accuracy of pixel and subpixel faults on seeded sets of 12 MP photos, beside a plain library pipeline."""

import statistics
from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np

from benchmarks.calibration import Stated, print_reliability
from benchmarks.library import Corners, LibraryCount
from benchmarks.zones import SOLIDS
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import parse_panel
from lens.patterns import get_pattern, marker_mask
from lens.records import NOT_OF_THE_PANEL, Finding, Inspection
from lens.simulate import (
    Blemish,
    Camera,
    DeviceFault,
    FaultyPanel,
    random_camera,
    random_faults,
    random_pose,
    shoot,
    standing_pose,
)

HIDDEN_BESIDE_MARKER_PX = 4  # faults under a marker cannot be seen by anybody and are left out
SPECKS_A_SET, SPECK_RADIUS_PX = 8, (0.75, 2.0)
DEMANDED_SHARE = 0.98


class Row(NamedTuple):
    """Sets of one kind: the panel, camera px per panel px, the blur where it is not an ordinary one's, and what was put in."""

    panel: str
    scale: float
    blur_px: float | None = None
    faults: int = 20
    specks: int = 0
    layout: Literal["striped", "shared"] = "striped"

    @property
    def name(self) -> str:
        more = " shared" if self.layout == "shared" else "" if self.blur_px is None else f" blur {self.blur_px:g}"
        return f"{self.panel} {self.scale:g}{more}" + (" dust" if self.specks else "" if self.faults else " clean")


ROWS: tuple[Row, ...] = (
    Row("1920x1080", 1.2),
    Row("1920x1080", 1.5),
    Row("1920x1080", 1.8),
    Row("1366x768", 2.5),
    Row("2560x1600", 1.35),
    Row("1080x2400", 1.45),
    Row("1920x1080", 1.7, blur_px=2.0),
    Row("1366x768", 2.3, faults=0),
    Row("1366x768", 2.3, faults=0, specks=SPECKS_A_SET),
    Row("1080x2400", 1.45, layout="shared"),
)


def shoot_row(row: Row, seed: int) -> tuple[FaultyPanel, list[PhotoFile], list[Corners]]:
    """A set of a row, and the true corners of each photo."""
    panel = parse_panel(row.panel)
    rng = np.random.default_rng(seed)
    faults = random_faults(panel, row.faults, rng, shared=row.layout == "shared")
    specks = tuple(
        Blemish(
            kind="speck",
            x=float(rng.uniform(20, panel.width - 20)),
            y=float(rng.uniform(20, panel.height - 20)),
            size_px=float(rng.uniform(*SPECK_RADIUS_PX)),
            depth=0.9,
        )
        for _ in range(row.specks)
    )
    device = FaultyPanel(panel=panel, faults=faults, blemishes=specks, glass_above_px=3.0 if specks else 0.0)
    if row.layout == "shared":
        device = device.model_copy(update={"layout": "shared", "black_leak": 0.0})
    camera = random_camera(rng, *((3000, 4000) if panel.height > panel.width else (4000, 3000)))
    if row.blur_px is not None:
        camera = camera.model_copy(update={"blur_px": row.blur_px})
    return device, *shoot_solids(device, camera, row.scale, rng, standing=bool(specks))


def shoot_solids(
    device: FaultyPanel, camera: Camera, scale: float, rng: np.random.Generator, standing: bool = False
) -> tuple[list[PhotoFile], list[Corners]]:
    """The six solids at a scale in camera px per panel px, from random poses or as somebody stands, and the true corners of each photo."""
    panel, files, corners = device.panel, [], []
    fill = min(scale / min(camera.width / panel.width, camera.height / panel.height), 0.97)
    for name in SOLIDS:
        pose = standing_pose(panel, camera, rng, fill=fill) if standing else random_pose(panel, camera, rng, fill=fill)
        shot = shoot(device, name, camera, rng, pose=pose)
        files.append(PhotoFile(name, shot.data))
        corners.append(shot.corners)
    return files, corners


class SetCount:
    """What a row's sets had and what was found of it."""

    def __init__(self) -> None:
        self.pixels = self.missed = self.subpixels = self.subpixels_found = self.right = self.found = self.exact = 0
        self.false = self.abstained = self.clean_sets = 0
        self.proven: list[float] = []
        self.sure: list[Stated] = []

    def add(self, device: FaultyPanel, result: Inspection) -> tuple[list[DeviceFault], list[Finding]]:
        """Count a set; what was missed and what was told falsely."""
        self.proven.append(result.verdict.proven_fraction)
        self.abstained += sum(f.kind in NOT_OF_THE_PANEL for f in result.findings)
        unused = [f for f in result.findings if f.kind not in NOT_OF_THE_PANEL and f.kind != "cluster"]
        hidden = marker_mask(device.panel, get_pattern("white"), HIDDEN_BESIDE_MARKER_PX)
        missed = []
        for fault in device.faults:
            near = [f for f in unused if abs(f.x - fault.x) <= 1 and abs(f.y - fault.y) <= 1]
            unused = [f for f in unused if not near or (f.x, f.y) != (near[0].x, near[0].y)]
            if hidden[int(fault.y), int(fault.x)]:
                continue
            whole = fault.kind.endswith("_pixel")
            self.pixels += whole
            self.subpixels += not whole
            if not near:
                self.missed += whole
                missed.append(fault)
                continue
            self.found += 1
            self.subpixels_found += not whole
            self.exact += (near[0].x, near[0].y) == (round(fault.x), round(fault.y))
            as_told = (near[0].kind, near[0].channel) == (fault.kind, fault.channel)
            self.right += as_told
            self.sure.append(Stated(near[0].confidence, as_told, near[0].kind))
        self.false += len(unused)
        self.clean_sets += not unused
        self.sure += [Stated(f.confidence, False, f.kind) for f in unused]
        return missed, unused

    def line(self, name: str, sets: int) -> str:
        def share(part: int, whole: int) -> str:
            return f"{part / whole:10.3f}" if whole else f"{'-':>10s}"

        return (
            f"{name:22s} {sets:4d} {self.pixels:7d} {self.missed:7d} {self.subpixels:10d} {share(self.subpixels_found, self.subpixels)} "
            f"{share(self.right, self.found)} {share(self.exact, self.found)} {self.false / sets:10.2f} {self.clean_sets / sets:11.2f} "
            f"{self.abstained / sets:10.2f} {statistics.mean(self.proven):7.3f} {sum(p >= DEMANDED_SHARE for p in self.proven) / sets:9.2f}"
        )


def print_pixels(
    sets: int, first_seed: int, listing: bool = False, rows: Sequence[Row] = ROWS, library: bool = True
) -> None:
    """The table; ``listing`` names every missed fault and every false finding, ``library`` prints the plain pipeline's too."""
    print(f"\nsets of six solids, 20 faults each where not clean; seeds from {first_seed}")
    print(
        "panel, px/px           sets  pixels  missed  subpixels      found kind right  place ex.  false/set  no false in  abstained  "
        "proven  p(>=.98)"
    )
    sure: list[Stated] = []
    plain = []
    for row in rows:
        count, other = SetCount(), LibraryCount()
        for seed in range(first_seed, first_seed + sets):
            device, files, corners = shoot_row(row, seed)
            if library and row.faults:
                other = other.with_set(device, files, corners)
            missed, false = count.add(device, inspect_files(device.panel, files))
            for fault in missed if listing else ():
                print(f"  missed: seed {seed} {fault.kind} {fault.channel or ''} at {fault.x:.0f}, {fault.y:.0f}")
            for f in false if listing else ():
                print(f"  false: seed {seed} {f.kind} {f.channel or ''} at {f.x:.0f}, {f.y:.0f}: {' '.join(f.reasons)}")
        print(count.line(row.name, sets), flush=True)
        sure += count.sure
        if library and row.faults:
            plain.append(f"{row.name:22s} {other.row()}")
    if plain:
        print("\nthe same sets by a plain library pipeline with known corners (median background, blob detector):")
        print("panel, px/px           faults  found  false/set  s/set")
        print("\n".join(plain))
    print_reliability(sure)
