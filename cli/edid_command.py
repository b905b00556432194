"""./clear-lens edid: what a panel says of itself."""

import argparse
import sys

from cli.files import read, write
from lens.edid import read_edid


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument("--out", default=None)


def run(options: argparse.Namespace) -> int:
    told = read_edid(read(options.file))
    for problem in told.problems:
        print(problem, file=sys.stderr)
    write(told.model_dump_json(indent=2), options.out)
    return 0
