"""From the strongest places of a survey to pixel and subpixel faults in words, strongest first, each taken off before the next."""

import math
from collections.abc import Sequence

import numpy as np
from scipy.special import ndtr

from lens.faults.faint import agreed_snr, faint_threshold, in_the_clear
from lens.faults.groups import Group
from lens.faults.height import UNTOLD, height_above
from lens.faults.light_model import CHANNELS, UNPROBED_SHARE
from lens.faults.pixels import (
    ALL_DARK,
    HYPOTHESES,
    LIT_MARGIN,
    LONE_MARGIN,
    MUST_SHOW_SIGMA,
    Evidence,
    Explained,
    explain,
)
from lens.faults.softness import dot_image, dot_shape
from lens.faults.together import Fault, explain_together
from lens.faults.words import listed
from lens.records import Finding, Kind

LUMINANCE_SHARE = (0.2126, 0.7152, 0.0722)  # of white, sRGB primaries (IEC 61966-2-1)
MOST_SPOILED = 4  # places of single photos in a group
MAX_IN_GROUP, TRIES = 12, 3  # places looked at in a group, and those after which one without a fault is left
MOST_OF_ONE = 1.25  # pixels' light; a single one cannot take more
UNPROBED_CONFIDENCE = (
    0.8  # of a dot in plain colours: grains of a pixel's size and depth are no rarer than dead pixels (common practice)
)
WHOLE_MARGIN = (
    1.0  # log odds for a pixel against what it cannot be: told with 0.73 (three of three on tuning seeds were pixels)
)
WIDE, MOST_OF_WIDE = (
    1.1,
    1.1,
)  # pixel images, and the light that one so wide cannot take (dead pixels stay under both, by simulation)
DIM_AMPLITUDE = 0.25  # less than this share of a full fault is no stuck subpixel, however the photo sampled it
NEIGHBOUR_SHARE = 0.6
HALF_AMPLITUDE = 0.5
REMAINDER_SHARE, REMAINDER_REACH_PX, TOUCHING_SHARE, REMAINDER_AMPLITUDE = 0.35, 4.5, 0.6, 0.5


