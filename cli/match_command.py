"""./clear-lens match: does an offered panel go in place of the one in the device?"""

import argparse

from cli.files import read, write
from lens.matching import SCHOOLS, PanelSpec, check_school, match
from lens.tables import parse, validated

EXITS = {"fits": 0, "fits_with_consequences": 0, "ask": 3, "stop": 1}


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--wanted", required=True, help="the panel in the device: JSON or YAML, what is unknown left out or null"
    )
    parser.add_argument("--offered", required=True, help="the one that is offered")
    parser.add_argument("--school", default="fit_form_function", help=", ".join(SCHOOLS))
    parser.add_argument("--out", help="file for the result; standard output without it")


def _spec(path: str) -> PanelSpec:
    return validated(PanelSpec, parse(read(path), f"'{path}'"), f"'{path}'", "panel_spec")


def run(options: argparse.Namespace) -> int:
    told = match(_spec(options.wanted), _spec(options.offered), check_school(options.school))
    write(told.model_dump_json(indent=1), options.out)
    return EXITS[told.result]
