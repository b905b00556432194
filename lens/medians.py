"""Medians and quantiles of arrays without gaps, several times faster than numpy's, which parts the values at three places and asks for gaps."""

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float32] | NDArray[np.float64]


def quantile(values: Values, share: float) -> float:
    """The value below which a ``share`` 0..1 of all values lies, linear between two (number 7 of Hyndman and Fan 1996, as numpy's)."""
    at = share * (values.size - 1)
    low = int(at)
    parted = np.partition(values, low, axis=None)
    below = float(parted[low])
    return below if at == low else below + (at - low) * (float(parted[low + 1 :].min()) - below)


def median(values: Values) -> float:
    """The middle of all values."""
    return quantile(values, 0.5)


def medians(values: Values) -> NDArray[np.float64]:
    """(n,) the median of each of the n channels, which lie along the last axis."""
    return np.array([median(values[..., n]) for n in range(values.shape[-1])])
