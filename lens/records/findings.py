"""What was found on the panel, in panel coordinates."""

from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from lens.records.base import Record
from lens.records.kinds import Kind

Channel = Literal["red", "green", "blue"]


# a wrong picture's colours are exchanged, inverted or short of bits; it stands in a wrong place; a part of it is missing; something else
PictureFault = Literal["colours", "place", "part", "other"]


class Decision(Record):
    """What a person decided on a finding after looking at it. The measurement stays beside it."""

    verdict: Literal["accepted", "rejected", "corrected"]
    by: str
    reason: str = ""
    measured_kind: Kind = Field(description="what the photos said; the finding's own kind is what now counts")
    measured_channel: Channel | None = None


class Alternative(Record):
    """What a finding may be instead, where no witness tells them apart."""

    kind: Kind
    p: float = Field(ge=0, le=1)


class Finding(Record):
    """One thing found. ``x, y`` is its centre and ``w, h`` its extent, in panel pixels."""

    id: str = Field(default="", description="of this finding within its result, from what was measured and where")
    kind: Kind
    x: float
    y: float
    w: float
    h: float
    channel: Channel | None = None
    orientation: Literal["row", "column"] | None = None
    contrast: float = Field(description="(L - expected L) / white L of the set, linear light, signed")
    confidence: float = Field(ge=0, le=1, description="P(real and of this kind)")
    patterns: tuple[str, ...] = Field(default=(), description="patterns that show it")
    members: tuple[int, ...] = Field(default=(), description="indices of a cluster's faults in the findings")
    reasons: tuple[str, ...] = ()
    frequency_hz: float | None = Field(
        default=None, description="of a flicker, where the camera's time for one row is known"
    )
    faded: float | None = Field(
        default=None, description="share of a retained image's contrast that was gone in the last photo of its pattern"
    )
    above_px: float | None = Field(
        default=None, description="how far it lies above the pixels, by parallax; None where nothing tells it"
    )
    above_sd_px: float | None = Field(default=None, description="standard deviation of above_px")
    semu: float | None = Field(default=None, description="visibility of a mura whose size in millimetres is known")
    alternatives: tuple[Alternative, ...] = Field(default=(), description="what else it may be")
    ask: str | None = Field(default=None, description="the shot that would tell")
    decision: Decision | None = None
    pressed: Kind | None = Field(default=None, description="of a pressure mark: what its own photos call it")
    picture: PictureFault | None = Field(default=None, description="of a wrong picture: in which way")

    @property
    def counts(self) -> bool:
        """False when a person rejected it."""
        return self.decision is None or self.decision.verdict != "rejected"


def with_ids(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    """The findings with the ids that they keep through decisions and re-judging: kind, colour and place as measured."""
    given: dict[str, int] = {}
    out = []
    for finding in findings:
        told = finding.decision
        kind = told.measured_kind if told else finding.pressed or finding.kind
        channel = told.measured_channel if told else finding.channel
        name = "-".join([kind, *([channel] if channel else []), f"{finding.x:.0f}", f"{finding.y:.0f}"])
        given[name] = given.get(name, 0) + 1
        out.append(finding.model_copy(update={"id": name if given[name] == 1 else f"{name}-{given[name]}"}))
    return tuple(out)


class UniformityPoint(Record):
    x: float
    y: float
    level: float = Field(description="mean linear light of the disc, relative to the brightest point")


class Uniformity(Record):
    """Nine points at 10, 50, 90 % of width and height (VESA FPDM 2.0, from memory); ratio = Lmin / Lmax."""

    ratio: float
    uncertainty: float = Field(description="half-width at 90 %; the other two ratios are as uncertain")
    points: tuple[UniformityPoint, ...]
    ratio_of_five: float | None = Field(default=None, description="of the four corners and the middle of the nine")
    ratio_of_thirteen: float | None = Field(
        default=None, description="of the nine and the four half way from the middle to the corners"
    )

    def of(self, count: int) -> float:
        """Lmin / Lmax of 5, 9 or 13 points; of nine where an older result holds no other."""
        told = {5: self.ratio_of_five, 13: self.ratio_of_thirteen}.get(count)
        return self.ratio if told is None else told


class GreyLevel(Record):
    level: int = Field(description="8-bit drive")
    light: float = Field(description="luminance as a share of white")
    delta_uv: float | None = Field(description="u'v' distance from white; None where it is too dark to tell")


USUAL_GAMMA = 2.2  # what panels for sRGB pictures are made to (common practice)


class Greys(Record):
    """Gamma and grey tracking, from the grey ladder."""

    gamma: float
    uncertainty: float = Field(description="half-width of gamma at 90 %")
    channels: tuple[float, ...] = Field(description="the gammas of red, green and blue")
    max_delta_uv: float = Field(description="largest u'v' distance of a grey from white")
    delta_uv_uncertainty: float = Field(description="half-width at 90 %")
    usual_gamma: float = Field(default=USUAL_GAMMA, description="what it is compared with")
    camera_curve_learned: bool = Field(
        description="False: the camera's tone curve was taken as sRGB, so gamma is uncertain"
    )
    points: tuple[GreyLevel, ...]


class ChannelBits(Record):
    """The data bits of one colour. ``bits`` are those that are missing or exchanged, ``stuck_at`` what missing ones read as."""

    channel: Channel
    fault: Literal["none", "missing", "swapped", "order", "inverted", "unclear", "unseen"]
    bits: tuple[int, ...] = ()
    stuck_at: int | None = None
    every_second: bool = Field(default=False, description="in every second column only: one of two channels")


class DataBits(Record):
    """What the data bits' chequers say of the way from the board to the panel."""

    channels: tuple[ChannelBits, ...]
    outcome: Literal["smooth", "coarse", "colours", "bits", "unclear"]
    lowest_bit_seen: int = Field(description="the loss of any bit from this one up would have been told")
    reasons: tuple[str, ...]


class AgainstReference(Record):
    """The panel's white against that of a known-good panel, shot under the same settings."""

    pattern: str
    light_ratio: float = Field(description="luminance over the reference's")
    light_uncertainty: float = Field(description="half-width at 90 %, as a share")
    delta_u: float
    delta_v: float
    delta_uv: float = Field(description="distance in CIE 1976 u'v'")
    uncertainty: float = Field(description="half-width at 90 % of delta_uv")
    settings_locked: bool = Field(description="both files say that the white balance was set by hand")
    text: str


class Colour(Record):
    """Largest colour distance between any two of the nine points; never without its uncertainty."""

    max_delta_uv: float
    max_delta_e00: float
    uncertainty: float = Field(description="half-width at 90 % of max_delta_uv")
