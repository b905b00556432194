"""The simulated device of a job, and its camera: what stands in for hardware in the demo and the tests.

It answers through the same doors as the real thing: it shows what the glass would be sent, and its photos arrive as a hand
camera's do.
"""

import math
from typing import Any

import numpy as np

from lens.panel import Panel
from lens.patterns import encode_png, get_pattern, render
from lens.simulate import (
    Camera,
    DeviceFault,
    Dimming,
    EdidPanel,
    FaultyPanel,
    Reflection,
    edid_of,
    emit,
    photograph_flat,
    random_faults,
    shoot_by_phone,
    standing_pose,
)
from lens.simulate.exposing import Phone
from lens.simulate.phone import held_anew, natural_light, random_phone
from lens.simulate.touch import DeadBox, Ghost, touch_fault, touch_session
from lens.srgb import linear_to_srgb
from server.inspections.models import Run
from server.jobs.core_adapter import to_panel
from server.jobs.meter_actions import nominal_of
from server.jobs.models import Job
from server.touch.core_adapter import stored_plan
from server.touch.models import TouchSession

LAMP_HZ = 100.0  # on 50 Hz mains
MIN_CAMERA_PX, MAX_CAMERA_PX = 1500, 4000
SHORT_EXPOSURE_S = 1 / 250  # what a phone takes of a bright panel; long exposures do not show pulses
DRIVEN = (
    "gamma",
    "dimming",
    "brightness",
    "outside_light",
    "blemishes",
    "glass_above_px",
    "picture",
    "offset_px",
    "wiring",
    "inverted",
    "bit_maps",
    "control",
    "dimmed_hz",
)
PARTS = {  # whose faults a stage shows
    "received": ("original",),
    "inspect": ("original",),
    "external": ("external",),
    "dry_fit": ("replacement",),
    "closed": ("replacement", "closing"),
    "recheck": ("replacement", "closing", "later"),
}
MM_PER_INCH, USUAL_DIAGONAL_IN = 25.4, 14.0
D65_XYZ = (0.9505, 1.0, 1.089)
MOVED_SHARE = 0.06  # of the frame's width
SIDE_TILT_DEG = (20.0, 26.0)
PHONE = 7  # of the seed: what is drawn for a job's phone
CAMERA_PX_PER_PANEL_PX = 2.05  # of the frame's long side; a panel fills about 85 % of it


def default_device(job: Job) -> dict[str, Any]:
    """A device for a job that brought none: a few pixel faults, and a clean replacement."""
    panel = to_panel(job)
    rng = np.random.default_rng(job.pk)
    return {"original": [f.model_dump() for f in random_faults(panel, 6, rng)], "replacement": [], "closing": []}


def faults_at(job: Job, stage: str) -> tuple[DeviceFault, ...]:
    """The true faults of whatever screen is looked at in a stage."""
    device = job.simulated or default_device(job)
    return tuple(DeviceFault.model_validate(fault) for part in PARTS[stage] for fault in device.get(part, []))


def device_at(job: Job, stage: str, panel: Panel | None = None) -> FaultyPanel:
    """The screen that is looked at in a stage; only the original is driven, lit or dirty as the job says, and what is wrong with the
    picture before it leaves the board shows outside too."""
    told = (job.simulated or {}) if stage in ("received", "inspect") else (job.simulated or {}).get("outside", {})
    driven = {name: told[name] for name in DRIVEN if name in told}
    return FaultyPanel.model_validate({"panel": panel or to_panel(job), "faults": faults_at(job, stage), **driven})


def phone_of(job: Job, panel: Panel) -> Phone:
    """The bench's phone at a job: 4:3, just good enough for the panel, since simulating pixels takes time; it exposes by itself."""
    long_px = (
        int(min(MAX_CAMERA_PX, max(MIN_CAMERA_PX, CAMERA_PX_PER_PANEL_PX * max(panel.width, panel.height)))) // 8 * 8
    )
    short_px = long_px * 3 // 4
    upright = panel.height > panel.width
    phone = random_phone(
        np.random.default_rng([job.pk, PHONE]), short_px if upright else long_px, long_px if upright else short_px
    )
    specks = tuple(
        (x * phone.camera.width, y * phone.camera.height, size_px, depth)
        for x, y, size_px, depth in (job.simulated or {}).get("specks", [])
    )
    return phone.model_copy(
        update={"camera": phone.camera.model_copy(update={"specks": specks}), "white_cd_m2": nominal_of(job)[0]}
    )


