"""Lost, stuck and exchanged data bits from a photo of the chequers: what each way of being wrong would show, and which fits.

Every hypothesis says what code each level turns into; its light, with what glare adds, gives every chequer's contrast and level. The
likeliest is taken where it beats the sound one clearly and fits by itself.
"""

import math
from collections.abc import Sequence
from functools import cache
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.faults.lvds import LANES, lanes_of
from lens.faults.words import listed
from lens.panel import Panel
from lens.patterns import BitCell
from lens.photo import BitSeen, PhotoRead
from lens.records import ChannelBits, DataBits, Finding
from lens.srgb import srgb_to_linear

NAMES: tuple[Literal["red", "green", "blue"], ...] = ("red", "green", "blue")
LOW, HIGH = -1, -2
Kind = Literal["none", "missing", "swapped", "order", "inverted"]
GLARES = (0.0002, 0.0006, 0.0015, 0.004, 0.01, 0.03, 0.08, 0.2)  # the last are light of colours that hang at full
TONE_SD, FLOOR_SD, LEVEL_SD = (
    0.1,
    0.004,
    0.5,
)  # a camera's slope is not known better; what moire leaves; how well levels are told
MOST_OF_ONE = 25.0  # a chequer under dirt or glare shall not decide alone
FAULT_COST, HALF_COST, FITS = (
    14.0,
    12.0,
    6.0,
)  # half of the first is the log odds that a sound colour is given up for a fault
TOLD_SIGMAS = 4.0
OWN_SHARE = 0.8  # of what a camera's colour sees of white is the panel's same colour's (common practice)
BITS = 8


class Wiring(NamedTuple):
    """``sources[n]`` is the bit of the signal that the level's bit n shows, LOW or HIGH where it hangs."""

    kind: Kind
    bits: tuple[int, ...]
    stuck_at: int | None
    sources: tuple[int, ...]
    every_second: bool = False


def _wirings() -> list[Wiring]:
    sound = tuple(range(BITS))
    sets = {frozenset({n}) for n in range(BITS)} | {bits for lane in LANES for bits in lane.bits if bits}
    out = [
        Wiring(
            "missing", tuple(sorted(bits)), stuck, tuple((LOW, HIGH)[stuck] if n in bits else n for n in range(BITS))
        )
        for bits in sorted(sets, key=sorted)
        for stuck in (0, 1)
    ]
    for n in range(BITS - 1):
        swapped = list(sound)
        swapped[n], swapped[n + 1] = n + 1, n
        out.append(Wiring("swapped", (n, n + 1), None, tuple(swapped)))
    out += [Wiring("order", (), None, sound[turn:] + sound[:turn]) for turn in (2, 6)]
    out.append(Wiring("order", (), None, sound[::-1]))
    out += [wiring._replace(every_second=True) for wiring in out if wiring.kind == "missing"]
    return [Wiring("none", (), None, sound), Wiring("inverted", (), None, sound), *out]


WIRINGS: tuple[Wiring, ...] = tuple(_wirings())


def shown(wiring: Wiring, code: int) -> int:
    """The level that a panel wired so shows for a code."""
    if wiring.kind == "inverted":
        return 255 - code
    return sum((source == HIGH or (source >= 0 and code >> source & 1)) << n for n, source in enumerate(wiring.sources))


def _light(wiring: Wiring, code: int, glare: float) -> float:
    own = float(srgb_to_linear(shown(wiring, code) / 255))
    if wiring.every_second:
        own = (own + float(srgb_to_linear(code / 255))) / 2
    return own + glare


@cache
def _predicted() -> dict[tuple[int, float], NDArray[np.float64]]:
    """(bit, glare) -> (wirings, 2): contrast, and logarithm of the level against white."""
    out = {}
    for bit in range(BITS):
        low, high = BitCell(box=(0, 0, 1, 1), square_px=1, channel=0, bit=bit).codes
        for glare in GLARES:
            lights = np.array([[_light(w, code, glare) for code in (low, high, 255)] for w in WIRINGS])
            white = OWN_SHARE * lights[:, 2] + 1 - OWN_SHARE
            out[bit, glare] = np.log(np.stack([lights[:, 1] / lights[:, 0], lights[:, 0] / white], axis=1))
    return out


def _misfits(seen: Sequence[BitSeen]) -> NDArray[np.float64]:
    """(wirings,) sum of squared deviations over the chequers of one colour, with the glare that suits each best."""
    tried = []
    for glare in GLARES:
        total = np.zeros(len(WIRINGS))
        for one in seen:
            contrast, level = _predicted()[one.cell.bit, glare].T
            spread = np.sqrt(one.sd**2 + (TONE_SD * contrast) ** 2 + FLOOR_SD**2)
            total += np.minimum(((one.contrast - contrast) / spread) ** 2, MOST_OF_ONE)
            total += np.minimum(((math.log(max(one.level, 1e-4)) - level) / LEVEL_SD) ** 2, MOST_OF_ONE / 2)
        tried.append(total)
    return np.asarray(np.min(tried, axis=0), float)


def _common_causes() -> list[tuple[int, int, int]]:
    """For red, green and blue the wirings that one open lane, or one wrong order, gives all three."""
    place = {(w.kind, w.bits, w.stuck_at, w.every_second, w.sources): n for n, w in enumerate(WIRINGS)}
    missing = {(w.bits, w.stuck_at, w.every_second): n for n, w in enumerate(WIRINGS) if w.kind == "missing"}
    out = [(n, n, n) for key, n in place.items() if key[0] in ("order", "inverted")]
    for lane in LANES:
        for stuck in (0, 1):
            for half in (False, True):
                red, green, blue = (missing[tuple(sorted(bits)), stuck, half] if bits else 0 for bits in lane.bits)
                out.append((red, green, blue))
    return out


