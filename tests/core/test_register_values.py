"""Values of panels and where they come from: sources weighed, data sheet lines, EDID, and all that tells which panel is in a device."""

import datetime as dt
from unittest import TestCase

from lens.edid import read_edid
from lens.matching import (
    VALUE_SOURCES,
    IdentityEvidence,
    PanelSpec,
    ValueSource,
    edid_identity,
    identify,
    read_data_sheet,
    set_by_hand,
    spec_of_edid,
    take_over,
)
from lens.matching.data_sheet import SRGB_OF_NTSC
from lens.simulate.edid import EdidPanel, edid_of

DAY, NEXT = dt.date(2026, 3, 2), dt.date(2026, 3, 3)


class Sources(TestCase):
    def test_a_better_source_replaces_a_worse_one_and_never_the_other_way(self) -> None:
        ordered = sorted(VALUE_SOURCES, key=lambda source: VALUE_SOURCES[source].strength)
        for worse, better in zip(ordered, ordered[1:], strict=False):
            one, two = PanelSpec(thickness_mm=3.0), PanelSpec(thickness_mm=3.4)
            first = take_over(PanelSpec(), {}, one, worse, DAY)
            second = take_over(first.spec, first.sources, two, better, NEXT)
            self.assertEqual((second.spec.thickness_mm, second.kept), (3.4, {}))
            self.assertEqual(second.sources["thickness_mm"], ValueSource(source=better, on=NEXT))
            third = take_over(second.spec, second.sources, one, worse, NEXT)
            self.assertEqual((third.spec.thickness_mm, third.kept), (3.4, {"thickness_mm": 3.0}))

    def test_what_a_source_does_not_know_stays_and_what_agrees_gets_the_better_source(self) -> None:
        first = take_over(PanelSpec(), {}, PanelSpec(width=1366, height=768), "supplier", DAY)
        told = take_over(first.spec, first.sources, PanelSpec(width=1366, refresh_hz=60), "edid", NEXT)
        self.assertEqual((told.spec.height, told.spec.refresh_hz), (768, 60))
        self.assertEqual(
            {name: s.source for name, s in told.sources.items()},
            {"width": "edid", "height": "supplier", "refresh_hz": "edid"},
        )
        # a value from before sources were kept has none: anything replaces it
        self.assertEqual(take_over(PanelSpec(width=1), {}, PanelSpec(width=2), "supplier", DAY).spec.width, 2)

    def test_what_a_person_saves_stands(self) -> None:
        sources = {"thickness_mm": ValueSource(source="measured", on=DAY), "width": ValueSource(source="edid", on=DAY)}
        before = PanelSpec(thickness_mm=3.0, width=1366)
        told = set_by_hand(
            before, sources, PanelSpec(thickness_mm=3.1, width=1366, height=768), {"height": "label"}, NEXT
        )
        self.assertEqual(
            {n: (s.source, s.on) for n, s in told.items()},
            {"thickness_mm": ("typed", NEXT), "width": ("edid", DAY), "height": ("label", NEXT)},
        )


