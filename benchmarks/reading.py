"""How well photos are registered, which are refused, and sets that are more than one photo a pattern: close-ups, hot camera pixels."""

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from benchmarks.zones import PANEL, SOLIDS, camera_for, inspected
from lens.errors import BadInput
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.patterns import get_pattern, marker_layout, render
from lens.photo import read_photo
from lens.simulate import (
    Camera,
    DeviceFault,
    FaultyPanel,
    Pose,
    closeup_pose,
    emit,
    photograph,
    place_in_photo,
    random_camera,
    random_faults,
    random_pose,
    shoot,
    standing_pose,
)

RUN, HOT_PIXELS = 4711, 8
LATTICE = 17  # places across and down at which a registration is held against the truth
HANDS_OFF_PX = 1.5  # by which corners dragged by hand stray in the photo
TILES = ((0, 0, 0.55, 0.6), (0.45, 0, 1, 0.6), (0, 0.4, 0.55, 1), (0.45, 0.4, 1, 1))


class _Shot(NamedTuple):
    """A photo to be registered, and what is said of it."""

    data: bytes
    camera: Camera
    pose: Pose
    pattern: str | None = None
    corners: tuple[tuple[float, float], ...] | None = None


def _over_markers(name: str, places: Sequence[int]) -> tuple[DeviceFault, ...]:
    """Dead blocks that hide markers, as a finger or a dead band does."""
    hidden = [m for m in marker_layout(PANEL, get_pattern(name)) if m.place in places]
    return tuple(
        DeviceFault(
            kind="block",
            x=m.x + (m.side_px - 1) / 2,
            y=m.y + (m.side_px - 1) / 2,
            w=m.side_px + 6,
            h=m.side_px + 6,
            depth=1.0,
        )
        for m in hidden
    )


def _shots(kind: str, rng: np.random.Generator) -> Iterator[_Shot]:
    """The photos of one set of a row."""
    camera = camera_for(rng)
    tilt = (0.0, 6.0)
    names: Sequence[str] = SOLIDS
    if kind == "from the side":
        camera, tilt = camera.model_copy(update={"barrel": float(rng.choice([-0.01, 0.01]))}), (20.0, 30.0)
    if kind == "turned":
        camera = camera.model_copy(update={"orientation": int(rng.choice([3, 6, 8]))})
    if kind in ("by outline", "by hand"):
        names = ("white", "grey50")
    for name in names:
        places = (
            rng.permutation(12)[:2] if kind == "two hidden" else range(12) if kind in ("by outline", "by hand") else ()
        )
        faults = _over_markers(name, [int(place) for place in places])
        if kind == "half dark":
            faults = (
                DeviceFault(kind="block", x=float(rng.choice([239.5, 719.5])), y=299.5, w=480, h=600, depth=0.97),
            )
        fill = 0.7 if kind == "from the side" else None
        pose = standing_pose(PANEL, camera, rng, tilt_deg=tilt, fill=fill)
        shot = shoot(FaultyPanel(panel=PANEL, faults=faults), name, camera, rng, pose=pose)
        if kind == "by hand":
            corners = tuple(
                (x + float(rng.normal(0, HANDS_OFF_PX)), y + float(rng.normal(0, HANDS_OFF_PX)))
                for x, y in shot.corners
            )
            yield _Shot(shot.data, camera, pose, name, corners)
        else:
            yield _Shot(shot.data, camera, pose, name if kind == "by outline" else None)


def _errors_px(shot: _Shot) -> NDArray[np.float64] | None:
    """Distance from the truth all over the panel, in panel px; None where the photo is refused."""
    try:
        registration = read_photo(shot.data, PANEL, shot.pattern, shot.corners).registration
    except BadInput:
        return None
    x, y = np.meshgrid(np.linspace(0, PANEL.width - 1, LATTICE), np.linspace(0, PANEL.height - 1, LATTICE))
    points = np.stack([x.ravel(), y.ravel()], axis=1)
    off = registration.to_photo(points) - place_in_photo(PANEL, shot.camera, shot.pose, points)
    return np.asarray(np.hypot(*off.T) / registration.scale_at(points), float)


def _registration_rows(sets: int, seed: int) -> None:
    print("\nregistration         photos refused   median     p95  largest   panel px, all over the panel")
    for kind in ("handheld", "from the side", "turned", "two hidden", "half dark", "by outline", "by hand"):
        told = [
            _errors_px(shot) for number in range(sets) for shot in _shots(kind, np.random.default_rng(seed + number))
        ]
        errors = [one for one in told if one is not None]
        every = np.concatenate(errors)
        print(
            f"{kind:18s} {len(told):8d} {len(told) - len(errors):7d} {np.median(every):8.3f} {np.quantile(every, 0.95):7.3f} {every.max():8.3f}",
            flush=True,
        )


def _mirrored(rng: np.random.Generator, camera: Camera) -> tuple[bytes, str | None]:
    top_left, top_right, bottom_right, bottom_left = random_pose(PANEL, camera, rng).corners
    return shoot(
        FaultyPanel(panel=PANEL),
        "white",
        camera,
        rng,
        pose=Pose(corners=(top_right, top_left, bottom_left, bottom_right)),
    ).data, None