_COMMON = _common_causes()


def _best(misfits: Sequence[NDArray[np.float64]]) -> tuple[int, ...]:
    """The wiring of each colour: each by itself, or all by one cause where that explains them nearly as well."""
    cost = np.array([(w.kind != "none") * FAULT_COST + w.every_second * HALF_COST for w in WIRINGS])
    alone = tuple(int(np.argmin(misfit + cost)) for misfit in misfits)
    apart = sum(float(misfit[n] + cost[n]) for misfit, n in zip(misfits, alone, strict=True))
    tried = [
        (
            sum(float(misfit[n]) for misfit, n in zip(misfits, told, strict=True)) + max(float(cost[n]) for n in told),
            told,
        )
        for told in _COMMON
    ]
    together, common = min(tried)
    return common if together < apart else alone


def _told(channel: int, seen: Sequence[BitSeen], misfit: NDArray[np.float64], best: int) -> ChannelBits:
    name, wiring = NAMES[channel], WIRINGS[best]
    if len(seen) < BITS - 2:
        return ChannelBits(channel=name, fault="unseen")
    if misfit[best] > FITS * 2 * len(seen):
        return ChannelBits(channel=name, fault="unclear")
    return ChannelBits(
        channel=name, fault=wiring.kind, bits=wiring.bits, stuck_at=wiring.stuck_at, every_second=wiring.every_second
    )


def read_data_bits(photos: Sequence[PhotoRead]) -> DataBits | None:
    """What the chequers say; None without a photo of them."""
    photo = max((one for one in photos if one.bits), key=lambda one: len(one.bits), default=None)
    if photo is None:
        return None
    by_channel = [[seen for seen in photo.bits if seen.cell.channel == channel] for channel in range(3)]
    misfits = [_misfits(seen) for seen in by_channel]
    channels = tuple(
        _told(n, seen, misfits[n], best) for n, (seen, best) in enumerate(zip(by_channel, _best(misfits), strict=True))
    )
    lowest = max((_lowest(seen) for seen in by_channel), default=BITS)
    faults = {one.fault for one in channels}
    six = all(one.fault == "missing" and set(one.bits) == {0, 1} and not one.every_second for one in channels)
    outcome: Literal["smooth", "coarse", "colours", "bits", "unclear"] = "bits"
    if six:
        outcome = "coarse"
    elif faults <= {"none"}:
        outcome = "smooth"
    elif faults <= {"none", "unseen", "unclear"}:
        outcome = "unclear"
    elif faults & {"order", "inverted"}:
        outcome = "colours"
    return DataBits(
        channels=channels, outcome=outcome, lowest_bit_seen=lowest, reasons=_reasons(channels, outcome, lowest)
    )


def _lowest(seen: Sequence[BitSeen]) -> int:
    """The lowest bit from which on every chequer would have been told from a blank one."""
    sound = {
        one.cell.bit: abs(float(_predicted()[one.cell.bit, GLARES[1]][0, 0])) / math.hypot(one.sd, FLOOR_SD)
        for one in seen
    }
    low = BITS
    for bit in reversed(range(BITS)):
        if sound.get(bit, 0.0) < TOLD_SIGMAS:
            break
        low = bit
    return low


def _reasons(channels: Sequence[ChannelBits], outcome: str, lowest: int) -> tuple[str, ...]:
    if outcome == "smooth":
        return (f"All data bits of red, green and blue arrive, down to bit {lowest}.",)
    if outcome == "coarse":
        return (
            "The two lowest bits of every colour are missing: usual for a panel or link of six bits a colour.",
            "On one of eight bits, lane 3 in JEIDA's order is open.",
        )
    words = [text for one in channels if (text := _words(one))]
    missing = {n: frozenset(one.bits) for n, one in enumerate(channels) if one.fault == "missing"}
    lanes = lanes_of(missing) if missing else []
    half = any(one.every_second for one in channels)
    where = " of one of two channels, as every second column is affected" if half else ""
    if lanes:
        words.append(
            f"It is just what {listed([f'lane {lane.number} in {lane.order} order' for lane in lanes])} carries: look at that pair{where}."
        )
    elif outcome == "bits" and any(one.fault in ("missing", "swapped") for one in channels):
        words.append(
            "No single lane carries just these bits: look at the source driver or the timing board as well as at the cable."
        )
    if outcome == "colours":
        words.append("Bits in another order are a wrong cable, panel or setting, and no broken pair.")
    return tuple(words)


def _words(one: ChannelBits) -> str:
    name, bits = one.channel.capitalize(), listed([str(bit) for bit in one.bits])
    plural = "s" if len(one.bits) > 1 else ""
    match one.fault:
        case "missing":
            half = " in every second column" if one.every_second else ""
            return f"{name}: bit{plural} {bits} always {one.stuck_at}{half}."
        case "swapped":
            return f"{name}: bits {bits} are exchanged."
        case "order":
            return f"{name}: its bits come in another order."
        case "inverted":
            return f"{name}: its levels are inverted."
        case "unclear":
            return f"{name}: its levels are wrong in a way that no single fault explains; shoot the pattern again, sharp and without glare."
        case "unseen":
            return f"{name}: too few of its chequers can be seen; shoot the whole panel."
    return ""


def as_finding(panel: Panel, told: DataBits | None) -> Finding | None:
    """The finding of a data fault; None where there is none."""
    if told is None or told.outcome not in ("bits", "colours"):
        return None
    return Finding(
        kind="artifact",
        x=(panel.width - 1) / 2,
        y=(panel.height - 1) / 2,
        w=panel.width,
        h=panel.height,
        contrast=0.0,
        confidence=0.95,
        patterns=("bits",),
        reasons=told.reasons,
        picture="colours",
    )
