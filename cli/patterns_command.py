"""./clear-lens patterns: test patterns as PNG files with a manifest."""

import argparse
from pathlib import Path

from cli.files import read
from lens.panel import parse_panel
from lens.patterns import PATTERNS, PatternSet, built_in_sets, get_set, read_set, write_folder


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--panel", required=True, help="native resolution, e.g. 1920x1080")
    parser.add_argument("--out", required=True, help="folder, made when missing")
    parser.add_argument(
        "--set", help=f"{', '.join(built_in_sets())}, or a YAML file with title and patterns; all patterns without"
    )


def chosen_set(text: str | None) -> PatternSet:
    """A built-in set by name, an own one from a YAML file, or all there is."""
    if text is None:
        return PatternSet(title="All", patterns=tuple(PATTERNS))
    return read_set(read(text).decode("utf-8", "replace")) if text.endswith((".yaml", ".yml")) else get_set(text)


def run(options: argparse.Namespace) -> int:
    written = write_folder(parse_panel(options.panel), Path(options.out), chosen_set(options.set))
    print(f"{len(written)} files in {options.out}")
    return 0
