"""A touch surface held to its limits, figure by figure: each with its margin, and with what was not measured."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from lens.records.touch_limits import LimitId
from lens.records.verdict import Criterion, Outcome
from lens.touch.fingers import Fingers
from lens.touch.limits import TouchLimits
from lens.touch.session import Numbers
from lens.touch.surface import PathFit

NEEDED_COVERAGE = 0.99
# what a hand adds to a figure, of its value: tremor at rest and in motion, the pace that sets how far two reports lie apart
JITTER_UNCERTAINTY, STRAIGHT_UNCERTAINTY, SEPARATION_UNCERTAINTY = 0.05, 0.15, 0.05
NEAR_ENOUGH = 1.25  # fingertips cannot be laid to the millimetre


class Motion(NamedTuple):
    """What was measured of motion; None where nothing was. Lengths in panel px; ``straight_px`` one a straight stretch."""

    resting_px: float | None = None
    moving_px: float | None = None
    straight_px: Numbers = np.zeros(0)
    rate_hz: float | None = None
    gap_ms: float | None = None
    fit: PathFit | None = None
    fingers: Fingers | None = None


def of_motion(limits: TouchLimits, motion: Motion, pitch_mm: float) -> tuple[Criterion, ...]:
    """Criteria of what was measured; a figure that no step asked for has none."""
    told: list[tuple[LimitId, float, float]] = []
    for name, value_px in (("jitter_rest_mm", motion.resting_px), ("jitter_moving_mm", motion.moving_px)):
        if value_px is not None:
            told.append((name, value_px * pitch_mm, JITTER_UNCERTAINTY * value_px * pitch_mm))  # type: ignore[arg-type]
    if len(motion.straight_px):
        usual = float(np.median(motion.straight_px)) * pitch_mm
        told.append(("straightness_mm", usual, STRAIGHT_UNCERTAINTY * usual))
    if motion.rate_hz is not None:
        told.append(("rate_hz", motion.rate_hz, 0.0))
    if motion.gap_ms is not None:
        told.append(("gap_ms", motion.gap_ms, 0.0))
    fit = motion.fit
    if fit is not None and fit.axes == "right":
        told.append(("offset_mm", fit.off_px * pitch_mm, fit.off_uncertainty_px * pitch_mm))
        told.append(("scale_off", max(abs(abs(value) - 1) for value in fit.scale), fit.scale_uncertainty))
    out = [limits.criterion(*one) for one in told]
    if motion.fingers is not None:
        out += [_fingers(motion.fingers), _separation(limits, motion.fingers, pitch_mm)]
    if fit is not None and fit.axes != "right":
        out.append(
            Criterion(
                id="axes",
                result="fail",
                value=1,
                limit=0,
                margin=-1,
                unproven=0,
                text=f"Axes: {fit.text.split(';')[0]}; none may be.",
            )
        )
    return tuple(one for one in out if one is not None)


def _fingers(fingers: Fingers) -> Criterion | None:
    if not fingers.asked:
        return None
    enough = fingers.most >= fingers.asked
    result: Outcome = "pass" if enough else "not_proven"
    tail = "told apart" if enough else "were told apart at once, so that many are proven and no more"
    return Criterion(
        id="fingers",
        result=result,
        value=fingers.most,
        limit=fingers.asked,
        margin=fingers.most - fingers.asked,
        unproven=round(1 - min(fingers.most / fingers.asked, 1), 4),
        text=f"{fingers.most} of {fingers.asked} fingers {tail}.",
    )


def _separation(limits: TouchLimits, fingers: Fingers, pitch_mm: float) -> Criterion | None:
    """Fingers that lie as far apart as the limit must be two: those that were taken for one there fail it, the nearest that were told apart
    pass it where they lay near enough; others say nothing."""
    limit = limits.limits.get("separation_mm")
    if limit is None:
        return None
    bound = limits.of("separation_mm")
    merged, nearest = (0.0 if px is None else px * pitch_mm for px in (fingers.merged_px, fingers.nearest_px))
    if merged >= bound * (1 - SEPARATION_UNCERTAINTY):
        value, words = merged, "were taken for one"
    elif 0 < nearest <= NEAR_ENOUGH * bound:
        value, words = nearest, "were told apart"
    else:
        return None
    return Criterion(
        id="separation_mm",
        result="fail" if value == merged else "pass",
        value=round(value, 1),
        limit=bound,
        margin=round(bound - value, 1),
        unproven=0,
        text=f"{limit.title}: two {value:.0f} {limit.unit} apart {words}; from {bound:g} {limit.unit} on they must be two.",
    )


def of_cells(coverage: float, dead_cells: int, cells: int) -> Criterion:
    """The surface itself: none of it dead, all of it crossed."""
    dead: Outcome = "fail" if dead_cells else "pass" if coverage >= NEEDED_COVERAGE else "not_proven"
    open_share = round(max(0.0, 1 - coverage), 4)
    crossed = f"{100 * coverage:.1f} % of {cells} cells were surely crossed, {100 * NEEDED_COVERAGE:.0f} % are needed"
    return Criterion(
        id="dead_cells",
        result=dead,
        value=dead_cells,
        limit=0,
        margin=-dead_cells,
        unproven=open_share,
        text=f"Cells that do not answer: {dead_cells} found, none allowed; {crossed}.",
    )


def of_silence(phantoms: int, soaks: int, minutes: float, bound: float | None) -> Criterion:
    """Nothing touched while nobody did."""
    result: Outcome = "fail" if phantoms else "pass" if soaks and minutes > 0 else "not_proven"
    seen = f"in {minutes:.1f} min with hands off" if soaks else "nobody kept the hands off"
    tail = f"; fewer than {bound:g} a minute at 95 %" if bound is not None else ""
    return Criterion(
        id="phantoms",
        result=result,
        value=phantoms,
        limit=0,
        margin=-phantoms,
        unproven=0 if soaks else 1,
        text=f"Touches that nobody made: {phantoms} {'place' if phantoms == 1 else 'places'} {seen}{tail}.",
    )


def of_left_out(left_out: Sequence[str]) -> tuple[Criterion, ...]:
    """Steps that were asked for and not carried out prove nothing."""
    if not left_out:
        return ()
    return (
        Criterion(
            id="carried_out",
            result="not_proven",
            value=len(left_out),
            limit=0,
            margin=-len(left_out),
            unproven=1,
            text=f"Asked for and not carried out: {', '.join(left_out)}.",
        ),
    )


def verdict_of(criteria: Sequence[Criterion]) -> Outcome:
    """The worst of all."""
    results = {one.result for one in criteria}
    return "fail" if "fail" in results else "not_proven" if "not_proven" in results else "pass"
