"""./clear-lens schema: JSON Schema of every result."""

import argparse
import json

from cli.files import write
from lens.schema import all_schemas


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--out", default=None)


def run(options: argparse.Namespace) -> int:
    write(json.dumps(all_schemas(), indent=2), options.out)
    return 0