def lamp_photo() -> bytes:
    """White paper under the workshop's lamp, as the simulated camera sees it."""
    return photograph_flat(
        Camera(width=4000, height=3000, exposure_s=SHORT_EXPOSURE_S),
        np.random.default_rng(1),
        0.2,
        Dimming(hz=LAMP_HZ, depth=0.4),
    )


def touch_recording(session: TouchSession) -> bytes:
    """A session of the simulated finger on whatever touch layer is there in a run's stage, by the session's own plan: JSON Lines."""
    run, panel = session.run, session.run.panel
    told = (run.job.simulated or {}).get("touch", {})
    dead: list[DeadBox] = []
    ghosts: list[Ghost] = []
    for part in PARTS[run.stage]:
        for name in told.get(part, []):
            boxes, spots = touch_fault(name, (panel.width, panel.height))
            dead += boxes
            ghosts += spots
    rng = np.random.default_rng([run.pk, session.pk])
    return touch_session((panel.width, panel.height), panel.diagonal_in, stored_plan(session), dead, ghosts, rng=rng)


def edid_bytes(job: Job, which: str = "edid") -> bytes:
    """What the job's simulated panel says of itself; the job may say otherwise, by fields, and with ``flipped_byte`` be damaged."""
    panel, told = to_panel(job), dict((job.simulated or {}).get(which, {}))
    flipped = told.pop("flipped_byte", None)
    scale = MM_PER_INCH * (panel.diagonal_in or USUAL_DIAGONAL_IN) / math.hypot(panel.width, panel.height)
    blank = (160, 30)
    own = {
        "width": panel.width,
        "height": panel.height,
        "size_mm": (round(panel.width * scale), round(panel.height * scale)),
        "blank": blank,
        "clock_10khz": round((panel.width + blank[0]) * (panel.height + blank[1]) * 60 / 10_000),
    }
    data = bytearray(edid_of(EdidPanel.model_validate(own | told)))
    if flipped is not None:
        data[flipped] ^= 0x20
    return bytes(data)


def meter_file(job: Job, nominal_cd_m2: float) -> bytes:
    """What the simulated meter writes of white in the middle of the job's panel: CGATS.17."""
    told = job.simulated or {}
    rng = np.random.default_rng(job.pk)
    light = max(float(told.get("brightness", 1.0)), 0.0) * nominal_cd_m2 * float(rng.uniform(0.92, 1.04))
    x, y, z = (share * light for share in D65_XYZ)
    return (
        'CGATS.17\nORIGINATOR "simulated meter"\nNUMBER_OF_FIELDS 4\nBEGIN_DATA_FORMAT\nSAMPLE_NAME XYZ_X XYZ_Y XYZ_Z\nEND_DATA_FORMAT\n'
        f"NUMBER_OF_SETS 1\nBEGIN_DATA\nwhite {x:.2f} {y:.2f} {z:.2f}\nEND_DATA\n"
    ).encode()


def captured_frame(run: Run) -> bytes:
    """A PNG of the signal on the external output, as a capture device gives it."""
    device = device_at(run.job, run.stage, run.panel).model_copy(update={"faults": (), "black_leak": 0.0})
    return encode_png(linear_to_srgb(emit(device, render(run.panel, get_pattern(run.pattern), run.run_code))))


def shoot_run(run: Run, pattern_id: str, seed: int, from_side: bool = False) -> bytes:
    """A handheld photo (JPEG) of a pattern on the run's simulated screen, from about above it or well from the side."""
    device = device_at(run.job, run.stage, run.panel)
    rng = np.random.default_rng([run.pk, seed])
    phone = held_anew(phone_of(run.job, device.panel), rng)
    pose = standing_pose(device.panel, phone.camera, rng, tilt_deg=SIDE_TILT_DEG) if from_side else None
    # whoever holds the camera moves from photo to photo, and what the glass mirrors moves with them
    moved = rng.normal(0, MOVED_SHARE, 2)
    mirrored = [
        Reflection.model_validate({**one, "x": one["x"] + moved[0], "y": one["y"] + moved[1]})
        for one in (run.job.simulated or {}).get("reflections", [])
    ]
    # a panel's own fall-off goes with the panel: the same in each of its stages
    natural = natural_light(device.panel, np.random.default_rng([run.job.pk, *PARTS[run.stage][0].encode()]))
    shot, _ = shoot_by_phone(device, pattern_id, phone, rng, run.run_code, pose, mirrored, natural)
    return shot.data
