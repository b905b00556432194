"""Where on its path a finger was, from the stroke itself: people keep a pace of their own, and the dot's clock helps only where they agree with it.

The reports of a step are aligned to its path by dynamic programming (dynamic time warping: Sakoe and Chiba 1978): each is laid on a place of the
path, so that the squared distances and, weakly, what the places differ from the dot's pace add up to the least. Paths run beside themselves a
cell away, mostly the other way; that weak clock, and the price of going back, keep a stroke from leaping to the next row.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.touch.session import Numbers

PLACE_CELLS = 0.5  # how finely the path is cut for the alignment
MOST_ALIGNED = 1500  # reports; the others lie between them
STRAYED_CELLS2 = 9.0  # squared: a report further off costs no more, as it is none of the path
CLOCK_COST = 0.04  # a cell by which a place differs from the dot's pace: forty cells of pace weigh as one report that is 1.3 cells off

BACK_COST = (
    0.3  # a cell that the finger goes back: people hardly do, and a stroke laid on the wrong row does all along it
)


class Places(NamedTuple):
    """A path by places at even distances: points in cells, and the way to each in cells."""

    x: Numbers
    y: Numbers
    way: Numbers


class Aligned(NamedTuple):
    """(n,) way along the path at each report, cells; and the cost a report, squared cells, by which two alignments are compared."""

    way: Numbers
    cost: float


def aligned(places: Places, pace: float, t: Numbers, x: Numbers, y: Numbers, most: int = MOST_ALIGNED) -> Aligned:
    """Reports laid on a path.

    places : the path
    pace : the dot's, cells a ms
    t, x, y : (n,) reports in their order; ms and cells
    most : so many reports are aligned, the others lie between them
    """
    thin = np.unique(np.linspace(0, len(t) - 1, min(len(t), most)).astype(int))
    step = float(places.way[1] - places.way[0])
    cost_of_step = CLOCK_COST * step
    index = np.arange(len(places.way))
    from_places = np.empty((len(thin), len(index)), np.int32)
    # at first anybody is where the dot is, more or less
    cost = cost_of_step * np.abs(index - (t[thin[0]] - t[0]) * pace / step)
    before = t[thin[0]]
    for n, report in enumerate(thin):
        moved = (t[report] - before) * pace / step
        before = t[report]
        cost, from_places[n] = _gone_on(cost, moved, cost_of_step, BACK_COST * step)
        cost = cost + np.minimum((places.x - x[report]) ** 2 + (places.y - y[report]) ** 2, STRAYED_CELLS2)
    at = np.empty(len(thin), np.intp)
    place = int(np.argmin(cost))
    least = float(cost[place]) / len(thin)
    for n in range(len(thin) - 1, -1, -1):
        at[n] = place
        place = int(from_places[n, place])
    return Aligned(np.interp(t, t[thin], places.way[at]), least)


def _gone_on(
    cost: Numbers, moved: float, cost_of_step: float, cost_of_back: float
) -> tuple[Numbers, NDArray[np.int32]]:
    """The least cost of coming to each place, and from which: going on by ``moved`` places is for nothing, each place more or less costs, and
    going back costs more."""
    index = np.arange(len(cost))
    # on by as much or more: cost[k] + c (j - k - moved) for k <= j - moved
    ahead, ahead_from = _running(cost - cost_of_step * (index + moved))
    last = np.clip(np.floor(index - moved).astype(int), -1, len(cost) - 1)
    best = np.where(last >= 0, ahead[last] + cost_of_step * index, np.inf)
    came = ahead_from[last]
    # on by less: cost[k] + c (k + moved - j) for j - moved < k <= j
    slow, slow_from = _windowed(cost + cost_of_step * (index + moved), int(min(np.ceil(moved), len(cost))))
    best, came = _lesser(best, came, slow - cost_of_step * index, slow_from)
    # back: cost[k] + c moved + b (k - j) for k > j
    back, back_from = _running((cost + cost_of_back * index)[::-1])
    back, back_from = back[::-1] + cost_of_step * moved - cost_of_back * index, (len(cost) - 1 - back_from)[::-1]
    best, came = _lesser(best, came, back, back_from)
    return best, came.astype(np.int32)


def _lesser(
    one: Numbers, one_from: NDArray[np.intp], other: Numbers, other_from: NDArray[np.intp]
) -> tuple[Numbers, NDArray[np.intp]]:
    less = other < one
    return np.where(less, other, one), np.where(less, other_from, one_from)


def _running(values: Numbers) -> tuple[Numbers, NDArray[np.intp]]:
    """The least of each value and those before it, and where it is."""
    least = np.minimum.accumulate(values)
    index = np.arange(len(values))
    return least, np.maximum.accumulate(np.where(values == least, index, 0))


def _windowed(values: Numbers, width: int) -> tuple[Numbers, NDArray[np.intp]]:
    """The least of each value and the ``width - 1`` before it, and where it is: windows of powers of two, two of which cover any."""
    least, came = values, np.arange(len(values))
    reach = 1
    while reach < width:
        step = min(reach, width - reach)
        behind, behind_from = np.full(len(values), np.inf), np.zeros(len(values), np.intp)
        behind[step:], behind_from[step:] = least[:-step], came[:-step]
        least, came = _lesser(least, came, behind, behind_from)
        reach += step
    return least, came


def own_pace(t: Numbers, way: Numbers, moving: NDArray[np.bool_], reach: int = 12) -> Numbers:
    """(n - 1,) pace about each interval between reports: the way gone over the time taken in ``reach`` moving intervals before and after it;
    0 where there are none."""
    gone = np.concatenate([[0.0], np.cumsum(np.where(moving, np.diff(way), 0.0))])
    took = np.concatenate([[0.0], np.cumsum(np.where(moving, np.diff(t), 0.0))])
    count = len(way) - 1
    low, high = np.clip(np.arange(count) - reach, 0, count), np.clip(np.arange(count) + reach + 1, 0, count)
    return np.asarray(
        (gone[high] - gone[low]) / np.maximum(took[high] - took[low], 1e-9) * (took[high] > took[low]), float
    )
