"""The result of looking at a set of photos of one panel."""

from typing import Literal

from pydantic import Field

from lens.records.base import Record
from lens.records.brightness import BrightnessCurve, WhiteLight
from lens.records.findings import AgainstReference, Channel, Colour, DataBits, Finding, Greys, Uniformity
from lens.records.kinds import Kind
from lens.records.verdict import Verdict

Point = tuple[float, float]


class PanelSize(Record):
    width: int
    height: int


class Problem(Record):
    """Something about a photo that its user should know: ``code`` is stable, ``message`` says what to do."""

    code: str
    message: str


class PhotoMap(Record):
    """Where each panel pixel lies in the photo: homography (row by row), then radial terms about the photo's centre."""

    homography: tuple[float, ...]
    k1: float
    k2: float
    width: int
    height: int


class Proven(Record):
    """Share of the panel in which a fault of a whole pixel, and of a single subpixel, would have been found."""

    pixels: float
    subpixels: float


class LightMap(Record):
    """Light of the panel over a coarse grid, row by row from the top left, 1 at its median; lens fall-off taken off."""

    columns: int
    rows: int
    light: tuple[float, ...]


class PanelMap(Record):
    """A value over a coarse grid of the panel, row by row from the top left."""

    columns: int
    rows: int
    values: tuple[float, ...]


class SmallestFault(Record):
    """The smallest fault of a kind that would have been found with probability 0.95: as a share of a full one (more than 1: not even
    that), or as its contrast. ``median`` is over the panel, ``worst`` is exceeded on a twentieth of it."""

    kind: Kind
    channel: Channel | None = None
    orientation: Literal["row", "column"] | None = None
    unit: Literal["of a full fault", "contrast"]
    area_mm2: float | None = Field(
        default=None, description="of a spot at half its depth, which the contrast holds for"
    )
    median: float
    worst: float
    proven: float = Field(description="share of the panel where a full one would have been found")
    map: PanelMap | None = None


class NextShot(Record):
    """Photos that would prove more. ``frame`` is centre and size of the part to show, in panel pixels; None is the whole panel."""

    pattern: str
    count: int
    share: float = Field(description="share of the panel that they could prove")
    text: str
    frame: tuple[float, float, float, float] | None = None
    later: bool = Field(default=False, description="after some minutes, to see what fades")
    from_side: bool = Field(
        default=False, description="well off the panel's normal, so that what lies on the glass moves"
    )


class MarkerResidual(Record):
    """A marker's middle, and how far from the registration it is seen, right and down in the photo; panel px."""

    x: float
    y: float
    dx: float
    dy: float


class Trail(Record):
    """Lines that were drawn by a finger on a device that cannot open our page, on the grid that places are marked on by eye: cells (column, row)
    that were drawn on, and those where lines stop side by side."""

    columns: int
    rows: int
    lines: int
    drawn: tuple[tuple[int, int], ...]
    broken: tuple[tuple[int, int], ...]


class PhotoReport(Record):
    """What one photo turned out to be. Corners are the active area's, in photo pixels after the EXIF orientation."""

    file: str
    pattern: str | None
    run: int | None = Field(description="run code of the markers; 0 for exported files")
    corners: tuple[Point, ...] = Field(description="top-left, top-right, bottom-right, bottom-left")
    px_per_px: float | None = Field(description="camera px per panel px at the panel's centre")
    residual_px: float | None = Field(description="RMS of the registration, panel px")
    residuals: tuple[MarkerResidual, ...] = Field(default=(), description="the registration's residual by marker")
    blur_px: float | None = Field(description="sigma, photo px")
    proven_fraction: float
    problems: tuple[Problem, ...] = ()
    map: PhotoMap | None = None
    trail: Trail | None = None

    @property
    def used(self) -> bool:
        """Read and put to use: registered to the panel, a flat-field shot, one of the reference panel, a copy of the signal, or a drawn trail."""
        return self.px_per_px is not None or self.pattern in ("flat", "reference", "frame", "trail")


class Inspection(Record):
    """Photos, findings, light field and verdict of one set."""

    panel: PanelSize
    photos: tuple[PhotoReport, ...]
    findings: tuple[Finding, ...]
    uniformity: Uniformity | None
    colour: Colour | None
    greys: Greys | None = None
    data_bits: DataBits | None = Field(default=None, description="where the data bits were photographed")
    white_light: WhiteLight | None = Field(default=None, description="where photos tell their exposure")
    brightness: BrightnessCurve | None = Field(
        default=None, description="where steps of the brightness control were photographed"
    )
    reference: AgainstReference | None = Field(
        default=None, description="white against a known-good panel's, where one was photographed"
    )
    verdict: Verdict
    proven: Proven
    light_map: LightMap | None = None
    tint_map: PanelMap | None = Field(default=None, description="u'v' distance from the surroundings' colour")
    mura_map: PanelMap | None = Field(
        default=None, description="percent by which the light differs from a smooth light"
    )
    smallest: tuple[SmallestFault, ...] = Field(
        default=(), description="the smallest fault that would have been seen, by kind"
    )
    smallest_proven: str = Field(description="the smallest fault that would have been seen, in words")
    unproven_cells: tuple[tuple[int, int, float], ...] = Field(
        default=(),
        description="column, row and proven share of the cells of a 48-column grid that are not fully proven",
    )
    next_shots: tuple[NextShot, ...] = Field(default=(), description="what to photograph next, the most telling first")
    core_version: str
