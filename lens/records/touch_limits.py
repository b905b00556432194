"""The figures of a touch surface that are held to limits."""

from typing import Literal

LimitId = Literal[
    "jitter_rest_mm",
    "jitter_moving_mm",
    "straightness_mm",
    "rate_hz",
    "gap_ms",
    "offset_mm",
    "scale_off",
    "separation_mm",
]
