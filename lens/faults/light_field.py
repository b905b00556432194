"""The light of the panel as a whole: one smooth field from all lit photos, with the lens's fall-off told apart.

A fall-off moves with the camera, an uneven panel does not. Photos from different poses so tell the two apart; where they do
not, the ordinary fall-off of lenses stands in, and its spread goes into the stated uncertainty.
"""

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.light_model import LightModel, background, main_channel
from lens.faults.tone import LINEAR, Tone
from lens.faults.tone_by_place import tone_by_place
from lens.medians import median, medians
from lens.panel import Panel
from lens.photo import BLOCK_PX, FlatField, PhotoRead
from lens.robust import tukey_fit

# Light lost in the corners of the frame: 15 to 40 % for ordinary phone cameras (common practice).
USUAL_FALL_OFF, FALL_OFF_SPREAD = 0.27, 0.12
FALL_OFFS = np.linspace(0.0, 0.6, 61)
LEAST_FORM = 0.03  # a flat field that loses less than this has no form to speak of
THIN = 3  # every third block each way is enough for one number
INDEPENDENT_SHARE = 1 / 30  # of the blocks: what is left over after smoothing runs over several of them
CLIPPED_TOO_FAR = 0.2
# of a block, where one photo alone cannot tell it; and as little as 8-bit codes allow
LONE_NOISE, LEAST_NOISE = 0.004, 5e-4
SMOOTH_BLOCKS = 1.2  # sigma, over which a field is smoothed before spots are looked for in it
TUKEY, FITS = 4.0, 10
RIM_BLOCKS, RIM_DISAGREES = 3, 1.8  # how deep it is looked for, and how many times the usual disagreement is too much
CORNER_SMOOTH_BLOCKS, CORNERS_FROM = (
    3.0,
    (0.2, 0.6),
)  # shares of the way from the middle to an edge, over which it sets in
FRAME_SHARE, ALONG_EDGE = (
    0.2,
    0.2,
)  # of the shorter side: how deep a frame is looked for; of each side: what is left out at its ends
# How much steeper or flatter than sRGB phones draw the light range of a lit panel (common practice), and what a learned curve leaves.
UNKNOWN_SLOPE_SD, LEAST_SLOPE_SD = 0.06, 0.01
Field = NDArray[np.float64]


class LightField(NamedTuple):
    """Fields are (h, w) on blocks of BLOCK_PX.

    light : luminance, 1 at its median, the lens's fall-off taken off
    rest : logarithm of what differs in it from a smooth light
    rgb : (n, h, w, 3) light of the panel's red, green and blue in each white or grey photo, 1 at their medians; None without
    fall_off, fall_off_sd : light lost in the corner of the frame, and its standard deviation
    radius2 : mean over the photos of the squared distance from the frame's centre, 1 in its corner
    noise : standard deviation of one block of ``log(light)``
    rim : (h, w) blocks along the panel's rim about which the photos disagree too much for anything to be told there
    spot_noise : standard deviation of ``rest`` smoothed over SMOOTH_BLOCKS, what the photos disagree about smoothly having no say
    slope_sd : standard deviation of the camera's tone curve, as a share of the logarithms of light
    names, apart : the lit photos' patterns, and (n, h, w) by how much each differs from the field, in logarithms
    """

    light: Field
    rest: Field
    rgb: Field | None
    fall_off: float
    fall_off_sd: float
    radius2: Field
    noise: float
    rim: NDArray[np.bool_]
    spot_noise: float
    slope_sd: float
    names: tuple[str, ...]
    apart: Field


def block_centres(panel: Panel, shape: tuple[int, ...]) -> Field:
    """(h, w, 2) panel coordinates of the blocks' centres; the last ones may reach over the rim."""
    y, x = np.mgrid[: shape[0], : shape[1]] * BLOCK_PX + (BLOCK_PX - 1) / 2
    return np.stack([np.minimum(x, panel.width - 1), np.minimum(y, panel.height - 1)], axis=-1)


