"""A first look at a set of photos: the picture as a whole, its light, the survey of all pixels, and the lines."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

from lens.faults.dark_part import DarkPart, find_dark_part, without_part
from lens.faults.data_bits import as_finding as as_bits_finding
from lens.faults.data_bits import read_data_bits
from lens.faults.flicker import as_flicker, find_bars, without_bars
from lens.faults.greys import measure_greys
from lens.faults.lamp import find_lamp_faults, lit_from_outside
from lens.faults.light_field import LightField, measure_light_field
from lens.faults.light_model import LightModel, build_light_model
from lens.faults.lines import Line, find_lines
from lens.faults.picture import usable, wrong_picture
from lens.faults.pixels import Evidence
from lens.faults.shared_noise import weighed
from lens.faults.survey import Survey, survey
from lens.faults.tone import Tone, learn_tone, pair_tone, usable_ladder
from lens.panel import Panel
from lens.photo import FlatField, PhotoRead
from lens.records import DataBits, Finding, Greys


class CloseLook(NamedTuple):
    """What the photos of lit and black solids tell.

    solids : these photos, the bars of a dimmed backlight taken off their light
    field : the light of the panel as a whole, None where no photo tells it
    flicker : the bars as a finding
    evidence : what can be asked about any pixel
    tone : the camera's curve, None where it is taken for sRGB's
    """

    solids: list[PhotoRead]
    model: LightModel
    field: LightField | None
    flicker: Finding | None
    evidence: Evidence
    survey: Survey
    lines: list[Line]
    tone: Tone | None


class Look(NamedTuple):
    """``wrong`` are findings about the picture as a whole, ``dark_part`` is a part that is dark in all photos, ``greys`` and ``data_bits`` are
    what photos of the ladder and of the data bits tell; ``close`` is None where no photo is of a solid, or the picture is too wrong to tell
    faults from it."""

    wrong: list[Finding]
    dark_part: DarkPart | None
    greys: Greys | None
    data_bits: DataBits | None
    close: CloseLook | None


def look_at(
    panel: Panel, photos: Sequence[PhotoRead], row_time_us: float | None = None, flat: FlatField | None = None
) -> Look:
    """Ask a set of photos all that is asked of the whole panel.

    ``row_time_us`` is what the camera takes from one row of its sensor to the next, ``flat`` its fall-off; None when not known.
    """
    data_bits = read_data_bits(photos)
    wired = as_bits_finding(panel, data_bits)
    photos = [photo for photo in photos if photo.pattern.figure != "bits"]
    # bits that hang at 1 light the dark of the picture, as light from outside would
    wrong = [wired] if wired else find_lamp_faults(panel, photos)
    photos = [photo for photo in photos if wired or not lit_from_outside(photo)]
    wrong += wrong_picture(panel, photos)
    distorted = sum(photo.misplaced is not None for photo in photos)
    photos = [] if 2 * distorted >= max(len(photos), 1) else [photo for photo in photos if usable(photo)]
    dark_part = find_dark_part(panel, photos)
    if dark_part:
        wrong.append(dark_part.finding)
        photos = [without_part(photo, dark_part) for photo in photos]
    ladder = usable_ladder(photos)
    tone = learn_tone(ladder) if ladder else None
    greys = measure_greys(ladder, tone)
    tone = None if ladder and ladder.linear else tone  # of the photos that need one
    # the registration pattern's dots say where the panel is, not how it is; it serves where nothing else was shot
    solids = [photo for photo in photos if photo.pattern.solid] or [
        photo for photo in photos if photo.pattern.figure == "dots"
    ]
    close = _closely(panel, weighed(solids), tone or pair_tone(photos), row_time_us, flat) if solids else None
    return Look(wrong, dark_part, greys, data_bits, close)


def _closely(
    panel: Panel, solids: list[PhotoRead], tone: Tone | None, row_time_us: float | None, flat: FlatField | None
) -> CloseLook:
    model = build_light_model(solids)
    with ThreadPoolExecutor(1) as beside:
        asked = beside.submit(Evidence, panel, solids, model)
        lined = beside.submit(lambda: find_lines(asked.result()))
        field = measure_light_field(panel, solids, model, tone, flat)
        bars = find_bars(panel, solids, field)
        flicker = as_flicker(panel, [own for own in bars if own], row_time_us) if any(bars) else None
        if flicker:
            solids = [without_bars(photo, own) for photo, own in zip(solids, bars, strict=True)]
            field = measure_light_field(panel, solids, model, tone, flat)
        evidence = asked.result()
        return CloseLook(solids, model, field, flicker, evidence, survey(evidence), lined.result(), tone)
