"""./clear-lens patterns | inspect | edid | touch | simulate | diagnose | label | back | match | procedure | verify | schema | benchmark."""

import argparse
import importlib
import sys

from cli.exit_codes import BAD_INPUT
from lens.errors import BadInput

COMMANDS = {
    "patterns": "test patterns as PNG files with a manifest",
    "stick": "a stick that starts a laptop and shows the patterns",
    "inspect": "photos of a panel to findings and a verdict",
    "diagnose": "evidence to ranked causes and the next check",
    "edid": "what a panel says of itself: binary or hex text",
    "touch": "a touch session to dead zones, phantoms and a verdict",
    "label": "what the label of a panel says",
    "back": "the back of a panel: outline, connector, mounting",
    "procedure": "how a display is replaced, step by step",
    "match": "does an offered panel fit in place of another?",
    "verify": "does the hash chain of a report hold?",
    "schema": "JSON Schema of every result",
    "simulate": "photo sets, or a touch session, of a simulated faulty panel",
    "benchmark": "accuracy and speed",
}


def build_parser(chosen: str | None) -> argparse.ArgumentParser:
    """All commands, with the options of one. Only that one is loaded: reading photos takes seconds to load, which an EDID need not wait for."""
    parser = argparse.ArgumentParser(prog="./clear-lens")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, text in COMMANDS.items():
        own = commands.add_parser(name, help=text)
        if name == chosen:
            module = importlib.import_module(f"cli.{name}_command")
            module.add_options(own)
            own.set_defaults(run=module.run)
    return parser


def main(arguments: list[str] | None = None) -> int:
    """Run one command; bad input gives one line on standard error and exit code 2."""
    told = sys.argv[1:] if arguments is None else arguments
    options = build_parser(told[0] if told else None).parse_args(told)
    try:
        return int(options.run(options))
    except BadInput as problem:
        print(problem.message, file=sys.stderr)
        return BAD_INPUT
    except BrokenPipeError:
        return 0


if __name__ == "__main__":
    sys.exit(main())
