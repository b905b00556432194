"""Stored records of every format that was ever written open in today's version."""

import json
import re
from pathlib import Path
from unittest import TestCase, mock

from lens.errors import BadInput
from lens.records import Inspection, PhotoReport, upgrade
from lens.records.base import Record
from lens.touch import Plan, TouchResult

SAMPLES = Path(__file__).parent / "samples"
RECORDS: dict[str, type[Record]] = {
    "inspection": Inspection,
    "photo_report": PhotoReport,
    "touch_result": TouchResult,
    "touch_plan": Plan,
}


class Upgrading(TestCase):
    def test_every_kept_sample_opens(self) -> None:
        seen = set()
        for file in sorted(SAMPLES.glob("*.json")):
            kind, number = re.fullmatch(r"(\w+)-format-(\d+)", file.stem).groups()  # type: ignore[union-attr]
            document = json.loads(file.read_text())
            self.assertEqual(document.get("format", 0), int(number), file.name)
            record = RECORDS[kind].model_validate(upgrade.upgraded(kind, document))  # type: ignore[arg-type]
            again = upgrade.stamped(kind, record.model_dump(mode="json"))  # type: ignore[arg-type]
            self.assertEqual(RECORDS[kind].model_validate(upgrade.upgraded(kind, again)), record)  # type: ignore[arg-type]
            seen.add((kind, int(number)))
        for kind in RECORDS:  # a new format comes with a sample of the one before it
            for number in range(upgrade.current(kind)):  # type: ignore[arg-type]
                self.assertIn((kind, number), seen)

    def test_steps_are_applied_in_their_order_and_change_nothing_that_was_given(self) -> None:
        steps = (lambda d: {**d, "a": d["a"] + 1}, lambda d: {"b": d["a"]})
        with mock.patch.dict(upgrade.STEPS, {"ruling": steps}):
            given = {"a": 1}
            self.assertEqual(upgrade.upgraded("ruling", given), {"b": 2})
            self.assertEqual(given, {"a": 1})
            self.assertEqual(upgrade.upgraded("ruling", {"a": 5, "format": 1}), {"b": 5})
            self.assertEqual(upgrade.stamped("ruling", {"b": 5}), {"b": 5, "format": 2})

    def test_what_a_newer_version_wrote_is_refused_with_a_sentence(self) -> None:
        for number in (99, -1, "1", True, None):
            with self.assertRaisesRegex(BadInput, "newer version"):
                upgrade.upgraded("inspection", {"format": number})
