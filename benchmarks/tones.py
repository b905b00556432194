"""Accuracy of gamma, grey tracking, flicker, retained images, white points, exposure pairs and the brightness control on seeded sets."""

import statistics

import numpy as np
from numpy.typing import NDArray

from benchmarks.zones import PANEL, camera_for, inspected, overlap
from lens.faults import learn_row_time
from lens.inspecting import REFERENCE, PhotoFile, inspect_files
from lens.patterns import get_pattern, get_set, render
from lens.records import Inspection
from lens.simulate import (
    Camera,
    DeviceFault,
    Dimming,
    FaultyPanel,
    control_share,
    emit,
    photograph,
    photograph_flat,
    random_pose,
    shoot_set,
)

LIT = ("white", "red", "green", "blue", "grey50")
XYZ_OF_RGB = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])  # IEC 61966-2-1
SAME_FREQUENCY = 0.05
FAINTEST_BARS = 0.005  # which a photo shows


def uv_of_xyz(xyz: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(
        np.stack([4 * xyz[..., 0], 9 * xyz[..., 1]], axis=-1) / (xyz @ np.array([1.0, 15.0, 3.0]))[..., None], float
    )


def _greys_row(sets: int, seed: int) -> None:
    gammas, tracking, covered, told = [], [], 0, 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng).model_copy(update={"contrast": float(rng.uniform(-0.1, 0.3))})
        exponents = rng.uniform(1.8, 2.6) + rng.normal(0, 0.05, 3)
        device = FaultyPanel(panel=PANEL, gamma=(float(exponents[0]), float(exponents[1]), float(exponents[2])))
        light = emit(device, render(PANEL, get_pattern("ladder")))
        greys = inspect_files(
            PANEL, [PhotoFile("ladder", photograph(light, camera, random_pose(PANEL, camera, rng), rng).data)]
        ).greys
        if greys is None:
            continue
        told += 1
        drive = np.array([point.level for point in greys.points if point.delta_uv is not None]) / 255
        xyz = drive[:, None] ** exponents @ XYZ_OF_RGB.T
        gamma = float(np.log(xyz[:, 1]) @ np.log(drive) / (np.log(drive) @ np.log(drive)))
        gammas.append(abs(greys.gamma - gamma))
        tracking.append(
            abs(
                greys.max_delta_uv
                - float(np.linalg.norm(uv_of_xyz(xyz) - uv_of_xyz(XYZ_OF_RGB.sum(axis=1)), axis=1).max())
            )
        )
        covered += gammas[-1] <= greys.uncertainty and tracking[-1] <= greys.delta_uv_uncertainty
    print(
        f"{'gamma, greys':16s} {sets:5d} {sets:6d} {told:6d} {sets - told:7d}   error of gamma: median {statistics.median(gammas):.3f}, largest "
        f"{max(gammas):.3f}; of u'v': {statistics.median(tracking):.4f}, {max(tracking):.4f}; intervals cover {covered / sets:.2f}",
        flush=True,
    )


def _shot(device: FaultyPanel, camera: Camera, rng: np.random.Generator, patterns: tuple[str, ...] = LIT) -> Inspection:
    shots = shoot_set(device, patterns, camera, rng)
    return inspect_files(
        PANEL, [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()], row_time_us=camera.row_time_us
    )


