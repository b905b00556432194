"""Light at the end of the scale: censored by channel, not lost (a likelihood leaves out what it cannot see, and nothing else)."""

from unittest import TestCase

import numpy as np

from lens.faults.light_field import unframed
from lens.faults.light_model import build_light_model, colour_view
from lens.faults.pixels import HYPOTHESES, Evidence
from lens.faults.spots import as_spots
from lens.inspecting import PhotoFile, inspect_files
from lens.patterns import get_pattern, render
from lens.photo import read_photo
from lens.photo.ceiling import GROUND_PX, closed_channels, ground_at_ceiling, inverses
from lens.records import Finding
from lens.simulate import DeviceFault, FaultyPanel, emit, photograph, random_pose
from tests.core.sets import CAMERA, PANEL, shots

LIT = (
    DeviceFault(kind="bright_subpixel", x=300, y=200, channel="green"),
    DeviceFault(kind="bright_subpixel", x=640, y=130, channel="red"),
    DeviceFault(kind="bright_pixel", x=150, y=400),
)


def shot(pattern: str, exposure: float, faults: tuple[DeviceFault, ...] = (), seed: int = 5) -> bytes:
    rng = np.random.default_rng(seed)
    light = emit(FaultyPanel(panel=PANEL, faults=faults), render(PANEL, get_pattern(pattern)))
    return photograph(light, CAMERA, random_pose(PANEL, CAMERA, rng), rng, exposure).data


class Ground(TestCase):
    def test_lines_and_blobs_at_the_end_are_bright_places_and_areas_are_ground(self) -> None:
        clipped = np.zeros((60, 80), np.uint8)
        clipped[10 : 10 + GROUND_PX - 1] = 2  # a wide line in the second channel
        clipped[30:45, 20:35] = 5
        ground = ground_at_ceiling(clipped)
        self.assertFalse((ground & 2).any())
        self.assertEqual(set(np.unique(ground[30:45, 20:35])), {5})
        closed = closed_channels(ground)
        self.assertEqual((int(closed[4, 3]), int(closed[0, 0])), (5, 0))

    def test_what_is_left_is_the_likelihood_of_the_open_channels(self) -> None:
        """Closed form: the marginal of a Gaussian is the Gaussian of the sub-matrix."""
        correlation = np.array([[1, 0.5, 0.2], [0.5, 1, 0.4], [0.2, 0.4, 1]])
        told = inverses(correlation)
        np.testing.assert_allclose(told[0], np.linalg.inv(correlation), rtol=1e-6)
        np.testing.assert_allclose(told[2][np.ix_([0, 2], [0, 2])], np.linalg.inv([[1, 0.2], [0.2, 1]]), rtol=1e-6)
        self.assertFalse(told[2][1].any() or told[2][:, 1].any() or told[7].any())


class OverExposed(TestCase):
    def test_black_at_forty_times_whites_exposure_shows_lit_pixels_where_they_are(self) -> None:
        """What phones give a black screen (25 to 80 times: common practice)."""
        photos = [PhotoFile(name, shots(LIT, (name,))[name].data) for name in ("white", "red", "green", "blue")]
        photos += [PhotoFile("black-dim", shot("black-dim", 40.0, LIT))]
        result = inspect_files(PANEL, photos)
        self.assertTrue(all(photo.used for photo in result.photos), [photo.problems for photo in result.photos])
        self.assertLess(result.photos[-1].residual_px or 1.0, 0.15)
        told = {(f.kind, f.x, f.y, f.channel) for f in result.findings if f.kind != "cluster"}
        self.assertEqual(told, {(f.kind, f.x, f.y, f.channel) for f in LIT})

    def test_a_closed_channel_has_no_say_and_the_others_have(self) -> None:
        read = read_photo(shot("red", 4.0), PANEL)
        self.assertEqual((read.view.closed_fraction, round(read.view.clipped_fraction, 1)), (0.0, 1.0))
        red, others = 2, [0, 1]  # of the camera's B, G, R
        open_blocks = read.view.information[..., others, :][..., others]
        closed = ~read.view.information[..., red, :].any(axis=-1)
        self.assertGreater(closed.mean(), 0.9)  # but beside the markers, whose ink leaves the channel open
        pixels = np.repeat(np.repeat(closed, 8, axis=0), 8, axis=1)[: PANEL.height, : PANEL.width]
        self.assertFalse(read.view.response[pixels][:, red].any())
        self.assertTrue((np.linalg.det(open_blocks[5:-5, 5:-5]) > 0).all())
        blocks = Evidence(PANEL, [read], build_light_model([read])).blocks[0]
        lit_green = next(n for n, h in enumerate(HYPOTHESES) if h.channels == (1,) and h.lit)
        self.assertGreater(float(np.median(blocks[..., lit_green])), 1000)


