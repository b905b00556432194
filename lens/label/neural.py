"""The better recogniser of printed text, added by `./clear-lens extra reader`: a network that finds lines in a photo and reads them, upside down
too. Heavy (over half a gigabyte while it reads), so it is loaded on first use and meant for a worker."""

import importlib.util
import os
from collections.abc import Sequence
from functools import cache
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

PACKAGE = "rapidocr"
READER = "CLEAR_LENS_READER"  # 'light' leaves the better one out, for comparing both
LEAST_SCORE = 0.3
MODES = ("light", "better")


class NeuralLine(NamedTuple):
    """``corners``: (4, 2) in pixels of the picture that was read."""

    text: str
    score: float
    corners: NDArray[np.float64]


def available() -> bool:
    """Whether it is installed, and not left out."""
    return os.environ.get(READER, "") != MODES[0] and importlib.util.find_spec(PACKAGE) is not None


@cache
def _engine() -> Any:
    import logging

    engine = importlib.import_module(PACKAGE).RapidOCR()
    logging.getLogger("RapidOCR").setLevel(logging.ERROR)
    return engine


def read_neural(grey: NDArray[np.uint8]) -> tuple[NeuralLine, ...]:
    """The lines of a grey picture whose text runs roughly to the right or to the left."""
    told = _engine()(np.asarray(cv2.cvtColor(grey, cv2.COLOR_GRAY2BGR), np.uint8))
    return lines_of(told.txts or (), told.scores or (), told.boxes if told.boxes is not None else ())


def lines_of(texts: Sequence[str], scores: Sequence[float], boxes: Sequence[Any]) -> tuple[NeuralLine, ...]:
    """What the network tells, from top to bottom; what it doubts most is left out."""
    lines = [
        NeuralLine(" ".join(text.split())[:200], float(score), np.asarray(corners, np.float64))
        for text, score, corners in zip(texts, scores, boxes, strict=True)
        if score >= LEAST_SCORE and text.strip()
    ]
    return tuple(sorted(lines, key=lambda line: float(line.corners[:, 1].mean())))
