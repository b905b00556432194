"""A simulated touch layer: a grid of sense lines, a finger that couples to several crossings, noise, and a controller that finds the peak.

Pitch and finger are those of projected-capacitive layers (common practice: lines 4 to 5 mm apart, a fingertip of 7 to 10 mm).
"""

from collections.abc import Sequence

import numpy as np
from pydantic import Field

from lens.panel import Panel
from lens.records.base import Record
from lens.simulate.touch import DeadBox

PITCH_MM, FINGER_SIGMA_MM, USUAL_PITCH_MM = 4.5, 3.6, 0.15
WET, DRIFT_SCANS = (
    8.0,
    2400,
)  # noise of a wet place against a dry one; scans of a swing of the baseline, some 20 s (from memory)
THRESHOLD, RELEASE, NOISE = 0.30, 0.22, 0.012  # of the signal of a finger right above a crossing


class SenseGrid(Record):
    """Crossings of ``columns`` by ``rows`` lines, evenly over the panel; ``dead_columns`` and ``dead_rows`` are lines without a signal,
    ``dead`` parts of the glass where nothing couples, ``wet`` ones where the noise is that of a film of water. The baseline drifts by
    ``drift`` of a finger's signal, slowly to and fro; the controller smooths places by ``smoothing`` of the one before."""

    width: int
    height: int
    columns: int
    rows: int
    sigma_px: float
    noise: float = NOISE
    dead_columns: tuple[int, ...] = ()
    dead_rows: tuple[int, ...] = ()
    dead: tuple[DeadBox, ...] = Field(default=())
    wet: tuple[DeadBox, ...] = Field(default=())
    drift: float = Field(default=0.0, ge=0, le=0.2)
    smoothing: float = Field(default=0.0, ge=0, lt=1)

    @property
    def places(self) -> tuple[np.ndarray, np.ndarray]:
        """(columns,) x and (rows,) y of the lines, panel px."""
        return (
            (np.arange(self.columns) + 0.5) * self.width / self.columns - 0.5,
            (np.arange(self.rows) + 0.5) * self.height / self.rows - 0.5,
        )


def sense_grid(
    panel: Panel, dead: Sequence[DeadBox] = (), dead_columns: Sequence[int] = (), dead_rows: Sequence[int] = ()
) -> SenseGrid:
    """The grid of a panel of its size."""
    pitch = panel.pitch_mm or USUAL_PITCH_MM
    columns, rows = (max(4, round(px * pitch / PITCH_MM)) for px in (panel.width, panel.height))
    return SenseGrid(
        width=panel.width,
        height=panel.height,
        columns=columns,
        rows=rows,
        sigma_px=FINGER_SIGMA_MM / pitch,
        dead=tuple(dead),
        dead_columns=tuple(dead_columns),
        dead_rows=tuple(dead_rows),
    )


class Controller:
    """Scans a grid: where the strongest crossing is above the threshold there is a touch, at the centre of the signal about it."""

    def __init__(self, grid: SenseGrid, rng: np.random.Generator) -> None:
        self.grid, self.rng = grid, rng
        self.x, self.y = grid.places
        self.gain = np.ones((grid.rows, grid.columns))
        self.gain[list(grid.dead_rows), :] = 0
        self.gain[:, list(grid.dead_columns)] = 0
        for box in grid.dead:
            self.gain[self._inside(box)] = 0
        self.noise = np.full(self.gain.shape, grid.noise)
        for box in grid.wet:
            self.noise[self._inside(box)] *= WET
        self.touched, self.scans, self.place = False, 0, (0.0, 0.0)

    def _inside(self, box: DeadBox) -> np.ndarray:
        return ((self.y >= box.top) & (self.y <= box.bottom))[:, None] & ((self.x >= box.left) & (self.x <= box.right))[
            None, :
        ]

    def report(self, x: float, y: float) -> tuple[float, float] | None:
        """Where the controller says a finger at ``x, y`` is; None when it feels nothing. A touch that is on is let go of later than it
        is taken."""
        across = np.exp(-((self.x - x) ** 2) / (2 * self.grid.sigma_px**2))
        down = np.exp(-((self.y - y) ** 2) / (2 * self.grid.sigma_px**2))
        self.scans += 1
        drift = self.grid.drift * np.sin(2 * np.pi * self.scans / DRIFT_SCANS)
        signal = self.gain * (down[:, None] * across[None, :] + drift) + self.noise * self.rng.normal(
            0, 1, self.gain.shape
        )
        row, column = np.unravel_index(int(np.argmax(signal)), signal.shape)
        before = self.touched
        self.touched = bool(signal[row, column] >= (RELEASE if before else THRESHOLD))
        if not self.touched:
            return None
        place = self._between(signal[row], int(column), self.x), self._between(signal[:, column], int(row), self.y)
        kept = self.grid.smoothing if before else 0.0
        self.place = (kept * self.place[0] + (1 - kept) * place[0], kept * self.place[1] + (1 - kept) * place[1])
        return self.place

    def _between(self, line: np.ndarray, peak: int, places: np.ndarray) -> float:
        """The place by the peak and its stronger neighbour: of a Gaussian, the log of their ratio tells how far it is between them."""
        sides = [at for at in (peak - 1, peak + 1) if 0 <= at < len(line)]
        beside = max(sides, key=lambda at: float(line[at]))
        ratio = max(float(line[beside]), self.grid.noise) / float(line[peak])
        apart = float(places[beside] - places[peak])
        return float((places[peak] + places[beside]) / 2 + self.grid.sigma_px**2 * np.log(ratio) / apart)
