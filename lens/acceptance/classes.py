"""Pixel-fault classes as data, and how their limits scale with the panel."""

import difflib
import math
from functools import cache
from pathlib import Path

import yaml

from lens.errors import BadInput
from lens.panel import Panel
from lens.records.base import Record

DATA = Path(__file__).with_name("pixel_classes.yaml")


class PixelClass(Record):
    """Limits per million pixels."""

    title: str
    type_1: int
    type_2: int
    type_3_budget: int
    clusters_12: int
    clusters_3: int


class ClassTable(Record):
    source: str
    classes: dict[str, PixelClass]


@cache
def class_table() -> ClassTable:
    """The table with its source."""
    return ClassTable.model_validate(yaml.safe_load(DATA.read_text(encoding="utf-8")))


def get_class(name: str) -> PixelClass:
    """The class of that name; raises BadInput with the known ones."""
    classes = class_table().classes
    if name in classes:
        return classes[name]
    near = difflib.get_close_matches(name, classes, n=1)
    hint = f" Did you mean '{near[0]}'?" if near else ""
    raise BadInput(f"There is no pixel-fault class '{name}'.{hint} Known: {', '.join(classes)}.", "unknown_class")


def scaled(limit: int, panel: Panel) -> int:
    """A limit for this panel: floor(limit x pixels / 10^6), at least the one-million value where a panel has under a million."""
    return math.floor(limit * max(panel.pixels, 1_000_000) / 1_000_000)
