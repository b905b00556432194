"""One photo file from bytes to a view of the panel, or to the reason why it cannot be used."""

from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple, NoReturn

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.panel import Panel
from lens.patterns import Pattern, Reading, get_pattern, marker_layout
from lens.patterns.markers import PLACES
from lens.photo.alignment import align_markers
from lens.photo.bits_seen import BitSeen, see_bits
from lens.photo.blur import Edges, marker_edges, measure_blur
from lens.photo.fitness import problems_of, refuse_blurred_in_part, refuse_clipped, refuse_copy, refuse_scaled
from lens.photo.ink import dark_share, ink_level, shows_ink
from lens.photo.ladder_seen import PatchSeen, see_ladder
from lens.photo.markers_seen import (
    ENOUGH_MARKERS,
    MIN_MARKERS,
    clearest_channel,
    first_fit,
    grow_markers,
    lit_channel,
    lit_channels,
    looks_mirrored,
    read_in_place,
    read_markers,
)
from lens.photo.misplaced import Misplaced, find_misplaced
from lens.photo.outline import Outlined, find_outline
from lens.photo.registration import Registration, fit
from lens.photo.sampling import PanelView, view_panel
from lens.photo.sighted import sight
from lens.photo.standpoint import standpoint
from lens.photo_file import Decoded
from lens.records import Problem
from lens.records.inspection import Point

ASSUMED_BLUR_PX = 1.2
ANCHORED_SHARE = 0.2  # six markers of a panel whose other half is dark hold a quarter


class PhotoRead(NamedTuple):
    """A photo that shows a known pattern of the panel, with everything that the fusion needs. ``inverted`` when dark and light are
    exchanged in it; ``eye`` is where the camera stood (see ``standpoint``), ``exposure_s`` its exposure at ISO 100 and f/1, ``dark_share``
    how bright the dark of the markers is against their light (None when none was read), ``ladder`` are the patches of a photo of the grey
    ladder, ``digest`` is of the file, ``misplaced`` says that the picture is distorted, ``balance_locked`` that the white balance was
    set by hand (None when the file does not say), ``bits`` are the chequers of a photo of the data bits, ``composed`` says that the camera
    changed light by place, ``linear`` that its codes are exactly sRGB codes of the sensor's own light."""

    pattern: Pattern
    run: int | None
    registration: Registration
    corners: tuple[Point, ...]
    px_per_px: float
    blur_px: float
    view: PanelView
    ink_level: NDArray[np.float64] | None
    problems: tuple[Problem, ...]
    eye: NDArray[np.float64]
    exposure_s: float | None = None
    dark_share: float | None = None
    inverted: bool = False
    ladder: tuple[PatchSeen, ...] = ()
    misplaced: Misplaced | None = None
    balance_locked: bool | None = None
    bits: tuple[BitSeen, ...] = ()
    composed: bool = False
    linear: bool = False
    digest: str = ""


