"""./clear-lens verify: is every fact of a report as the shop signed it?"""

import argparse
import os
from pathlib import Path

from cli.files import read
from lens.reporting import read_public, verify_file

CODES = {"holds": 0, "broken": 1, "unknown": 3}
OWN_KEY, EARLIER_KEYS = "shop.pub", "shop-keys"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("report", help="a report (JSON, PDF or ZIP) as it was saved from Hand over")
    parser.add_argument(
        "--key",
        default=None,
        metavar="shop.pub",
        help="the public key of the shop that made it; else this installation's own",
    )


def _known(key: str | None) -> list[str]:
    """The public keys that count: the one that was given, or those of this installation."""
    if key is not None:
        return [read_public(read(key).decode("utf-8", "replace"))]
    folder = Path(os.environ.get("CLEAR_LENS_VAR") or Path(__file__).parents[1] / "var")
    own = [folder / OWN_KEY, *sorted((folder / EARLIER_KEYS).glob("*.pub"))]
    return [read_public(file.read_text()) for file in own if file.is_file()]


def run(options: argparse.Namespace) -> int:
    outcome = verify_file(read(options.report), _known(options.key))
    print(outcome.text)
    return CODES[outcome.result]