def _wrong_pattern(rng: np.random.Generator, camera: Camera) -> tuple[bytes, str | None]:
    return shoot(FaultyPanel(panel=PANEL), "white", camera, rng).data, "grey50"


def _other_job(rng: np.random.Generator, camera: Camera) -> tuple[bytes, str | None]:
    light = emit(FaultyPanel(panel=PANEL), render(PANEL, get_pattern("white"), RUN + 1))
    return photograph(light, camera, random_pose(PANEL, camera, rng), rng).data, None


def _no_panel(rng: np.random.Generator, camera: Camera) -> tuple[bytes, str | None]:
    """A sheet of paper on a dark desk, said to show white."""
    paper = np.full((PANEL.width, PANEL.width, 3), 0.6, np.float32)
    return photograph(paper, camera, random_pose(make_panel(PANEL.width, PANEL.width), camera, rng), rng).data, "white"


def _dead_edge(rng: np.random.Generator, camera: Camera) -> tuple[bytes, str | None]:
    """Hidden markers and a dead strip along an edge: the lit area is not the panel."""
    edge = DeviceFault(kind="block", x=PANEL.width - 25, y=299.5, w=50, h=600, depth=1.0)
    device = FaultyPanel(panel=PANEL, faults=(*_over_markers("white", range(12)), edge))
    return shoot(device, "white", camera, rng, pose=standing_pose(PANEL, camera, rng)).data, "white"


REFUSED: tuple[tuple[str, Callable[[np.random.Generator, Camera], tuple[bytes, str | None]], str], ...] = (
    ("mirrored", _mirrored, "mirrored"),
    ("wrong pattern", _wrong_pattern, "wrong_pattern"),
    ("another job's", _other_job, "wrong_run"),
    ("no panel", _no_panel, "no_markers"),
    ("dead edge, no markers", _dead_edge, "no_markers"),
)


def _refusal_row(sets: int, seed: int) -> None:
    told = {name: 0 for name, _, _ in REFUSED}
    for number in range(sets):
        for name, make, code in REFUSED:
            rng = np.random.default_rng(seed + number)
            data, pattern = make(rng, camera_for(rng))
            try:
                read_photo(data, PANEL, pattern, expected_run=RUN)
            except BadInput as reason:
                told[name] += reason.code == code
    words = ", ".join(f"{name} {count}" for name, count in told.items())
    print(f"refused for the right reason, of {sets} each: {words}", flush=True)


def _tiles_row(sets: int, seed: int) -> None:
    """Pixel faults found in close-ups of quarters, with a camera that is too coarse for the whole panel."""
    put = found = false = 0
    proven = []
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = random_camera(rng, 1100, 825)
        device = FaultyPanel(panel=PANEL, faults=random_faults(PANEL, 12, rng, keep_clear=60))
        taken = []
        for name in SOLIDS:
            light = emit(device, render(PANEL, get_pattern(name)))
            taken += [
                PhotoFile(f"{name}-{n}", photograph(light, camera, closeup_pose(PANEL, camera, part, rng), rng).data)
                for n, part in enumerate(TILES)
            ]
        result = inspect_files(PANEL, taken)
        true = {(f.kind, f.channel, f.x, f.y) for f in device.faults}
        told = {(f.kind, f.channel, f.x, f.y) for f in result.findings if f.kind != "cluster"}
        put, found, false = put + len(true), found + len(true & told), false + len(told - true)
        proven.append(result.proven.subpixels)
    print(
        f"{'close-ups':16s} {sets:5d} {put:6d} {found:6d} {put - found:7d}   quarters at 1.7 px/px, of the right kind at the right pixel; "
        f"{false / sets:.2f} false a set; proven {np.mean(proven):.3f}",
        flush=True,
    )


def _hot_row(sets: int, seed: int) -> None:
    put = false = known = 0
    for number in range(sets):
        rng = np.random.default_rng(seed + number)
        camera = camera_for(rng)
        hot = tuple((int(rng.integers(300, 1700)), int(rng.integers(250, 1250))) for _ in range(HOT_PIXELS))
        told = inspected((), camera.model_copy(update={"hot_pixels": hot}), rng).findings
        put += HOT_PIXELS
        known += sum(f.kind == "camera" for f in told)
        false += sum(f.kind != "camera" for f in told)
    print(
        f"{'hot photosites':16s} {sets:5d} {put:6d} {'':15s} {false / sets:.2f} false findings a set; {known} of {put * len(SOLIDS)} told as "
        "the camera's, where they pass the threshold",
        flush=True,
    )


def print_reading(sets: int, first_seed: int) -> None:
    """The rows of registration, refusals, close-ups and camera defects."""
    _registration_rows(sets, first_seed)
    _refusal_row(sets, first_seed)
    _tiles_row(max(1, sets // 2), first_seed)
    _hot_row(sets, first_seed)
