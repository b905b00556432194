"""Data bits and lanes: tables against the published order, wirings against bit arithmetic, photos against what was wired."""

from unittest import TestCase

import numpy as np

from lens.diagnosis import evidence_from_inspection
from lens.faults.data_bits import WIRINGS, read_data_bits, shown
from lens.faults.lvds import LANES, lanes_of
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.patterns import bit_cells, get_pattern, marker_mask, render
from lens.photo import read_photo
from lens.records import Inspection
from lens.simulate import Camera, FaultyPanel, shoot
from tests.core.sets import CAMERA, PANEL

SOUND = tuple(range(8))
Map = tuple[int, ...]


def lost(bits: frozenset[int], stuck: int = 0) -> Map:
    return tuple((-1, -2)[stuck] if n in bits else n for n in SOUND)


def wired(
    maps: tuple[Map, ...] | None, every_second: bool = False, seed: int = 3, camera: Camera = CAMERA
) -> Inspection:
    device = FaultyPanel(panel=PANEL, bit_maps=maps, bits_of_every_second=every_second)
    return inspect_files(
        PANEL, [PhotoFile("bits.jpg", shoot(device, "bits", camera, np.random.default_rng(seed)).data)]
    )


class Tables(TestCase):
    def test_lanes_carry_the_bits_of_the_published_order(self) -> None:
        # VESA, 24 bits (from memory): lane 0 G0 R5..R0; lane 1 B1 B0 G5..G1; lane 2 DE VS HS B5..B2; lane 3 - B7 B6 G7 G6 R7 R6; JEIDA: the
        # same with the six high bits on lanes 0 to 2 and bits 1, 0 on lane 3
        vesa = {lane.number: lane.bits for lane in LANES if lane.order == "VESA"}
        self.assertEqual(vesa[0], (frozenset(range(6)), frozenset({0}), frozenset()))
        self.assertEqual(vesa[1], (frozenset(), frozenset({1, 2, 3, 4, 5}), frozenset({0, 1})))
        self.assertEqual(vesa[2], (frozenset(), frozenset(), frozenset({2, 3, 4, 5})))
        self.assertEqual(vesa[3], (frozenset({6, 7}),) * 3)
        jeida = {lane.number: lane.bits for lane in LANES if lane.order == "JEIDA"}
        self.assertEqual(jeida[0], (frozenset(range(2, 8)), frozenset({2}), frozenset()))
        self.assertEqual(jeida[3], (frozenset({0, 1}),) * 3)
        for order in (vesa, jeida):
            for channel in range(3):  # each bit of each colour travels once
                self.assertEqual(sorted(bit for bits in order.values() for bit in bits[channel]), list(SOUND))

    def test_lanes_are_found_by_just_their_bits(self) -> None:
        for lane in LANES:
            self.assertEqual(lanes_of(dict(enumerate(lane.bits))), [lane])
        self.assertEqual(lanes_of({1: frozenset({5})}), [])

    def test_wirings_do_what_they_say(self) -> None:
        for wiring in WIRINGS:
            for code in (0, 64, 65, 112, 192, 255):
                told = shown(wiring, code)
                if wiring.kind == "none":
                    self.assertEqual(told, code)
                if wiring.kind == "inverted":
                    self.assertEqual(told, code ^ 255)
                if wiring.kind == "missing":
                    mask = sum(1 << n for n in wiring.bits)
                    self.assertEqual(told, code | mask if wiring.stuck_at else code & ~mask)


class Pattern(TestCase):
    def test_each_chequer_differs_in_its_bit_alone_and_keeps_off_markers(self) -> None:
        for width, height in ((320, 240), (800, 500), (1080, 2400), (3840, 2160)):
            panel = make_panel(width, height)
            image, markers = render(panel, get_pattern("bits")), marker_mask(panel, get_pattern("bits"), 4)
            cells = bit_cells(panel)
            self.assertEqual({(cell.channel, cell.bit) for cell in cells}, {(c, b) for c in range(3) for b in range(8)})
            for cell in cells:
                left, top, right, bottom = cell.box
                self.assertFalse(markers[top:bottom, left:right].any(), f"{cell} at {width}x{height}")
                part = image[top:bottom, left:right, cell.channel]
                low, high = sorted(set(part.ravel()))
                self.assertEqual(int(low) ^ int(high), 1 << cell.bit)
                self.assertEqual(int(part[0, 0]), cell.codes[0])


class Photos(TestCase):
    def test_a_sound_link_arrives_whole(self) -> None:
        result = wired(None)
        self.assertEqual((result.data_bits and result.data_bits.outcome, result.findings), ("smooth", ()))
        assert result.data_bits is not None
        self.assertLessEqual(result.data_bits.lowest_bit_seen, 1)
        self.assertIn(("ramp", "smooth"), [(item.check, item.outcome) for item in evidence_from_inspection(result)])

    def test_every_lane_is_named(self) -> None:
        for number, lane in enumerate(LANES):
            told = wired(tuple(lost(bits, number % 2) for bits in lane.bits), seed=number).data_bits
            assert told is not None
            self.assertEqual(
                tuple(frozenset(one.bits) for one in told.channels),
                lane.bits,
                f"{lane.order} {lane.number}: {told.reasons}",
            )
            if told.outcome == "bits":
                self.assertIn(f"lane {lane.number} in {lane.order} order", " ".join(told.reasons))
            else:  # the lowest bits of all colours: a panel of six bits does so too
                self.assertEqual((told.outcome, lane.order, lane.number), ("coarse", "JEIDA", 3))

    def test_single_bits_swaps_and_orders(self) -> None:
        cases: tuple[tuple[tuple[Map, ...], str, str], ...] = (
            ((SOUND, lost(frozenset({4})), SOUND), "bits", "Green: bit 4 always 0. No single lane"),
            ((lost(frozenset({7}), 1), SOUND, SOUND), "bits", "Red: bit 7 always 1"),
            ((SOUND, SOUND, (0, 1, 3, 2, 4, 5, 6, 7)), "bits", "Blue: bits 2 and 3 are exchanged"),
            (((2, 3, 4, 5, 6, 7, 0, 1),) * 3, "colours", "another order"),
        )
        for number, (maps, outcome, words) in enumerate(cases):
            result = wired(maps, seed=20 + number)
            assert result.data_bits is not None
            self.assertEqual(result.data_bits.outcome, outcome)
            self.assertIn(words, " ".join(result.data_bits.reasons))
            self.assertEqual([f.kind for f in result.findings], ["artifact"])

    def test_one_of_two_channels_is_told_by_every_second_column(self) -> None:
        told = wired((lost(frozenset({6, 7})),) * 3, every_second=True).data_bits
        assert told is not None
        self.assertTrue(all(one.every_second for one in told.channels))
        self.assertIn("one of two channels", " ".join(told.reasons))

    def test_too_few_chequers_say_nothing(self) -> None:
        read = read_photo(shoot(FaultyPanel(panel=PANEL), "bits", CAMERA, np.random.default_rng(1)).data, PANEL)
        few = read_data_bits([read._replace(bits=read.bits[:4])])
        assert few is not None
        self.assertEqual([one.fault for one in few.channels], ["unseen"] * 3)
        self.assertIsNone(read_data_bits([read._replace(bits=())]))
