"""Stated confidence against how often it was right, over all and by kind of finding."""

import math
import statistics
from collections.abc import Sequence
from typing import NamedTuple

CONFIDENCE_STEPS = (0.0, 0.5, 0.8, 0.9, 0.95, 0.99, 1.01)
LEAST_FINDINGS = (
    200  # of a kind, from which on its figures stand by themselves; less are told with their interval, and pooled
)
SURE = 0.9  # above which one in twenty may be wrong
Z_95 = 1.96


class Stated(NamedTuple):
    """What was said and how sure; ``right``: whether it is there and of this kind."""

    confidence: float
    right: bool
    kind: str = ""


def calibration_error(sure: Sequence[Stated]) -> float:
    """Mean distance of stated confidence and share that is right, over steps of confidence, each by how many findings are in it (expected
    calibration error: Naeini, Cooper, Hauskrecht 2015, from memory)."""
    error = 0.0
    for part in _steps(sure):
        error += abs(sum(one.confidence - one.right for one in part))
    return error / max(len(sure), 1)


def share_interval(right: int, many: int) -> tuple[float, float]:
    """95 % interval of a share (Wilson 1927)."""
    if many == 0:
        return 0.0, 1.0
    p, z2 = right / many, Z_95**2
    middle, half = p + z2 / (2 * many), Z_95 * math.sqrt(p * (1 - p) / many + z2 / (4 * many**2))
    return max(0.0, (middle - half) / (1 + z2 / many)), min(1.0, (middle + half) / (1 + z2 / many))


def print_reliability(sure: Sequence[Stated]) -> None:
    """How often findings of a stated confidence are real and of the kind that was told."""
    print("\nstated confidence   findings  mean stated  right")
    for low, high in zip(CONFIDENCE_STEPS, CONFIDENCE_STEPS[1:], strict=False):
        part = [one for one in sure if low <= one.confidence < high]
        if part:
            print(
                f"{low:5.2f} to {min(high, 1.0):4.2f}       {len(part):8d}  {statistics.mean(one.confidence for one in part):11.3f}  "
                f"{statistics.mean(one.right for one in part):5.3f}"
            )
    kinds = sorted({one.kind for one in sure if one.kind})
    if kinds:
        print("\nkind               findings  mean stated  right (95 % interval)    calibration error  wrong above 0.9")
        few: list[Stated] = []
        for kind in kinds:
            own = [one for one in sure if one.kind == kind]
            _print_kind(kind, own)
            few += own if len(own) < LEAST_FINDINGS else []
        if few:
            _print_kind(f"under {LEAST_FINDINGS} each", few)


def _print_kind(name: str, sure: Sequence[Stated]) -> None:
    right = sum(one.right for one in sure)
    low, high = share_interval(right, len(sure))
    above = [one for one in sure if one.confidence > SURE]
    wrong = f"{sum(not one.right for one in above)} of {len(above)}" if above else "-"
    print(
        f"{name:18s} {len(sure):8d}  {statistics.mean(one.confidence for one in sure):11.3f}  {right / len(sure):5.3f} ({low:.2f} to {high:.2f})  "
        f"{calibration_error(sure):19.3f}  {wrong:>15s}"
    )


def _steps(sure: Sequence[Stated]) -> list[list[Stated]]:
    parts = [
        [one for one in sure if low <= one.confidence < high]
        for low, high in zip(CONFIDENCE_STEPS, CONFIDENCE_STEPS[1:], strict=False)
    ]
    return [part for part in parts if part]
