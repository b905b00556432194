"""Functions that a device shows by itself: tones against numpy's transform and closed forms, frames against plain cases."""

from unittest import TestCase

import numpy as np

from lens.errors import BadInput
from lens.proving import SPEAKS_FOR, TONES_HZ, camera_alive, functions, tone_heard
from lens.proving.sensed import HEARD_DB, band_power

RATE = 16_000.0
AT = np.arange(8_000) / RATE


def noise(level: float, seed: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).normal(0, level, len(AT))


def tones(level: float, *hz: float) -> np.ndarray:
    return level * np.sum([np.sin(2 * np.pi * f * AT) for f in hz or TONES_HZ], axis=0)


class Tone(TestCase):
    def test_the_band_is_that_of_the_transform(self) -> None:
        """Against numpy.fft at the frequencies of its bins, and a sine's mean square a^2/4 on one side of the spectrum."""
        samples = noise(0.1) + tones(0.05)
        window = np.hanning(len(AT))
        told = np.abs(np.fft.rfft(samples * window)) ** 2 / np.sum(window) ** 2
        for number in (10, 550, 1150, 3000):
            self.assertAlmostEqual(band_power(samples, RATE, number * RATE / len(AT)), told[number], places=12)
        self.assertAlmostEqual(band_power(tones(0.2, 1100.0), RATE, 1100.0), 0.2**2 / 4, places=6)

    def test_it_is_heard_over_a_room_and_not_where_nothing_is_played(self) -> None:
        room = noise(0.02)
        self.assertTrue(tone_heard(room, noise(0.02, 2) + tones(0.02), RATE).good)
        for played in (
            noise(0.02, 2),
            noise(0.3, 2),
            noise(0.02, 2) + tones(0.02, TONES_HZ[0]),
        ):  # one tone of two is a whistle
            self.assertIsNone(tone_heard(room, played, RATE).good)
        self.assertIn("silence", tone_heard(room, np.zeros(8_000), RATE).text)

    def test_a_room_alone_is_seldom_taken_for_it(self) -> None:
        """Both bands of white noise would have to rise by 12 dB at once: an exponential law over an exponential law, squared."""
        heard = sum(bool(tone_heard(noise(0.1, n), noise(0.1, 5000 + n), RATE).good) for n in range(300))
        ratio = 10 ** (HEARD_DB / 10)
        self.assertLess(heard / 300, 3 * (1 / (1 + ratio)) ** 2)

    def test_what_cannot_be_a_recording_is_refused(self) -> None:
        for quiet, played, rate in (
            (noise(1), noise(1), 10.0),
            (noise(1)[:100], noise(1), RATE),
            (noise(1), np.full(8_000, np.nan), RATE),
        ):
            with self.assertRaises(BadInput):
                tone_heard(quiet, played, rate)


class Frame(TestCase):
    def test_dark_blank_pale_and_live(self) -> None:
        rng = np.random.default_rng(3)
        ramp = np.tile(np.linspace(20, 220, 160), (120, 1))
        for frame, good, word in (
            (np.zeros((120, 160)), None, "dark"),
            (np.full((120, 160), 90.0), None, "one level"),
            (120 + rng.normal(0, 6, (120, 160)), None, "pale"),
            (ramp, True, "gives a picture"),
        ):
            told = camera_alive(np.clip(frame, 0, 255).astype(np.uint8))
            self.assertEqual(told.good, good)
            self.assertIn(word, told.text)
        with self.assertRaises(BadInput):
            camera_alive(np.zeros((4, 4), np.uint8))

    def test_each_sense_speaks_for_functions_that_are_there(self) -> None:
        self.assertLessEqual({one for names in SPEAKS_FOR.values() for one in names}, set(functions()))