def _best_in(
    evidence: Evidence, place: Group, floor: float, taken: Sequence[Explained]
) -> tuple[Explained, tuple[int, int]] | None:
    """The strongest pixel left in a group, moved to the neighbour that explains most of those that are about as strong; and where it stood.

    What was taken off leaves a remainder (a probe is not this pixel): close to it only what stands above that counts.
    """
    x, y = place.x0 + place.width // 2, place.y0 + place.height // 2
    snr, left, top = evidence.window_snr(x, y, max(place.width, place.height) // 2 + 1)
    flat = snr.max(axis=0)
    yy, xx = np.mgrid[top : top + flat.shape[0], left : left + flat.shape[1]]
    demand = np.full(flat.shape, floor)
    for fault in taken:
        distance = np.hypot(xx - fault.x, yy - fault.y)
        share = np.where(
            distance <= 1.5, TOUCHING_SHARE, np.where(distance <= REMAINDER_REACH_PX, REMAINDER_SHARE, 0.0)
        )
        demand = np.maximum(demand, share * abs(fault.snr))
    py, px = (int(v) for v in np.unravel_index(int(np.argmax(flat - demand)), flat.shape))
    if flat[py, px] <= demand[py, px]:
        return None
    part = (slice(max(0, py - 1), py + 2), slice(max(0, px - 1), px + 2))
    strong = (flat[part] >= NEIGHBOUR_SHARE * flat[py, px]) & (flat[part] > demand[part])
    around = np.argwhere(strong) + (top + part[0].start, left + part[1].start)
    places = [(int(x), int(y)) for y, x in around]
    told = explain(evidence, *max(places, key=lambda place: float(evidence.fit_image(*place)[1].max())))
    # an image that noise moved a little must not hide the pixel that stands out
    peak = left + px, top + py
    return told if told.snr > floor else explain(evidence, *peak), peak


def peel(evidence: Evidence, place: Group, threshold: float) -> list[Finding]:
    """Explain a group fault by fault, strongest first, each taken off before the next is looked at."""
    found: list[Finding] = []
    taken: list[Explained] = []
    spoiled = 0
    while len(taken) < MAX_IN_GROUP:
        best = _best_in(evidence, place, threshold, taken)
        if best is None:
            break
        strongest, peak = best
        before_it = len(found)
        again = any((t.x, t.y, t.hypothesis) == (strongest.x, strongest.y, strongest.hypothesis) for t in taken)
        # a stuck subpixel is dark or lit as a whole; what is left of a neighbour's image is not
        beside = any(math.hypot(t.x - strongest.x, t.y - strongest.y) <= REMAINDER_REACH_PX for t in taken)
        agreed = strongest.agreed or agreed_snr(evidence, strongest) > 0
        share = max(strongest.amplitude, strongest.peak) if agreed and not beside else strongest.amplitude
        strongest = strongest._replace(amplitude=share)
        if (
            strongest.snr > _demanded(evidence, strongest, threshold)
            and not again
            and not (beside and share < REMAINDER_AMPLITUDE)
        ):
            several = explain_together(evidence, strongest.x, strongest.y, LIT_MARGIN * threshold)
            if several and not _on_glass(evidence, several):
                before, known = evidence.taken, {(t.x, t.y) for t in taken}
                each = _each_alone(evidence, several, threshold)
                if all(findings for _, findings in each):
                    found += [f for told, findings in each for f in findings if (told.x, told.y) not in known]
                    taken += [told for told, _ in each]
                    continue
                # what cannot be believed one by one is one fault whose image is a little wider than a probe's
                evidence.put_back(before)
            found.extend(_as_findings(evidence, strongest, threshold))
        if found and found[-1].kind == "dust":
            break  # a soft spot is one thing
        disbelieved = len(found) == before_it and not beside and spoiled < MOST_SPOILED
        alone = evidence.lone_photo(*peak) if disbelieved else None
        if alone is not None:
            # a hot photosite, mostly: what that photo shows around it tells nothing, but the others may show a fault right beside it
            evidence.leave_out(alone, *peak)
            spoiled += 1
            continue
        if len(taken) + 1 == TRIES and not found:
            break
        evidence.take_off(strongest.x, strongest.y, strongest.hypothesis, min(max(strongest.amplitude, 0.0), 2.0))
        taken.append(strongest)
    return found


def faint_dot(evidence: Evidence, x: int, y: int) -> list[Finding]:
    """A dark subpixel too faint for the survey, where the photos agree on it."""
    told = explain(evidence, x, y)
    snr = agreed_snr(evidence, told)
    told = told._replace(snr=snr, amplitude=max(told.amplitude, told.peak))
    return _as_findings(evidence, told, faint_threshold(evidence)) if snr else []


def _on_glass(evidence: Evidence, several: Sequence[Fault]) -> bool:
    """Whether what looks like dark pixels side by side surely lies above them."""
    xs, ys = [fault.x for fault in several], [fault.y for fault in several]
    return {fault.hypothesis for fault in several} == {ALL_DARK} and height_above(
        evidence, (min(xs), min(ys), max(xs), max(ys)), ALL_DARK
    ).above


def _each_alone(
    evidence: Evidence, several: Sequence[Fault], threshold: float
) -> list[tuple[Explained, list[Finding]]]:
    """Faults side by side, each told with the others taken off; at the end all are."""
    out = []
    for fault in several:
        before = evidence.taken
        for other in several:
            if other is not fault:
                evidence.take_off(other.x, other.y, other.hypothesis, other.amplitude)
        told = explain(evidence, fault.x, fault.y, fault.hypothesis)._replace(amplitude=fault.amplitude)
        believed = told.snr > _demanded(evidence, told, threshold)
        out.append((told, _as_findings(evidence, told, threshold, alone=False) if believed else []))
        evidence.put_back(before)
    for fault in several:
        evidence.take_off(fault.x, fault.y, fault.hypothesis, fault.amplitude)
    return out


def _demanded(evidence: Evidence, told: Explained, threshold: float) -> float:
    """The signal-to-noise ratio from which a fault is believed."""
    if agreed_snr(evidence, told):
        return faint_threshold(evidence)
    lit = LIT_MARGIN if HYPOTHESES[told.hypothesis].lit else 1
    return threshold * lit * (LONE_MARGIN if _seen_by_one(evidence, told) or _doubtful(evidence, told) else 1)


def _seen_by_one(evidence: Evidence, told: Explained) -> bool:
    """True where only one photo shows the place: the only one of its kind, or right beside a marker, whose image spoils it too; or
    where only a white or grey photo shows it well, since coloured moire and the coder's colour ripples stand in those."""
    strong = told.expected > MUST_SHOW_SIGMA
    if strong.sum() <= 1 and evidence.photos[int(np.argmax(told.expected))].pattern.neutral:
        return True
    showing = [
        photo
        for photo, signature in zip(evidence.photos, evidence.signature, strict=True)
        if signature[told.hypothesis].any()
    ]
    return sum(photo.view.trust[told.y, told.x] > 0 for photo in showing) == 1


def _doubtful(evidence: Evidence, told: Explained) -> bool:
    """A fault of one colour that not all photos show that must, where it is too weak for a stuck subpixel or no photo of a colour shows it
    well; or, beside a marker or near the rim, where lens and coder make colours, one of which either is true."""
    if len(HYPOTHESES[told.hypothesis].channels) > 1:
        return False
    pure = np.array([not photo.pattern.neutral for photo in evidence.photos])
    by_colour = bool(((told.expected > MUST_SHOW_SIGMA) & pure).any())
    if not told.agreed and (told.amplitude < HALF_AMPLITUDE or not by_colour):
        return True
    return not (in_the_clear(evidence, told.x, told.y) or (told.agreed and by_colour))


def seen_in(evidence: Evidence, told: Explained) -> tuple[str, ...]:
    names = [p.pattern.id for p, seen in zip(evidence.photos, told.per_photo, strict=True) if seen > 4]
    return tuple(dict.fromkeys(names))


def _unseen_in(evidence: Evidence, told: Explained) -> tuple[str, ...]:
    names = [
        p.pattern.id
        for p, e, s in zip(evidence.photos, told.expected, told.per_photo, strict=True)
        if e < 1.5 and abs(s) < 4
    ]
    return tuple(dict.fromkeys(names))


def _confidence(told: Explained, threshold: float) -> float:
    """P(real) from the distance to the threshold times P(kind) from the likelihood margin, never told as certain."""
    real = float(ndtr(told.snr - 0.8 * threshold))
    kind = 1 / (1 + float(np.exp(-min(told.margin, 40.0))))
    return round(min(0.99, real * kind), 3)


def _as_whole(evidence: Evidence, told: Explained, most: float) -> Explained:
    """Some subpixels of a pixel that would have to take more light than they have are the whole pixel, where that takes no more than its own: a phone
    smooths colours away, and green is two thirds of the light."""
    fault = HYPOTHESES[told.hypothesis]
    if fault.lit or len(fault.channels) == 3 or told.amplitude <= most * MOST_OF_ONE:
        return told
    whole = explain(evidence, told.x, told.y, ALL_DARK)
    if not HALF_AMPLITUDE < whole.peak <= most * MOST_OF_ONE:
        return told
    return whole._replace(amplitude=whole.peak, margin=max(whole.margin, WHOLE_MARGIN))


def _as_findings(evidence: Evidence, told: Explained, threshold: float, alone: bool = True) -> list[Finding]:
    """One fault in words. Whether it is soft is asked of one that stands alone; of several the images of the others hide it."""
    if alone:
        told = _as_whole(evidence, told, 1.0 if evidence.probed else 1 / UNPROBED_SHARE)
    fault = HYPOTHESES[told.hypothesis]
    seen, unseen = seen_in(evidence, told), _unseen_in(evidence, told)
    word = "lit" if fault.lit else "dark"
    shown = (
        f"{word.capitalize()} on {listed(seen)}"
        if seen
        else f"{word.capitalize()} in all photos together, too faint in each alone"
    )
    reasons = [shown + (f", not seen on {listed(unseen)}" if unseen else "") + "."]
    confidence = _confidence(told, threshold)
    sign = 1 if fault.lit else -1
    share = min(max(told.amplitude, 0.0), 1.2)
    lone = told.contradiction and len(seen) <= 1 and len(evidence.photos) > 1
    if lone:
        against = [
            evidence.photos[k].pattern.id for k in told.contradiction if evidence.photos[k].pattern.id not in seen
        ]
        reasons.append(
            f"The photo of {listed(against)} would show it too if it were on the panel."
            if against
            else "Its colour fits no fault of a panel pixel."
        )
        return [_dot("camera", told, None, sign * share, confidence, seen, reasons)]
    soft, height, most = False, UNTOLD, 1.0
    if not evidence.probed:
        most, confidence = 1 / UNPROBED_SHARE, min(confidence, UNPROBED_CONFIDENCE)
        reasons.append(
            "Nothing in these photos shows what one pixel looks like, so a small grain may look the same. Wipe it and shoot again."
        )
    if not fault.lit and len(fault.channels) > (1 if alone else 2):
        image = dot_image(evidence, told.x, told.y, told.hypothesis)
        shape = dot_shape(image)
        height = height_above(evidence, (told.x, told.y, told.x, told.y), told.hypothesis)
        too_much = told.amplitude > most * (MOST_OF_WIDE if shape.width >= WIDE else MOST_OF_ONE)
        soft = height.above or (alone and (shape.soft or told.amplitude < DIM_AMPLITUDE or too_much))
        if height.above:
            reasons.append(f"{height.words(evidence.panel)} Wipe it and shoot again.")
        elif soft:
            reasons.append(
                f"It is {shape.width:.1f} times as wide as a pixel and {shape.off_grid_px:.1f} px off the pixel grid"
                f"{f', and takes the light of {told.amplitude:.1f} pixels' if too_much else ''}: something soft on the glass. "
                "Wipe it and shoot again."
            )
    elif told.amplitude < DIM_AMPLITUDE:
        return []
    elif alone and not fault.lit and told.amplitude > most * MOST_OF_ONE:
        soft = True
        reasons.append(
            f"It takes the light of {told.amplitude:.1f} such subpixels: something small on the glass. Wipe it and shoot again."
        )
    if soft:
        return [_dot("dust", told, None, -share, confidence, seen, reasons).model_copy(update=height.told)]
    if told.contradiction:
        names = [evidence.photos[k].pattern.id for k in told.contradiction]
        reasons.append(f"The photo of {listed(names)} does not quite agree.")
        confidence = round(0.7 * confidence, 3)
    if len(fault.channels) == 3:
        whole = _dot("bright_pixel" if fault.lit else "dead_pixel", told, None, sign * share, confidence, seen, reasons)
        return [whole.model_copy(update=height.told)]
    kind: Kind = "bright_subpixel" if fault.lit else "dark_subpixel"
    return [_dot(kind, told, c, sign * share * LUMINANCE_SHARE[c], confidence, seen, reasons) for c in fault.channels]


def _dot(
    kind: Kind,
    told: Explained,
    channel: int | None,
    contrast: float,
    confidence: float,
    seen: tuple[str, ...],
    reasons: list[str],
) -> Finding:
    return Finding.model_validate(
        {
            "kind": kind,
            "x": told.x,
            "y": told.y,
            "w": 1,
            "h": 1,
            "channel": None if channel is None else CHANNELS[channel],
            "contrast": round(contrast, 3),
            "confidence": confidence,
            "patterns": seen,
            "reasons": tuple(reasons),
        }
    )
