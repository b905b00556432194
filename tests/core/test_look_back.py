"""Was it there then? The answer is a likelihood ratio: by Wald (Sequential Tests of Statistical Hypotheses, 1945) one that demands odds of a hundred
to one is wrong in at most one of a hundred; here it is held to draws of Gaussian noise, from memory."""

import math
from unittest import TestCase

import numpy as np

from lens.faults import share_at
from lens.inspecting import LookBack, asked_of_before, compare, inspect_reads, look_back, photos_key, read_file
from lens.inspecting.look_back import FULL_SHARE, NEVER, was_there
from tests.core.sets import FAULTS, PANEL, evidence_of, files, found

WRONG_SHARE = 0.01
DRAWS = 4000


class Answers(TestCase):
    def test_at_most_one_of_a_hundred_is_wrong(self) -> None:
        rng = np.random.default_rng(5)
        for sigma in (0.02, 0.1, 0.2, 0.25, 0.4):
            noise = sigma * rng.standard_normal((DRAWS, 9))
            there = FULL_SHARE + noise[:, 0]
            said = [was_there(float(share), sigma) for share in np.maximum(there, noise[:, 1:].max(axis=1))]
            self.assertLessEqual(said.count("no") / DRAWS, WRONG_SHARE, sigma)
            said = [was_there(float(share), sigma) for share in noise.max(axis=1)]
            self.assertLessEqual(said.count("yes") / DRAWS, WRONG_SHARE, sigma)
            if sigma <= 0.1:
                self.assertGreaterEqual(said.count("no") / DRAWS, 0.99, sigma)

    def test_what_no_photo_tells_stays_open(self) -> None:
        self.assertEqual((was_there(0.0, math.inf), was_there(0.0, NEVER), was_there(0.5, 0.2)), ("open",) * 3)


class Places(TestCase):
    def test_a_known_place_shows_a_full_fault_or_none(self) -> None:
        evidence = evidence_of(files(faults=FAULTS[:3], seed=31))
        for fault in FAULTS[:3]:
            share, sigma = share_at(evidence, fault.x, fault.y, fault.kind, fault.channel)
            self.assertLess(abs(share - 1), 0.2 + 3 * sigma, fault)
        self.assertLess(share_at(evidence, 250, 250, "dark_subpixel", "green").share, 0.3)
        self.assertTrue(math.isfinite(share_at(evidence, 0, 0, "dead_pixel", None).sigma))
        self.assertEqual(share_at(evidence, -9, 4, "dead_pixel", None).sigma, math.inf)


class Compared(TestCase):
    def test_what_the_earlier_photos_show_decides(self) -> None:
        then = [(one.name, read_file(PANEL, one)) for one in files(faults=FAULTS[1:2], seed=33)]
        before = inspect_reads(PANEL, then)
        after = inspect_reads(PANEL, [(one.name, read_file(PANEL, one)) for one in files(faults=FAULTS[1:3], seed=34)])
        # as if the search had missed it then, and could not have shown any
        blind = before.model_copy(update={"findings": (), "smallest": ()})
        blind = blind.model_copy(update={"proven": before.proven.model_copy(update={"subpixels": 0.2})})
        asked = asked_of_before(blind, after)
        self.assertEqual(len(asked), 2)
        self.assertEqual(len(compare(blind, after).unclear), 2)
        told = compare(blind, after, looked_back=look_back(PANEL, then, asked))
        self.assertEqual([(one.kind, one.channel) for one in told.new], [("dark_subpixel", "red")])
        self.assertEqual([(one.kind, one.channel) for one in told.same], [("dark_subpixel", "green")])
        self.assertEqual((told.unclear, {one.was_there for one in told.looked_back}), ((), {"yes", "no"}))

    def test_photos_that_are_gone_leave_it_to_what_they_would_have_shown(self) -> None:
        before = inspect_reads(PANEL, [(one.name, read_file(PANEL, one)) for one in files(faults=(), seed=35)])
        after = before.model_copy(update={"findings": found(FAULTS[:1], 36)})
        self.assertEqual(len(compare(before, after, looked_back=look_back(PANEL, [], after.findings)).new), 1)

    def test_only_the_look_that_was_asked_answers(self) -> None:
        before = inspect_reads(PANEL, [(one.name, read_file(PANEL, one)) for one in files(faults=(), seed=35)[:1]])
        kept = LookBack(photos=photos_key(before), places=look_back(PANEL, [], found(FAULTS[:1], 36)))
        self.assertEqual([one.was_there for one in kept.of(before)], ["open"])
        self.assertEqual(kept.of(before.model_copy(update={"photos": ()})), ())
        self.assertEqual(LookBack().of(before), ())
        self.assertEqual(kept.of(None), ())
