"""The brightness control, step by step: what each setting gives, and where the backlight is dimmed by pulses."""

from collections.abc import Sequence

import numpy as np

from lens.faults.flicker import bars_of_one, frequency_hz
from lens.faults.lamp import DIM_CD_M2, lit_from_outside, luminance_cd_m2, white_light
from lens.faults.picture import usable
from lens.panel import Panel
from lens.photo import PhotoRead
from lens.records import BrightnessControl, BrightnessCurve, BrightnessStep, Pulses

# Exposures in files are rounded, and a hand never stands twice at one place: half-width at 90 % (common practice).
UNCERTAINTY = 0.1
FEWEST_STEPS, FULL = 3, 100
STUCK_RATIO, WORKS_RATIO = 1.25, 1.6  # of the brightest to the darkest step


def measure_brightness(panel: Panel, photos: Sequence[PhotoRead], row_time_us: float | None) -> BrightnessCurve | None:
    """The curve from photos of the brightness patterns, by their exposures; None without such photos. The last of several photos of one
    step counts."""
    own = {photo.pattern.brightness: photo for photo in photos if photo.pattern.brightness is not None}
    if not own:
        return None
    steps, light = [], {}
    for percent in sorted(own):
        photo = own[percent]
        shown = usable(photo) and not lit_from_outside(photo)
        told = luminance_cd_m2([photo]) if shown else None
        bars = bars_of_one(panel, photo) if shown else None
        if told is not None:
            light[percent] = told
        steps.append((percent, told, bars))
    most = max(light.values(), default=0.0)
    done = tuple(
        BrightnessStep(
            percent=percent,
            light=None if told is None else float(f"{told / most:.2g}"),
            bars=bars is not None,
            pulses_hz=frequency_hz(bars, row_time_us) if bars else None,
        )
        for percent, told, bars in steps
    )
    control = _control(light)
    pulses: Pulses | None = None
    if any(step.bars for step in done):
        pulses = "yes" if done[-1].percent == FULL and done[-1].bars else "dimmed" if done[-1].percent == FULL else None
    full = white_light([own[FULL]]) if FULL in light else None
    return BrightnessCurve(
        steps=done,
        uncertainty=UNCERTAINTY,
        control=control,
        pulses=pulses,
        full=full,
        reasons=_reasons(done, light, control, pulses),
    )


def _control(light: dict[int, float]) -> BrightnessControl:
    """What the control does; ``unclear`` where too few steps were measured, or where light falls from one to the next."""
    if len(light) < FEWEST_STEPS or max(light) - min(light) < FULL // 2:
        return "unclear"
    levels = [light[percent] for percent in sorted(light)]
    ratio = max(levels) / max(min(levels), 1e-9)
    if FULL in light and light[FULL] < DIM_CD_M2:
        return "dark"
    if ratio < STUCK_RATIO:
        return "stuck"
    falls = any(after < before * (1 - 2 * UNCERTAINTY) for before, after in zip(levels, levels[1:], strict=False))
    return "unclear" if falls or ratio < WORKS_RATIO else "works"


def _reasons(
    steps: Sequence[BrightnessStep], light: dict[int, float], control: BrightnessControl, pulses: Pulses | None
) -> tuple[str, ...]:
    if len(light) < FEWEST_STEPS:
        return (
            f"{len(light)} of {len(steps)} steps could be measured, {FEWEST_STEPS} are needed: the photos must hold their exposure.",
        )
    levels = [light[percent] for percent in sorted(light)]
    ratio = float(f"{max(levels) / max(min(levels), 1e-9):.2g}")
    told = ", ".join(f"{step.percent} % gives {100 * step.light:.3g} %" for step in steps if step.light is not None)
    words = {
        "works": f"The control works: the brightest step gives {ratio:g} times the light of the darkest.",
        "stuck": "The control changes nothing: all steps give the same light within what photos tell.",
        "dark": f"It stays dark at the top: about {float(f'{light.get(FULL, 0):.2g}'):.0f} cd/m2 at full, where 200 to 400 are usual.",
        "unclear": "What the control does is not clear: the light does not rise from step to step as it should. Set the steps again and reshoot.",
    }
    out = [
        words[control],
        f"Light by the exposures, in shares of the brightest step, each good to {100 * UNCERTAINTY:g} %: {told}.",
    ]
    barred = [step for step in steps if step.bars]
    if barred:
        hz = [step.pulses_hz for step in barred if step.pulses_hz]
        often = f", about {np.median(hz):.0f} times a second" if hz else ""
        where = ", ".join(f"{step.percent} %" for step in barred)
        out.append(
            f"Bars at {where}: the light is dimmed by pulses{often}." + (" None at full." if pulses == "dimmed" else "")
        )
    return tuple(out)
