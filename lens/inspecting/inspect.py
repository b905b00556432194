"""Photo files of one panel in, findings and a verdict out."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens import CORE_VERSION
from lens.acceptance import DEFAULT_PROFILE, Proven, get_class, judge
from lens.errors import BadInput
from lens.faults import find_faults, measure_uniformity
from lens.panel import Panel
from lens.photo import PhotoRead, read_photo
from lens.records import Inspection, PanelSize, PhotoReport, Problem
from lens.records.inspection import Point

CELL_COLUMNS = 48
READERS = 2


class PhotoFile(NamedTuple):
    """A photo as it came. ``pattern`` and ``corners`` are None when the markers shall tell."""

    name: str
    data: bytes
    pattern: str | None = None
    corners: tuple[Point, ...] | None = None


def read_file(panel: Panel, file: PhotoFile, expected_run: int | None = None) -> PhotoRead | BadInput:
    """The photo, or the reason why it cannot be used."""
    try:
        return read_photo(file.data, panel, file.pattern, file.corners, expected_run)
    except BadInput as reason:
        return reason


def inspect_files(
    panel: Panel, files: Sequence[PhotoFile], profile: str = DEFAULT_PROFILE, expected_run: int | None = None,
) -> Inspection:
    """Read, fuse and judge a set of photos; a photo that cannot be used is reported and left out."""
    get_class(profile)
    with ThreadPoolExecutor(READERS) as pool:
        reads = list(pool.map(lambda file: read_file(panel, file, expected_run), files))
    return inspect_reads(panel, [(file.name, read) for file, read in zip(files, reads, strict=True)], profile)


def inspect_reads(panel: Panel, reads: Sequence[tuple[str, PhotoRead | BadInput]], profile: str = DEFAULT_PROFILE) -> Inspection:
    """Fuse and judge photos that were read already; ``reads`` are (file name, photo or reason)."""
    used = [read for _, read in reads if isinstance(read, PhotoRead)]
    if used:
        result = find_faults(panel, used)
        findings, proven_map, pixels_map = result.findings, result.proven, result.proven_pixels
    else:
        findings = ()
        proven_map = pixels_map = np.zeros((panel.height, panel.width), bool)
    proven = Proven(pixels=float(pixels_map.mean()), subpixels=float(proven_map.mean()))
    uniformity, colour = measure_uniformity(panel, used)
    return Inspection(
        panel=PanelSize(width=panel.width, height=panel.height),
        photos=tuple(_report(name, read) for name, read in reads), findings=findings, uniformity=uniformity, colour=colour,
        verdict=judge(panel, findings, proven, profile), smallest_proven=_smallest(proven, [read.pattern.id for read in used]),
        unproven_cells=_unproven_cells(proven_map), core_version=CORE_VERSION)


def _report(name: str, read: PhotoRead | BadInput) -> PhotoReport:
    if isinstance(read, BadInput):
        return PhotoReport(
            file=name, pattern=None, run=None, corners=(), px_per_px=None, residual_px=None, blur_px=None, proven_fraction=0.0,
            problems=(Problem(code=read.code, message=read.message),))
    return PhotoReport(
        file=name, pattern=read.pattern.id, run=read.run, corners=tuple((round(x, 2), round(y, 2)) for x, y in read.corners),
        px_per_px=round(read.px_per_px, 3), residual_px=round(read.registration.residual_px, 3), blur_px=round(read.blur_px, 2),
        proven_fraction=round(float((read.view.trust > 0.5).mean()), 4), problems=read.problems)


def _smallest(proven: Proven, patterns: list[str]) -> str:
    if not patterns:
        return "Nothing was seen: no photo could be used."
    missing = [p for p in ("white", "black", "red", "green", "blue", "grey50") if p not in patterns and f"{p}-b" not in patterns]
    tail = f" Not photographed: {', '.join(missing)}." if missing else ""
    if proven.subpixels >= 0.5:
        return f"One fully dark or lit subpixel would have been seen on {100 * proven.subpixels:.1f} % of the panel.{tail}"
    return (
        f"One fully dark or lit pixel would have been seen on {100 * proven.pixels:.1f} % of the panel, a single subpixel on "
        f"{100 * proven.subpixels:.1f} %.{tail}")


def _unproven_cells(proven: NDArray[np.bool_]) -> tuple[tuple[int, int, float], ...]:
    """Cells of the pane's grid that are not fully proven, with their proven share."""
    height, width = proven.shape
    rows = max(1, round(CELL_COLUMNS * height / width))
    share = cv2.resize(proven.astype(np.float32), (CELL_COLUMNS, rows), interpolation=cv2.INTER_AREA)
    return tuple((int(c), int(r), round(float(share[r, c]), 2)) for r, c in np.argwhere(share < 0.995))
