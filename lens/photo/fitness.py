"""What is wrong with a photo as it was taken: what makes it prove less is told, what makes it prove nothing is refused."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.panel import Panel
from lens.patterns import Pattern
from lens.photo.blur import Edges, measure_blur_of_each
from lens.photo.registration import Registration
from lens.photo.sampling import PanelView
from lens.photo.true_size import panel_px_per_pattern_px
from lens.records import Problem

COARSE_PX_PER_PX = 1.2
BLURRED_PANEL_PX = 1.6
CLIPPED_SHARE, CLIPPED_ALL, CLOSED_MOST, CUT_SHARE = (
    0.02,
    0.8,
    0.5,
    0.002,
)  # where nearly all is clipped, the rest lies at the rim and beside markers
SCALED = "scaled"
COPY_STRAY_PX = 0.05  # from an upright rectangle: no hand and no lens come so near
COPY_BLUR_PX = 0.45  # a copy is as sharp as the pixels of its file
UNEVEN_MARKERS, UNEVEN_SHARE = 3, 2.0  # so many as blurred: one or two may lie under a finger's edge or in glare


def refuse_copy(panel: Panel, registration: Registration, blur_px: float) -> None:
    """Raises BadInput for a screenshot: it shows the signal, and no panel."""
    corners = registration.to_photo(np.array(panel.corners, float))
    upright = np.array([corners.min(axis=0), corners.max(axis=0)])
    stray = np.abs(corners[:, None] - upright[None]).min(axis=1).max()
    if stray < COPY_STRAY_PX and blur_px < COPY_BLUR_PX:
        raise BadInput(
            "This is a screenshot or a captured frame, which shows the signal and not the panel. Photograph the panel itself; a copy of the "
            "signal belongs to Isolate.",
            "screenshot",
        )


def refuse_scaled(
    panel: Panel,
    pattern: Pattern,
    pixels: NDArray[np.uint8],
    registration: Registration,
    px_per_px: float,
    blur_px: float,
) -> None:
    """Raises BadInput for a picture that is not shown at its true size."""
    if pattern.solid and pattern.drive == (255, 255, 255):
        size = panel_px_per_pattern_px(panel, pixels, registration, px_per_px, blur_px)
        if size is not None:
            raise BadInput(
                f"The pattern is not shown at its true size: a pixel of it covers about {size[0]:.2f} x {size[1]:.2f} of the panel's, which then "
                f"has {panel.width * size[0]:.0f} x {panel.height * size[1]:.0f}. Set the output to the panel's own resolution and scaling to "
                "100 %, or correct the panel's size in the job, and shoot again.",
                SCALED,
            )


def refuse_blurred_in_part(edges: Edges, pixels: NDArray[np.uint8], channels: Sequence[int], px_per_px: float) -> None:
    """Raises BadInput where some markers are sharp and some far from it; those too blurred to be read have edges all the same. The small
    markers of a coarse photo do not tell.

    Parameters
    ----------
    channels : those in which the markers show, the clearest first (0 B, 1 G, 2 R). What blurs a part of a photo blurs all of its colours; a
        colour that the camera drove out of its gamut has edges that fit no blur.
    """
    if px_per_px < COARSE_PX_PER_PX:
        return
    sharp = worst = 0.0
    for channel in channels:
        told = sorted(measure_blur_of_each(edges, pixels, channel))
        if len(told) < 2 * UNEVEN_MARKERS:
            continue
        sharp, worst = told[UNEVEN_MARKERS - 1], told[-UNEVEN_MARKERS]
        if worst <= max(UNEVEN_SHARE * sharp, BLURRED_PANEL_PX * px_per_px):
            return
    if worst:
        raise BadInput(
            f"A part of the photo is blurred (sigma {worst:.0f} photo px) and another is sharp ({sharp:.1f}): portrait mode, a smudge on the lens "
            "or a slanting view. Switch effects off, hold the camera parallel to the panel and shoot again.",
            "uneven_blur",
        )


def refuse_clipped(view: PanelView) -> None:
    """Raises BadInput for a photo that is over-exposed nearly everywhere."""
    if view.closed_fraction > CLIPPED_ALL:
        raise BadInput(_clipped_words(view), "clipped")


def problems_of(pattern: Pattern, px_per_px: float, blur_px: float, view: PanelView) -> list[Problem]:
    """What makes the photo prove less, and what to shoot instead."""
    problems = []
    if px_per_px < COARSE_PX_PER_PX:
        problems.append(
            Problem(
                code="coarse",
                message=(
                    f"Only {px_per_px:.2f} camera pixels per panel pixel: single subpixels are not proven. "
                    "Go closer, or use the camera's full resolution."
                ),
            )
        )
    if blur_px / px_per_px > BLURRED_PANEL_PX:
        problems.append(
            Problem(
                code="blurred",
                message=(
                    f"The photo is blurred (sigma {blur_px:.1f} photo px). Tap to focus on the panel, hold still, and shoot again."
                ),
            )
        )
    # a pale colour may reach its end: that is why the others are in it
    if (view.clipped_fraction if pattern.pure or pattern.neutral else view.closed_fraction) > CLIPPED_SHARE:
        problems.append(Problem(code="clipped", message=_clipped_words(view)))
    if not view.whole:
        problems.append(
            Problem(
                code="closeup",
                message=(
                    f"A close-up of {100 * (1 - view.outside_fraction):.0f} % of the panel. It joins the set; the rest needs photos of its own."
                ),
            )
        )
    elif view.outside_fraction > CUT_SHARE:
        problems.append(
            Problem(
                code="cut",
                message=(
                    f"{100 * view.outside_fraction:.0f} % of the panel is outside the photo. Step back so that all four corners are in."
                ),
            )
        )
    return problems


def _clipped_words(view: PanelView) -> str:
    share = f"{100 * view.clipped_fraction:.0f} % of the panel is over-exposed"
    if view.closed_fraction < CLOSED_MOST * view.clipped_fraction:
        return (
            f"{share} in one colour, which proves nothing there; the other colours do. Less exposure would prove more."
        )
    return f"{share} and proves nothing. Lower the exposure and shoot again."