def _flicker_row(sets: int, seed: int) -> None:
    errors, right, false, put = [], 0, 0, 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng).model_copy(
            update={
                "exposure_s": float(rng.choice([1 / 120, 1 / 250, 1 / 400])),
                "row_time_us": float(rng.uniform(8, 16)),
                "orientation": int(rng.choice([1, 6])),
            }
        )
        dimming = Dimming(hz=float(rng.uniform(120, 1200)), duty=float(rng.uniform(0.2, 0.8)))
        put += dimming.contrast(camera.exposure_s) >= FAINTEST_BARS
        for device in (FaultyPanel(panel=PANEL, dimming=dimming), FaultyPanel(panel=PANEL)):
            told = [f for f in _shot(device, camera, rng).findings if f.kind == "flicker"]
            if device.dimming is None:
                false += len(told)
            elif told and told[0].frequency_hz:
                errors.append(abs(told[0].frequency_hz / dimming.hz - 1))
                right += errors[-1] <= SAME_FREQUENCY
    print(
        f"{'flicker':16s} {sets:5d} {put:6d} {right:6d} {put - right:7d}   error of the frequency: median {statistics.median(errors):.4f}, largest "
        f"{max(errors):.4f}; {false} of {sets} steady panels called flickering; {sets - put} open for whole periods, which show no bars",
        flush=True,
    )


def _brightness_row(sets: int, seed: int) -> None:
    errors, frequencies, right = [], [], 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng).model_copy(
            update={"exposure_s": 1 / 400, "iso": 330, "row_time_us": float(rng.uniform(8, 16))}
        )
        kind = ("works", "stuck", "dark")[number % 3]
        device = FaultyPanel(
            panel=PANEL,
            control="stuck" if kind == "stuck" else "works",
            brightness=0.08 if kind == "dark" else 1.0,
            dimmed_hz=float(rng.uniform(120, 1200)) if kind == "works" else None,
        )
        curve = _shot(device, camera, rng, get_set("brightness").patterns).brightness
        assert curve is not None
        right += curve.control == kind
        if kind != "stuck":
            errors += [abs(step.light / control_share(step.percent) - 1) for step in curve.steps if step.light]
        frequencies += [
            abs(step.pulses_hz / device.dimmed_hz - 1) for step in curve.steps if step.pulses_hz and device.dimmed_hz
        ]
    print(
        f"{'brightness':16s} {sets:5d} {sets:6d} {right:6d} {sets - right:7d}   error of a step's light: median {statistics.median(errors):.3f}, "
        f"largest {max(errors):.3f}; of the pulses' frequency: largest {max(frequencies, default=0.0):.3f} of {len(frequencies)}",
        flush=True,
    )


def _row_time_row(sets: int, seed: int) -> None:
    errors, covered = [], 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = Camera(
            width=4000,
            height=3000,
            row_time_us=float(rng.uniform(7, 16)),
            exposure_s=float(rng.choice([1 / 250, 1 / 500])),
            white_level=0.5,
            vignetting=float(rng.uniform(0.1, 0.4)),
        )
        hz = float(rng.choice([100, 120]))
        data = photograph_flat(
            camera, rng, float(rng.uniform(-0.3, 0.3)), Dimming(hz=hz, depth=float(rng.uniform(0.2, 0.6)))
        )
        told = learn_row_time(data, hz)
        errors.append(abs(told.row_time_us / camera.row_time_us - 1))
        covered += errors[-1] * camera.row_time_us <= told.uncertainty_us
    print(
        f"{'row time':16s} {sets:5d} {sets:6d} {'':15s}  from a mains lamp: error median {statistics.median(errors):.4f}, largest {max(errors):.4f}; "
        f"interval covers {covered / sets:.2f}",
        flush=True,
    )


