"""Charts in spreadsheets and text files, as the text that the reader of charts takes: a sheet is a
table."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, time
from pathlib import PurePath
from typing import Any

from fence.core.charts.reading import MOST_CHARACTERS, MOST_LINES
from fence.core.model.text import counted
from fence.formats.errors import MOST_BYTES, FileError, decoded

MOST_SHEETS = 30
MOST_COLUMNS = 64
MOST_UNPACKED = 64 * 1024 * 1024
"""Bytes that a workbook may have when it is unpacked: a small file can be made to fill any
memory."""
LONGEST_CELL = 300
ACCEPTED = "Accepted: a workbook (.xlsx), a .csv or a text file in UTF-8."
DEFAULT_TITLE = re.compile(
    r"(?:sheet|tabelle|feuil(?:le)?|hoja|foglio|blad|planilha|folha)\s*\d*", re.I
)
"""Titles that a spreadsheet gives by itself: they name nothing."""


@dataclass(frozen=True, slots=True)
class ChartText:
    """The text of a file, and what to say about how it came to be."""

    text: str
    notes: tuple[str, ...] = ()


def read_chart_file(name: str, data: bytes) -> ChartText:
    """The text of a chart's file: of a workbook each sheet as a table, of anything else the text as
    it stands.

    ``FileError`` for what cannot be read, with what is accepted.
    """
    if len(data) > MOST_BYTES:
        raise FileError(
            f"The file has {len(data) / 1024 / 1024:.0f} MB. Use up to {MOST_BYTES // 2**20} MB."
        )
    ending = PurePath(name).suffix.lower()
    if data[:4] == b"PK\x03\x04":
        return _workbook(data)
    if data[:4] == b"\xd0\xcf\x11\xe0" or ending == ".xls":
        raise FileError(f"This is an old workbook (.xls): save it as .xlsx or .csv. {ACCEPTED}")
    if ending == ".xlsx":
        raise FileError(f"This is called .xlsx and is not a workbook. {ACCEPTED}")
    if data[:5] == b"%PDF-":
        raise FileError(
            f"This is a PDF: open it, mark the table, copy it and paste it here. {ACCEPTED}"
        )
    return ChartText(decoded(data))


def _workbook(data: bytes) -> ChartText:
    from openpyxl import load_workbook  # loaded when it is needed

    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            unpacked = sum(member.file_size for member in packed.infolist())
        if unpacked > MOST_UNPACKED:
            raise FileError(
                f"The workbook unpacks to {unpacked / 2**20:.0f} MB. Use "
                f"{MOST_UNPACKED // 2**20} MB."
            )
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
    except FileError:
        raise
    except Exception as error:  # whatever a damaged file makes of the parser is one message
        raise FileError(
            f"The workbook cannot be read ({type(error).__name__}). {ACCEPTED}"
        ) from None
    blocks: list[str] = []
    dates, cut = 0, len(book.worksheets) > MOST_SHEETS
    try:
        for sheet in book.worksheets[:MOST_SHEETS]:
            rows = list(_rows(sheet))
            dates += sum(isinstance(value, date) for row in rows for value, _ in row)
            lines = [line for row in rows if (line := _line(row)).strip()]
            if not lines:
                continue
            titled = len(book.worksheets) > 1 and not DEFAULT_TITLE.fullmatch(sheet.title.strip())
            blocks.append("\n".join([f"Mode: {sheet.title.strip()}", *lines] if titled else lines))
            cut = cut or len(rows) >= MOST_LINES
    except Exception as error:  # sheets are unpacked while they are read
        raise FileError(f"A sheet cannot be read ({type(error).__name__}). {ACCEPTED}") from None
    finally:
        book.close()
    text = "\n\n".join(blocks)
    if not text.strip():
        raise FileError(f"The workbook has no filled cells. {ACCEPTED}")
    notes = []
    if dates:
        notes.append(
            f"{counted(dates, 'cell')} had become a date, as spreadsheets make of levels such as "
            "1-12: "
            "read as day and month. Look at their levels."
        )
    if cut or len(text) > MOST_CHARACTERS:
        notes.append(
            f"Not all of it is taken. Use {MOST_SHEETS} sheets, {MOST_LINES} rows and "
            f"{MOST_CHARACTERS:,} characters."
        )
    return ChartText(text[:MOST_CHARACTERS], tuple(notes))


def _rows(sheet: Any) -> Iterator[list[tuple[object, str]]]:
    """The filled rows of a sheet with the format of each cell, as far as they are read."""
    for row in sheet.iter_rows(max_row=MOST_LINES, max_col=MOST_COLUMNS):
        cells = [(cell.value, getattr(cell, "number_format", "") or "") for cell in row]
        while cells and cells[-1][0] in (None, ""):
            cells.pop()
        if cells:
            yield cells


def _line(row: list[tuple[object, str]]) -> str:
    return "\t".join(_text(value, number_format) for value, number_format in row)


def _text(value: object, number_format: str) -> str:
    """A cell as a person sees it; a date that levels were taken for is day and month again."""
    if value is None:
        return ""
    if isinstance(value, datetime | date):
        month_first = number_format.lower().find("m") < number_format.lower().find("d")
        pair = (value.month, value.day) if month_first else (value.day, value.month)
        return (
            f"{min(pair)}-{max(pair)}" if value.day != value.month else f"{value.day}-{value.month}"
        )
    if isinstance(value, time):
        return value.strftime("%H:%M")
    if isinstance(value, float):
        if "%" in number_format:
            return f"{value * 100:.10g}%"
        return f"{value:.10g}"
    if isinstance(value, int) and "%" in number_format:
        return f"{value * 100}%"
    return " ".join(str(value).split())[:LONGEST_CELL]
