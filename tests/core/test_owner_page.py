"""The owner's page: every language whole, plain words, nothing said that does not apply.

Plainness by Flesch's reading ease (Flesch 1948, from memory; for German after Amstad 1978, from memory), with pyphen's hyphenation points as a
stand-in for syllables.
"""

import datetime as dt
import re
import string
from unittest import TestCase

import pyphen

from lens.diagnosis import load_model
from lens.errors import BadInput
from lens.proving import functions
from lens.records import KINDS
from lens.reporting.owner import OwnerFacts, SeenFault, faults_in_words, owner_page, owner_texts

JARGON = re.compile(r"\b(mura|SEMU|subpixel|pixel|u'v'|grey50|class|EDID|not proven|criterion|px)\b", re.IGNORECASE)
FULL = OwnerFacts(
    complaint="Lines since it fell.",
    before=(SeenFault(kind="line", x=0.5, y=0.5), *(SeenFault(kind="dead_pixel", x=0.1, y=n / 9) for n in range(9))),
    touch_before="fail",
    causes=("cell",),
    panel="KT-57",
    grade="compatible",
    result="not_proven",
    after=(SeenFault(kind="dark_subpixel", x=0.9, y=0.9),),
    picture="pass",
    touch="pass",
    touch_wanted=True,
    functions={
        "camera": "good",
        "earpiece": "faulty",
        "colour_adaption": "lost",
        "nfc": "not_tested",
        "card": "was_so",
    },
    cures_until=dt.datetime(2026, 12, 1, 15, 30),
    film_left=True,
    controller_moved=True,
    opened=True,
    device_type="handset",
    part_until=dt.date(2027, 11, 30),
    work_until=dt.date(2027, 5, 31),
)


def places(text: str) -> set[str]:
    return {name for _, name, _, _ in string.Formatter().parse(text) if name}


def reading_ease(text: str, language: str) -> float:
    words = re.findall(r"[A-Za-zÄÖÜäöüß]+", text)
    hyphens = pyphen.Pyphen(lang={"en": "en_US", "de": "de_DE"}[language])
    syllables = sum(len(hyphens.positions(word)) + 1 for word in words)
    sentences = max(1, len(re.findall(r"[.!?](?:\s|$)", text)))
    per_sentence, per_word = len(words) / sentences, syllables / len(words)
    return (
        180 - per_sentence - 58.5 * per_word if language == "de" else 206.835 - 1.015 * per_sentence - 84.6 * per_word
    )


class Languages(TestCase):
    def test_each_has_every_text_with_the_same_places(self) -> None:
        first = owner_texts()["en"].model_dump()
        for name, one in owner_texts().items():
            told = one.model_dump()
            for part in ("headings", "verdict", "lines", "grades", "places", "kinds", "functions", "causes"):
                self.assertEqual(list(told[part]), list(first[part]), (name, part))
            for key, line in told["lines"].items():
                self.assertEqual(places(line), places(first["lines"][key]), (name, key))
            for kind, (_, several) in told["kinds"].items():
                self.assertEqual(places(several), {"n"}, (name, kind))
        self.assertGreaterEqual(len(owner_texts()), 2)

    def test_every_fault_of_the_panel_and_every_function_has_its_words(self) -> None:
        for one in owner_texts().values():
            self.assertEqual({name for name, kind in KINDS.items() if kind.of_panel}, set(one.kinds))
            self.assertEqual(set(functions()), set(one.functions))
            self.assertEqual(set(load_model().causes), set(one.causes))

    def test_they_read_plainly(self) -> None:
        for name in owner_texts():
            page = owner_page(FULL, name)
            whole = " ".join([page.verdict, *(line for section in page.sections for line in section.lines)])
            self.assertIsNone(JARGON.search(whole), whole)
            self.assertGreaterEqual(reading_ease(whole, name), 60, f"{name}: 60 is plain language")


class Page(TestCase):
    def lines(self, facts: OwnerFacts, heading: str, language: str = "en") -> str:
        return " ".join(
            line for one in owner_page(facts, language).sections if one.heading == heading for line in one.lines
        )

    def test_it_says_what_was_found_where(self) -> None:
        self.assertIn("9 dark dots and a line in the middle", self.lines(FULL, "wrong"))
        self.assertIn("eine Linie in der Mitte", self.lines(FULL, "wrong", "de"))
        self.assertEqual(faults_in_words((SeenFault(kind="dust", x=0, y=0),), owner_texts()["en"]), "")
        self.assertIn("before 1 December 2026, 15:30", self.lines(FULL, "expect"))
        self.assertIn("a tiny dark dot at the bottom right", self.lines(FULL, "checked"))

    def test_nothing_is_said_that_does_not_apply(self) -> None:
        plain = OwnerFacts(result="not_proven", opened=True)
        self.assertNotIn("water", self.lines(plain, "care"))
        self.assertEqual(self.lines(plain, "expect"), "")
        self.assertIn("was not measured", self.lines(plain, "not_checked"))
        self.assertNotIn("Touch", self.lines(plain, "not_checked"))
        self.assertIn("did not change", self.lines(plain, "done"))
        self.assertEqual(self.lines(OwnerFacts(result="pass"), "care"), "")

    def test_what_was_measured_in_part_is_not_called_unmeasured(self) -> None:
        part = OwnerFacts(result="not_proven", picture="not_proven", touch="not_proven", touch_wanted=True)
        self.assertIn("not see every dot", self.lines(part, "not_checked"))
        self.assertIn("tested everywhere", self.lines(part, "not_checked"))
        self.assertNotIn("not measured", self.lines(part, "not_checked"))
        self.assertIn("not in order", self.lines(OwnerFacts(result="fail", picture="fail", after=()), "checked"))

    def test_a_claim_that_was_not_so_is_said(self) -> None:
        facts = OwnerFacts(result="pass", before=(), touch_before="pass", said_touch_dead=True)
        self.assertIn("it answered", self.lines(facts, "wrong"))

    def test_a_language_that_is_not_there(self) -> None:
        with self.assertRaises(BadInput):
            owner_page(FULL, "xx")
