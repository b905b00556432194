"""Photos of a simulated device: by a camera whose exposure is held by hand, or by a phone that exposes by itself."""

from collections.abc import Mapping, Sequence

import numpy as np

from lens.patterns import get_pattern, render
from lens.simulate.camera import photograph
from lens.simulate.device import FaultyPanel, emit, glass_of, set_to
from lens.simulate.exposing import Exposure, Float, Phone
from lens.simulate.phone import photograph_by_phone
from lens.simulate.poses import random_pose, standing_pose
from lens.simulate.scene import Camera, Pose, Reflection, Shot

LONGEST_EXPOSURE = 60.0  # times what full white needs


def shoot(
    device: FaultyPanel,
    pattern_id: str,
    camera: Camera,
    rng: np.random.Generator,
    run: int = 0,
    pose: Pose | None = None,
    reflections: Sequence[Reflection] = (),
) -> Shot:
    """A photo of one pattern, handheld when no ``pose`` is given; the camera exposes a dim panel for longer."""
    pattern = get_pattern(pattern_id)
    device = set_to(device, pattern.brightness)
    light = emit(device, render(device.panel, pattern, run))
    through = glass_of(device)
    held = pose or (standing_pose if through else random_pose)(device.panel, camera, rng)
    exposure = 1 / max(device.brightness + device.outside_light, LONGEST_EXPOSURE**-1)
    return photograph(light, camera, held, rng, exposure, device.dimming, through, reflections)


def shoot_set(
    device: FaultyPanel,
    pattern_ids: tuple[str, ...],
    camera: Camera,
    rng: np.random.Generator,
    run: int = 0,
    reflections: Mapping[str, Sequence[Reflection]] | None = None,
) -> dict[str, Shot]:
    """One handheld photo of each pattern, every one from its own pose, by pattern id; ``reflections`` by pattern id."""
    return {
        name: shoot(device, name, camera, rng, run, reflections=(reflections or {}).get(name, ()))
        for name in pattern_ids
    }


def shoot_by_phone(
    device: FaultyPanel,
    pattern_id: str,
    phone: Phone,
    rng: np.random.Generator,
    run: int = 0,
    pose: Pose | None = None,
    reflections: Sequence[Reflection] = (),
    natural: Float | None = None,
    raw: bool = False,
) -> tuple[Shot, Exposure]:
    """A photo of one pattern by a phone that exposes by itself, and what it chose; handheld when no ``pose`` is given. ``natural`` is the
    (H, W, 3) share of its light that the panel gives by place (``natural_light``)."""
    pattern = get_pattern(pattern_id)
    device = set_to(device, pattern.brightness)
    light = emit(device, render(device.panel, pattern, run))
    if natural is not None:
        light *= natural
    held = pose or standing_pose(device.panel, phone.camera, rng)
    return photograph_by_phone(light, phone, held, rng, glass_of(device), reflections, raw, device.dimming)
