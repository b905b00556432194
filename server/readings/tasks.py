"""Files are read in a worker: seconds of a processor, and a killed one does it again."""

import time
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.db import connections, transaction
from procrastinate.contrib.django import app

from lens.label import Register, read_back_photo, read_label_photo
from server.common.queue import Work
from server.parts.importing import Imported, import_offers, import_panels
from server.parts.models import PanelModel
from server.readings.models import BACK, LABEL, OFFERS, PHOTOS, Reading

READING = Work(Reading, "reading", "reading_id", priority=10)  # somebody stands before the screen
GIVEN_UP = "Clear Lens failed on this file, by an error of its own: the log has it. Type in what it says."
TOLD_EVERY_S = 0.5


class _Watched:
    """How far a table is: written beside the transaction that takes it in, so that others see it."""

    def __init__(self, reading_id: int) -> None:
        self.reading_id, self.last = reading_id, time.monotonic()

    def __call__(self, done: int, of: int) -> None:
        if time.monotonic() - self.last < TOLD_EVERY_S:
            return
        self.last = time.monotonic()
        with ThreadPoolExecutor(1) as beside:
            beside.submit(self._write, done, of).result()

    def _write(self, done: int, of: int) -> None:
        try:
            Reading.objects.filter(pk=self.reading_id).update(rows=done, of=of)
        finally:
            connections.close_all()


@app.task(name="read_file")
def read_file(reading_id: int) -> None:
    reading = Reading.objects.filter(pk=reading_id).select_related("made_by").first()
    if reading is None:
        return  # it is not wanted any more
    asked = READING.begin(reading_id)

    def make() -> None:
        with transaction.atomic():  # a table is taken in and told as taken in, or neither
            told = _read(reading)
            Reading.objects.filter(pk=reading_id).update(result=told, problem="", **_left(reading))
            READING.settle(reading_id, asked)

    _, problem = READING.attempt(reading_id, "file", GIVEN_UP, make)
    if problem:
        Reading.objects.filter(pk=reading_id).update(problem=problem[:500], **_left(reading))
        READING.settle(reading_id, asked)


def _left(reading: Reading) -> dict[str, bytes]:
    """A photo is not kept once it was read, nor a table that was taken in; one that was only looked at may be taken in next."""
    return {"data": b""} if reading.kind in PHOTOS or reading.apply else {}


def _read(reading: Reading) -> dict[str, Any]:
    data = bytes(reading.data)
    if reading.kind == LABEL:
        return _label(data)
    if reading.kind == BACK:
        active = reading.told.get("active_mm")
        return read_back_photo(data, (active[0], active[1]) if active else None).model_dump(mode="json")
    watched, dry = _Watched(reading.pk), not reading.apply
    if reading.kind == OFFERS:
        return _plain(import_offers(reading.made_by, data, dry, watched))
    return _plain(import_panels(reading.made_by, data, dry, reading.told["source"], watched))


def _label(data: bytes) -> dict[str, Any]:
    """Held to the register; by shape alone where nothing of it is known."""
    numbers: dict[str, str] = {}
    for name, others in PanelModel.objects.filter(retired=False).values_list("name", "spec__other_numbers"):
        numbers.update(dict.fromkeys(others or (), name))
        numbers[name] = name
    told = read_label_photo(data, Register(numbers)) if numbers else read_label_photo(data)
    if numbers and not told.candidates:
        told = read_label_photo(data)
    return {
        "reading": told.model_dump(mode="json"),
        "names": {c.part_number: numbers.get(c.part_number) for c in told.candidates},
    }


def _plain(told: Imported) -> dict[str, Any]:
    return {**told._asdict(), "faults": [fault._asdict() for fault in told.faults]}


READING.task = read_file
