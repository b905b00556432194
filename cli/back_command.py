"""./clear-lens back: what the back of a panel tells in a photo."""

import argparse

from cli.files import read, write
from lens.errors import BadInput
from lens.label import read_back_photo

TOLD, PARTLY = 0, 3
LARGEST_MM = 3000.0


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--photo", required=True, help="all of the panel's back, a bank card lying flat near its middle"
    )
    parser.add_argument("--active-mm", help="width,height of the active area, where there is no card")
    parser.add_argument("--out", help="file for the result; standard output without it")


def run(options: argparse.Namespace) -> int:
    active = _pair(options.active_mm) if options.active_mm else None
    told = read_back_photo(read(options.photo), active)
    write(told.model_dump_json(indent=1), options.out)
    return TOLD if told.outline_mm and told.connector.side else PARTLY


def _pair(text: str) -> tuple[float, float]:
    try:
        width, height = (float(part) for part in text.split(","))
    except ValueError:
        raise BadInput(
            f"--active-mm '{text}': give width,height in mm, for example 344.2,193.5.", "active_mm"
        ) from None
    if not (0 < width <= LARGEST_MM and 0 < height <= LARGEST_MM):
        raise BadInput(f"--active-mm '{text}': both lie above 0 and at most at {LARGEST_MM:.0f} mm.", "active_mm")
    return width, height
