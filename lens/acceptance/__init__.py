"""What a shop accepts: profiles, pixel-fault classes, people's decisions and verdicts."""

from lens.acceptance.classes import PixelClass, class_table, get_class, scaled
from lens.acceptance.decisions import Ruling, about, decided, measured, same_place
from lens.acceptance.judge import judge
from lens.acceptance.limits import Measured
from lens.acceptance.pressure import as_pressed, by_itself, with_pressure_marks
from lens.acceptance.profiles import (
    DEFAULT_PROFILE,
    DEMANDED_SHARE,
    SHORT_SHARE,
    for_dry_fit,
    DotRule,
    Profile,
    built_in_profiles,
    get_profile,
    read_profile,
)

__all__ = [
    "DEFAULT_PROFILE",
    "DEMANDED_SHARE",
    "SHORT_SHARE",
    "for_dry_fit",
    "DotRule",
    "Measured",
    "PixelClass",
    "Profile",
    "Ruling",
    "about",
    "as_pressed",
    "built_in_profiles",
    "by_itself",
    "class_table",
    "decided",
    "get_class",
    "get_profile",
    "judge",
    "measured",
    "read_profile",
    "same_place",
    "scaled",
    "with_pressure_marks",
]
