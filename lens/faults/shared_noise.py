"""Photos that share their noise tell less together than as many photos of their own.

A file that was sent on by a messenger and coded anew holds the noise of its original, and photos from a tripod share moire and whatever else
the sensor's grid makes of the panel's. Added up as if they were independent, a dozen of them make faults of that noise. Where photos of one
pattern were shot from the same place, the correlation of their responses is measured, and each counts by one over the sum of its correlations
with all of them, its own included: n photos of one correlation r are worth n / (1 + (n - 1) r), Kish's design effect (Survey Sampling, 1965,
from memory). Photos held by hand are not touched: a hand never finds its place again, and measured so, their responses do not correlate.
"""

from collections import defaultdict
from collections.abc import Sequence
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from lens.photo import PhotoRead

SAME_PLACE_SHARE = (
    0.002  # of the photo's width: what a tripod, stabilisation and a smaller copy leave the corners apart
)
MOST_SAMPLES = 40_000  # pixels of the panel; the correlation is known to 0.005 by so many
LEAST_CORRELATION = 0.1  # less is not told from a panel whose own grain both photos show
INFORMED_SHARE = 0.1  # channels with less of the best one's information have next to no say in the sum


def _places(photo: PhotoRead) -> NDArray[np.float64]:
    """(4, 2) corners in shares of the photo's size."""
    return np.array(photo.corners) / (photo.registration.width, photo.registration.height)


def _correlation(one: PhotoRead, other: PhotoRead) -> float:
    """Of two photos' responses, 0..1, by the signs of a thinned sample of pixels, which a few strong faults do not sway: sin(pi s / 2) for the
    mean product s of two Gaussian variables' signs (Sheppard 1899). The channel that agrees best counts, of those that have a say."""
    trusted = np.flatnonzero(((one.view.trust == 1) & (other.view.trust == 1)).ravel())
    chosen = trusted[:: max(1, len(trusted) // MOST_SAMPLES)]
    if not len(chosen):
        return 0.0
    said = np.diagonal(one.view.information, axis1=2, axis2=3).sum(axis=(0, 1))
    best = 0.0
    for channel in np.flatnonzero(said >= INFORMED_SHARE * said.max()):
        a, b = (np.sign(photo.view.response[..., channel].ravel()[chosen]) for photo in (one, other))
        best = max(best, float(np.mean(a * b)))
    return float(np.sin(np.pi / 2 * best))


def weights(photos: Sequence[PhotoRead]) -> NDArray[np.float64]:
    """(N,) what each photo counts, over 0 to 1; 1 for one that shares nothing with another of its pattern."""
    out = np.ones(len(photos))
    alike: dict[str, list[int]] = defaultdict(list)
    for number, photo in enumerate(photos):
        alike[photo.pattern.id].append(number)
    for group in alike.values():
        shared = np.eye(len(group))
        for (a, first), (b, second) in combinations(enumerate(group), 2):
            if np.abs(_places(photos[first]) - _places(photos[second])).max() < SAME_PLACE_SHARE:
                correlation = _correlation(photos[first], photos[second])
                shared[a, b] = shared[b, a] = correlation if correlation > LEAST_CORRELATION else 0.0
        out[group] = 1 / shared.sum(axis=1)
    return out


def weighed(photos: Sequence[PhotoRead]) -> list[PhotoRead]:
    """The photos, those that share noise with others made to count as much as they tell."""
    return [
        photo if weight == 1 else _weighed(photo, weight) for photo, weight in zip(photos, weights(photos), strict=True)
    ]


def _weighed(photo: PhotoRead, weight: float) -> PhotoRead:
    view, part = photo.view, np.float32(weight)
    return photo._replace(
        view=view._replace(
            response=view.response * part, energy=view.energy * part, information=view.information * part
        )
    )
