"""Files of a report: COCO's published fields, packed files that hold only as they were packed, PDF keys."""

import hashlib
import io
import json
import random
import zipfile
from unittest import TestCase

from lens.errors import BadInput
from lens.records import KINDS, Finding, Inspection, PanelSize, PhotoMap
from lens.reporting import (
    PlacedPhoto,
    closed,
    coco,
    new_key,
    new_pdf_key,
    packed,
    public_of,
    read_pdf_key,
    signer_of,
    verify_file,
)
from lens.reporting.package import MANIFEST, REPORT

KEY = new_key()
KNOWN = [public_of(KEY)]
ENTRIES: list[dict[str, object]] = []


def finding(kind: str, x: float, y: float) -> Finding:
    return Finding.model_validate({"kind": kind, "x": x, "y": y, "w": 3, "h": 2, "contrast": -1, "confidence": 0.9})


def report(**facts: object) -> dict[str, object]:
    told = {"verdict": {"result": "pass"}, "photos": [], "pdf_signer": "x", **facts}
    return closed(told, ENTRIES, "2026-11-30T00:00:00+00:00", KEY)


def package(**files: bytes) -> bytes:
    told = report()
    head = told["head"]
    assert isinstance(head, dict)
    return packed({REPORT: json.dumps(told).encode(), **files}, head["closing_hash"], KEY)


def unpacked(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


class Coco(TestCase):
    def test_it_has_the_published_fields(self) -> None:
        """Fields of 'Common Objects in Context' (from memory): images, categories, annotations with bbox x, y, width, height."""
        found = (finding("dead_pixel", 10, 20), finding("line", 5, 6))
        looked = Inspection.model_construct(panel=PanelSize(width=640, height=480), findings=found)
        told = coco({"inspect": looked, "closed": looked})
        self.assertEqual({"info", "images", "categories", "annotations"}, set(told))
        ids = {one["id"] for one in told["images"]}
        self.assertEqual({(one["width"], one["height"]) for one in told["images"]}, {(640, 480)})
        self.assertEqual(len(ids), len(told["images"]))
        names = {one["id"]: one["name"] for one in told["categories"]}
        self.assertEqual(set(names.values()), set(KINDS))
        for one in told["annotations"]:
            self.assertTrue({"id", "image_id", "category_id", "bbox", "area", "iscrowd"} <= set(one))
            self.assertIn(one["image_id"], ids)
        first = told["annotations"][0]
        self.assertEqual(
            (names[first["category_id"]], first["bbox"], first["area"]), ("dead_pixel", [8.5, 19, 3, 2], 6)
        )

    def test_a_photo_shows_where_the_panel_s_pixels_lie_in_it(self) -> None:
        looked = Inspection.model_construct(
            panel=PanelSize(width=640, height=480), findings=(finding("dead_pixel", 10, 20), finding("line", 600, 6))
        )
        # twice as large, 30 px to the right and 40 down; the second one lies outside of the photo
        view = PhotoMap(homography=(2, 0, 30, 0, 2, 40, 0, 0, 1), k1=0, k2=0, width=800, height=1000)
        told = coco(
            {"inspect": looked}, [PlacedPhoto("photos/a.jpg", "inspect", view), PlacedPhoto("b.jpg", "dry_fit", view)]
        )
        self.assertEqual([one["file_name"] for one in told["images"]], ["inspect.panel", "photos/a.jpg"])
        (shown,) = (one for one in told["annotations"] if one["image_id"] == 2)
        self.assertEqual(shown["bbox"], [47, 78, 6, 4])  # corners (8.5, 19) and (11.5, 21), each doubled and moved
        self.assertEqual(shown["segmentation"][0][:4], [47, 78, 53, 78])


class Packed(TestCase):
    def test_the_same_content_is_the_same_file(self) -> None:
        one = {"a.txt": b"x" * 1000}
        self.assertEqual(packed(one, "0" * 64, KEY), packed(one, "0" * 64, KEY))
        with zipfile.ZipFile(io.BytesIO(package(**{"a.txt": b"x"}))) as archive:
            self.assertEqual(archive.namelist()[0], MANIFEST)
            listed = json.loads(archive.read(MANIFEST))["files"]
            self.assertEqual(listed["a.txt"]["sha256"], hashlib.sha256(b"x").hexdigest())
            self.assertIsNone(archive.testzip())

    def test_it_holds_only_as_it_was_packed(self) -> None:
        whole = package(**{"photos/1.jpg": bytes(range(256)) * 8})
        self.assertEqual(verify_file(whole, KNOWN).result, "holds")
        self.assertEqual(verify_file(whole).result, "unknown")
        rng = random.Random(5)
        with zipfile.ZipFile(io.BytesIO(whole)) as archive:
            where = [(one.header_offset + 30 + len(one.filename), one.compress_size) for one in archive.infolist()]
        for _ in range(150):  # any bit of any file's content
            start, size = rng.choice(where)
            data = bytearray(whole)
            data[start + rng.randrange(size)] ^= 1 << rng.randrange(8)
            try:
                result = verify_file(bytes(data), KNOWN).result
            except BadInput:
                continue
            # the last bits of a packed stream mean nothing: where all content is as it was, it holds
            self.assertTrue(result != "holds" or unpacked(bytes(data)) == unpacked(whole))
        for cut in range(0, len(whole), 97):
            with self.assertRaises(BadInput):
                verify_file(whole[:cut], KNOWN)

    def test_a_list_of_another_report_does_not_pass(self) -> None:
        other = report(verdict={"result": "fail"})
        files = {REPORT: json.dumps(other).encode()}
        self.assertEqual(verify_file(packed(files, "0" * 64, KEY), KNOWN).place, MANIFEST)

    def test_a_bomb_is_refused_before_it_is_unpacked(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for n in range(2100):
                archive.writestr(f"{n}", b"")
        with self.assertRaisesRegex(BadInput, "far more"):
            verify_file(out.getvalue(), KNOWN)


class Keys(TestCase):
    def test_a_pdf_key_and_its_certificate_belong_together(self) -> None:
        one, other = new_pdf_key(), new_pdf_key()
        self.assertRegex(signer_of(one), r"^([0-9A-F]{4} ){7}[0-9A-F]{4}$")
        self.assertNotEqual(signer_of(one), signer_of(other))
        mixed = one[: one.index("-----BEGIN CERTIFICATE")] + other[other.index("-----BEGIN CERTIFICATE") :]
        with self.assertRaises(ValueError):
            read_pdf_key(mixed)

    def test_hashes_are_those_of_fips_180_4(self) -> None:
        """FIPS 180-4, SHA-256 of 'abc' (from memory)."""
        self.assertEqual(
            hashlib.sha256(b"abc").hexdigest(), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
        )
