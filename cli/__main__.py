"""./clear-lens patterns | inspect | edid | touch | simulate | diagnose | verify | schema | benchmark."""

import argparse
import json
import sys
from pathlib import Path
from typing import BinaryIO

import yaml

from cli import benchmark, simulate_command
from lens.acceptance import DEFAULT_PROFILE, Profile, get_profile, read_profile
from lens.diagnosis import DEVICES, EvidenceItem, diagnose, with_suspects
from lens.edid import read_edid
from lens.errors import BadInput
from lens.faults import learn_row_time
from lens.inspecting import PhotoFile, check_row_time, inspect_files
from lens.panel import parse_panel
from lens.patterns import PatternSet, get_set, read_set, write_folder
from lens.reporting import verify_report
from lens.schema import all_schemas
from lens.touch import analyse, read_session

EXIT = {"pass": 0, "fail": 1, "not_proven": 3}
BAD_INPUT = 2


def _read(path: str) -> bytes:
    try:
        return Path(path).read_bytes()
    except OSError as error:
        raise BadInput(f"Cannot read '{path}': {error.strerror}.", "no_file") from None


def _opened(path: str) -> BinaryIO:
    try:
        return open(path, "rb")
    except OSError as error:
        raise BadInput(f"Cannot read '{path}': {error.strerror}.", "no_file") from None


def _write(text: str, out: str | None) -> None:
    if out is None:
        print(text)
        return
    try:
        Path(out).write_text(text + "\n", encoding="utf-8")
    except OSError as error:
        raise BadInput(f"Cannot write '{out}': {error.strerror}.", "no_file") from None


def _json(text: bytes, path: str) -> object:
    try:
        return json.loads(text)
    except (ValueError, RecursionError):
        raise BadInput(f"'{path}' is no JSON file.", "not_json") from None


def chosen_set(text: str) -> PatternSet:
    """A built-in set by name, or an own one from a YAML file."""
    return read_set(_read(text).decode("utf-8", "replace")) if text.endswith((".yaml", ".yml")) else get_set(text)


def _patterns(options: argparse.Namespace) -> int:
    written = write_folder(parse_panel(options.panel), Path(options.out), chosen_set(options.set))
    print(f"{len(written)} files in {options.out}")
    return 0


def _corners(texts: list[str]) -> dict[str, tuple[tuple[float, float], ...]]:
    out = {}
    for text in texts:
        name, _, numbers = text.partition("=")
        try:
            values = [float(part) for part in numbers.split(",")]
        except ValueError:
            values = []
        if len(values) != 8:
            raise BadInput(f"--corners '{text}': give PATTERN=x1,y1,x2,y2,x3,y3,x4,y4, clockwise from the panel's top left.", "corners")
        out[name] = tuple(zip(values[::2], values[1::2], strict=True))
    return out


def _profile(text: str) -> Profile:
    """A built-in profile by name, or one from a YAML or JSON file."""
    if not text.endswith((".yaml", ".yml", ".json")):
        return get_profile(text)
    try:
        content = yaml.safe_load(_read(text))
    except yaml.YAMLError:
        raise BadInput(f"'{text}' is no YAML file.", "profile") from None
    return read_profile({"id": Path(text).stem, **content} if isinstance(content, dict) else content)


def _inspect(options: argparse.Namespace) -> int:
    panel = parse_panel(options.panel, options.diagonal_in)
    corners = _corners(options.corners)
    profile = _profile(options.profile)
    files = []
    for text in options.photo:
        pattern, sign, path = text.partition("=")
        named = bool(sign) and not Path(text).exists()
        path, pattern_id = (path, pattern) if named else (text, None)
        files.append(PhotoFile(Path(path).name, _read(path), pattern_id, corners.get(pattern_id or "")))
    if options.row_time_us is not None:
        check_row_time(options.row_time_us)
    row_time_us = options.row_time_us
    if options.lamp:
        hz, _, path = options.lamp.partition("=")
        if not path or not hz.replace(".", "", 1).isdecimal():
            raise BadInput(f"--lamp is its pulses a second and the photo of its light, as in 100=lamp.jpg; got '{options.lamp}'.", "lamp")
        row_time_us = learn_row_time(_read(path), float(hz)).row_time_us
    result = inspect_files(panel, files, profile, row_time_us=row_time_us)
    if not any(photo.used for photo in result.photos):
        first = result.photos[0]
        raise BadInput(f"{first.file}: {first.problems[0].message}", first.problems[0].code)
    _write(result.model_dump_json(indent=2), options.out)
    return EXIT[result.verdict.result]


