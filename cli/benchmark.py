"""./clear-lens benchmark photo: accuracy on seeded sets, and speed as ratios to a floor measured in the same run.

Reporting seeds start at 1000 and are never used for tuning.
"""

import argparse
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path

import cv2
import numpy as np

from cli.benchmark_damage import print_damage
from cli.benchmark_glass import print_glass
from cli.benchmark_library import Corners, LibraryCount
from cli.benchmark_tones import print_tones
from cli.benchmark_zones import print_table
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel, parse_panel
from lens.patterns import get_pattern, marker_mask, render
from lens.photo import read_photo
from lens.records.findings import NOT_OF_THE_PANEL
from lens.simulate import FaultyPanel, emit, photograph, random_camera, random_faults, random_pose

SOLIDS = ("white", "black", "red", "green", "blue", "grey50")
ROWS: tuple[tuple[str, float], ...] = (("1920x1080", 1.2), ("1920x1080", 1.5), ("1920x1080", 1.8), ("1366x768", 2.5))
FIRST_REPORTING_SEED = 1000
FAULTS_A_SET = 20
CONFIDENCE_STEPS = (0.0, 0.5, 0.8, 0.9, 0.95, 0.99, 1.01)
ONE_PHOTO_RATIO = 6.0
HIDDEN_BESIDE_MARKER_PX = 4  # faults under a marker cannot be seen by anybody and are left out


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
    return [(float(s), float(r)) for s, r in zip(np.median(times, axis=0), np.median(times / times[:, :1], axis=0), strict=True)]


def _floor(data: bytes, width: int, height: int) -> None:
    """Decode, one bilinear perspective warp to the panel's size, one Gaussian blur of sigma 1 of the photo."""
    pixels = np.asarray(cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR), np.uint8)
    outline = np.array([[200, 200], [3700, 220], [3690, 2300], [210, 2280]], np.float32)
    target = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32)
    cv2.warpPerspective(pixels, cv2.getPerspectiveTransform(outline, target), (width, height), flags=cv2.INTER_LINEAR)
    cv2.GaussianBlur(pixels, (0, 0), 1.0)


def _shoot(panel_text: str, scale: float, seed: int, count: int) -> tuple[FaultyPanel, list[PhotoFile], list[Corners]]:
    """A set at about ``scale`` camera px per panel px with a 12 MP camera, and the true corners of each photo."""
    panel = parse_panel(panel_text)
    rng = np.random.default_rng(seed)
    device = FaultyPanel(panel=panel, faults=random_faults(panel, count, rng))
    camera = random_camera(rng)
    fill = scale / min(camera.width / panel.width, camera.height / panel.height)
    files, corners = [], []
    for pattern_id in SOLIDS:
        light = emit(device, render(panel, get_pattern(pattern_id)))
        shot = photograph(light, camera, random_pose(panel, camera, rng, fill=min(fill, 0.97)), rng)
        files.append(PhotoFile(pattern_id, shot.data))
        corners.append(shot.corners)
    return device, files, corners


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
    _, files, _ = _shoot("1920x1080", 1.7, FIRST_REPORTING_SEED - 1, 10)
    white = next(file.data for file in files if file.name == "white")
    (floor, _), *rest = _side_by_side([
        lambda: _floor(white, panel.width, panel.height), lambda: read_photo(white, panel), lambda: inspect_files(panel, files[:1]),
        lambda: inspect_files(panel, files)], rounds)
    names = ("one photo read (registered, sampled)", "one photo read, analysed and judged", "six photos read, fused and judged")
    wanted = ("", f"   (wanted: at most {ONE_PHOTO_RATIO:.0f}x)", "")
    print(f"{'floor (12 MP decode + warp + blur, 2 threads)':46s}  {floor:6.3f} s  1.0x")
    for name, (seconds, ratio), note in zip(names, rest, wanted, strict=True):
        print(f"{name:46s}  {seconds:6.3f} s  {ratio:.1f}x{note}")
    print(f"peak memory of a process that inspects one      {_peak_mb(files[:1]):6.0f} MB  (wanted: under 1000)")
    print(f"peak memory of a process that inspects six      {_peak_mb(files):6.0f} MB")