def read_photo(
    data: bytes,
    panel: Panel,
    pattern_id: str | None = None,
    corners: tuple[Point, ...] | None = None,
    expected_run: int | None = None,
    threads: int = 1,
) -> PhotoRead:
    """Read one photo.

    Parameters
    ----------
    data : the file as it came
    pattern_id : what the photo should show; None to be told by its markers
    corners : outer corners of the active area in photo px after the EXIF orientation (top-left, top-right, bottom-right,
        bottom-left in the panel's order), for photos whose markers cannot be read
    expected_run : refuse photos of another run; None takes any
    threads : that share the work

    Raises
    ------
    BadInput
        with the reason and what to shoot instead.
    """
    expected = get_pattern(pattern_id) if pattern_id else None
    decoded, light, sighting, kept = sight(panel, data, threads)
    pixels = decoded.pixels
    if len(kept) < MIN_MARKERS:
        if corners is None:
            _refuse_mirrored(light)
            return _by_outline(decoded, panel, expected, expected_run, threads) or _refuse_without_markers(light)
        if expected is None:
            raise BadInput("With corners given by hand, say which pattern the photo shows.", "pattern_needed")
        return _from_corners(decoded, panel, expected, corners, threads)
    reading = read_markers(panel, list(kept))
    told = reading.pattern or (
        expected.id if expected else _pattern_in_place(panel, pixels, kept, light, sighting.inverted)
    )
    if told is None:
        raise BadInput(
            "The markers do not tell which pattern this is: too few are visible. Shoot the whole panel.",
            "pattern_unread",
        )
    start = get_pattern(told)
    registration = first_fit(panel, start, kept, light)
    channel = clearest_channel(panel, start, pixels, registration, sighting.inverted)
    ids = read_in_place(panel, start, pixels, registration, sighting.inverted, channel) or list(kept)
    if len(ids) < ENOUGH_MARKERS:
        _, registration = grow_markers(panel, start, pixels, kept, registration, sighting.inverted, channel)
        ids = read_in_place(panel, start, pixels, registration, sighting.inverted, channel) or list(kept)
    reading = read_markers(panel, sorted(set(ids) | set(kept)))
    pattern = get_pattern(reading.pattern) if reading.pattern else start
    _run_of(reading, expected, expected_run)
    # a place that was read in two ways tells nothing
    ids = [i for i in ids if i % PLACES not in {k % PLACES for k in kept if k not in ids}]
    if _anchored_share(panel, pattern, ids) < ANCHORED_SHARE:
        outlined = find_outline(panel, pattern, pixels, decoded.focal_35mm)
        if outlined is not None:
            return _outlined(decoded, panel, pattern, expected_run, outlined, threads)
    ids, registration = _aligned(panel, pattern, ids, pixels, registration, channel, sighting.inverted)
    run = _run_of(read_markers(panel, ids), expected, expected_run)
    read = _finish(decoded, panel, pattern, run, registration, ids, threads, channel)
    misplaced = find_misplaced(panel, pattern, registration, sighting, kept, light)
    return read._replace(inverted=sighting.inverted == (max(pattern.drive) > 0), misplaced=misplaced)


def _aligned(
    panel: Panel,
    pattern: Pattern,
    ids: list[int],
    pixels: NDArray[np.uint8],
    registration: Registration,
    channel: int,
    inverted: bool = False,
) -> tuple[list[int], Registration]:
    """Numbers of the markers and the registration by their edges; markers that can be read only with that join in."""
    while True:
        rough = measure_blur(marker_edges(panel, pattern, registration).of(ids), pixels, channel) or ASSUMED_BLUR_PX
        registration = align_markers(panel, pattern, ids, pixels, registration, rough, channel)
        places = {i % PLACES for i in ids}
        if len(places) == len(marker_layout(panel, pattern)):
            return ids, registration
        found = read_in_place(panel, pattern, pixels, registration, inverted, channel)
        more = [i for i in found if i % PLACES not in places]
        if not more:
            return ids, registration
        ids = sorted((*ids, *more))


def _pattern_in_place(
    panel: Panel,
    pixels: NDArray[np.uint8],
    kept: dict[int, NDArray[np.float64]],
    light: NDArray[np.uint8],
    inverted: bool,
) -> str | None:
    """The pattern that the other markers tell, which are read where the few that were found say they stand."""
    best: list[int] = []
    for pattern in (get_pattern(name + variant) for variant in ("", "-b") for name in ("white", "red", "blue")):
        near, channel = first_fit(panel, pattern, kept, light), lit_channel(pattern)
        _, registration = grow_markers(panel, pattern, pixels, kept, near, inverted, channel)
        best = max(best, read_in_place(panel, pattern, pixels, registration, inverted), key=len)
    return read_markers(panel, best).pattern


def _run_of(reading: Reading, expected: Pattern | None, expected_run: int | None) -> int | None:
    """The run that the markers tell; raises BadInput when they are of another pattern or run than expected."""
    if expected is not None and reading.pattern is not None and reading.pattern != expected.id:
        raise BadInput(
            f"The photo shows '{reading.pattern}', not '{expected.id}'. Show '{expected.id}' and shoot again, or file it as "
            f"'{reading.pattern}'.",
            "wrong_pattern",
        )
    if expected_run is not None and not reading.may_be_of(expected_run):
        raise BadInput(
            "The photo shows another job's, screen's or stage's pattern. Open this inspection's patterns on the device and shoot again.",
            "wrong_run",
        )
    return reading.run


