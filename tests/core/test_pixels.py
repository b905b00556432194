"""The likelihood test of pixel faults on made-up evidence: false alarms against their closed form, hypotheses against definitions."""

from unittest import TestCase
from unittest.mock import patch

import numpy as np
from scipy.stats import norm

from lens.faults import DETECTION_Z, FALSE_ALARMS_PER_SET, detection_threshold
from lens.faults.dots import faint_dot, peel
from lens.faults.groups import Group, group
from lens.faults.light_model import CHANNELS, build_light_model, light_change
from lens.faults.pixels import HYPOTHESES, SINGLE, SURVEYED, Evidence, explain
from lens.faults.survey import survey
from lens.panel import make_panel
from lens.patterns import PATTERNS, Pattern, Probe, get_pattern
from lens.photo import BLOCK_PX, PanelView, PhotoRead
from lens.photo.registration import Registration
from lens.photo.sampling import ProbeSeen
from lens.records import Finding

PANEL = make_panel(400, 320)
SOLIDS = ("white", "black", "red", "green", "blue", "grey50")
CAMERA_VIEW = np.array([[0.02, 0.13, 0.85], [0.08, 0.82, 0.10], [0.85, 0.12, 0.03]])  # camera B, G, R of panel R, G, B
PEAK_SNR = 12.0


def made_probes(pattern: Pattern) -> tuple[ProbeSeen, ...]:
    """Two perfect probes of each kind that the pattern can show."""
    out = []
    for channels in ((0,), (1,), (2,), (0, 1, 2)):
        for lit in (False, True):
            change = light_change(pattern, channels, lit)
            active = tuple(c for c in channels if change[c])
            patch = np.zeros((5, 5, 3))
            patch[2, 2] = CAMERA_VIEW @ change
            if active:
                out += [ProbeSeen(Probe(x=0, y=0, channels=active, lit=lit), patch)] * 2
    return tuple(out)


def made_photo(
    pattern: Pattern, noise: np.ndarray, faults: dict[tuple[int, int], tuple[tuple[int, ...], bool]]
) -> PhotoRead:
    """A photo as if it had been read: unit white noise in each channel, and each fault's exact change, with no spread."""
    rows, columns = PANEL.height // BLOCK_PX, PANEL.width // BLOCK_PX
    information = np.broadcast_to(np.eye(3, dtype=np.float32) * PEAK_SNR**2, (rows, columns, 3, 3)).copy()
    response = noise.astype(np.float32) * PEAK_SNR
    for (x, y), (channels, lit) in faults.items():
        response[y, x] += PEAK_SNR**2 * (CAMERA_VIEW @ light_change(pattern, channels, lit))
    light = np.array([1.0 if level == 255 else 0.2158 if level else 0.0 for level in pattern.drive])
    view = PanelView(
        response=response,
        energy=(response**2).sum(axis=2) / PEAK_SNR**2,
        information=information,
        trust=np.ones((PANEL.height, PANEL.width), np.float32),
        probes=made_probes(pattern),
        level=np.broadcast_to((CAMERA_VIEW @ light).astype(np.float32), (rows, columns, 3)).copy(),
        spread_px=np.full((3, 2), 0.3),
        clipped_fraction=0.0,
        outside_fraction=0.0,
    )
    still = Registration(np.eye(3), 0.0, 0.0, PANEL.width, PANEL.height, 0.0, 4)
    ink = CAMERA_VIEW @ np.full(3, 0.2158) if pattern.id == "black" else None
    return PhotoRead(
        pattern=pattern,
        run=0,
        registration=still,
        corners=PANEL.corners,
        px_per_px=2.0,
        blur_px=0.5,
        view=view,
        ink_level=ink,
        problems=(),
        eye=np.array([PANEL.width / 2, PANEL.height / 2, 2.0 * PANEL.width]),
    )


