"""Panels as CSV, as spreadsheets of several countries write them (RFC 4180, from memory; formula cells by common practice)."""

from unittest import TestCase

from lens.errors import BadInput
from lens.matching import PanelSpec
from lens.matching.panel_csv import PanelRow, PanelTable, write_panels

FULL = PanelSpec(
    part_number="A-1",
    width=1366,
    height=768,
    outline_mm=(320.4, 188.1),
    thickness_mm=3.2,
    mounting="ears",
    connector_pins=30,
    connector_family="narrow, 0.4 mm",
    signal="eDP",
    touch=False,
)


def read(data: bytes) -> tuple[PanelTable, list[PanelRow]]:
    table = PanelTable(data)
    return table, list(table)


class Reading(TestCase):
    def test_what_is_written_is_read_again(self) -> None:
        table, rows_read = read(
            write_panels([("A-1", "Firngrat", FULL), ("B", "", PanelSpec(part_number="B"))]).encode()
        )
        self.assertEqual(table.faults, [])
        self.assertEqual([(r.line, r.name, r.maker) for r in rows_read], [(2, "A-1", "Firngrat"), (3, "B", "")])
        self.assertEqual([r.spec for r in rows_read], [FULL, PanelSpec(part_number="B")])

    def test_delimiters_encodings_commas_and_inches(self) -> None:
        rows = "part_number{0}maker{0}thickness_in{0}outline_w_mm{0}outline_h_mm\nA{0}Sééhaus{0}0,2{0}320,4{0}188,1\n"
        for delimiter in ";\t|":
            for encoding, told in (
                ("utf-8", "utf-8-sig"),
                ("utf-8-sig", "utf-8-sig"),
                ("cp1252", "cp1252"),
                ("utf-16", "utf-16"),
            ):
                table, rows_read = read(rows.format(delimiter).encode(encoding))
                self.assertEqual((table.delimiter, table.encoding, table.faults), (delimiter, told, []))
                spec = rows_read[0].spec
                self.assertEqual(
                    (rows_read[0].maker, spec.thickness_mm, spec.outline_mm), ("Sééhaus", 5.08, (320.4, 188.1))
                )

    def test_every_fault_is_named_by_its_line_and_the_rest_is_read(self) -> None:
        text = (
            "part_number,width,touch,signal,outline_w_mm\n"
            "A,1366,no,eDP,\n"
            "B,wide,no,eDP,\n"
            "C,-4,no,eDP,\n"
            ",1366,no,eDP,\n"
            "a,1366,no,eDP,\n"
            "D,1366,perhaps,eDP,\n"
            "E,1366,no,smoke,\n"
            "F,1366,no,eDP,320\n"
            "G,1,2,3,4,5\n"
            "\n"
            "H,1920,yes,LVDS,\n"
        )
        table, rows_read = read(text.encode())
        self.assertEqual([r.name for r in rows_read], ["A", "H"])
        for (line, words), fault in zip(
            (
                (3, "width: 'wide' is no number"),
                (4, "width"),
                (5, "no part number"),
                (6, "in line 2 already"),
                (7, "neither yes nor no"),
                (8, "signal: 'smoke' is none of"),
                (9, "both outline_w_mm"),
                (10, "6 cells for 5 columns"),
            ),
            table.faults,
            strict=True,
        ):
            self.assertEqual(fault.line, line)
            self.assertIn(words, fault.text)

    def test_what_is_no_table_of_panels_is_refused(self) -> None:
        for data, words in (
            (b"", "a column 'part_number' is needed"),
            (b"name,width\nA,1\n", "a column 'part_number' is needed"),
            (b"part_number,widht\nA,1\n", "Did you mean 'width'"),
            (b"part_number,part_number\nA,1\n", "there twice"),
            (b"PK\x03\x04\x00\x00", "no CSV"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                read(data)

    def test_formulas_are_told_as_text(self) -> None:
        text = write_panels([("=1+1", "@sum", PanelSpec(connector_family="-x"))])
        self.assertIn("'=1+1,'@sum", text)
        row = read(text.encode())[1][0]
        self.assertEqual((row.name, row.maker, row.spec.connector_family), ("=1+1", "@sum", "-x"))
