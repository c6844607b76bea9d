"""Workbooks and text files with charts: each sheet a table, limits, and what a spreadsheet did to
levels."""

from __future__ import annotations

import io
import zipfile
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook

from fence.core.charts.reading import read_chart_text
from fence.formats.chart_sheets import MOST_SHEETS, read_chart_file
from fence.formats.errors import FileError
from tests.examples import examples

Rows = list[list[object]]


def workbook(sheets: dict[str, Rows]) -> bytes:
    book = Workbook()
    book.remove(book.active)
    for title, rows in sheets.items():
        sheet = book.create_sheet(title)
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


LEAN: Rows = [
    ["Ch", "Function", "Value", "Meaning"],
    [1, "Dimmer", "0-255", None],
    [2, "Red", "0-255", None],
]
FULL: Rows = [
    ["Ch", "Function", "Value", "Meaning"],
    [1, "Dimmer", "0-255", None],
    [2, "Strobe", "0-9", "off"],
    [None, None, "10-255", "slow to fast"],
    [3.0, "Red", "0-255", None],
]


def test_each_sheet_is_a_table_and_names_its_mode() -> None:
    """Two sheets are two modes; titles that the spreadsheet gives by itself name none."""
    read = read_chart_file("Bog Wash.xlsx", workbook({"Lean": LEAN, "Full": FULL}))
    modes = read_chart_text(read.text).modes
    assert [(mode.name, [str(c.function) for c in mode.channels]) for mode in modes] == [
        ("Lean", ["dimmer", "red"]),
        ("Full", ["dimmer", "shutter/strobe", "red"]),
    ]
    assert [(r.first, r.last, r.meaning) for r in modes[1].channels[1].ranges] == [
        (0, 9, "off"),
        (10, 255, "slow to fast"),
    ]
    plain = read_chart_text(
        read_chart_file("x.xlsx", workbook({"Sheet1": LEAN, "Sheet2": FULL})).text
    )
    assert [mode.name for mode in plain.modes] == ["2 channel", "3 channel"]


def test_levels_that_became_dates_are_levels_again_and_told() -> None:
    """A spreadsheet makes a date of 1-12: the levels come back, and the person is told to look."""
    rows: Rows = [
        ["Ch", "Function", "Value", "Meaning"],
        [1, "Shutter", date(2026, 12, 1), "closed"],
    ]
    read = read_chart_file("x.xlsx", workbook({"Sheet": rows}))
    assert "1 cell had become a date" in read.notes[0]
    assert [(r.first, r.last) for r in read_chart_text(read.text).modes[0].channels[0].ranges] == [
        (1, 12)
    ]


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("x.xlsx", b"PK\x03\x04 broken", "cannot be read"),
        ("x.xlsx", b"hello", "is not a workbook"),
        ("x.xls", b"\xd0\xcf\x11\xe0\xa1", "save it as .xlsx"),
        ("x.pdf", b"%PDF-1.7", "This is a PDF"),
        ("x.txt", b"\xff\xfe\x00", "not UTF-8"),
        ("x.csv", b"", "empty"),
        ("x.xlsx", workbook({"Sheet": []}), "no filled cells"),
        ("x.csv", b"x" * (17 * 1024 * 1024), "Use up to 16 MB"),
    ],
)
def test_what_is_no_chart_is_told_with_what_is_accepted(name: str, data: bytes, words: str) -> None:
    """One message that says what is wrong and what is accepted."""
    with pytest.raises(FileError, match=words):
        read_chart_file(name, data)


def test_a_workbook_that_unpacks_to_too_much_is_not_opened() -> None:
    """A small file can be made to fill any memory: its size is looked at before it is unpacked."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"0" * (80 * 1024 * 1024))
    assert len(out.getvalue()) < 200_000
    with pytest.raises(FileError, match="unpacks to 80 MB"):
        read_chart_file("x.xlsx", out.getvalue())


def test_more_sheets_than_are_read_are_told() -> None:
    """What is beyond the limit is said."""
    read = read_chart_file("x.xlsx", workbook({f"M{n}": LEAN for n in range(MOST_SHEETS + 2)}))
    assert any("Not all of it is taken" in note for note in read.notes)


WHOLE = workbook({"Lean": LEAN, "Full": FULL})


@examples(150)
@given(st.data())
def test_damaged_workbooks_are_refused_or_read(data: st.DataObject) -> None:
    """Whatever is changed in a workbook, it is text or one message."""
    damaged = bytearray(WHOLE)
    for _ in range(data.draw(st.integers(1, 12))):
        damaged[data.draw(st.integers(0, len(damaged) - 1))] = data.draw(st.integers(0, 255))
    cut = data.draw(st.integers(len(damaged) // 2, len(damaged)))
    try:
        said = read_chart_file("x.xlsx", bytes(damaged[:cut])).text
    except FileError as error:
        said = str(error)
    assert said