def _diagnose(options: argparse.Namespace) -> int:
    raw = _json(_read(options.evidence), options.evidence)
    items = raw.get("items") if isinstance(raw, dict) else None
    if not isinstance(items, list):
        raise BadInput('Evidence is {"items": [{"check": id, "outcome": id, "source": "measured|seen|told"}]}.', "evidence")
    try:
        evidence = [EvidenceItem.model_validate(item) for item in items]
    except ValueError:
        raise BadInput("Every evidence item needs a check, an outcome, and a source of measured, seen or told.", "evidence") from None
    result = diagnose(options.device, evidence).model_dump()
    for cause in result["causes"]:
        cause["for"] = cause.pop("for_")
    _write(json.dumps(result, indent=2), options.out)
    return 0


def _edid(options: argparse.Namespace) -> int:
    told = read_edid(_read(options.file))
    for problem in told.problems:
        print(problem, file=sys.stderr)
    _write(told.model_dump_json(indent=2), options.out)
    return 0


def _touch(options: argparse.Namespace) -> int:
    panel = parse_panel(options.panel, options.diagonal_in)
    with _opened(options.session) as file:
        session = read_session(file, panel, _read(options.plan) if options.plan else None)
    result = with_suspects(analyse(session), options.device)
    _write(result.model_dump_json(indent=2), options.out)
    return EXIT[result.verdict]


def _verify(options: argparse.Namespace) -> int:
    outcome = verify_report(_json(_read(options.report), options.report))
    print(outcome.text)
    return 0 if outcome.holds else 1


def _schema(options: argparse.Namespace) -> int:
    _write(json.dumps(all_schemas(), indent=2), options.out)
    return 0


def build_parser() -> argparse.ArgumentParser:
    """All commands of the core."""
    parser = argparse.ArgumentParser(prog="./clear-lens")
    commands = parser.add_subparsers(dest="command", required=True)
    patterns = commands.add_parser("patterns", help="test patterns as PNG files with a manifest")
    patterns.add_argument("--panel", required=True, help="native resolution, e.g. 1920x1080")
    patterns.add_argument("--out", required=True, help="folder, made when missing")
    patterns.add_argument("--set", default="standard", help="triage, standard, tones, thorough, or a YAML file with title and patterns")
    patterns.set_defaults(run=_patterns)
    inspect = commands.add_parser("inspect", help="photos of a panel to findings and a verdict")
    inspect.add_argument("--panel", required=True, help="native resolution, e.g. 1920x1080")
    inspect.add_argument(
        "--photo", action="append", required=True, metavar="[PATTERN=]FILE",
        help="repeat for each photo; flat=FILE is a flat-field shot, reference=FILE shows a known-good panel")
    inspect.add_argument("--diagonal-in", type=float, default=None)
    inspect.add_argument("--profile", default=DEFAULT_PROFILE, help="a built-in acceptance profile, or a YAML file with one")
    inspect.add_argument("--corners", action="append", default=[], metavar="PATTERN=x1,y1,...,x4,y4")
    inspect.add_argument(
        "--lamp", metavar="HZ=FILE", default=None, help="learn that time from white paper under a lamp of known pulses, as in 100=lamp.jpg")
    inspect.add_argument("--row-time-us", type=float, default=None, help="the camera's time from one sensor row to the next, for flicker")
    inspect.add_argument("--out", default=None)
    inspect.set_defaults(run=_inspect)
    diagnosis = commands.add_parser("diagnose", help="evidence to ranked causes and the next check")
    diagnosis.add_argument("--device", required=True)
    diagnosis.add_argument("--evidence", required=True)
    diagnosis.add_argument("--out", default=None)
    diagnosis.set_defaults(run=_diagnose)
    edid = commands.add_parser("edid", help="what a panel says of itself: binary or hex text")
    edid.add_argument("file")
    edid.add_argument("--out", default=None)
    edid.set_defaults(run=_edid)
    touch = commands.add_parser("touch", help="a touch session to dead zones, phantoms and a verdict")
    touch.add_argument("--panel", required=True, help="native resolution, e.g. 1080x2400")
    touch.add_argument("--session", required=True, help="JSON Lines, the first line with type 'session'")
    touch.add_argument("--plan", default=None, help="a plan's JSON file, for a session without one")
    touch.add_argument("--diagonal-in", type=float, default=None)
    touch.add_argument("--device", default="handset", choices=DEVICES)
    touch.add_argument("--out", default=None)
    touch.set_defaults(run=_touch)
    verify = commands.add_parser("verify", help="does the hash chain of a report hold?")
    verify.add_argument("report")
    verify.set_defaults(run=_verify)
    schema = commands.add_parser("schema", help="JSON Schema of every result")
    schema.add_argument("--out", default=None)
    schema.set_defaults(run=_schema)
    simulate_command.add_parser(commands)
    benchmark.add_parser(commands)
    return parser


def main(arguments: list[str] | None = None) -> int:
    """Run one command; bad input gives one line on standard error and exit code 2."""
    options = build_parser().parse_args(arguments)
    try:
        return int(options.run(options))
    except BadInput as problem:
        print(problem.message, file=sys.stderr)
        return BAD_INPUT
    except BrokenPipeError:
        return 0


if __name__ == "__main__":
    sys.exit(main())
