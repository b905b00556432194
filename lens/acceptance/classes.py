"""Pixel-fault classes as data, and how their limits scale with the panel."""

import math
from functools import cache
from pathlib import Path

from lens.panel import Panel
from lens.records.base import Record
from lens.tables import not_known, shipped

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
    return shipped(ClassTable, DATA)


def get_class(name: str) -> PixelClass:
    """The class of that name; raises BadInput with the known ones."""
    classes = class_table().classes
    if name in classes:
        return classes[name]
    raise not_known("pixel-fault class", name, classes, "unknown_class")


def scaled(limit: int, panel: Panel) -> int:
    """A limit for this panel: floor(limit x pixels / 10^6), at least the one-million value where a panel has under a million."""
    return math.floor(limit * max(panel.pixels, 1_000_000) / 1_000_000)