def evidence(
    faults: dict[tuple[int, int], tuple[tuple[int, ...], bool]], seed: int, patterns: tuple[str, ...] = SOLIDS
) -> Evidence:
    rng = np.random.default_rng(seed)
    photos = [
        made_photo(get_pattern(name), rng.standard_normal((PANEL.height, PANEL.width, 3)), faults) for name in patterns
    ]
    return Evidence(PANEL, photos, build_light_model(photos))


class FalseAlarms(TestCase):
    def test_the_threshold_is_the_closed_form_of_the_budget(self) -> None:
        # Bonferroni: P(any false alarm) <= pixels x hypotheses x P(z > t) = the budget
        plain = detection_threshold(PANEL, texture=1.0)
        self.assertAlmostEqual(PANEL.pixels * len(SURVEYED) * norm.sf(plain), FALSE_ALARMS_PER_SET, delta=1e-6)
        self.assertGreater(detection_threshold(make_panel(3840, 2160)), detection_threshold(PANEL))

    def test_white_noise_raises_as_many_alarms_as_the_closed_form_says(self) -> None:
        # at 3.5 sigma, far below the real threshold, so that there is something to count
        told = np.concatenate([survey(evidence({}, seed), 3.5).snr[:32].ravel() for seed in range(12)])
        rate = float((told > 0).mean())
        # the strongest of eight correlated hypotheses lies between one and eight single ones
        self.assertGreater(rate, norm.sf(3.5) * 0.8)
        self.assertLess(rate, norm.sf(3.5) * len(SURVEYED))

    def test_clean_noise_gives_no_candidate(self) -> None:
        for seed in range(5):
            self.assertFalse(survey(evidence({}, seed)).snr.any())


class Hypotheses(TestCase):
    def test_every_fault_type_is_told_from_every_other(self) -> None:
        places = {(20 + 24 * (i % 14), 40): (h.channels, h.lit) for i, h in enumerate(HYPOTHESES)}
        told = evidence(places, 3)
        for (x, y), (channels, lit) in places.items():
            best = HYPOTHESES[explain(told, x, y).hypothesis]
            self.assertEqual((best.channels, best.lit), (channels, lit))

    def test_definitions_of_the_types(self) -> None:
        # ISO 9241-307 (from memory): stuck off is unseen on black and the other two colours, stuck on on white and its own colour
        for channel, name in enumerate(CHANNELS):
            unseen_off = {p for p in SOLIDS if not light_change(get_pattern(p), (channel,), False).any()}
            unseen_on = {p for p in SOLIDS if not light_change(get_pattern(p), (channel,), True).any()}
            self.assertEqual(unseen_off, {"black", *CHANNELS} - {name})
            self.assertEqual(unseen_on, {"white", name})

    def test_what_is_taken_off_is_gone_and_the_photo_is_untouched(self) -> None:
        told = evidence({(100, 100): ((0, 1, 2), False)}, 4)
        before = told.photos[0].view.response.copy()
        found = explain(told, 100, 100)
        told.take_off(100, 100, found.hypothesis, found.amplitude)
        self.assertLess(abs(explain(told, 100, 100).snr), 4)
        told.put_back()
        np.testing.assert_array_equal(told.photos[0].view.response, before)

    def test_a_dot_of_one_photo_alone_contradicts_the_others(self) -> None:
        told = evidence({}, 5)
        told.response[2] = told.response[2].copy()
        told.response[2][150, 150] -= 4 * PEAK_SNR**2 * CAMERA_VIEW[:, 0]  # far darker on red than white and grey say
        self.assertTrue(explain(told, 150, 150).contradiction)


