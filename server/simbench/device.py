"""The simulated device of a job, and its camera: what stands in for hardware in the demo and the tests.

It answers through the same doors as the real thing: it shows what the glass would be sent, and its photos arrive as a hand
camera's do.
"""

from typing import Any

import numpy as np

from lens.patterns import get_pattern, render
from lens.simulate import Camera, DeviceFault, Dimming, FaultyPanel, emit, photograph, random_camera, random_faults, random_pose
from server.inspections.models import Run
from server.jobs.core_adapter import to_panel
from server.jobs.models import Job

MIN_CAMERA_PX, MAX_CAMERA_PX = 1500, 4000
SHORT_EXPOSURE_S = 1 / 250  # what a phone takes of a bright panel; long exposures do not show pulses
CAMERA_PX_PER_PANEL_PX = 2.05  # of the frame's long side; a panel fills about 85 % of it


def default_device(job: Job) -> dict[str, Any]:
    """A device for a job that brought none: a few pixel faults, and a clean replacement."""
    panel = to_panel(job)
    rng = np.random.default_rng(job.pk)
    return {"original": [f.model_dump() for f in random_faults(panel, 6, rng)], "replacement": [], "closing": []}


def faults_at(job: Job, stage: str) -> tuple[DeviceFault, ...]:
    """The true faults of whatever screen is looked at in a stage."""
    device = job.simulated or default_device(job)
    parts = {
        "received": ("original",),
        "inspect": ("original",), "external": ("external",), "dry_fit": ("replacement",), "closed": ("replacement", "closing"),
    }[stage]
    return tuple(DeviceFault.model_validate(fault) for part in parts for fault in device.get(part, []))


def _drive_at(job: Job, stage: str) -> tuple[tuple[float, float, float] | None, Dimming | None]:
    """How the original panel is driven where that is not as it should be: the gammas of its colours, and its backlight's pulses."""
    told = (job.simulated or {}) if stage in ("received", "inspect") else {}
    gamma, dimming = told.get("gamma"), told.get("dimming")
    return (
        None if gamma is None else (float(gamma[0]), float(gamma[1]), float(gamma[2])),
        None if dimming is None else Dimming.model_validate(dimming))


def _camera(job: Job, rng: np.random.Generator) -> Camera:
    """A 4:3 camera that is just good enough for the panel, since simulating pixels takes time."""
    long_px = int(min(MAX_CAMERA_PX, max(MIN_CAMERA_PX, CAMERA_PX_PER_PANEL_PX * max(job.panel_width, job.panel_height)))) // 8 * 8
    short_px = long_px * 3 // 4
    upright = job.panel_height > job.panel_width
    return random_camera(rng, short_px if upright else long_px, long_px if upright else short_px)


def shoot(run: Run, pattern_id: str, seed: int) -> bytes:
    """A handheld photo (JPEG) of a pattern on the run's simulated screen."""
    panel = to_panel(run.job)
    rng = np.random.default_rng([run.pk, seed])
    pattern = get_pattern(pattern_id)
    gamma, dimming = _drive_at(run.job, run.stage)
    light = emit(FaultyPanel(panel=panel, faults=faults_at(run.job, run.stage), gamma=gamma), render(panel, pattern, run.run_code))
    camera = _camera(run.job, rng)
    if dimming is not None:
        camera = camera.model_copy(update={"exposure_s": SHORT_EXPOSURE_S})
    return photograph(light, camera, random_pose(panel, camera, rng), rng, dimming=dimming).data
