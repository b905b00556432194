"""./clear-lens verify: does the hash chain of a report hold?"""

import argparse

from cli.files import read_json
from lens.reporting import verify_report


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("report")


def run(options: argparse.Namespace) -> int:
    outcome = verify_report(read_json(options.report))
    print(outcome.text)
    return 0 if outcome.holds else 1
