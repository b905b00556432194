"""Bars from a backlight that is dimmed by pulses: a rolling shutter turns its time into the photo's rows.

The bars stand along the rows of the sensor, not of the panel, and elsewhere in every photo. The period in rows, times the time that
the camera takes for one row, is the period of the light (common practice).
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from scipy.fft import next_fast_len

from lens.faults.light_field import Field, LightField, detrended, unframed
from lens.faults.light_model import background, main_channel
from lens.faults.words import listed
from lens.medians import median
from lens.panel import Panel
from lens.photo import BLOCK_PX, PhotoRead
from lens.records import Finding

BIN_PX = 4  # photo rows that are looked at together
MIN_PERIOD_PX, FEWEST_PERIODS = 28.0, 1.5
OVERSAMPLED = 8  # periods tried per independent one
HARMONICS, PX_A_HARMONIC = 5, 10.0  # the pulses have edges, but none finer than the bins show
FAINTEST_BARS, FAINTEST_FEW, EXPLAINED_SHARE, NOISE_RATIO = (
    0.004,
    0.015,
    0.6,
    40.0,
)  # few: a camera's local tones wave once or twice too
SAME_PERIOD, ENOUGH_FIELD_PHOTOS = 0.04, 3
TELLING = 1.15  # times more left along the one than along the other
STANDING = 0.6  # mean correlation of the photos' bars over the panel
PERIODS_OF_ONE = 3.0  # so many in a row no panel has
CONFIDENCE_OF_ONE, CONFIDENCE_OF_MORE = 0.75, 0.95


class Bars(NamedTuple):
    """Bars in a photo: period in photo px, depth (Michelson's contrast, half of peak to peak over the middle), the (h, w) logarithm of the
    light that they add to the photo's blocks, and how many times more is left of the light when they are taken along the panel's rows instead."""

    pattern: str
    period_px: float
    depth: float
    log_light: Field
    left_by_panel: float


def find_bars(panel: Panel, photos: Sequence[PhotoRead], field: LightField | None) -> list[Bars | None]:
    """The bars of each photo, None where it has none; of bars that the photos do not agree about, none are told."""
    nothing: list[Bars | None] = [None] * len(photos)
    if field is None:
        return nothing
    lit = [n for n, p in enumerate(photos) if p.pattern.solid and max(p.pattern.drive) > 0 and p.view.whole]
    light = np.log(np.maximum(field.light, 1e-3)) if len(lit) >= ENOUGH_FIELD_PHOTOS else None
    seen = {n: bars for n in lit if (bars := _bars(panel, photos[n], light)) is not None}
    if not seen or (len(lit) == 1 and not _enough(panel, photos[lit[0]], seen[lit[0]])):
        return nothing
    period = float(np.median([bars.period_px for bars in seen.values()]))
    agreed = {n: bars for n, bars in seen.items() if abs(bars.period_px - period) <= SAME_PERIOD * period}
    if 2 * len(agreed) < len(lit) or not _of_the_sensor(list(agreed.values())):
        return nothing
    return [agreed.get(n) for n in range(len(photos))]


def _enough(panel: Panel, photo: PhotoRead, bars: Bars) -> bool:
    """Whether a photo that stands alone tells bars from bands: by their direction, or by their number over the panel's longer side."""
    corners = photo.registration.to_photo(np.array(panel.corners, float))
    return bars.left_by_panel > TELLING or float(np.ptp(corners, axis=0).max()) / bars.period_px >= PERIODS_OF_ONE


def _of_the_sensor(bars: Sequence[Bars]) -> bool:
    """Whether they go along the sensor's rows; where those and the panel's are too alike to tell, whether they stand elsewhere on the
    panel in every photo."""
    left = float(np.exp(np.mean(np.log([one.left_by_panel for one in bars]))))
    if not 1 / TELLING < left < TELLING:
        return left > 1
    if len(bars) < 2:
        return True
    matrix = np.atleast_2d(np.corrcoef([one.log_light.ravel() for one in bars]))
    return float(matrix[np.triu_indices(len(bars), 1)].mean()) <= STANDING


def bars_of_one(panel: Panel, photo: PhotoRead) -> Bars | None:
    """The bars of a photo that stands alone; None when it has none, or too few of them to be told from bands."""
    bars = _bars(panel, photo, None)
    return bars if bars is not None and _enough(panel, photo, bars) and _of_the_sensor([bars]) else None


def frequency_hz(bars: Bars, row_time_us: float | None) -> float | None:
    """How often a second the light pulses, by the camera's time for one row of its sensor; None when that is not known."""
    return round(1e6 / (bars.period_px * row_time_us), 1) if row_time_us else None


def without_bars(photo: PhotoRead, bars: Bars | None) -> PhotoRead:
    """The photo with the bars taken off its light."""
    if bars is None:
        return photo
    level = photo.view.level * np.exp(-bars.log_light)[..., None].astype(np.float32)
    # the bars of a camera held straight run along rows: no band is told from their light
    view = photo.view._replace(
        level=level, row_light=photo.view.row_light[:0], column_light=photo.view.column_light[:0]
    )
    return photo._replace(view=view)


def as_flicker(panel: Panel, bars: Sequence[Bars], row_time_us: float | None) -> Finding:
    """The finding. ``row_time_us`` is the camera's time for one row of its sensor, None when it is not known."""
    period = float(np.mean([one.period_px for one in bars]))
    names = list(dict.fromkeys(one.pattern for one in bars))
    hz = frequency_hz(bars[0]._replace(period_px=period), row_time_us)
    told = f"about {hz:.0f} times a second" if hz else "how often follows from the camera's time for one row"
    return Finding(
        kind="flicker",
        x=(panel.width - 1) / 2,
        y=(panel.height - 1) / 2,
        w=panel.width,
        h=panel.height,
        contrast=round(-float(np.median([one.depth for one in bars])), 3),
        confidence=CONFIDENCE_OF_MORE if len(bars) > 1 else CONFIDENCE_OF_ONE,
        patterns=tuple(names),
        frequency_hz=hz,
        reasons=(
            f"Bars every {period:.0f} rows of the photo on {listed(names)}: the backlight is dimmed by pulses, {told}.",
            "At full brightness most backlights stop pulsing: set it to full, and shoot again to see whether the bars stay.",
        ),
    )


def _bars(panel: Panel, photo: PhotoRead, light: Field | None) -> Bars | None:
    channel = main_channel(background(photo))
    level = np.log(np.maximum(photo.view.level[..., channel].astype(float), 1e-6))
    at = photo.registration.nodes(panel).of_blocks(BLOCK_PX).reshape(2, -1)
    # strong bars spoil the common field, faint ones are seen only without the panel's own unevenness
    for shape in (None, light):
        rest = unframed(detrended(level if shape is None else level - shape))
        found = [told for axis in (1, 0) if (told := periodic(rest, at[axis], at[1 - axis])) is not None]
        if found:
            period, depth, fitted = max(found, key=lambda told: told[1])
            # places along and across the panel, as far apart as in the photo
            own = photo.px_per_px * BLOCK_PX * np.indices(level.shape)[::-1].reshape(2, -1)
            by_sensor, by_panel = (min(_left_along(rest, along) for along in places) for places in (at, own))
            return Bars(photo.pattern.id, period, depth, fitted, by_panel / by_sensor)
        if light is None:
            break
    return None


def _left_along(rest: Field, place: Field) -> float:
    """Mean square of what is left of a field when its mean along a place is taken off, bin by bin."""
    bins = np.floor((place - place.min()) / BIN_PX).astype(int)
    mean = np.bincount(bins, rest.ravel()) / np.maximum(np.bincount(bins), 1)
    return float(np.mean((rest.ravel() - mean[bins]) ** 2)) + 1e-12


def _waves(rate: float, place: Field) -> Field:
    """(n, 2 h) cosines and sines of h harmonics."""
    turns = (
        2
        * np.pi
        * rate
        * np.asarray(place)[:, None]
        * np.arange(1, max(1, min(HARMONICS, int(1 / rate / PX_A_HARMONIC))) + 1)
    )
    return np.concatenate([np.cos(turns), np.sin(turns)], axis=1)


def periodic(rest: Field, place: Field, other: Field) -> tuple[float, float, Field] | None:
    """Period, depth and the (h, w) bars themselves of what repeats along ``place``; None when nothing does, or when it stands in one
    half of the photo only."""
    flat, start = rest.ravel(), place.min()
    bins = np.floor((place - start) / BIN_PX).astype(int)
    count = np.bincount(bins)
    kept = count >= max(4, 0.3 * float(np.median(count[count > 0])))

    def profile(part: Field | slice) -> Field:
        return np.asarray(
            np.bincount(bins[part], flat[part], len(count))
            / np.maximum(np.bincount(bins[part], minlength=len(count)), 1)
        )[kept]

    y = (np.arange(len(count))[kept] + 0.5) * BIN_PX
    signal = profile(slice(None))
    signal = signal - signal.mean()
    span = float(np.ptp(y)) if len(y) else 0.0
    if span < FEWEST_PERIODS * MIN_PERIOD_PX or not signal.any():
        return None
    spread = np.zeros(len(count))
    spread[kept] = signal
    size = next_fast_len(OVERSAMPLED * len(count), real=True)
    rates = np.fft.rfftfreq(size, BIN_PX)
    tried = (rates >= FEWEST_PERIODS / span) & (rates <= 1 / MIN_PERIOD_PX)
    rates, power = rates[tried], np.abs(np.fft.rfft(spread, size)[tried]) ** 2
    first = int(np.argmax(power))
    if power[first] < NOISE_RATIO * median(power):
        return None
    rate = _refined(rates, power, first)
    basis = _waves(rate, y)
    weights = np.linalg.lstsq(basis, signal, rcond=None)[0]
    fitted = basis @ weights
    depth = float(np.tanh(np.ptp(fitted) / 2))
    faintest = FAINTEST_BARS if span * rate >= PERIODS_OF_ONE else FAINTEST_FEW
    if depth < faintest or float(fitted @ fitted) < EXPLAINED_SHARE * float(signal @ signal):
        return None
    # a dark zone stands at one side, bars run through
    half = other > median(other)
    if min(float(fitted @ (one - one.mean())) for one in (profile(half), profile(~half))) < 0.5 * float(
        fitted @ fitted
    ):
        return None
    return 1 / rate, depth, (_waves(rate, place - start) @ weights).reshape(rest.shape)


def _refined(rates: Field, power: Field, at: int) -> float:
    """The peak of a parabola through three values."""
    if at in (0, len(rates) - 1):
        return float(rates[at])
    before, here, after = power[at - 1 : at + 2]
    return float(rates[at] + (rates[1] - rates[0]) * 0.5 * (before - after) / (before - 2 * here + after))