def _refuse_mirrored(light: NDArray[np.uint8]) -> None:
    if looks_mirrored(light):
        raise BadInput(
            "The photo is mirrored, as selfie cameras and some scanners do. Use the main camera or switch mirroring off.",
            "mirrored",
        )


def _refuse_without_markers(light: NDArray[np.uint8]) -> NoReturn:
    top, middle = float(np.percentile(light, 99.5)), float(np.median(light))
    if top < 25:
        raise BadInput(
            "The photo is almost black: neither a panel nor its markers can be seen. Expose longer, or give the corners by hand.",
            "too_dark",
        )
    raise BadInput(
        "No markers were found, so this is not a whole, sharp photo of a test pattern. Shoot the whole panel with its markers, "
        "or give the four corners of the lit area by hand." + (" The photo is very bright." if middle > 250 else ""),
        "no_markers",
    )


def _by_outline(
    decoded: Decoded, panel: Panel, expected: Pattern | None, expected_run: int | None, threads: int
) -> PhotoRead | None:
    """The photo registered by the border of its lit area, None when there is none of the panel's shape."""
    for pattern in [expected] if expected else [get_pattern(name) for name in ("white", "red", "blue")]:
        outlined = find_outline(panel, pattern, decoded.pixels, decoded.focal_35mm)
        if outlined is None:
            continue
        told = expected.id if expected else read_markers(panel, outlined.marker_ids).pattern
        if told is None:
            raise BadInput(
                "No markers can be read, but the lit area of a panel is seen. Say which pattern the photo shows and it is registered by "
                "its outline, or shoot again with the markers sharp and free of glare.",
                "pattern_needed",
            )
        return _outlined(decoded, panel, get_pattern(told), expected_run, outlined, threads)
    return None


def _outlined(
    decoded: Decoded, panel: Panel, pattern: Pattern, expected_run: int | None, outlined: Outlined, threads: int
) -> PhotoRead:
    ids, registration = outlined.marker_ids, outlined.registration
    run = _run_of(read_markers(panel, ids), pattern, expected_run)
    if len(ids) >= ENOUGH_MARKERS:
        # markers that are too small to be found are as good as others once it is known where they stand
        ids, registration = _aligned(panel, pattern, ids, decoded.pixels, registration, lit_channel(pattern))
        run = _run_of(read_markers(panel, ids), pattern, expected_run)
        return _finish(decoded, panel, pattern, run, registration, ids, threads)
    told = "Registered by the outline of the lit area, so places may be off by half a pixel"
    told += "." if ids else ", and the panel is taken as upright in the photo: nothing in it tells which way up it is."
    problem = Problem(code="outline", message=told)
    return _finish(
        decoded._replace(problems=(*decoded.problems, problem)),
        panel,
        pattern,
        run,
        registration,
        ids,
        threads,
        border=outlined.edges,
    )


def _from_corners(
    decoded: Decoded, panel: Panel, pattern: Pattern, corners: tuple[Point, ...], threads: int
) -> PhotoRead:
    points = np.array(corners, float)
    height, width = decoded.pixels.shape[:2]
    if points.shape != (4, 2) or not np.isfinite(points).all():
        raise BadInput("Corners are four points: x1,y1,x2,y2,x3,y3,x4,y4 from the top left, clockwise.", "corners")
    turn = np.roll(points, -1, axis=0) - points
    cross = turn[:, 0] * np.roll(turn, -1, axis=0)[:, 1] - turn[:, 1] * np.roll(turn, -1, axis=0)[:, 0]
    if not (cross > 0).all():
        raise BadInput(
            "The corners must run clockwise from the panel's top left and must not cross. Mirrored photos are not used.",
            "corners",
        )
    if (points < -0.5 * max(width, height)).any() or (points > 1.5 * max(width, height)).any():
        raise BadInput("The corners lie far outside the photo. Give them in photo pixels.", "corners")
    registration = fit(np.array(panel.corners, float), points, (width, height))
    problem = Problem(
        code="corners_by_hand",
        message="Registered by four corners given by hand, so places may be off by a pixel or more.",
    )
    return _finish(
        decoded._replace(problems=(*decoded.problems, problem)), panel, pattern, None, registration, [], threads
    )