def frame_radius2(panel: Panel, photo: PhotoRead) -> Field:
    """(h, w) squared distance of each block from the photo's centre, 1 in the corner of the frame."""
    r = photo.registration
    x, y = r.nodes(panel).of_blocks(BLOCK_PX)
    return np.asarray(
        ((x - (r.width - 1) / 2) ** 2 + (y - (r.height - 1) / 2) ** 2) / ((r.width**2 + r.height**2) / 4), float
    )


def tells_light(photo: PhotoRead) -> bool:
    """Whether a photo tells the light of the whole panel: of a lit solid, not composed by the camera, not badly over-exposed."""
    return (
        photo.pattern.solid
        and max(photo.pattern.drive) > 0
        and photo.view.whole
        and not photo.composed
        and photo.view.clipped_fraction < CLIPPED_TOO_FAR
    )


def measure_light_field(
    panel: Panel,
    photos: Sequence[PhotoRead],
    model: LightModel,
    tone: Tone | None = None,
    flat: FlatField | None = None,
) -> LightField | None:
    """The field of a set through the camera's curve (sRGB when it is not known), None when no lit solid of the whole panel is in it
    or all are badly over-exposed or composed by the camera. A ``flat`` field shot tells the fall-off before the photos do."""
    lit = [(photo, seen) for photo, seen in zip(photos, model.seen, strict=True) if tells_light(photo)]
    if not lit:
        return None
    logs, radii = [], []
    for photo, _ in lit:
        channel = main_channel(background(photo))
        level = np.log(true_light(photo, tone, np.maximum(photo.view.level[..., channel].astype(float), 1e-6)))
        logs.append(level - median(level))
        radii.append(frame_radius2(panel, photo))
    log, radius2 = np.array(logs), np.array(radii)
    fall_off, sd = _fall_off(log[:, ::THIN, ::THIN], radius2[:, ::THIN, ::THIN], flat)
    own = _without(log, radius2, fall_off, flat)
    middle = _agreed_light(own)
    mapped = tone_by_place(middle, _quadratic(middle.shape))
    if mapped is not None:
        middle, own = middle - mapped.lift, own - mapped.lift
    apart, rest = own - middle, unframed(detrended(middle))
    noise = LONE_NOISE if len(lit) == 1 else 1.4826 * median(np.abs(apart)) / math.sqrt(len(lit) - 1)
    full = [(photo, seen) for photo, seen in lit if photo.pattern.neutral]
    rgb = np.array([_rgb(photo, seen, tone) for photo, seen in full]) if full else None
    tones = [LINEAR if photo.linear else tone for photo, _ in lit]
    slope_sd = max(UNKNOWN_SLOPE_SD if one is None else max(LEAST_SLOPE_SD, one.misfit) for one in tones)
    return LightField(
        np.exp(middle - median(middle)),
        rest,
        rgb,
        fall_off,
        sd,
        radius2.mean(axis=0),
        max(noise, LEAST_NOISE),
        *_disagreement(apart),
        slope_sd,
        tuple(photo.pattern.id for photo, _ in lit),
        apart,
    )


def _disagreement(apart: Field) -> tuple[NDArray[np.bool_], float]:
    """The ``rim`` and the ``spot_noise`` of a light field, by what its (n, h, w) photos disagree about apart from a smooth surface: automatic
    development differs from photo to photo smoothly over the panel, and that looks like no spot."""
    if len(apart) == 1:
        return np.zeros(apart.shape[1:], bool), LONE_NOISE
    differing = np.array([smoothed(detrended(photo), SMOOTH_BLOCKS) for photo in apart])
    return unsure_rim(differing), 1.4826 * median(np.abs(differing)) / math.sqrt(len(apart) - 1)


