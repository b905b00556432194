"""What is seen against what was sent: colours that are swapped, missing or inverted; a picture shifted, torn or shown twice."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

from lens.faults.light_model import CHANNELS, TYPICAL_VIEW, background
from lens.faults.words import listed
from lens.panel import Panel
from lens.photo import PhotoRead
from lens.records import Finding, PictureFault

# The camera's own colours are not known here, so only what no white balance can make is told: a balance may halve or double.
OTHER_COLOUR, OTHER_OF_PALE, MISSING_COLOUR = 2.5, 1.4, 0.08
CONFIDENCE_OF_ONE, CONFIDENCE_OF_MORE = 0.8, 0.95
DISTORTED = {
    "shifted": "The picture is shifted on {names}: what leaves one side comes in at the other.",
    "torn": "The picture is torn on {names}: a part of it lies {across} px across and {down} px down from the rest.",
    "repeated": "The picture is repeated on {names}: a part of it stands there again, {across} px across and {down} px down.",
    "ghost": "The picture has a ghost on {names}: a fainter copy of it stands {across} px across and {down} px down.",
}


class _Seen(NamedTuple):
    """The panel's red, green and blue light in a photo, in shares of the brightest."""

    photo: PhotoRead
    shares: NDArray[np.float64]


def wrong_picture(panel: Panel, photos: Sequence[PhotoRead]) -> list[Finding]:
    """Artifacts of the whole picture that the solids of a set show."""
    inverted = sorted({photo.pattern.id for photo in photos if photo.inverted})
    found = []
    if inverted:
        found.append(
            _finding(
                panel,
                "colours",
                inverted,
                f"Dark and light are exchanged on {listed(inverted)}: the picture is inverted.",
            )
        )
    found += _misplaced(panel, photos)
    seen = [
        _Seen(photo, _shares(photo))
        for photo in photos
        if photo.pattern.solid and max(photo.pattern.drive) > 0 and not photo.inverted
    ]
    for sent, channel in enumerate(CHANNELS):
        found += _swapped(panel, seen, sent)
        lacking = [s.photo.pattern.id for s in seen if s.photo.pattern.neutral and s.shares[sent] < MISSING_COLOUR]
        if lacking:
            found.append(
                _finding(
                    panel,
                    "colours",
                    lacking,
                    f"No {channel} in {listed(lacking)}: one colour of the picture is missing.",
                )
            )
    return found


def usable(photo: PhotoRead) -> bool:
    """False when the picture is so wrong that faults of the panel cannot be told from it."""
    if photo.inverted or photo.misplaced:
        return False
    drive = photo.pattern.drive
    if not photo.pattern.pure:
        return True
    shares = _shares(photo)
    return bool(shares[int(np.argmax(drive))] * OTHER_COLOUR > shares.max())


def _misplaced(panel: Panel, photos: Sequence[PhotoRead]) -> list[Finding]:
    """Pictures that are not where they should be, a finding a kind."""
    found = []
    for kind, words in DISTORTED.items():
        own = [
            (photo.pattern.id, photo.misplaced) for photo in photos if photo.misplaced and photo.misplaced.kind == kind
        ]
        if own:
            across, down = (abs(round(float(np.median([m.offset_px[n] for _, m in own])))) for n in (0, 1))
            found.append(
                _finding(
                    panel,
                    "place",
                    [name for name, _ in own],
                    words.format(across=across, down=down, names=listed([n for n, _ in own])),
                )
            )
    return found


def _swapped(panel: Panel, seen: Sequence[_Seen], sent: int) -> list[Finding]:
    """Photos of one colour that show another; of a pale one, against what the set's white shows."""
    white = next((s.shares for s in seen if s.photo.pattern.family == "white"), None)
    other = []
    for one in seen:
        if one.photo.pattern.family != CHANNELS[sent]:
            continue
        if one.photo.pattern.pure:
            shares, other_colour = one.shares, OTHER_COLOUR
        elif white is not None:
            # white and pale are balanced alike to some tens of per cent at most, which never turns the order of the colours round
            shares, other_colour = one.shares / np.maximum(white, MISSING_COLOUR), OTHER_OF_PALE
        else:
            continue
        if shares[sent] * other_colour < shares.max():
            other.append(_Seen(one.photo, shares))
    if not other:
        return []
    shown = CHANNELS[int(np.argmax(other[0].shares))]
    reason = f"{CHANNELS[sent].capitalize()} was sent and {shown} is seen: colours are exchanged."
    return [_finding(panel, "colours", [s.photo.pattern.id for s in other], reason)]


def _shares(photo: PhotoRead) -> NDArray[np.float64]:
    """Non-negative least squares on an ordinary phone's view of an ordinary panel."""
    light = background(photo)
    shares = nnls(TYPICAL_VIEW, light)[0]
    return np.asarray(shares / max(float(shares.max()), 1e-9), float)


def _finding(panel: Panel, fault: PictureFault, patterns: Sequence[str], reason: str) -> Finding:
    names = tuple(dict.fromkeys(patterns))
    return Finding(
        kind="artifact",
        x=(panel.width - 1) / 2,
        y=(panel.height - 1) / 2,
        w=panel.width,
        h=panel.height,
        contrast=0.0,
        confidence=CONFIDENCE_OF_MORE if len(names) > 1 else CONFIDENCE_OF_ONE,
        patterns=names,
        reasons=(reason, "Reseat the cable and look at an external screen before blaming the panel."),
        picture=fault,
    )
