"""./clear-lens label: what does the label of a panel say?"""

import argparse

from cli.files import read, write
from lens.label import Register, read_label_photo
from lens.matching.panel_csv import read_numbers

ACCEPTED, CHOOSE = 0, 3


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--photo", required=True, help="a photo of the label, any way up")
    parser.add_argument("--register", help="CSV with a column part_number: the panels that are known")
    parser.add_argument("--out", help="file for the result; standard output without it")


def run(options: argparse.Namespace) -> int:
    register = Register(read_numbers(read(options.register))) if options.register else None
    told = read_label_photo(read(options.photo), register)
    write(told.model_dump_json(indent=1), options.out)
    return ACCEPTED if told.accepted else CHOOSE
