"""Least squares that outliers do not pull."""

import numpy as np
from numpy.typing import NDArray

from lens.medians import median

Values = NDArray[np.float64]
LEAST_SPREAD = 1e-4


def tukey_fit(basis: Values, seen: Values, reach: float, fits: int) -> tuple[Values, float]:
    """The (n,) shares of (n, N) terms that make up (N,) values best, and the standard deviation of what is left, by its median.

    Iterated least squares with Tukey's biweight (Huber, Ronchetti, Robust Statistics, 2nd ed., 7.8): what lies ``reach`` deviations off counts
    nothing.
    """
    weight: Values = np.ones(len(seen))
    solution, spread = np.zeros(len(basis)), 0.0
    for _ in range(fits):
        solution = np.asarray(
            np.linalg.lstsq((basis * weight) @ basis.T, basis @ (seen * weight), rcond=None)[0], float
        )
        rest = seen - solution @ basis
        spread = max(1.4826 * median(np.abs(rest)), LEAST_SPREAD)
        weight = np.asarray(np.maximum(1 - (rest / (reach * spread)) ** 2, 0) ** 2, float)
    return solution, spread
