"""What a shop accepts: pixel-fault classes, limits and verdicts."""

from lens.acceptance.classes import DEFAULT_PROFILE, PixelClass, class_table, get_class, scaled
from lens.acceptance.judge import DEMANDED_SHARE, Proven, judge

__all__ = ["DEFAULT_PROFILE", "DEMANDED_SHARE", "PixelClass", "Proven", "class_table", "get_class", "judge", "scaled"]
