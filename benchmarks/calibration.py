"""Stated confidence against how often it was right."""

import statistics
from collections.abc import Sequence

CONFIDENCE_STEPS = (0.0, 0.5, 0.8, 0.9, 0.95, 0.99, 1.01)


def print_reliability(sure: Sequence[tuple[float, bool]]) -> None:
    """How often findings of a stated confidence are real and of the kind that was told."""
    print("\nstated confidence   findings  mean stated  right")
    for low, high in zip(CONFIDENCE_STEPS, CONFIDENCE_STEPS[1:], strict=False):
        part = [(c, r) for c, r in sure if low <= c < high]
        if part:
            print(
                f"{low:5.2f} to {min(high, 1.0):4.2f}       {len(part):8d}  {statistics.mean(c for c, _ in part):11.3f}  "
                f"{statistics.mean(r for _, r in part):5.3f}"
            )
