"""Rigs as workbooks, and tables as spreadsheets save them."""

from __future__ import annotations

from io import BytesIO

import pytest
from openpyxl import Workbook, load_workbook

from fence.demo import demo_show
from fence.formats.errors import FileError
from fence.formats.files import read_rig
from fence.formats.rig_csv import read_rig_csv, write_rig_csv
from fence.formats.rig_xlsx import write_rig_xlsx


def test_a_rig_comes_back_from_a_workbook() -> None:
    """As it does from CSV; the heads are frozen, and each universe has a sheet."""
    show = demo_show()
    data = write_rig_xlsx(show)
    again = read_rig("rig.xlsx", data, known=show.profiles)
    by_csv = read_rig("rig.csv", write_rig_csv(show).encode(), known=show.profiles)
    assert again.fixtures == by_csv.fixtures
    book = load_workbook(BytesIO(data))
    assert book.sheetnames == ["Rig", *(f"U{number}" for number in show.carried)]
    assert all(sheet.freeze_panes == "A2" for sheet in book)
    first = show.runs_in(1)[0]
    row = [cell.value for cell in book["U1"][2]]
    assert row[:4] == [
        first.run.first,
        first.run.last,
        first.run.last - first.run.first + 1,
        first.fixture.label,
    ]


def test_no_cell_begins_a_formula() -> None:
    """Whatever a label looks like."""
    data = b"label,channels\n=1+1,5\n@SUM(A1),5\n"
    show = read_rig("rig.csv", data)
    sheet = load_workbook(BytesIO(write_rig_xlsx(show)))["Rig"]
    assert all(cell.data_type != "f" for row in sheet for cell in row)


def test_heads_of_other_languages() -> None:
    """A workbook of somebody else: heads in German, numbers as numbers, a sheet of notes behind."""
    book = Workbook()
    sheet = book.active
    sheet.append(["Nummer", "Bezeichnung", "Kanäle", "Universum", "Adresse"])
    sheet.append([7, "Säule", 5.0, 2, 101])
    book.create_sheet("Notizen").append(["nichts"])
    found = BytesIO()
    book.save(found)
    (fixture,) = read_rig("rig.xlsx", found.getvalue()).fixtures
    assert (fixture.number, fixture.label, fixture.planned_at) == (7, "Säule", "U2 101")


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_tables_as_spreadsheets_save_them(encoding: str) -> None:
    """Letters beyond ASCII come through in each."""
    text = "label;channels\r\nSäule – groß;5\r\n"
    reading = read_rig_csv(text.encode(encoding))
    assert [row.fixture.label for row in reading.understood] == ["Säule – groß"]


def test_what_is_no_text() -> None:
    """Bytes that no spreadsheet writes are refused, with what is accepted."""
    for data in (b"label,channels\n\x81\x8d,5\n", b"\xff\xfelabel\x00,\x00\xd8"):
        with pytest.raises(FileError, match="UTF-16 and Windows-1252"):
            read_rig_csv(data)
