"""Photo files of one panel in, findings and a verdict out."""

import hashlib
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens import core_version
from lens.acceptance import (
    DEFAULT_PROFILE,
    Measured,
    Profile,
    Ruling,
    by_itself,
    decided,
    get_profile,
    judge,
    with_pressure_marks,
)
from lens.errors import BadInput
from lens.faults import (
    CloseLook,
    compare_panels,
    find_faults,
    is_reference_pattern,
    look_at,
    measure_brightness,
    measure_uniformity,
    white_light,
)
from lens.inspecting.frames import FRAME, FrameRead, read_frame
from lens.inspecting.maps import light_map, mura_map, smallest_faults, tint_map, unproven_cells
from lens.inspecting.next_shots import next_shots
from lens.inspecting.trail import TRAIL, TrailRead, read_trail
from lens.panel import Panel
from lens.patterns import PATTERNS, get_pattern
from lens.photo import FLAT, SCALED, FlatField, PhotoRead, read_flat, read_photo
from lens.records import (
    Finding,
    Inspection,
    LightMap,
    MarkerResidual,
    PanelMap,
    PanelSize,
    PhotoMap,
    PhotoReport,
    Problem,
    Proven,
    SmallestFault,
    with_ids,
)
from lens.records.inspection import Point

READERS = 2
ROW_TIME_US = (0.5, 500.0)
COPY = "copy"  # the code of a file that came twice
REFERENCE = "reference"  # stands where a photo's pattern is named: it shows another panel, a known-good one


def check_row_time(row_time_us: float) -> None:
    """Raises BadInput for what no camera's sensor takes."""
    if not ROW_TIME_US[0] <= row_time_us <= ROW_TIME_US[1]:
        raise BadInput(
            f"A camera takes {ROW_TIME_US[0]:g} to {ROW_TIME_US[1]:g} microseconds for one row, got {row_time_us:g}.",
            "row_time",
        )


class ReferencePanel(NamedTuple):
    """A photo of a known-good panel."""

    photo: PhotoRead


Read = PhotoRead | FlatField | ReferencePanel | FrameRead | TrailRead | BadInput


class PhotoFile(NamedTuple):
    """A photo as it came. ``pattern`` and ``corners`` are None when the markers shall tell."""

    name: str
    data: bytes
    pattern: str | None = None
    corners: tuple[Point, ...] | None = None


def read_file(panel: Panel, file: PhotoFile, expected_run: int | None = None, threads: int = READERS) -> Read:
    """The photo, or the reason why it cannot be used. One that is named ``flat`` shows a white surface instead of the panel, one that is
    named ``reference`` a known-good panel of the same resolution, one that is named ``frame`` is a copy of the signal, one that is named ``trail``
    shows lines that were drawn by a finger."""
    try:
        if file.pattern == FLAT:
            return read_flat(file.data)
        if file.pattern == FRAME:
            return read_frame(file.data, panel, expected_run)
        if file.pattern == TRAIL:
            return read_trail(file.data, panel, file.corners)
        if file.pattern == REFERENCE:
            return _reference(read_photo(file.data, panel))
        read = read_photo(file.data, panel, file.pattern, file.corners, expected_run, threads)
        return read._replace(digest=hashlib.sha256(file.data).hexdigest())
    except BadInput as reason:
        return reason


def _reference(photo: PhotoRead) -> ReferencePanel:
    if not is_reference_pattern(photo):
        raise BadInput(
            f"The reference panel is compared on white or grey, but this photo shows '{photo.pattern.id}'.",
            "reference_pattern",
        )
    if photo.composed:
        raise BadInput(
            "The camera composed the reference panel's photo of several pictures, which changes its light. Switch HDR and night mode off and "
            "shoot again.",
            "reference_composed",
        )
    return ReferencePanel(photo)


def inspect_files(
    panel: Panel,
    files: Sequence[PhotoFile],
    profile: Profile | None = None,
    expected_run: int | None = None,
    row_time_us: float | None = None,
) -> Inspection:
    """Read, fuse and judge a set of photos; a photo that cannot be used is reported and left out."""
    if len(files) == 1:
        reads = [read_file(panel, files[0], expected_run)]
    else:
        with ThreadPoolExecutor(READERS) as pool:
            reads = list(pool.map(lambda file: read_file(panel, file, expected_run, threads=1), files))
    return inspect_reads(
        panel, [(file.name, read) for file, read in zip(files, reads, strict=True)], profile, row_time_us
    )