def unsure_rim(differing: Field) -> NDArray[np.bool_]:
    """(h, w) outermost blocks about which (n, h, w) what photos disagree about says more than usual: they hang on a tenth of a pixel of each
    photo's registration."""
    rim = np.zeros(differing.shape[1:], bool)
    usual = median(np.abs(differing))
    for lines, marked in ((differing, rim), (differing.swapaxes(1, 2), rim.T)):
        for side in (range(RIM_BLOCKS), range(-1, -1 - RIM_BLOCKS, -1)):
            for n in side:
                if median(np.abs(lines[:, n])) <= RIM_DISAGREES * usual:
                    break
                marked[n] = True
    return rim


def true_light(photo: PhotoRead, tone: Tone | None, seen: Field) -> Field:
    """Light as a photo gives it, through the camera's curve."""
    return seen if tone is None or photo.linear else tone.light(seen)


def _without(log: Field, radius2: Field, fall_off: float, flat: FlatField | None) -> Field:
    """The logarithms of light less a lens's that loses ``fall_off`` in the corner: with the square of the radius, or in the form that the
    flat field has."""
    if flat is None or abs(flat.fall_off) < LEAST_FORM:
        own = log - np.log(np.maximum(1 - fall_off * radius2, 0.1))
    else:
        own = log - flat.log_share(radius2) * (np.log1p(-fall_off) / np.log1p(-flat.fall_off))
    return np.asarray(own - np.array([median(one) for one in own])[:, None, None], float)


def _fall_off(log: Field, radius2: Field, flat: FlatField | None) -> tuple[float, float]:
    """Mean and standard deviation of the share lost in the corner, from what the photos disagree about and what is usual or measured."""
    usual, usual_sd = (USUAL_FALL_OFF, FALL_OFF_SPREAD) if flat is None else (flat.fall_off, flat.sd)
    believed = -((FALL_OFFS - usual) ** 2) / (2 * usual_sd**2)
    if len(log) > 1:
        left = np.empty((len(FALL_OFFS), log.size))
        for n, share in enumerate(FALL_OFFS):
            own = _without(log, radius2, float(share), flat)
            left[n] = np.abs(own - own.mean(axis=0)).ravel()
        spread = 1.4826 * min(median(one) for one in left) + 1e-5
        squares = np.minimum(left / spread, TUKEY) ** 2
        believed = believed - squares.sum(axis=1) / 2 * INDEPENDENT_SHARE
    chance = np.exp(believed - believed.max())
    chance /= chance.sum()
    mean = float(chance @ FALL_OFFS)
    return mean, float(np.sqrt(chance @ (FALL_OFFS - mean) ** 2 + (FALL_OFFS[1] - FALL_OFFS[0]) ** 2 / 12))


def _rgb(photo: PhotoRead, seen: Field, tone: Tone | None) -> Field:
    """(h, w, 3) light of the panel's own colours: the camera's view of them, measured on the colour solids, undone."""
    colours = true_light(photo, tone, photo.view.level.astype(float)) @ np.linalg.pinv(true_light(photo, tone, seen)).T
    return np.asarray(colours / np.maximum(medians(colours), 1e-9), float)


@lru_cache(maxsize=4)
def _quadratic(shape: tuple[int, int]) -> Field:
    """(6, h, w) the six terms of a quadratic surface."""
    y, x = np.meshgrid(*(np.linspace(-1, 1, count) for count in shape), indexing="ij")
    return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y])


def around_zones(field: LightField, left_out: NDArray[np.bool_]) -> LightField:
    """The field with what differs from a smooth light told anew, (h, w) ``left_out`` blocks having no say in what is smooth."""
    return field._replace(rest=unframed(detrended(np.log(field.light), left_out)))