def _reference_row(sets: int, seed: int) -> None:
    errors, covered, light = [], 0, []
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng)
        rgb = 1 - rng.uniform(0, 0.15, 3)
        tint = DeviceFault(
            kind="tint", x=PANEL.width / 2, y=PANEL.height / 2, size_px=1e5, rgb=(1 - rgb[0], 1 - rgb[1], 1 - rgb[2])
        )
        shots = shoot_set(FaultyPanel(panel=PANEL, faults=(tint,)), ("white", "red", "green", "blue"), camera, rng)
        good = shoot_set(FaultyPanel(panel=PANEL), ("white",), camera, rng)["white"]
        files = [*(PhotoFile(name, shot.data) for name, shot in shots.items()), PhotoFile("good", good.data, REFERENCE)]
        told = inspect_files(PANEL, files).reference
        assert told is not None
        shift = uv_of_xyz(XYZ_OF_RGB @ rgb) - uv_of_xyz(XYZ_OF_RGB.sum(axis=1))
        errors.append(float(np.hypot(*(np.array([told.delta_u, told.delta_v]) - shift))))
        covered += errors[-1] <= told.uncertainty
        light.append(abs(told.light_ratio - float(XYZ_OF_RGB[1] @ rgb)))
    print(
        f"{'against reference':16s} {sets:4d} {sets:6d} {'':15s}  error of u'v': median {statistics.median(errors):.4f}, largest {max(errors):.4f}, "
        f"covered {covered / sets:.2f}; of the light: largest {max(light):.3f}",
        flush=True,
    )


def _pair_row(sets: int, seed: int) -> None:
    errors, covered, widths = [], 0, []
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng).model_copy(update={"contrast": float(rng.uniform(-0.1, 0.3))})
        share = float(rng.uniform(0.15, 0.5))
        dark = camera.model_copy(
            update={"white_level": camera.white_level * share, "exposure_s": camera.exposure_s * share}
        )
        lean = DeviceFault(kind="shade", x=0, y=300, size_px=480, h=5000, depth=float(rng.uniform(0.1, 0.4)))
        device = FaultyPanel(panel=PANEL, faults=(lean,))
        shots = [*shoot_set(device, LIT, camera, rng).items(), *shoot_set(device, ("white",), dark, rng).items()]
        told = inspect_files(
            PANEL, [PhotoFile(f"{name}-{n}", shot.data) for n, (name, shot) in enumerate(shots)]
        ).uniformity
        assert told is not None
        level = 1 - lean.depth * np.exp(-((np.array([0.1, 0.5, 0.9]) * PANEL.width - 0.5) ** 2) / (2 * 480**2))
        errors.append(abs(told.ratio - float(level.min() / level.max())))
        covered += errors[-1] <= told.uncertainty
        widths.append(told.uncertainty)
    print(
        f"{'exposure pair':16s} {sets:5d} {sets:6d} {'':15s}  bent curves; error of the uniformity: median {statistics.median(errors):.3f}, largest "
        f"{max(errors):.3f}; interval +-{statistics.median(widths):.3f} covers {covered / sets:.2f}",
        flush=True,
    )


def _ghost_row(sets: int, seed: int) -> None:
    boxes, false = [], 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        ghost = DeviceFault(
            kind="ghost",
            x=PANEL.width / 2,
            y=PANEL.height / 2,
            w=float(rng.uniform(400, 900)),
            h=float(rng.uniform(300, 560)),
            depth=float(rng.choice([-1, 1]) * rng.uniform(0.03, 0.06)),
            size_px=float(number + 1),
        )
        told = list(inspected([ghost], camera_for(rng), rng).findings)
        same = [f for f in told if f.kind == "retained_image"]
        boxes.append(max((overlap(f, (ghost.x, ghost.y, ghost.w, ghost.h)) for f in same), default=0.0))
        false += len(told) - len(same)
    found = sum(box > 0 for box in boxes)
    print(
        f"{'retained, 3-6 %':16s} {sets:5d} {sets:6d} {found:6d} {sets - found:7d}   median overlap of boxes {statistics.median(boxes):.2f}; "
        f"{false / sets:.2f} other findings a set",
        flush=True,
    )


def print_tones(sets: int, first_seed: int) -> None:
    """The rows of gamma, flicker, retained images, the white point, exposure pairs, the brightness control and the row time."""
    _greys_row(sets, first_seed)
    _flicker_row(sets, first_seed)
    _ghost_row(sets, first_seed)
    _reference_row(sets, first_seed)
    _pair_row(sets, first_seed)
    _brightness_row(sets, first_seed)
    _row_time_row(sets, first_seed)