def _finish(
    decoded: Decoded,
    panel: Panel,
    pattern: Pattern,
    run: int | None,
    registration: Registration,
    marker_ids: list[int],
    threads: int,
    channel: int | None = None,
    border: Edges | None = None,
) -> PhotoRead:
    """``channel`` is that in which the markers were read, the pattern's own by default.

    ``border`` are samples across the lit area's border where the registration is by that.
    """
    pixels = decoded.pixels
    middle = np.array([[(panel.width - 1) / 2, (panel.height - 1) / 2]])
    px_per_px = float(registration.scale_at(middle)[0])
    read_in = lit_channel(pattern) if channel is None else channel
    lit = sorted(lit_channels(pattern), key=lambda c: c != read_in)
    edges = marker_edges(panel, pattern, registration)
    measured = {c: measure_blur(border or edges.of(marker_ids), pixels, c) for c in lit}
    main = measured.get(read_in) or next((b for b in measured.values() if b), None) or ASSUMED_BLUR_PX
    blur = np.array([measured.get(c) or main for c in range(3)])

    def refuse_unfit() -> None:
        refuse_copy(panel, registration, main)
        refuse_scaled(panel, pattern, pixels, registration, px_per_px, main)
        refuse_blurred_in_part(edges, pixels, lit, px_per_px)

    with ThreadPoolExecutor(1) as beside:
        unfit = beside.submit(refuse_unfit) if marker_ids and border is None else None
        view = view_panel(panel, pattern, pixels, registration, blur, threads)
        if unfit:
            unfit.result()
    refuse_clipped(view)
    if not marker_ids and not shows_ink(panel, pattern, pixels, registration) and not view.probes_answer:
        view = view._replace(probes=())  # a colour that the device has built in
    outline = registration.to_photo(np.array(panel.corners, float))
    problems = [*decoded.problems, *problems_of(pattern, px_per_px, main, view)]
    if (
        marker_ids
        and border is None
        and _anchored_share(panel, pattern, marker_ids) < ANCHORED_SHARE * (1 - view.outside_fraction)
    ):
        raise BadInput(
            "Too few markers can be read, and they lie close together, so places far from them would be told wrongly. Shoot the whole "
            "panel sharp, without glare on its markers.",
            "few_markers",
        )
    return PhotoRead(
        pattern=pattern,
        run=run,
        registration=registration,
        corners=tuple((float(x), float(y)) for x, y in outline),
        px_per_px=px_per_px,
        blur_px=float(main),
        view=view,
        ink_level=ink_level(panel, pattern, pixels, registration, marker_ids),
        problems=tuple(problems),
        eye=standpoint(registration, decoded.focal_35mm),
        exposure_s=None if decoded.composed else decoded.exposure_s,  # composed of several exposures: none is its own
        balance_locked=decoded.balance_locked,
        dark_share=dark_share(panel, pattern, pixels, registration, marker_ids),
        ladder=see_ladder(panel, pixels, registration, px_per_px, main) if pattern.figure == "ladder" else (),
        bits=see_bits(panel, pixels, registration) if pattern.figure == "bits" else (),
        composed=decoded.composed,
        linear=decoded.linear,
    )


def _anchored_share(panel: Panel, pattern: Pattern, marker_ids: list[int]) -> float:
    """Share of the panel inside the hull of the markers that were read; beyond it the registration is a guess."""
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    corners = np.array([layout[i % PLACES].corners for i in marker_ids], np.float32).reshape(-1, 1, 2)
    return float(cv2.contourArea(cv2.convexHull(corners))) / panel.pixels
