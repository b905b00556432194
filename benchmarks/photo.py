"""Photos: accuracy on seeded sets, and speed as ratios to a floor measured in the same run."""

import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path

import cv2
import numpy as np

from benchmarks import FIRST_REPORTING_SEED
from benchmarks.claims import print_claims
from benchmarks.damage import print_damage
from benchmarks.glass import print_glass
from benchmarks.groups import print_groups
from benchmarks.ideal import print_ideal
from benchmarks.pixels import Row, print_pixels, shoot_row
from benchmarks.reading import print_reading
from benchmarks.tones import print_tones
from benchmarks.unfit import print_unfit
from benchmarks.zones import print_table
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.photo import read_photo
from lens.simulate import FaultyPanel, random_camera, shoot

ONE_PHOTO_RATIO, LARGE_RATIO = 4.0, 4.4


def _seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def _side_by_side(works: Sequence[Callable[[], object]], rounds: int) -> list[tuple[float, float]]:
    """(seconds, ratio to the first) of each work, medians over rounds; every round runs all of them in turn, so that a machine
    that changes its pace in between changes no ratio."""
    for work in works:
        work()
    times = np.array([[_seconds(work) for work in works] for _ in range(rounds)])
    return [
        (float(s), float(r))
        for s, r in zip(np.median(times, axis=0), np.median(times / times[:, :1], axis=0), strict=True)
    ]


def _floor(data: bytes, width: int, height: int) -> None:
    """Decode, one bilinear perspective warp to the panel's size, one Gaussian blur of sigma 1 of the photo."""
    pixels = np.asarray(cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR), np.uint8)
    outline = np.array([[200, 200], [3700, 220], [3690, 2300], [210, 2280]], np.float32)
    target = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32)
    cv2.warpPerspective(pixels, cv2.getPerspectiveTransform(outline, target), (width, height), flags=cv2.INTER_LINEAR)
    cv2.GaussianBlur(pixels, (0, 0), 1.0)


# the kernel's ru_maxrss carries the parent's size over into the child, so the child reads its own high-water mark
_CHILD = """
import sys
from cli.__main__ import main
main(sys.argv[1:])
print(next(line.split()[1] for line in open("/proc/self/status") if line.startswith("VmHWM")))
"""


def _peak_mb(files: list[PhotoFile]) -> float:
    """Peak resident size of a fresh process that inspects these photos of a 1920x1080 panel."""
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-c", _CHILD, "inspect", "--panel", "1920x1080", "--out", f"{folder}/result.json"]
        for file in files:
            (Path(folder) / f"{file.name}.jpg").write_bytes(file.data)
            command += ["--photo", f"{folder}/{file.name}.jpg"]
        done = subprocess.run(command, capture_output=True, text=True, check=True)
    return int(done.stdout.split()[-1]) / 1024


def _speed(rounds: int) -> None:
    cv2.setNumThreads(2)
    panel = make_panel(1920, 1080)
    _, files, _ = shoot_row(Row("1920x1080", 1.7, faults=10), FIRST_REPORTING_SEED - 1)
    white = next(file.data for file in files if file.name == "white")
    (floor, _), *rest = _side_by_side(
        [
            lambda: _floor(white, panel.width, panel.height),
            lambda: read_photo(white, panel),
            lambda: inspect_files(panel, files[:1]),
            lambda: inspect_files(panel, files),
        ],
        rounds,
    )
    names = (
        "one photo read (registered, sampled)",
        "one photo read, analysed and judged",
        "six photos read, fused and judged",
    )
    wanted = ("", f"   (wanted: at most {ONE_PHOTO_RATIO:.0f}x)", "")
    print(f"{'floor (12 MP decode + warp + blur, 2 threads)':46s}  {floor:6.3f} s  1.0x")
    for name, (seconds, ratio), note in zip(names, rest, wanted, strict=True):
        print(f"{name:46s}  {seconds:6.3f} s  {ratio:.1f}x{note}")
    print(f"peak memory of a process that inspects one      {_peak_mb(files[:1]):6.0f} MB  (wanted: at most 700)")
    print(f"peak memory of a process that inspects six      {_peak_mb(files):6.0f} MB")
    _large(files[0], rounds)


def _large(usual: PhotoFile, rounds: int) -> None:
    """The same panel by a camera of four times the pixels."""
    rng = np.random.default_rng(FIRST_REPORTING_SEED)
    panel, camera = make_panel(1920, 1080), random_camera(rng, 8000, 6000)
    large = PhotoFile("white", shoot(FaultyPanel(panel=panel), "white", camera, rng).data)
    _, (_, growth) = _side_by_side(
        [lambda: inspect_files(panel, [usual]), lambda: inspect_files(panel, [large])], max(3, rounds // 3)
    )
    print(f"one photo of 48 MP, against one of 12 MP                   {growth:.1f}x   (wanted: at most {LARGE_RATIO})")
    print(f"peak memory of a process that inspects it       {_peak_mb([large]):6.0f} MB  (wanted: at most 1500)")


def print_photo(sets: int, zone_sets: int, rounds: int, names: bool) -> None:
    """All tables of photos; a count of 0 leaves its tables out. ``names`` lists every missed fault and every false finding."""
    if rounds > 0:
        _speed(rounds)
    if sets:
        print_pixels(sets, FIRST_REPORTING_SEED, names)
        print_groups(max(1, sets // 3), FIRST_REPORTING_SEED)
    if zone_sets:
        print_reading(zone_sets, FIRST_REPORTING_SEED)
        print_unfit(max(1, zone_sets // 4), FIRST_REPORTING_SEED)
        print_table(zone_sets, FIRST_REPORTING_SEED)
        print_damage(zone_sets, FIRST_REPORTING_SEED)
        print_tones(zone_sets, FIRST_REPORTING_SEED)
        print_claims(zone_sets, FIRST_REPORTING_SEED)
        print_glass(zone_sets, FIRST_REPORTING_SEED)
        print_ideal(max(1, zone_sets // 5), FIRST_REPORTING_SEED)
