"""A file that came twice, or was coded anew on its way, is no second witness; what a tripod's photos share counts once."""

import io
from unittest import TestCase

import numpy as np
from PIL import Image

from lens.faults.shared_noise import weights
from lens.inspecting import PhotoFile, inspect_files
from lens.photo import PhotoRead, read_photo
from lens.simulate import FaultyPanel, random_pose, shoot
from tests.core.sets import CAMERA, PANEL, files

FOUR = ("white", "black", "red", "grey50")


def coded_anew(data: bytes, quality: int, scale: float = 1.0) -> bytes:
    """As a messenger passes a photo on."""
    out, photo = io.BytesIO(), Image.open(io.BytesIO(data))
    photo.resize((round(scale * photo.width), round(scale * photo.height)), Image.Resampling.LANCZOS).save(
        out, "JPEG", quality=quality
    )
    return out.getvalue()


class TheSamePhotoAgain(TestCase):
    def test_copies_of_a_file_count_once_and_say_so(self) -> None:
        once, often = inspect_files(PANEL, files(faults=())), inspect_files(PANEL, files(faults=()) * 7)
        self.assertEqual(often.findings, ())
        self.assertEqual((often.verdict, often.proven), (once.verdict, once.proven))
        copy = often.photos[-1]
        self.assertEqual((copy.used, copy.problems[0].code), (False, "copy"))
        self.assertIn("The same file as 'grey50.jpg'", copy.problems[0].message)

    def test_copies_that_were_coded_anew_make_no_faults(self) -> None:
        # without the weighing: 2 dark subpixels from three copies, and 70 s for seven
        copies = [
            PhotoFile(file.name, coded_anew(file.data, 95 - 3 * n))
            for file in files(faults=(), patterns=FOUR)
            for n in range(6)
        ]
        self.assertEqual([f.kind for f in inspect_files(PANEL, copies).findings], [])

    def test_faults_are_found_among_copies(self) -> None:
        copies = [PhotoFile(file.name, coded_anew(file.data, 92 - 4 * n)) for file in files() for n in range(2)]
        told = {(f.kind, f.x, f.y, f.channel) for f in inspect_files(PANEL, copies).findings}
        self.assertEqual(told, {(f.kind, f.x, f.y, f.channel) for f in inspect_files(PANEL, files()).findings})


class WhatAPhotoCounts(TestCase):
    @staticmethod
    def read(pattern: str, pose_seed: int, noise_seed: int) -> bytes:
        pose = random_pose(PANEL, CAMERA, np.random.default_rng(pose_seed))
        return shoot(FaultyPanel(panel=PANEL), pattern, CAMERA, np.random.default_rng(noise_seed), pose=pose).data

    def reads(self, *photos: bytes) -> list[PhotoRead]:
        return [read_photo(data, PANEL) for data in photos]

    def test_photos_held_by_hand_count_in_full(self) -> None:
        photos = self.reads(*(self.read("white", seed, seed) for seed in (1, 2, 3)), self.read("red", 4, 4))
        self.assertEqual(weights(photos).tolist(), [1.0] * 4)

    def test_a_tripod_in_the_dark_shares_nothing_and_moire_is_shared(self) -> None:
        dark = weights(self.reads(self.read("black", 1, 1), self.read("black", 1, 2)))
        self.assertEqual(dark.tolist(), [1.0, 1.0])
        lit = weights(self.reads(self.read("white", 1, 1), self.read("white", 1, 2), self.read("white", 9, 3)))
        self.assertTrue(0.5 <= lit[0] < 0.9 and lit[2] == 1.0, lit)

    def test_a_copy_and_its_original_count_as_one(self) -> None:
        photo = self.read("white", 1, 1)
        told = weights(self.reads(photo, coded_anew(photo, 95), coded_anew(photo, 90, 0.8)))
        self.assertTrue(1.0 <= told.sum() < 1.6, told)