def inspect_reads(
    panel: Panel, reads: Sequence[tuple[str, Read]], profile: Profile | None = None, row_time_us: float | None = None
) -> Inspection:
    """Fuse and judge photos that were read already; ``reads`` are (file name, photo or reason)."""
    reads = _counted_once(_of_true_size(reads))
    shot = [read for _, read in reads if isinstance(read, PhotoRead)]
    used = _of_the_panel(shot)
    flat = next((read for _, read in reads if isinstance(read, FlatField)), None)
    reference = next((read.photo for _, read in reads if isinstance(read, ReferencePanel)), None)
    look = look_at(panel, used, row_time_us, flat)
    close = look.close
    frames = [read for _, read in reads if isinstance(read, FrameRead)]
    # a copy of the signal shows every pixel of it
    unseen = np.full((panel.height, panel.width), bool(frames))
    proven_map, pixels_map = (close.survey.proven, close.survey.proven_pixels) if close else (unseen, unseen)
    field = close.field if close else None
    with ThreadPoolExecutor(1) as beside:
        mapped = beside.submit(lambda: (_maps(panel, close, proven_map), *measure_uniformity(panel, field)))
        reported = beside.submit(lambda: tuple(_report(name, read) for name, read in reads))
        findings = with_ids((*find_faults(panel, look), *_of_frames(frames)))
        maps, uniformity, colour = mapped.result()
    proven = Proven(pixels=_share(pixels_map), subpixels=_share(proven_map))
    shots = next_shots(panel, close.evidence, proven.subpixels, findings, field is not None) if close else ()
    shown = [read.pattern.id for read in used] + [frame.pattern for frame in frames]
    measured = Measured(findings, proven, uniformity, colour, frozenset(shown), look.greys)
    return Inspection(
        panel=PanelSize(width=panel.width, height=panel.height),
        photos=reported.result(),
        findings=findings,
        uniformity=uniformity,
        colour=colour,
        greys=look.greys,
        white_light=white_light(used),
        brightness=measure_brightness(panel, shot, row_time_us),
        data_bits=look.data_bits,
        reference=compare_panels(used, reference),
        verdict=judge(panel, measured, profile or get_profile(DEFAULT_PROFILE)),
        proven=proven,
        light_map=maps.light,
        tint_map=maps.tint,
        mura_map=maps.mura,
        smallest=maps.smallest,
        smallest_proven=_smallest(proven, shown, len(shot) > len(used)),
        unproven_cells=maps.unproven_cells,
        next_shots=shots,
        core_version=core_version(),
    )


def _of_the_panel(shot: Sequence[PhotoRead]) -> list[PhotoRead]:
    """Steps of the brightness control are shot dark or with pulses on purpose, and say nothing else of the panel."""
    return [photo for photo in shot if photo.pattern.brightness is None]


def usable_reads(reads: Sequence[tuple[str, Read]]) -> list[PhotoRead]:
    """The photos of a set that say how the panel is, each file once."""
    return _of_the_panel([read for _, read in _counted_once(_of_true_size(reads)) if isinstance(read, PhotoRead)])


class _Maps(NamedTuple):
    light: LightMap | None
    tint: PanelMap | None
    mura: PanelMap | None
    smallest: tuple[SmallestFault, ...]
    unproven_cells: tuple[tuple[int, int, float], ...]


def _maps(panel: Panel, close: CloseLook | None, proven: NDArray[np.bool_]) -> _Maps:
    evidence, field = (close.evidence, close.field) if close else (None, None)
    return _Maps(
        light_map(panel, field),
        tint_map(panel, field),
        mura_map(panel, field),
        smallest_faults(panel, evidence, field),
        unproven_cells(proven),
    )


def _share(proven: NDArray[np.bool_]) -> float:
    return np.count_nonzero(proven) / proven.size


def _counted_once(reads: Sequence[tuple[str, Read]]) -> Sequence[tuple[str, Read]]:
    """Without further copies of a file: they hold the same noise, so they say nothing new."""
    first: dict[str, str] = {}
    out: list[tuple[str, Read]] = []
    for name, read in reads:
        if isinstance(read, PhotoRead) and read.digest in first:
            read = BadInput(
                f"The same file as '{first[read.digest]}': it counts once. Shoot again where another photo is wanted.",
                COPY,
            )
        elif isinstance(read, PhotoRead) and read.digest:
            first[read.digest] = name
        out.append((name, read))
    return out


def _of_true_size(reads: Sequence[tuple[str, Read]]) -> Sequence[tuple[str, Read]]:
    """Without the photos of a set of which white was shown scaled, as all of it was then; only white tells."""
    scaled = next((read for _, read in reads if isinstance(read, BadInput) and read.code == SCALED), None)
    if scaled is None or any(
        isinstance(read, PhotoRead) and read.pattern.solid and min(read.pattern.drive) == 255 for _, read in reads
    ):
        return reads
    reason = BadInput(
        "White was not shown at its true size, so this pattern was not either. Set the output right and shoot both again.",
        SCALED,
    )
    return [(name, reason if isinstance(read, PhotoRead) else read) for name, read in reads]


