"""Labels and backs of panels: simulated photos, what is read of them, what is rightly left open."""

import os
import time
from collections.abc import Sequence

import numpy as np

from lens.label import Register, neural, read_back_photo, read_label_photo, text_reader_available
from lens.label.neural import MODES, READER
from lens.simulate.backs import back_photo
from lens.simulate.labels import label_photo, made_up_register

KNOWN = 5000
CODES = ("Code128", "QRCode", "DataMatrix")
CODE_LETTERS_PX = {"Code128": 44.0, "QRCode": 28.0, "DataMatrix": 28.0}  # so that modules have 4 px
SIZE_SHARE, SIZE_MM, PIN_PX = 0.005, 1.0, 4.0


def _unique(number: str, hidden: int | None, numbers: Sequence[str]) -> bool:
    """Whether what is left of a number means one entry only."""
    if hidden is None:
        return True
    rest = (number[:hidden], number[hidden + 1 :])
    return sum(len(n) == len(number) and n.startswith(rest[0]) and n.endswith(rest[1]) for n in numbers) == 1


def _near_neighbour(number: str, numbers: Sequence[str], at: int) -> list[str]:
    """The numbers, and one more that differs at one place only."""
    other = "7" if number[at] != "7" else "3"
    return [
        *numbers,
        number[:at] + (other if number[at].isdigit() else "X" if number[at] != "X" else "K") + number[at + 1 :],
    ]


def print_labels(seed: int, photos: int) -> float:
    """Print the table of labels, for each recogniser that is here; the share by which the worst row misses what is wanted."""
    worst = -1.0
    for mode in MODES if neural.available() else MODES[:1]:
        os.environ[READER] = mode
        print(f"With the {mode} reader:")
        worst = max(worst, _print_with(seed, photos))
    return worst


def _print_with(seed: int, photos: int) -> float:
    rng = np.random.default_rng(seed)
    numbers = made_up_register(KNOWN, rng)
    rows: dict[str, list[bool]] = {
        "code readable": [],
        "text alone": [],
        "one character hidden": [],
        "undecidable, left open": [],
    }
    wrong, unread, started = 0, 0, time.perf_counter()
    for n in range(photos):
        number, kind = numbers[int(rng.integers(KNOWN))], n % 4
        places = [at for at, c in enumerate(number) if c.isalnum()]
        hidden = int(rng.choice(places)) if kind >= 2 else None
        known = _near_neighbour(number, numbers, hidden) if kind == 3 and hidden is not None else numbers
        code = CODES[n // 4 % 3] if kind == 0 else None
        try:
            photo = label_photo(number, rng, code, hidden, CODE_LETTERS_PX[code] if code else None)
        except ValueError:  # the drawn label was too small for its code
            continue
        told = read_label_photo(photo.data, Register(known))
        first = bool(told.candidates) and told.candidates[0].part_number == number
        wrong += told.accepted not in (None, number)
        if kind == 0 and not told.codes:
            unread += 1
            continue
        if _unique(number, hidden, known):
            rows[("code readable", "text alone", "one character hidden", "one character hidden")[kind]].append(first)
        else:
            rows["undecidable, left open"].append(told.accepted is None)
    wanted = {"code readable": 0.95, "text alone": 0.9, "one character hidden": 0.9, "undecidable, left open": 0.95}
    print(f"Labels, {KNOWN} known numbers, text reader {'there' if text_reader_available() else 'missing'}")
    for name, right in rows.items():
        print(f"  {name:24} right first {sum(right):3} of {len(right):3} ({wanted[name]:.0%} wanted)")
    print(
        f"  accepted and wrong: {wrong}; codes not read: {unread}; {(time.perf_counter() - started) / photos:.1f} s a photo"
    )
    return max(wanted[name] - float(np.mean(right)) for name, right in rows.items() if right)


def print_backs(seed: int, photos: int) -> float:
    """Print the table of backs; the share by which the worst row misses what is wanted."""
    rng = np.random.default_rng(seed)
    rows: dict[str, list[bool]] = {"size": [], "side and edge": [], "pins": [], "mounting": [], "pins, close-up": []}
    told_open, worst_mm, started = 0, 0.0, time.perf_counter()
    for n in range(photos):
        closeup = n % 4 == 3
        photo = back_photo(rng, upside_down=n % 4 == 2, closeup=closeup)
        told, truth = read_back_photo(photo.data), photo.truth
        if closeup:
            rows["pins, close-up"].append(told.connector.pins == truth.pins)
            continue
        if told.outline_mm is None or told.uncertainty_mm is None:
            told_open += 1
        else:
            off = [abs(a - b) for a, b in zip(told.outline_mm, truth.outline_mm, strict=True)]
            worst_mm = max(worst_mm, *off)
            rows["size"].append(
                all(
                    e < max(SIZE_MM, SIZE_SHARE * t, told.uncertainty_mm)
                    for e, t in zip(off, truth.outline_mm, strict=True)
                )
            )
        if told.connector.side is not None and "way_up" not in [p.code for p in told.problems]:
            rows["side and edge"].append((told.connector.side, told.connector.edge) == (truth.side, truth.edge))
        if truth.pin_px >= PIN_PX:
            rows["pins"].append(told.connector.pins == truth.pins)
        rows["mounting"].append(told.mounting == (None if truth.mounting == "adhesive" else truth.mounting))
    wanted = {"size": 1.0, "side and edge": 1.0, "pins": 0.95, "mounting": 0.9, "pins, close-up": 0.95}
    print("Backs of panels with a bank card")
    for name, right in rows.items():
        print(f"  {name:24} right {sum(right):3} of {len(right):3} ({wanted[name]:.0%} wanted)")
    each = (time.perf_counter() - started) / photos
    print(f"  size left open: {told_open}; largest error {worst_mm:.2f} mm; {each:.1f} s a photo, its making included")
    return max(wanted[name] - float(np.mean(right)) for name, right in rows.items() if right)
