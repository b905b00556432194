"""Loose things: every one is somewhere, and no long screw goes into a short hole (both common practice)."""

from unittest import TestCase

from lens.errors import BadInput
from lens.fitting import Balance, FastenerNote, balance, check_counts
from lens.steps import Step

OUT = Step(id="out", title="Screws out", counts={"lid": 6})
BACK = Step(id="back", title="Screws back", counts={"lid": -6})


class Accounts(TestCase):
    def test_every_screw_is_somewhere(self) -> None:
        note = FastenerNote(replaced=1, lost_inside=1, left_out=1)
        check_counts(BACK, {"lid": 3}, {"lid": Balance(out=6)}, "", {"lid": note})
        for met, told, words in (
            (3, FastenerNote(replaced=1), "Say where the others are"),
            (5, FastenerNote(replaced=2), "cannot be accounted for"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                check_counts(BACK, {"lid": met}, {"lid": Balance(out=6)}, "", {"lid": told})
        with self.assertRaisesRegex(BadInput, "not about hinge"):
            check_counts(OUT, {"lid": 6}, {}, "", {"hinge": note})

    def test_the_balance_follows_the_log(self) -> None:
        taken = (OUT.counts, {"lid": 6}, {"lid": FastenerNote(loosened=2, length_mm=4.0)})
        put = (BACK.counts, {"lid": 4}, {"lid": FastenerNote(lost=1)})
        self.assertEqual(balance([taken])["lid"], Balance(out=6, loosened=2, length_mm=4.0))
        after = balance([taken, put])["lid"]
        self.assertEqual((after.out, after.lost, after.loosened, after.length_mm), (1, 1, 2, 4.0))


class Lengths(TestCase):
    STANDING = {"lid": Balance(out=6, length_mm=3.0), "hinge": Balance(out=4, length_mm=5.0)}

    def test_a_long_one_in_a_short_hole_is_refused_and_lengths_are_asked_for_where_they_differ(self) -> None:
        with self.assertRaisesRegex(BadInput, "Measure one"):
            check_counts(BACK, {"lid": 6}, self.STANDING, "")
        with self.assertRaisesRegex(BadInput, "reaches the panel"):
            check_counts(BACK, {"lid": 6}, self.STANDING, "", {"lid": FastenerNote(length_mm=5.0)})
        check_counts(BACK, {"lid": 6}, self.STANDING, "", {"lid": FastenerNote(length_mm=3.2)})
        # alike, or the other group is back already: nothing to mix up
        alike = {**self.STANDING, "hinge": Balance(out=4, length_mm=3.1)}
        back = {**self.STANDING, "hinge": Balance(out=0, length_mm=5.0)}
        for standing in (alike, back, {"lid": Balance(out=6)}):
            check_counts(BACK, {"lid": 6}, standing, "")

    def test_what_was_measured_goes_before_what_is_usual(self) -> None:
        standing = {"lid": Balance(out=6, length_mm=3.0)}
        with self.assertRaisesRegex(BadInput, "3 mm long"):
            check_counts(BACK, {"lid": 6}, standing, "", {"lid": FastenerNote(length_mm=6.0)}, {"lid": 6.0})
        check_counts(BACK, {"lid": 6}, {"lid": Balance(out=6)}, "", {"lid": FastenerNote(length_mm=6.0)}, {"lid": 6.0})