def _of_frames(frames: Sequence[FrameRead]) -> list[Finding]:
    """What the frames show, a thing that several of them show told once."""
    told: list[Finding] = []
    for finding in (finding for frame in frames for finding in frame.findings):
        same = next((n for n, other in enumerate(told) if _one_thing(finding, other)), None)
        if same is None:
            told.append(finding)
        else:
            told[same] = told[same].model_copy(update={"patterns": (*told[same].patterns, *finding.patterns)})
    return told


def _one_thing(one: Finding, other: Finding) -> bool:
    return (
        (one.kind, one.orientation) == (other.kind, other.orientation)
        and abs(one.x - other.x) <= 1
        and abs(one.y - other.y) <= 1
    )


def judge_again(
    panel: Panel,
    inspection: Inspection,
    profile: Profile,
    rulings: Sequence[Ruling] = (),
    before: Inspection | None = None,
) -> Inspection:
    """The same measurement judged by another profile, or with other decisions of people on its findings; ``before`` is the dry fit of a closed
    device."""
    findings = decided([by_itself(one) for one in inspection.findings], rulings)
    if before is not None:
        findings = with_pressure_marks(findings, before.findings)
    findings = with_ids(findings)
    shown = frozenset(photo.pattern for photo in inspection.photos if photo.used and photo.pattern)
    measured = Measured(findings, inspection.proven, inspection.uniformity, inspection.colour, shown, inspection.greys)
    return inspection.model_copy(update={"findings": findings, "verdict": judge(panel, measured, profile)})


def _unplaced(
    name: str, pattern: str | None, problem: Problem, run: int | None = None, proven: float = 0.0
) -> PhotoReport:
    """What is no registered photo of the panel: of another use, or refused."""
    return PhotoReport(
        file=name,
        pattern=pattern,
        run=run,
        corners=(),
        px_per_px=None,
        residual_px=None,
        blur_px=None,
        proven_fraction=proven,
        problems=(problem,),
    )


def _report(name: str, read: Read) -> PhotoReport:
    if isinstance(read, FlatField):
        words = f"Flat field: the lens loses {100 * read.fall_off:.0f} % of the light in the frame's corners."
        return _unplaced(name, FLAT, Problem(code="flat_field", message=words))
    if isinstance(read, FrameRead):
        words = f"A copy of the signal that shows '{read.pattern}': compared pixel by pixel, without a camera."
        return _unplaced(name, FRAME, Problem(code="frame", message=words), read.run, 1.0)
    if isinstance(read, TrailRead):
        told = read.trail
        words = f"A trail of {told.lines} lines, {'none stop' if not told.broken else f'{len(told.broken)} places where they stop'} side by side."
        report = _unplaced(name, TRAIL, Problem(code="trail", message=words))
        return report.model_copy(update={"trail": told})
    if isinstance(read, ReferencePanel):
        words = "The reference panel: what it shows is compared with, and counts for nothing else."
        return _unplaced(name, REFERENCE, Problem(code="reference_panel", message=words))
    if isinstance(read, BadInput):
        return _unplaced(name, None, Problem(code=read.code, message=read.message))
    return PhotoReport(
        file=name,
        pattern=read.pattern.id,
        run=read.run,
        corners=tuple((round(x, 2), round(y, 2)) for x, y in read.corners),
        px_per_px=round(read.px_per_px, 3),
        residual_px=round(read.registration.residual_px, 3),
        blur_px=round(read.blur_px, 2),
        residuals=tuple(
            MarkerResidual(x=round(x, 1), y=round(y, 1), dx=round(dx, 3), dy=round(dy, 3))
            for x, y, dx, dy in read.registration.residuals
        ),
        proven_fraction=round(_share(read.view.trust > 0.5), 4),
        problems=read.problems,
        map=_map(read),
    )


def _map(read: PhotoRead) -> PhotoMap:
    r = read.registration
    return PhotoMap(
        homography=tuple(float(v) for v in (r.homography / r.homography[2, 2]).ravel()),
        k1=r.k1,
        k2=r.k2,
        width=r.width,
        height=r.height,
    )


def _smallest(proven: Proven, patterns: list[str], brightness: bool) -> str:
    if not patterns and brightness:
        return "Only steps of the brightness control were shot. Shoot a set of patterns to prove the panel."
    if not patterns:
        return "Nothing was seen: no photo could be used."
    families = {get_pattern(name).family for name in patterns if name in PATTERNS}
    missing = [name for name in ("white", "black", "red", "green", "blue", "grey50") if name not in families]
    tail = f" Not photographed: {', '.join(missing)}." if missing else ""
    if proven.subpixels >= 0.5:
        return (
            f"One fully dark or lit subpixel would have been seen on {100 * proven.subpixels:.1f} % of the panel.{tail}"
        )
    return (
        f"One fully dark or lit pixel would have been seen on {100 * proven.pixels:.1f} % of the panel, a single subpixel on "
        f"{100 * proven.subpixels:.1f} %.{tail}"
    )
