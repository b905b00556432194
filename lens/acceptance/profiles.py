"""Acceptance profiles: a pixel-fault class and whatever else was agreed, as data."""

from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from lens.acceptance.classes import get_class
from lens.records.base import Record
from lens.records.kinds import Kind
from lens.records.touch_limits import LimitId
from lens.tables import not_known, shipped, validated

DATA = Path(__file__).with_name("profiles.yaml")
DEFAULT_PROFILE = "class-II"
DEMANDED_SHARE = 0.98
SHORT_SHARE = (
    0.95  # of the three photos of a dry fit; what they miss lies under markers and is looked at on the closed device
)
MIDDLE_SHARE = 0.5  # of width and of height


class DotRule(Record):
    """At most ``limit`` findings of some kinds: everywhere, in the middle (see the profile's ``middle_share``) or outside it; with ``closer_than_mm``
    only pairs that lie closer together count; with ``larger_than_mm`` only what is longer than that."""

    title: str = Field(min_length=1, max_length=80)
    kinds: tuple[Kind, ...] = Field(min_length=1)
    limit: int = Field(ge=0, le=100_000)
    where: Literal["everywhere", "middle", "outer"] = "everywhere"
    closer_than_mm: float | None = Field(default=None, gt=0, le=2000)
    larger_than_mm: float | None = Field(default=None, gt=0, le=2000)


class Profile(Record):
    """What a panel must fulfil; a limit of None is not judged."""

    id: str = Field(pattern=r"^[a-zA-Z0-9][a-zA-Z0-9-]{0,39}$")
    title: str = Field(min_length=1, max_length=80)
    pixels: str | None = Field(default=None, description="pixel-fault class (ISO 9241-307), per million pixels")
    subpixels: bool = Field(
        default=True, description="False: single subpixels are not judged, for sets whose photos show no colours apart"
    )
    demanded_share: float = Field(
        default=DEMANDED_SHARE, ge=0.5, le=1.0, description="share of the panel that must be proven"
    )
    uniformity_min: float | None = Field(default=None, gt=0, le=1, description="darkest to brightest of the points")
    uniformity_points: Literal[5, 9, 13] = 9
    delta_uv_max: float | None = Field(default=None, gt=0, le=0.5, description="largest u'v' distance of nine points")
    gamma_off_max: float | None = Field(
        default=None, gt=0, le=2, description="largest distance of gamma from 2.2; needs the grey ladder"
    )
    grey_delta_uv_max: float | None = Field(
        default=None, gt=0, le=0.5, description="largest u'v' distance of a grey from white; likewise"
    )
    mura_semu_max: float | None = Field(default=None, gt=0, le=100)
    bleed_max: float | None = Field(default=None, gt=0, le=1, description="share of white that shows on black")
    middle_share: float = Field(
        default=MIDDLE_SHARE,
        ge=0.1,
        le=1,
        description="share of width and of height that is the middle: 0.5 is a quarter of the area, 1/3 a ninth",
    )
    rules: tuple[DotRule, ...] = Field(default=(), max_length=20)
    touch: dict[LimitId, Annotated[float, Field(gt=0, le=1000)] | None] = Field(
        default_factory=dict,
        description="limits of the touch surface that were agreed on instead of the shipped ones; null: not judged",
    )

    @model_validator(mode="after")
    def _judges_something(self) -> "Profile":
        if self.pixels is not None:
            get_class(self.pixels)
        limits = (
            self.uniformity_min,
            self.delta_uv_max,
            self.gamma_off_max,
            self.grey_delta_uv_max,
            self.mura_semu_max,
            self.bleed_max,
        )
        if self.pixels is None and not self.rules and all(limit is None for limit in limits):
            raise ValueError("a profile needs a pixel class, a rule or a limit")
        return self


def read_profile(content: object) -> Profile:
    """A checked profile from parsed YAML or JSON; raises BadInput that names the fields."""
    return validated(Profile, content, "Acceptance profile", "profile")


def for_dry_fit(profile: Profile) -> Profile:
    """The same profile for the two minutes of a dry fit, whose three photos show no colours apart and leave the places under their markers open:
    a smaller share, no single subpixels, and no limits on colour and greys. The full one is judged on the closed device."""
    rules = [
        rule.model_copy(update={"kinds": kinds})
        for rule in profile.rules
        if (kinds := tuple(kind for kind in rule.kinds if not kind.endswith("subpixel")))
    ]
    return profile.model_copy(
        update={
            "subpixels": False,
            "rules": tuple(rules),
            "demanded_share": min(profile.demanded_share, SHORT_SHARE),
            "delta_uv_max": None,
            "gamma_off_max": None,
            "grey_delta_uv_max": None,
        }
    )


class _Profiles(Record):
    profiles: dict[str, dict[str, Any]]


@cache
def built_in_profiles() -> dict[str, Profile]:
    """The profiles that ship with the core."""
    return {name: read_profile({"id": name, **one}) for name, one in shipped(_Profiles, DATA).profiles.items()}


def get_profile(name: str) -> Profile:
    """The built-in profile of that name; raises BadInput with the known ones."""
    if name not in built_in_profiles():
        raise not_known("acceptance profile", name, built_in_profiles(), "unknown_profile")
    return built_in_profiles()[name]
