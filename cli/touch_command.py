"""./clear-lens touch: a touch session to dead zones, phantoms and a verdict."""

import argparse

from cli.exit_codes import BY_VERDICT
from cli.files import opened, read, write
from lens.diagnosis import DEVICES, with_suspects
from lens.panel import parse_panel
from lens.touch import analyse, read_session


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--panel", required=True, help="native resolution, e.g. 1080x2400")
    parser.add_argument("--session", required=True, help="JSON Lines, the first line with type 'session'")
    parser.add_argument("--plan", default=None, help="a plan's JSON file, for a session without one")
    parser.add_argument("--diagonal-in", type=float, default=None)
    parser.add_argument("--device", default="handset", choices=DEVICES)
    parser.add_argument("--out", default=None)


def run(options: argparse.Namespace) -> int:
    panel = parse_panel(options.panel, options.diagonal_in)
    with opened(options.session) as file:
        session = read_session(file, panel, read(options.plan) if options.plan else None)
    result = with_suspects(analyse(session), options.device)
    write(result.model_dump_json(indent=2), options.out)
    return BY_VERDICT[result.verdict]
