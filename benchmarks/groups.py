"""Accuracy of faults side by side: two to four of one kind, or of several, in every common shape."""

from collections import Counter
from typing import NamedTuple

import numpy as np

from benchmarks.pixels import shoot_solids
from lens.inspecting import inspect_files
from lens.panel import Panel, parse_panel
from lens.patterns import get_pattern, marker_mask
from lens.records import Finding
from lens.simulate import DeviceFault, FaultyPanel, random_camera

SHAPES = (
    ((0, 0), (1, 0)),
    ((0, 0), (0, 1)),
    ((0, 0), (1, 1)),
    ((0, 0), (2, 0)),
    ((0, 0), (1, 0), (2, 0)),
    ((0, 0), (1, 0), (0, 1)),
    ((0, 0), (1, 0), (0, 1), (1, 1)),
)
DARK, LIT = "dark_subpixel", "bright_subpixel"
Parts = tuple[tuple[str, str | None], ...]
# what each pixel of a group has; of several entries one after the other
KINDS: dict[str, tuple[Parts, ...]] = {
    "dead": ((("dead_pixel", None),),),
    "dark green": (((DARK, "green"),),),
    "dark red": (((DARK, "red"),),),
    "dark blue": (((DARK, "blue"),),),
    "dark red and green": (((DARK, "red"), (DARK, "green")),),
    "dark green and blue": (((DARK, "green"), (DARK, "blue")),),
    "lit": ((("bright_pixel", None),),),
    "lit green": (((LIT, "green"),),),
    "lit red": (((LIT, "red"),),),
    "lit blue": (((LIT, "blue"),),),
    "dark, of each colour": (((DARK, "green"),), ((DARK, "red"),), ((DARK, "blue"),)),
}
ROWS = (("1366x768", 2.3), ("1920x1080", 1.7))
ROOM_PX, RIM_PX, NEAR_PX, DIRTY = 16, 60, 6, ("dust", "camera")


class Group(NamedTuple):
    """A group of faults of one kind."""

    kind: str
    faults: tuple[DeviceFault, ...]


def random_groups(panel: Panel, rng: np.random.Generator) -> list[Group]:
    """Every shape of every kind, well apart and clear of the markers."""
    hidden = marker_mask(panel, get_pattern("white"), ROOM_PX)
    places: list[tuple[int, int]] = []
    groups = []
    for kind, entries in KINDS.items():
        for shape in SHAPES:
            while True:
                x, y = int(rng.integers(RIM_PX, panel.width - RIM_PX)), int(rng.integers(RIM_PX, panel.height - RIM_PX))
                if not hidden[y, x] and all(max(abs(x - left), abs(y - top)) > ROOM_PX for left, top in places):
                    break
            places.append((x, y))
            groups.append(
                Group(
                    kind,
                    tuple(
                        DeviceFault.model_validate({"kind": name, "channel": channel, "x": x + dx, "y": y + dy})
                        for n, (dx, dy) in enumerate(shape)
                        for name, channel in entries[n % len(entries)]
                    ),
                )
            )
    return groups


def _told(findings: list[Finding], group: Group) -> list[Finding]:
    x, y = group.faults[0].x, group.faults[0].y
    return [f for f in findings if abs(f.x - x) <= NEAR_PX and abs(f.y - y) <= NEAR_PX]


def print_groups(sets: int, first_seed: int) -> None:
    """A line for each panel and kind: how many groups were told fault by fault at their very pixels, and how many with the right number."""
    print(
        f"\nfaults side by side, two to four pixels in {len(SHAPES)} shapes; sets of six solids, seeds from {first_seed}"
    )
    print("panel, px/px     kind                  groups   exact   as many   fewer   more   dust   unseen")
    for size, scale in ROWS:
        counts: dict[str, Counter[str]] = {kind: Counter() for kind in KINDS}
        false = 0
        for seed in range(first_seed, first_seed + sets):
            rng = np.random.default_rng(seed)
            panel = parse_panel(size)
            groups = random_groups(panel, rng)
            device = FaultyPanel(panel=panel, faults=tuple(fault for group in groups for fault in group.faults))
            files, _ = shoot_solids(device, random_camera(rng), scale, rng)
            findings = [f for f in inspect_files(panel, files).findings if f.kind != "cluster"]
            for group in groups:
                told, count = _told(findings, group), counts[group.kind]
                findings = [f for f in findings if f not in told]
                as_told = [f for f in told if f.kind not in DIRTY]
                count["groups"] += 1
                count["exact"] += Counter((f.kind, f.channel, f.x, f.y) for f in told) == Counter(
                    (f.kind, f.channel, f.x, f.y) for f in group.faults
                )
                count["as many"] += len(as_told) == len(group.faults)
                count["fewer"] += 0 < len(as_told) < len(group.faults)
                count["more"] += len(as_told) > len(group.faults)
                count["dust"] += bool(told) and not as_told
                count["unseen"] += not told
            false += len(findings)
        for kind, count in counts.items():
            groups_told = count["groups"]
            shares = f"{count['exact'] / groups_told:7.2f} {count['as many'] / groups_told:9.2f}"
            numbers = f"{count['fewer']:7d} {count['more']:6d} {count['dust']:6d} {count['unseen']:8d}"
            print(f"{size} {scale:<5g}   {kind:20s} {groups_told:7d} {shares} {numbers}", flush=True)
        print(f"{size} {scale:<5g}   false elsewhere: {false / sets:.2f} a set")