class DataSheets(TestCase):
    """Lines as offers print them (common practice); the content is made up."""

    def test_lines_are_read(self) -> None:
        for line, expected in {
            "14.0 in FHD 1920x1080 IPS matt, 300 nits, 45 % NTSC, 60 Hz, eDP 2 lanes 30 pin, 315.8 x 205.6 x 2.6 mm": {
                "width": 1920, "height": 1080, "outline_mm": (315.8, 205.6), "thickness_mm": 2.6, "connector_pins": 30, "signal": "eDP",
                "lanes": 2, "finish": "matt", "luminance_cd_m2": 300, "refresh_hz": 60.0, "gamut_srgb_percent": 64.0,
            },
            '15.6" 1366*768 glossy LVDS single channel 40pin connector bottom left (rear view), outline 359.5(W)x223.8(H)x5.5(D)mm, '
            "active area 344.23x193.54 mm, 262K colours, non-touch": {
                "width": 1366, "height": 768, "visible_mm": (344.23, 193.54), "outline_mm": (359.5, 223.8), "thickness_mm": 5.5, "lanes": 1,
                "connector_pins": 40, "connector_side": "left", "connector_edge": "bottom", "signal": "LVDS", "touch": False,
                "finish": "glossy", "bits_per_colour": 6,
            },
            "on-cell touch WUXGA, 16.7M, connector right (front view), ears, 315,81 x 197,48 mm": {
                "width": 1920, "height": 1200, "touch": True, "bits_per_colour": 8, "connector_side": "left", "mounting": "ears",
                "outline_mm": (315.81, 197.48),
            },
        }.items():  # fmt: skip
            told = read_data_sheet(line)
            known = {name: value for name, value in told.spec.model_dump().items() if value not in (None, ())}
            self.assertEqual((known, told.problems), (expected, ()), line)

    def test_what_is_not_said_surely_is_left_out(self) -> None:
        told = read_data_sheet(
            "HD, connector left, 30 pins"
        )  # 'HD' is several sizes; left from the front or from the back?
        self.assertEqual((told.spec.width, told.spec.connector_side, told.spec.connector_pins), (None, None, 30))
        self.assertEqual([p.code for p in told.problems], ["view_unknown"])
        for text in ("", "nothing to see", "x" * 100_000, "=1+1"):
            self.assertEqual([p.code for p in read_data_sheet(text).problems], ["nothing_read"], text[:20])

    def test_ntsc_against_srgb(self) -> None:
        """72 % NTSC is told as 'about all of sRGB' (common practice): the areas of both triangles agree with that."""
        self.assertAlmostEqual(72 / SRGB_OF_NTSC, 100, delta=2)


class Identity(TestCase):
    PANELS = (
        PanelSpec(part_number="A-1", width=1366, height=768),
        PanelSpec(part_number="B-2", width=1366, height=768),
        PanelSpec(part_number="C-3", width=1920, height=1080),
    )

    def ranked(self, **evidence: object) -> list[tuple[str, float]]:
        told = identify(self.PANELS, IdentityEvidence(**evidence))  # type: ignore[arg-type]
        return [(one.part_number, one.p) for one in told]

    def test_nothing_known_lists_nothing(self) -> None:
        self.assertEqual(self.ranked(size=(1366, 768)), [])

    def test_history_by_laplaces_rule(self) -> None:
        # 6 of 7 jobs had A, 1 had B; another one weighs as much as one job, shared by C and all that no register knows
        told = dict(self.ranked(history={"A-1": 6, "B-2": 1}))
        self.assertAlmostEqual(told["A-1"], 6 / 7.5, delta=0.01)
        self.assertEqual(list(told), ["A-1", "B-2"])

    def test_a_resolution_that_the_device_does_not_have_speaks_against(self) -> None:
        told = identify(self.PANELS, IdentityEvidence(history={"C-3": 2, "A-1": 1}, size=(1366, 768)))
        self.assertEqual(told[0].part_number, "A-1")
        self.assertIn("1920 x 1080", " ".join(told[1].reasons))

    def test_edid_and_label_settle_what_history_leaves_open(self) -> None:
        edid = read_edid(edid_of(EdidPanel()))
        known = self.PANELS[1].model_copy(update={"edid_identity": edid_identity(edid)})
        told = identify((self.PANELS[0], known, self.PANELS[2]), IdentityEvidence(history={"A-1": 2}, edid=edid))
        self.assertEqual(told[0].part_number, "B-2")
        self.assertGreater(told[0].p, 0.9)
        self.assertEqual(self.ranked(history={"A-1": 1, "B-2": 1}, label={"B-2": 0.9})[0][0], "B-2")
        self.assertLessEqual(sum(p for _, p in self.ranked(history={"A-1": 900}, label={"A-1": 0.98})), 1.0)

    def test_an_edid_fills_in_what_it_says(self) -> None:
        edid = read_edid(edid_of(EdidPanel()))
        told = spec_of_edid(edid)
        assert edid.preferred is not None
        self.assertEqual((told.width, told.height), (edid.preferred.width, edid.preferred.height))
        self.assertRegex(told.edid_identity or "", "^[A-Z]{3}-[0-9A-F]{4}$")
        broken = edid.model_copy(update={"checksum_ok": False})
        self.assertEqual(spec_of_edid(broken), PanelSpec())
