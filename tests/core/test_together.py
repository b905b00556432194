"""Faults side by side: by exhaustive search over pairs, and by the simulator's truth."""

import itertools
from unittest import TestCase

import numpy as np

from lens.faults.pixels import HYPOTHESES
from lens.faults.together import Search, Surroundings, explain_together
from lens.inspecting import PhotoFile, inspect_files
from lens.simulate import Blemish, DeviceFault, FaultyPanel, shoot_set
from tests.core.sets import CAMERA, PANEL, SOLIDS, evidence_of

SHAPES = {
    "beside": ((0, 0), (1, 0)),
    "below": ((0, 0), (0, 1)),
    "diagonal": ((0, 0), (1, 1)),
    "with a gap": ((0, 0), (2, 0)),
    "corner": ((0, 0), (1, 0), (0, 1)),
    "three": ((0, 0), (1, 0), (2, 0)),
    "square": ((0, 0), (1, 0), (0, 1), (1, 1)),
}
# no soft spot on the glass is green, and none shines: only the dead ones could be taken for one
KINDS = (
    ("dead_pixel", None),
    ("dark_subpixel", "green"),
    ("bright_pixel", None),
    ("bright_subpixel", "red"),
    ("bright_subpixel", "blue"),
)
Told = tuple[str, str | None, float, float]


def groups() -> dict[tuple[str, str], list[DeviceFault]]:
    """Every shape of every kind, each with room around it and clear of the markers."""
    return {
        (f"{kind} {channel}", name): [
            DeviceFault.model_validate(
                {"kind": kind, "channel": channel, "x": 108 + 100 * column + dx, "y": 78 + 72 * row + dy}
            )
            for dx, dy in shape
        ]
        for row, (kind, channel) in enumerate(KINDS)
        for column, (name, shape) in enumerate(SHAPES.items())
    }


class Photos(TestCase):
    specks = tuple(
        Blemish(kind="speck", x=x, y=y, size_px=size, depth=0.9)
        for x, y, size in ((350.3, 115.2, 1.1), (560.4, 440.3, 1.6))
    )
    files: list[PhotoFile]

    @classmethod
    def setUpClass(cls) -> None:
        faults = tuple(itertools.chain.from_iterable(groups().values()))
        device = FaultyPanel(panel=PANEL, faults=faults, blemishes=cls.specks, glass_above_px=3.0)
        shots = shoot_set(device, SOLIDS, CAMERA, np.random.default_rng(8))
        cls.files = [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()]

    def test_each_fault_is_told_and_specks_stay_dust(self) -> None:
        # ISO 9241-307 counts pixels, subpixels and groups of them within 5 x 5, so each has to be told
        findings = inspect_files(PANEL, self.files).findings
        told: set[Told] = {(f.kind, f.channel, f.x, f.y) for f in findings if f.kind not in ("cluster", "dust")}
        for names, faults in groups().items():
            true: set[Told] = {(f.kind, f.channel, f.x, f.y) for f in faults}
            x, y = faults[0].x, faults[0].y
            self.assertEqual({one for one in told if abs(one[2] - x) < 8 and abs(one[3] - y) < 8}, true, names)
        self.assertEqual(len(told), sum(map(len, groups().values())))
        self.assertEqual(sum(f.kind == "dust" for f in findings), len(self.specks))

    def test_two_are_the_best_of_all_pairs(self) -> None:
        # against exhaustive search over every pair of faults of one kind around the place
        evidence = evidence_of(self.files)
        for (_, name), faults in list(groups().items())[7:14]:
            if len(faults) != 2:
                continue
            x, y = int(faults[0].x), int(faults[0].y)
            told = explain_together(evidence, x, y, evidence.threshold)
            search = Search(Surroundings(evidence, x, y))
            kind = told[0].hypothesis
            own = np.arange(len(search.at.places)) * len(HYPOTHESES) + kind
            best = max(itertools.combinations(own.tolist(), 2), key=lambda pair: search.fitted(pair)[1])
            self.assertEqual({(f.x, f.y) for f in told}, {search.at.places[n // len(HYPOTHESES)] for n in best}, name)

    def test_one_alone_is_not_several(self) -> None:
        lone = [
            DeviceFault.model_validate({"kind": kind, "channel": channel, "x": 150 + 120 * n, "y": 200})
            for n, (kind, channel) in enumerate(KINDS)
        ]
        specks = tuple(
            Blemish(kind="speck", x=150.4 + 120 * n, y=300.3, size_px=0.9 + 0.3 * n, depth=0.9) for n in range(5)
        )
        device = FaultyPanel(panel=PANEL, faults=tuple(lone), blemishes=specks, glass_above_px=3.0)
        shots = shoot_set(device, SOLIDS, CAMERA, np.random.default_rng(9))
        evidence = evidence_of([PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()])
        for x, y in [(fault.x, fault.y) for fault in lone] + [(speck.x, speck.y) for speck in specks]:
            self.assertEqual(explain_together(evidence, round(x), round(y), evidence.threshold), (), f"{x} {y}")