@patch(f"{__name__}.PEAK_SNR", 6.0)
class Faint(TestCase):
    """At this noise a dark blue subpixel stands 7.4 sigma high in white, blue and grey together, and four fifths of one 6: 5.4 is the
    budget's, 6.3 with texture."""

    def put(self, told: Evidence, shares: dict[str, float], x: int = 200, y: int = 150) -> Evidence:
        for photo, response in zip(told.photos, told.response, strict=True):
            change = CAMERA_VIEW @ light_change(photo.pattern, (2,), False)
            response[y, x] = PEAK_SNR**2 * shares.get(photo.pattern.id, 0.0) * change
            photo.view.energy[y, x] = float((response[y, x] ** 2).sum()) / PEAK_SNR**2
        return told

    def test_what_all_photos_agree_on_is_found_below_the_margin_for_texture(self) -> None:
        told = survey(self.put(evidence({}, 8), {"white": 0.82, "blue": 0.82, "grey50": 0.82}))
        self.assertFalse(told.snr.any())
        self.assertEqual(told.faint, ((200, 150),))
        (dot,) = faint_dot(self.put(evidence({}, 8), {"white": 0.82, "blue": 0.82, "grey50": 0.82}), 200, 150)
        self.assertEqual((dot.kind, dot.channel, dot.x, dot.y), ("dark_subpixel", "blue", 200, 150))

    def test_the_photo_of_its_colour_is_enough_where_white_shows_it_at_all(self) -> None:
        for white, places in ((0.3, ((200, 150),)), (0.0, ())):
            with patch(f"{__name__}.PEAK_SNR", 8.0):
                told = survey(self.put(evidence({}, 8), {"white": white, "blue": 0.85}))
            self.assertFalse(told.snr.any())
            self.assertEqual(told.faint, places)

    def test_texture_of_one_photo_is_not_though_it_is_as_strong(self) -> None:
        for shares in ({"white": 1.6}, {"blue": 1.5, "grey50": 1.0}, {"white": 1.4, "blue": 0.3}):
            told = survey(self.put(evidence({}, 8), shares))
            self.assertFalse(told.snr.any())
            self.assertEqual(told.faint, ())

    def test_clean_noise_agrees_on_nothing(self) -> None:
        for seed in range(500, 510):
            self.assertEqual(survey(evidence({}, seed)).faint, ())


class WhiteAndGreyAlone(TestCase):
    def told(self, shares: dict[str, float]) -> list[Finding]:
        """Dark blue seen so far by a white photo, of 12 sigma for all of it, and a grey one of 4, that has a ripple in red besides."""
        photos = []
        for name, peak in (("white", 14.0), ("black", 12.0), ("grey50", 22.5)):
            with patch(f"{__name__}.PEAK_SNR", peak):
                photo = made_photo(get_pattern(name), np.zeros((PANEL.height, PANEL.width, 3)), {})
            photo.view.response[150, 200] = (
                peak**2 * shares.get(name, 0.0) * (CAMERA_VIEW @ light_change(photo.pattern, (2,), False))
            )
            photo.view.response[150, 200, 2] += 6 * peak if name == "grey50" else 0
            photos.append(photo)
        told = Evidence(PANEL, photos, build_light_model(photos))
        return peel(told, Group(200, 150, 1, 1, (200, 150), "compact"), told.threshold)

    def test_a_colour_that_grey_does_not_show_is_the_coders(self) -> None:
        self.assertEqual(self.told({"white": 0.7}), [])
        (both,) = self.told({"white": 0.7, "grey50": 0.7})
        self.assertEqual((both.kind, both.channel), ("dark_subpixel", "blue"))