def _accuracy(sets: int, listing: bool) -> None:
    print("\nsets of six solids, 20 faults each; seeds from", FIRST_REPORTING_SEED)
    print("panel      px/px  sets  pixel faults  missed  subpixel faults  found     kind right  false/set  abstained/set  proven  p(>=0.98)")
    sure: list[tuple[float, bool]] = []
    plain: list[str] = []
    for panel_text, scale in ROWS:
        pixels = missed = subs = sub_found = right = found = false = abstained = proven_sets = 0
        library = LibraryCount()
        proven = []
        for number in range(sets):
            device, files, corners = _shoot(panel_text, scale, FIRST_REPORTING_SEED + number, FAULTS_A_SET)
            library = library.with_set(device, files, corners)
            result = inspect_files(device.panel, files)
            share = result.verdict.proven_fraction
            proven.append(share)
            proven_sets += share >= 0.98
            abstained += sum(f.kind in NOT_OF_THE_PANEL for f in result.findings)
            told = [f for f in result.findings if f.kind not in NOT_OF_THE_PANEL and f.kind != "cluster"]
            unused = list(told)
            hidden = marker_mask(device.panel, get_pattern("white"), HIDDEN_BESIDE_MARKER_PX)
            for fault in device.faults:
                if hidden[int(fault.y), int(fault.x)]:
                    unused = [f for f in unused if abs(f.x - fault.x) > 1 or abs(f.y - fault.y) > 1]
                    continue
                match = next((f for f in unused if abs(f.x - fault.x) <= 1 and abs(f.y - fault.y) <= 1), None)
                whole = fault.kind.endswith("_pixel")
                pixels += whole
                subs += not whole
                if match is None:
                    missed += whole
                    if listing:
                        print(f"  missed: seed {FIRST_REPORTING_SEED + number} {fault.kind} {fault.channel or ''} at {fault.x:.0f}, {fault.y:.0f}")
                    continue
                unused = [f for f in unused if (f.x, f.y) != (match.x, match.y)]
                found += 1
                sub_found += not whole
                as_told = (match.kind, match.channel) == (fault.kind, fault.channel)
                right += as_told
                sure.append((match.confidence, as_told))
            false += len(unused)
            sure += [(f.confidence, False) for f in unused]
            for f in unused if listing else ():
                print(f"  false: seed {FIRST_REPORTING_SEED + number} {f.kind} {f.channel or ''} at {f.x:.0f}, {f.y:.0f}: {' '.join(f.reasons)}")
        print(
            f"{panel_text:10s} {scale:5.1f}  {sets:4d}  {pixels:12d}  {missed:6d}  {subs:15d}  {sub_found / max(subs, 1):6.3f}  "
            f"{right / max(found, 1):12.3f}  {false / sets:9.2f}  {abstained / sets:13.2f}  "
            f"{statistics.mean(proven):6.3f}  {proven_sets / sets:9.2f}", flush=True)
        plain.append(f"{panel_text:10s} {scale:5.1f}  {library.row()}")
    print("\nthe same sets by a plain library pipeline with known corners (median background, blob detector):")
    print("panel      px/px  faults  found  false/set  s/set")
    print("\n".join(plain))
    _reliability(sure)


def _reliability(sure: Sequence[tuple[float, bool]]) -> None:
    """How often findings of a stated confidence are real and of the kind that was told."""
    print("\nstated confidence   findings  mean stated  right")
    for low, high in zip(CONFIDENCE_STEPS, CONFIDENCE_STEPS[1:], strict=False):
        part = [(c, r) for c, r in sure if low <= c < high]
        if part:
            print(f"{low:5.2f} to {min(high, 1.0):4.2f}       {len(part):8d}  {statistics.mean(c for c, _ in part):11.3f}  "
                  f"{statistics.mean(r for _, r in part):5.3f}")


def _benchmark(options: argparse.Namespace) -> int:
    _speed(options.rounds)
    if options.sets:
        _accuracy(options.sets, options.list)
    if options.zone_sets:
        print_table(options.zone_sets, FIRST_REPORTING_SEED)
        print_damage(options.zone_sets, FIRST_REPORTING_SEED)
        print_tones(options.zone_sets, FIRST_REPORTING_SEED)
        print_glass(options.zone_sets, FIRST_REPORTING_SEED)
    return 0


def add_parser(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """Add the command."""
    parser = commands.add_parser("benchmark", help="accuracy and speed")
    parser.add_argument("what", nargs="?", default="photo", choices=["photo"])
    parser.add_argument("--sets", type=int, default=15, help="sets a row of the accuracy table; 0 leaves it out")
    parser.add_argument(
        "--zone-sets", type=int, default=20, help="sets a row of the table of lines, zones, damage, tones and flicker; 0 leaves it out")
    parser.add_argument("--list", action="store_true", help="name every missed fault and every false finding")
    parser.add_argument("--rounds", type=int, default=9)
    parser.set_defaults(run=_benchmark)
