"""Bands and faint spots before a phone that shares nothing with the simulator (tests/core/independent_phone)."""

from unittest import TestCase

import numpy as np

from lens.faults.band_edges import part_of_band
from lens.faults.light_field import unsure_rim
from lens.faults.zones import just_seen
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.patterns import get_set
from lens.records import Finding
from tests.core.independent_phone import IndependentPhone

PANEL = make_panel(400, 256, 8.3)


def told(share: np.ndarray | None, seed: int, px_per_px: float) -> tuple[Finding, ...]:
    """The findings of a standard set of a panel that lets through (H, W) a share of its light."""
    phone = IndependentPhone(PANEL, seed, px_per_px)
    photos = [PhotoFile(name, phone.photo(name, share=share)) for name in get_set("standard").patterns]
    return inspect_files(PANEL, photos).findings


def zone(y: float, h: float, contrast: float = -0.1) -> Finding:
    return Finding(kind="dark_zone", x=200, y=y, w=90, h=h, contrast=contrast, confidence=0.9, patterns=())


class Parts(TestCase):
    def test_pieces_of_a_band_are_its_own_and_what_is_smaller_or_brighter_is_not(self) -> None:
        wide = zone(100, 60).model_copy(update={"kind": "band", "orientation": "row", "x": 199.5, "w": 400})
        self.assertTrue(part_of_band(zone(102, 56), wide))
        for other in (zone(100, 20), zone(100, 56, contrast=0.1), zone(160, 56)):
            self.assertFalse(part_of_band(other, wide), other)

    def test_the_rim_is_unsure_where_photos_disagree_there_and_nowhere_else(self) -> None:
        differing = np.random.default_rng(3).normal(0, 0.001, (4, 40, 60))
        self.assertFalse(unsure_rim(differing).any())
        differing[:, :, :2] *= 5
        self.assertTrue(np.array_equal(np.flatnonzero(unsure_rim(differing).all(axis=0)), [0, 1]))
        self.assertFalse(unsure_rim(np.zeros((2, 40, 60))).any(), "photos that agree in all")


class Independent(TestCase):
    def test_a_band_and_a_faint_spot_are_told_and_nothing_else(self) -> None:
        """The spot has three SEMU (SEMI D31, from memory)."""
        y, x = np.mgrid[: PANEL.height, : PANEL.width]
        sigma = 20.0
        area_mm2 = np.pi * (np.sqrt(2 * np.log(2)) * sigma * (PANEL.pitch_mm or 0)) ** 2
        depth = 3 * just_seen(area_mm2) / 100
        share = 1 - depth * np.exp(-((x - 130) ** 2 + (y - 90) ** 2) / (2 * sigma**2))
        share[171:188] -= 0.2
        found = told(share, 340, 2.2)
        self.assertEqual(sorted(f.kind for f in found), ["band", "mura"], found)
        band, spot = sorted(found, key=lambda f: f.kind)
        self.assertEqual((band.orientation, band.y, band.w, band.h), ("row", 179.0, PANEL.width, 17.0))
        self.assertAlmostEqual(band.contrast, -0.2, delta=0.03)
        self.assertLess(np.hypot(spot.x - 130, spot.y - 90), 8)
        self.assertAlmostEqual(spot.semu or 0, 3.0, delta=0.7)

    def test_a_sound_panel_has_neither_where_lattices_beat_most_slowly(self) -> None:
        """Two photosites a pixel: what two photos' coloured moire agrees on by chance was told as eight tints."""
        self.assertEqual(told(None, 341, 2.0), ())