class Proven(TestCase):
    def test_it_follows_the_photos_trust_and_the_patterns_shot(self) -> None:
        whole = survey(evidence({}, 6))
        self.assertTrue(whole.proven.all() and whole.proven_pixels.all())
        white_only = survey(evidence({}, 6, ("white",)))
        self.assertFalse(white_only.proven.any(), "a lit subpixel cannot be seen on white")
        told = evidence({}, 6)
        for photo in told.photos:
            photo.view.trust[100:120, 50:80] = 0
        told = Evidence(PANEL, told.photos, build_light_model(told.photos))
        unseen = ~survey(told).proven
        self.assertTrue(unseen[100:120, 50:80].all())
        self.assertEqual(int(unseen.sum()), 20 * 30)

    def test_it_tells_what_asking_every_pixel_tells(self) -> None:
        told = evidence({(40, 60): ((0, 1, 2), False), (90, 110): ((2,), False)}, 9, ("white", "blue", "black"))
        trust = (
            np.random.default_rng(10)
            .choice([0.0, 0.3, 0.8, 1.0], size=(PANEL.height, PANEL.width), p=[0.02, 0.04, 0.04, 0.9])
            .astype(np.float32)
        )
        for photo in told.photos:
            photo.view.trust[...] = trust
            photo.view.response[...] *= trust[..., None]
            photo.view.energy[...] *= trust**2
        told = Evidence(PANEL, told.photos, build_light_model(told.photos))
        y, x = np.divmod(np.arange(PANEL.pixels), PANEL.width)
        for threshold in (3.0, told.threshold):
            seen = survey(told, threshold)
            snr, known = told.surveyed_snr(y, x), told.surveyed_known(y, x)
            np.testing.assert_allclose(seen.snr.ravel(), np.where(snr > threshold, snr, 0), rtol=1e-4)
            np.testing.assert_array_equal(seen.proven.ravel(), (known >= told.demand[:, None])[SINGLE].all(axis=0))

    def test_a_fault_at_the_proven_limit_is_found_as_often_as_promised(self) -> None:
        # found with probability 0.95 when its expected SNR is the threshold and 1.645 more
        expected = detection_threshold(PANEL) + DETECTION_Z
        draws = expected + np.random.default_rng(7).standard_normal(20000)
        self.assertAlmostEqual(float((draws > detection_threshold(PANEL)).mean()), 0.95, delta=0.005)


class Groups(TestCase):
    def shape(self, rows: slice, columns: slice) -> list[tuple[str, int, int, int, int]]:
        snr = np.zeros((200, 300), np.float32)
        snr[rows, columns] = 10
        return [(g.shape, g.x0, g.y0, g.width, g.height) for g in group(snr)]

    def test_extents_are_exact_also_at_the_rim(self) -> None:
        self.assertEqual(self.shape(slice(0, 200), slice(41, 42)), [("area", 41, 0, 1, 200)])
        self.assertEqual(self.shape(slice(77, 78), slice(5, 90)), [("area", 5, 77, 85, 1)])
        self.assertEqual(self.shape(slice(10, 13), slice(20, 23)), [("compact", 20, 10, 3, 3)])
        self.assertEqual(self.shape(slice(50, 80), slice(60, 100)), [("area", 60, 50, 40, 30)])
        self.assertEqual(self.shape(slice(199, 200), slice(299, 300)), [("compact", 299, 199, 1, 1)])

    def test_nothing_found_is_an_empty_list(self) -> None:
        self.assertEqual(group(np.zeros((50, 60), np.float32)), [])

    def test_far_places_stay_apart_and_the_strongest_comes_first(self) -> None:
        snr = np.zeros((60, 60), np.float32)
        snr[10, 10], snr[40, 40] = 8, 20
        self.assertEqual([g.peak for g in group(snr)], [(40, 40), (10, 10)])

    def test_a_broken_scratch_is_one_group(self) -> None:
        snr = np.zeros((200, 300), np.float32)
        snr[:, 100] = 10
        snr[50, 100] = snr[91, 100] = 0
        self.assertEqual([(g.shape, g.height) for g in group(snr)], [("area", 200)])


class Catalogue(TestCase):
    def test_every_pattern_has_its_own_code_and_words(self) -> None:
        self.assertEqual(len({(p.code, p.variant) for p in PATTERNS.values()}), len(PATTERNS))
        self.assertEqual(len({p.title for p in PATTERNS.values()}), len(PATTERNS))
