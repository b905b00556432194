"""The kinds of findings: the one table that every list of kinds is made of, in Python, in the API and in the front end.

A new kind is a name in ``Kind``, a row in ``KINDS``, and the code that finds it.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, get_args

from pydantic import Field

from lens.records.base import Record

Kind = Literal[
    "dead_pixel",
    "bright_pixel",
    "dark_subpixel",
    "bright_subpixel",
    "cluster",
    "line",
    "band",
    "dark_zone",
    "bright_zone",
    "bleed",
    "discoloration",
    "mura",
    "pressure_mark",
    "retained_image",
    "crack",
    "artifact",
    "flicker",
    "dim",
    "no_light",
    "dust",
    "film",
    "scratch",
    "reflection",
    "camera",
]
Family = Literal["pixel", "cluster", "line", "area", "whole", "glass", "camera"]


class Area(Record):
    """How an extended finding fills its box on the panel map: dark ones shaded, bright ones lightened, faint ones only outlined."""

    fill: str
    opacity: float = Field(ge=0, le=1)
    dash: str | None = None


class Mark(Record):
    """The drawing of a kind, as an SVG path about its middle in a box of 48 units: dark is filled, bright outlined, not of the panel crossed."""

    path: str
    filled: bool = False
    dashed: bool = False
    area: Area | None = None


class KindFacts(Record):
    """What is known of a kind."""

    id: Kind
    title: str
    family: Family = Field(
        description="pixel, cluster, line, area, whole (the picture or the panel as such), glass, camera"
    )
    of_panel: bool = Field(default=True, description="False: it lies on the glass or in the camera")
    pixel_class: Literal["type_1", "type_2", "type_3", "clusters", "lines", "areas"] | None = Field(
        default=None, description="the criterion of a pixel class that counts it (ISO 9241-307, from memory)"
    )
    evidence: str | None = Field(default=None, description="the outcome of the check 'photos' that it gives")
    carried_by_signal: bool = Field(
        default=False, description="an external screen shows it too where the signal is to blame"
    )
    soft: bool = Field(
        default=False, description="what presses from behind looks so: new after closing, it is a pressure mark"
    )
    correctable: bool = Field(default=True, description="a person may correct a finding to it")
    ruled: bool = Field(default=False, description="rules on dots may count it")
    mark: Mark

    @property
    def extended(self) -> bool:
        """Drawn over its whole extent, rather than as a mark at its place."""
        return self.family in ("line", "area", "whole")


def _square(r: float) -> str:
    return f"M{-r:g} {-r:g}h{2 * r:g}v{2 * r:g}h{-2 * r:g}z"


def _diamond(r: float) -> str:
    return f"M0 {-r:g}L{r:g} 0L0 {r:g}L{-r:g} 0z"


def _cross(r: float) -> str:
    return f"M{-r:g} {-r:g}L{r:g} {r:g}M{r:g} {-r:g}L{-r:g} {r:g}"


def _ring(r: float) -> str:
    return f"M{-r:g} 0a{r:g} {r:g} 0 1 0 {2 * r:g} 0a{r:g} {r:g} 0 1 0 {-2 * r:g} 0"


DOME = "M-14 8C-14 -12 14 -12 14 8z"

_ROWS = (
    KindFacts(
        id="dead_pixel",
        title="dead pixel",
        family="pixel",
        pixel_class="type_2",
        evidence="pixels",
        carried_by_signal=True,
        ruled=True,
        mark=Mark(path=_square(9), filled=True),
    ),
    KindFacts(
        id="bright_pixel",
        title="bright pixel",
        family="pixel",
        pixel_class="type_1",
        evidence="pixels",
        carried_by_signal=True,
        ruled=True,
        mark=Mark(path=_diamond(12)),
    ),
    KindFacts(
        id="dark_subpixel",
        title="dark subpixel",
        family="pixel",
        pixel_class="type_3",
        evidence="pixels",
        carried_by_signal=True,
        ruled=True,
        mark=Mark(path="M-9 7L0 -8L9 7z", filled=True),
    ),
    KindFacts(
        id="bright_subpixel",
        title="bright subpixel",
        family="pixel",
        pixel_class="type_3",
        evidence="pixels",
        carried_by_signal=True,
        ruled=True,
        mark=Mark(path="M-9 -7L0 8L9 -7z"),
    ),
    KindFacts(
        id="cluster",
        title="cluster",
        family="cluster",
        pixel_class="clusters",
        evidence="pixels",
        carried_by_signal=True,
        correctable=False,
        ruled=True,
        mark=Mark(path=_ring(20), dashed=True),
    ),
    KindFacts(
        id="line",
        title="line",
        family="line",
        pixel_class="lines",
        evidence="lines",
        carried_by_signal=True,
        ruled=True,
        mark=Mark(path="M-12 0H12"),
    ),
    KindFacts(
        id="band",
        title="band",
        family="line",
        pixel_class="lines",
        evidence="lines",
        carried_by_signal=True,
        ruled=True,
        mark=Mark(path="M-12 -4H12V4H-12z"),
    ),
    KindFacts(
        id="dark_zone",
        title="dark zone",
        family="area",
        pixel_class="areas",
        evidence="zones",
        soft=True,
        ruled=True,
        mark=Mark(path=DOME, filled=True, area=Area(fill="#000", opacity=0.5)),
    ),
    KindFacts(
        id="bright_zone",
        title="bright zone",
        family="area",
        pixel_class="areas",
        evidence="zones",
        soft=True,
        ruled=True,
        mark=Mark(path=DOME, area=Area(fill="#fff", opacity=0.25)),
    ),
    KindFacts(
        id="bleed",
        title="bleed",
        family="area",
        evidence="bleed",
        mark=Mark(path="M12 -12V12L-12 -12z", area=Area(fill="#fff", opacity=0.15, dash="12 6")),
    ),
    KindFacts(
        id="discoloration",
        title="tint",
        family="area",
        evidence="tint",
        mark=Mark(
            path="M-12 5a2.5 2.5 0 1 0 .1 0M0 -9a2.5 2.5 0 1 0 .1 0M12 5a2.5 2.5 0 1 0 .1 0",
            area=Area(fill="none", opacity=0, dash="2 7"),
        ),
    ),
    KindFacts(
        id="mura",
        title="mura",
        family="area",
        evidence="zones",
        soft=True,
        ruled=True,
        mark=Mark(path="M-14 0C-9 -9 -5 -9 0 0S9 9 14 0", area=Area(fill="none", opacity=0, dash="7 7")),
    ),
    KindFacts(
        id="pressure_mark",
        title="pressure mark",
        family="area",
        pixel_class="areas",
        evidence="zones",
        ruled=True,
        mark=Mark(path="M-14 -6L0 4L14 -6M-14 4L0 14L14 4M0 -16V-4", area=Area(fill="#000", opacity=0.25, dash="3 5")),
    ),
    KindFacts(
        id="retained_image",
        title="retained image",
        family="area",
        evidence="retained",
        mark=Mark(
            path="M-13 -9H5V6H-13zM-7 6V11H13V-4H5", dashed=True, area=Area(fill="none", opacity=0, dash="14 4 2 4")
        ),
    ),
    KindFacts(
        id="crack",
        title="crack",
        family="whole",
        pixel_class="lines",
        evidence="crack",
        ruled=True,
        mark=Mark(
            path="M-13 -11L-3 -3L-6 3L13 11M-3 -3L7 -11M-6 3L-12 9",
            area=Area(fill="#000", opacity=0.2, dash="16 5 4 5"),
        ),
    ),
    KindFacts(
        id="artifact",
        title="wrong picture",
        family="whole",
        pixel_class="lines",
        evidence="picture",
        carried_by_signal=True,
        correctable=False,
        mark=Mark(path="M-13 -8H3V8H-13zM-3 -8V-12H13V4H3", area=Area(fill="none", opacity=0, dash="20 10")),
    ),
    KindFacts(
        id="flicker",
        title="flicker",
        family="area",
        evidence="flicker",
        correctable=False,
        mark=Mark(path="M-13 -8H13M-13 0H13M-13 8H13", area=Area(fill="none", opacity=0, dash="2 14")),
    ),
    KindFacts(
        id="dim",
        title="dim panel",
        family="area",
        correctable=False,
        mark=Mark(path=f"{_ring(11)}M0 -11V11", area=Area(fill="#000", opacity=0.15, dash="1 12")),
    ),
    KindFacts(
        id="no_light",
        title="no light",
        family="whole",
        pixel_class="lines",
        correctable=False,
        mark=Mark(path=f"{_ring(11)}M-13 13L13 -13", filled=True, area=Area(fill="#000", opacity=0.6, dash="24 8")),
    ),
    KindFacts(id="dust", title="dust", family="glass", of_panel=False, mark=Mark(path=_cross(7))),
    KindFacts(id="film", title="film bubble", family="glass", of_panel=False, mark=Mark(path=_cross(7) + _square(11))),
    KindFacts(id="scratch", title="scratch", family="glass", of_panel=False, mark=Mark(path=_cross(7) + "M-12 0H12")),
    KindFacts(
        id="reflection", title="reflection", family="glass", of_panel=False, mark=Mark(path=_cross(7) + _diamond(13))
    ),
    KindFacts(
        id="camera", title="camera defect", family="camera", of_panel=False, mark=Mark(path=_cross(7) + _ring(10))
    ),
)
KINDS: Mapping[str, KindFacts] = MappingProxyType({row.id: row for row in _ROWS})
if tuple(KINDS) != get_args(Kind):
    raise TypeError("Every kind has one row in KINDS, in the order of Kind.")

PIXEL_KINDS: tuple[Kind, ...] = tuple(row.id for row in _ROWS if row.family == "pixel")
LINE_KINDS: tuple[Kind, ...] = tuple(row.id for row in _ROWS if row.pixel_class == "lines")
AREA_KINDS: tuple[Kind, ...] = tuple(row.id for row in _ROWS if row.pixel_class == "areas")
SOFT_KINDS: frozenset[str] = frozenset(row.id for row in _ROWS if row.soft)
NOT_OF_THE_PANEL: frozenset[str] = frozenset(row.id for row in _ROWS if not row.of_panel)


def related(one: str, other: str) -> bool:
    """Whether two kinds may be one fault seen twice: a pixel's, or a line's, told with another width or number of subpixels."""
    families = {KINDS[one].family, KINDS[other].family}
    return one == other or families == {"pixel"} or families == {"line"}