class PaleColours(TestCase):
    def test_they_tell_the_cameras_view_of_the_panel_as_pure_ones_do(self) -> None:
        def view(*names: str) -> np.ndarray:
            photos = [read_photo(shot(name, 1.0), PANEL) for name in ("white", *names)]
            white = np.median(photos[0].view.level.reshape(-1, 3), axis=0)
            told = colour_view(photos[1:], white)
            assert told is not None
            return told

        pure, pale = view("red", "green", "blue"), view("pale-red", "pale-green", "pale-blue")
        np.testing.assert_allclose(pale, pure, atol=0.05 * pure.max())

    def test_colours_that_are_exchanged_are_told(self) -> None:
        photos = [PhotoFile("white", shots((), ("white",))["white"].data)]
        for name, other in (("pale-red", "pale-blue"), ("pale-blue", "pale-red"), ("pale-green", "pale-green")):
            rng = np.random.default_rng(8)
            picture = render(PANEL, get_pattern(name))
            if name != other:
                picture = np.ascontiguousarray(picture[..., ::-1])
            shown = emit(FaultyPanel(panel=PANEL), picture)
            photos.append(PhotoFile(name, photograph(shown, CAMERA, random_pose(PANEL, CAMERA, rng), rng).data, name))
        told = [f for f in inspect_files(PANEL, photos).findings if f.kind == "artifact"]
        self.assertTrue(any("Red was sent and blue is seen" in f.reasons[0] for f in told), told)


class Frames(TestCase):
    def field(self) -> np.ndarray:
        y, x = np.meshgrid(np.linspace(-1, 1, 60), np.linspace(-1, 1, 100), indexing="ij")
        return np.asarray(0.05 * np.exp(-(1 - np.abs(x)) / 0.1) - 0.03 * (np.abs(x) ** 4 * np.abs(y) ** 4) + 0 * y)

    def test_what_opposite_edges_and_all_corners_share_is_taken_off(self) -> None:
        self.assertLess(np.abs(unframed(self.field())).max(), 0.012)

    def test_what_one_edge_or_corner_has_alone_stays(self) -> None:
        fault = np.zeros((60, 100))
        fault[:20, :8] = -0.06
        left = unframed(self.field() + fault) - unframed(self.field())
        self.assertLess(left[3:15, 1:6].mean(), -0.05)
        middle = np.zeros((60, 100))
        middle[25:35, 45:55] = -0.06
        np.testing.assert_allclose(unframed(middle), middle, atol=0.002)


class Spots(TestCase):
    @staticmethod
    def dark(x: float, y: float, channel: str | None) -> Finding:
        return Finding.model_validate(
            {
                "kind": "dark_subpixel" if channel else "dead_pixel",
                "x": x,
                "y": y,
                "w": 1,
                "h": 1,
                "channel": channel,
                "contrast": -0.7,
                "confidence": 0.99,
                "patterns": ("white",),
            }
        )

    def test_a_ragged_heap_is_one_spot_that_says_what_else_it_may_be(self) -> None:
        heap = [self.dark(10, 10, None), self.dark(11, 10, "green"), self.dark(10, 12, "red"), self.dark(12, 11, None)]
        far = self.dark(40, 10, "blue")
        told = as_spots([*heap, far])
        self.assertEqual([f.kind for f in told], ["dark_subpixel", "dust"])
        self.assertEqual((told[1].x, told[1].y, told[1].w, told[1].h), (11, 11, 3, 3))
        self.assertEqual((told[1].alternatives[0].kind, "Wipe the glass" in (told[1].ask or "")), ("dead_pixel", True))

    def test_faults_of_one_kind_that_touch_stay(self) -> None:
        for channel in (None, "green"):
            heap = [self.dark(10, 10, channel), self.dark(11, 10, channel), self.dark(10, 11, channel)]
            self.assertEqual(as_spots(heap), heap)
        pair = [self.dark(10, 10, None), self.dark(11, 10, "red")]
        self.assertEqual(as_spots(pair), pair)
