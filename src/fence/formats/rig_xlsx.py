"""A rig as a workbook: all fixtures on one sheet, and a sheet for each universe.

The first sheet is the table of the CSV, and is read as such; the others are for people.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Any

from fence.core.model.show import Show
from fence.formats.csv_cells import MOST_COLUMNS
from fence.formats.errors import FileError
from fence.formats.packages import MOST_UNPACKED, Package
from fence.formats.rig_csv import MOST_ROWS, write_rig_csv

WHAT = "a workbook (.xlsx)"
RIG = "Rig"
HEAD_FILL, HEAD_FONT = "FF2B3A42", "FFFFFFFF"
WIDEST = 40
OF_A_UNIVERSE = ("start", "to", "channels", "label", "type", "mode", "position")


def write_rig_xlsx(show: Show) -> bytes:
    """The rig as a workbook, the heads frozen."""
    from openpyxl import Workbook  # loaded when it is needed

    book = Workbook()
    sheet = book.active
    sheet.title = RIG
    _fill(sheet, list(csv.reader(io.StringIO(write_rig_csv(show)))))
    for number in show.carried:
        rows: list[Sequence[object]] = [OF_A_UNIVERSE]
        for placed in show.runs_in(number):
            fixture, run = placed.fixture, placed.run
            profile = show.profile_of(fixture)
            rows.append(
                (
                    run.first,
                    run.last,
                    run.last - run.first + 1,
                    fixture.label,
                    profile.title if profile else "",
                    fixture.mode,
                    fixture.position,
                )
            )
        _fill(book.create_sheet(f"U{number}"), rows)
    found = io.BytesIO()
    book.save(found)
    return found.getvalue()


def _fill(sheet: Any, rows: Sequence[Sequence[object]]) -> None:
    """A table with its head, as wide as what stands in it. Text stays text: no cell begins a
    formula."""
    from openpyxl.styles import Font, PatternFill

    widths: dict[int, int] = {}
    for at, row in enumerate(rows, 1):
        for column, held in enumerate(row, 1):
            number = isinstance(held, str) and held.isascii() and held.isdigit() and len(held) < 10
            cell = sheet.cell(at, column, int(held) if number and at > 1 else held)  # type: ignore[call-overload]
            if isinstance(cell.value, str):
                cell.data_type = "s"
            widths[column] = max(widths.get(column, 0), len(str(held)))
            if at == 1:
                cell.font = Font(bold=True, color=HEAD_FONT)
                cell.fill = PatternFill("solid", start_color=HEAD_FILL)
    for column, width in widths.items():
        letter = sheet.cell(1, column).column_letter
        sheet.column_dimensions[letter].width = min(WIDEST, width + 3)
    sheet.freeze_panes = "A2"


def table_of(data: bytes) -> bytes:
    """The first sheet of a workbook as CSV; ``FileError`` says why there is none."""
    package = Package(data, WHAT)
    for name in package.names:
        if name.startswith("xl/"):
            package.read(name, MOST_UNPACKED)  # what fills any memory is refused here
    from openpyxl import load_workbook

    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
        sheet = book.worksheets[0]
        out = io.StringIO()
        writer = csv.writer(out)
        for count, row in enumerate(sheet.iter_rows(values_only=True, max_col=MOST_COLUMNS)):
            if count > MOST_ROWS:
                raise FileError(f"The sheet has more than {MOST_ROWS:,} rows.")
            if any(held is not None for held in row):
                writer.writerow([_text(held) for held in row])
    except FileError:
        raise
    except Exception as error:  # whatever a damaged file makes of the parser is one message
        raise FileError(f"The workbook cannot be read ({type(error).__name__}).") from None
    return out.getvalue().encode()


def _text(held: object) -> str:
    if held is None:
        return ""
    if isinstance(held, float) and held.is_integer():
        return str(int(held))
    return str(held)