def _agreed_light(own: Field) -> Field:
    """The light that (n, h, w) photos show: moire stands in one or two, the panel's light in all, so the median. Automatic development lets the
    photos differ smoothly by more than a faint spot: their smooth surfaces are agreed on by themselves, else steps stand where they cross."""
    basis = _quadratic(own.shape[1:])
    shares = np.array([_smooth_shares(photo) for photo in own])
    rough = own - np.tensordot(shares, basis, 1)
    return np.asarray(np.tensordot(np.median(shares, axis=0), basis, 1) + np.median(rough, axis=0), float)


def detrended(field: Field, left_out: NDArray[np.bool_] | None = None) -> Field:
    """What differs from the quadratic surface of what is not ``left_out``."""
    return np.asarray(field - np.tensordot(_smooth_shares(field, left_out), _quadratic(field.shape), 1), float)


def _smooth_shares(field: Field, left_out: NDArray[np.bool_] | None = None) -> Field:
    """(6,) shares of the terms of the quadratic surface that fits what is not ``left_out`` (robust fit with Tukey's weights: Huber, Ronchetti,
    Robust Statistics, 2nd ed., 7.8)."""
    basis = _quadratic(field.shape)
    part, seen = basis[:, ::THIN, ::THIN].reshape(len(basis), -1), field[::THIN, ::THIN].ravel()
    if left_out is not None:
        counts = ~left_out[::THIN, ::THIN].ravel()
        part, seen = part[:, counts], seen[counts]
    return tukey_fit(part, seen, TUKEY * 1.5, FITS)[0]


def unframed(rest: Field) -> Field:
    """A detrended field without what frames it alike: light that changes in one sense towards both of two opposite edges, as a sound panel's
    own does (5 to 15 %; common practice) and as a camera makes it that lifts what lies beside the dark, is nobody's fault. The edge that
    differs less is taken off both; what one edge has alone stays."""
    middle = tuple(slice(round(n * ALONG_EDGE), round(n * (1 - ALONG_EDGE)) or 1) for n in rest.shape)
    usual = median(rest[middle])
    reach = max(2, round(min(rest.shape) * FRAME_SHARE))
    # the deeper, the less it can be an edge's; and no step where it ends
    window = np.cos(np.pi / 2 * np.clip(2 * np.arange(reach) / reach - 1, 0, 1)) ** 2
    out = rest
    for axis, (turned, along) in enumerate(((rest, middle[1]), (rest.T, middle[0]))):
        one, other = (np.median(side[:reach, along], axis=1) - usual for side in (turned, turned[::-1]))
        common = window * np.where(one * other > 0, np.sign(one) * np.minimum(np.abs(one), np.abs(other)), 0.0)
        steps = np.arange(rest.shape[axis])
        frame = np.append(common, 0.0)[np.minimum(np.minimum(steps, steps[::-1]), reach)]
        out = out - (frame[:, None] if axis == 0 else frame)
    return out - _in_all_corners(out)


def _in_all_corners(rest: Field) -> Field:
    """What all four quarters of a field show alike, mirrored about the panel's middle lines: the least of them, towards the edges only, since
    the middle is its own mirror image."""
    smooth = smoothed(rest, CORNER_SMOOTH_BLOCKS)
    quarters = np.stack([smooth, smooth[::-1], smooth[:, ::-1], smooth[::-1, ::-1]])
    least = np.abs(quarters).min(axis=0)
    alike = np.where((quarters > 0).all(axis=0), least, np.where((quarters < 0).all(axis=0), -least, 0.0))
    out_y, out_x = (
        np.clip((np.abs(np.linspace(-1, 1, n)) - CORNERS_FROM[0]) / (CORNERS_FROM[1] - CORNERS_FROM[0]), 0, 1)
        for n in rest.shape
    )
    return np.asarray(alike * out_y[:, None] * out_x, float)


def smoothed(field: Field, sigma_blocks: float) -> Field:
    """The field smoothed with a Gaussian, the rim reflected."""
    return np.asarray(cv2.GaussianBlur(field, (0, 0), sigma_blocks, borderType=cv2.BORDER_REFLECT), float)
