"""./clear-lens inspect: photos of a panel to findings and a verdict."""

import argparse
from pathlib import Path

from cli.exit_codes import BY_VERDICT
from cli.files import read, write
from lens.acceptance import DEFAULT_PROFILE, Profile, get_profile, read_profile
from lens.errors import BadInput
from lens.faults import learn_row_time
from lens.inspecting import PhotoFile, check_row_time, inspect_files
from lens.panel import parse_panel
from lens.tables import parse


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--panel", required=True, help="native resolution, e.g. 1920x1080")
    parser.add_argument(
        "--photo",
        action="append",
        required=True,
        metavar="[PATTERN=]FILE",
        help="repeat for each photo; flat=FILE is a flat-field shot, reference=FILE shows a known-good panel",
    )
    parser.add_argument("--diagonal-in", type=float, default=None)
    parser.add_argument(
        "--profile", default=DEFAULT_PROFILE, help="a built-in acceptance profile, or a YAML file with one"
    )
    parser.add_argument("--corners", action="append", default=[], metavar="PATTERN=x1,y1,...,x4,y4")
    parser.add_argument(
        "--lamp",
        metavar="HZ=FILE",
        default=None,
        help="learn that time from white paper under a lamp of known pulses, as in 100=lamp.jpg",
    )
    parser.add_argument(
        "--row-time-us", type=float, default=None, help="the camera's time from one sensor row to the next, for flicker"
    )
    parser.add_argument("--out", default=None)


def _corners(texts: list[str]) -> dict[str, tuple[tuple[float, float], ...]]:
    out = {}
    for text in texts:
        name, _, numbers = text.partition("=")
        try:
            values = [float(part) for part in numbers.split(",")]
        except ValueError:
            values = []
        if len(values) != 8:
            raise BadInput(
                f"--corners '{text}': give PATTERN=x1,y1,x2,y2,x3,y3,x4,y4, clockwise from the panel's top left.",
                "corners",
            )
        out[name] = tuple(zip(values[::2], values[1::2], strict=True))
    return out


def _profile(text: str) -> Profile:
    """A built-in profile by name, or one from a YAML or JSON file."""
    if not text.endswith((".yaml", ".yml", ".json")):
        return get_profile(text)
    content = parse(read(text), f"'{text}'")
    return read_profile({"id": Path(text).stem, **content} if isinstance(content, dict) else content)


def run(options: argparse.Namespace) -> int:
    panel = parse_panel(options.panel, options.diagonal_in)
    corners = _corners(options.corners)
    profile = _profile(options.profile)
    files = []
    for text in options.photo:
        pattern, sign, path = text.partition("=")
        named = bool(sign) and not Path(text).exists()
        path, pattern_id = (path, pattern) if named else (text, None)
        files.append(PhotoFile(Path(path).name, read(path), pattern_id, corners.get(pattern_id or "")))
    if options.row_time_us is not None:
        check_row_time(options.row_time_us)
    row_time_us = options.row_time_us
    if options.lamp:
        hz, _, path = options.lamp.partition("=")
        if not path or not hz.replace(".", "", 1).isdecimal():
            raise BadInput(
                f"--lamp is its pulses a second and the photo of its light, as in 100=lamp.jpg; got '{options.lamp}'.",
                "lamp",
            )
        row_time_us = learn_row_time(read(path), float(hz)).row_time_us
    result = inspect_files(panel, files, profile, row_time_us=row_time_us)
    if not any(photo.used for photo in result.photos):
        first = result.photos[0]
        raise BadInput(f"{first.file}: {first.problems[0].message}", first.problems[0].code)
    write(result.model_dump_json(indent=2), options.out)
    return BY_VERDICT[result.verdict.result]
