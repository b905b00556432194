"""How pale the colours of a set should be: what one photo of each tells of a dark subpixel of its own colour through a camera that exposes by
itself. Too pure, and its channel stands at the end of the scale; too pale, and the coder, which keeps lightness better than colour, loses it."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from lens.faults import Evidence
from lens.faults.light_model import CHANNELS, build_light_model
from lens.faults.pixels import HYPOTHESES
from lens.inspecting import PhotoFile, read_file
from lens.panel import parse_panel
from lens.patterns import Pattern, get_pattern, render
from lens.photo import PhotoRead
from lens.simulate import FaultyPanel, emit, standing_pose
from lens.simulate.phone import natural_light, photograph_by_phone, random_phone

LEVELS = (0, 64, 80, 100, 128, 150, 170, 188, 210)
TUNING_SEED = 700  # what was chosen by this table is reported on other seeds


class Told(NamedTuple):
    """SNR of a dark subpixel of the photo's own colour in the weakest tenth of the panel, and in the middle; both 0 for a refused photo."""

    weak: float
    usual: float
    closed: float


def pale(channel: int, level: int) -> Pattern:
    """A pattern of a colour with that level in the other two; it carries the markers of the catalogue's pale one."""
    drive = [level] * 3
    drive[channel] = 255
    return get_pattern(f"pale-{CHANNELS[channel]}").model_copy(update={"drive": tuple(drive)})


def told_by(pattern: Pattern, channel: int, panel_size: str, scale: float, seed: int) -> Told:
    """One photo of a sound panel."""
    panel, rng = parse_panel(panel_size), np.random.default_rng(seed)
    phone, light = random_phone(rng), natural_light(panel, rng)
    fill = min(scale / min(phone.camera.width / panel.width, phone.camera.height / panel.height), 0.97)
    pose = standing_pose(panel, phone.camera, rng, fill=fill)
    shot, _ = photograph_by_phone(emit(FaultyPanel(panel=panel), render(panel, pattern)) * light, phone, pose, rng)
    read = read_file(panel, PhotoFile("photo", shot.data))
    if not isinstance(read, PhotoRead):
        return Told(0.0, 0.0, 1.0)
    read = read._replace(pattern=pattern)
    blocks = Evidence(panel, [read], build_light_model([read])).blocks[0]
    own = next(n for n, h in enumerate(HYPOTHESES) if h.channels == (channel,) and not h.lit)
    snr = np.sqrt(blocks[..., own])
    return Told(float(np.quantile(snr, 0.1)), float(np.median(snr)), float(np.mean(snr == 0)))


def print_paleness(
    seeds: Sequence[int], sizes: Sequence[tuple[str, float]] = (("1920x1080", 1.3), ("1366x768", 2.3))
) -> None:
    """The table."""
    print(
        f"SNR of a dark subpixel on its own colour, by the level of the other two; {len(seeds)} phones each, seeds from {seeds[0]}"
    )
    print("colour  level   weakest tenth of the panel: median and least over photos   middle   closed")
    for channel, name in enumerate(CHANNELS):
        for level in LEVELS:
            told = [
                told_by(pale(channel, level), channel, size, scale, seed) for size, scale in sizes for seed in seeds
            ]
            weak = [one.weak for one in told]
            print(
                f"{name:7s} {level:5d}   {np.median(weak):10.1f} {min(weak):10.1f} {np.median([t.usual for t in told]):38.1f} "
                f"{100 * np.mean([t.closed for t in told]):8.0f} %",
                flush=True,
            )
