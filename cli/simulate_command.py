"""./clear-lens simulate photo|touch: photos of a simulated faulty panel, or a touch session, with the truth beside them."""

import argparse
import json
from pathlib import Path

import numpy as np

from lens.errors import BadInput
from lens.panel import parse_panel
from lens.patterns import built_in_sets, get_set
from lens.simulate import FaultyPanel, random_camera, random_faults, shoot_set
from lens.simulate.touch import TOUCH_FAULTS, touch_fault, touch_session
from lens.touch import standard_plan


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("what", nargs="?", default="photo", choices=["photo", "touch"])
    parser.add_argument("--panel", default="1920x1080")
    parser.add_argument("--out", required=True)
    parser.add_argument("--faults", type=int, default=10, help="single pixel and subpixel faults of mixed kinds")
    parser.add_argument("--set", default="standard", choices=sorted(built_in_sets()))
    parser.add_argument("--diagonal-in", type=float, default=None)
    parser.add_argument("--touch-fault", default="none", choices=TOUCH_FAULTS)
    parser.add_argument("--seed", type=int, default=1)


def _made(folder: Path) -> None:
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise BadInput(f"Cannot write to '{folder}': {error.strerror}.", "no_file") from None


def _touch(options: argparse.Namespace) -> int:
    """A session of the bench's own plan on a panel with one fault of the touch."""
    panel, folder = parse_panel(options.panel, options.diagonal_in), Path(options.out)
    plan = standard_plan(panel).model_dump(mode="json")
    dead, ghosts = touch_fault(options.touch_fault, (panel.width, panel.height))
    data = touch_session(
        (panel.width, panel.height), panel.diagonal_in, plan, dead, ghosts, rng=np.random.default_rng(options.seed)
    )
    _made(folder)
    (folder / "session.jsonl").write_bytes(data)
    truth = {
        "fault": options.touch_fault,
        "dead": [box.model_dump() for box in dead],
        "phantom": [ghost.model_dump() for ghost in ghosts],
    }
    (folder / "truth.json").write_text(json.dumps(truth, indent=2) + "\n")
    print(f"session.jsonl and truth.json in {folder}")
    return 0


def run(options: argparse.Namespace) -> int:
    if options.what == "touch":
        return _touch(options)
    panel = parse_panel(options.panel)
    folder = Path(options.out)
    rng = np.random.default_rng(options.seed)
    if not 0 <= options.faults <= 500:
        raise BadInput(f"--faults must be 0 to 500, got {options.faults}.", "faults")
    device = FaultyPanel(panel=panel, faults=random_faults(panel, options.faults, rng))
    camera = random_camera(rng)
    _made(folder)
    shots = shoot_set(device, get_set(options.set).patterns, camera, rng)
    for pattern_id, shot in shots.items():
        (folder / f"{pattern_id}.jpg").write_bytes(shot.data)
    truth = {
        "panel": {"width": panel.width, "height": panel.height},
        "seed": options.seed,
        "camera": camera.model_dump(),
        "faults": [fault.model_dump() for fault in device.faults],
        "photos": {
            pattern_id: {"file": f"{pattern_id}.jpg", "corners": shot.corners} for pattern_id, shot in shots.items()
        },
    }
    (folder / "truth.json").write_text(json.dumps(truth, indent=2) + "\n")
    print(f"{len(shots)} photos and truth.json in {folder}")
    return 0
