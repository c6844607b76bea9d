"""Files that a page hands out."""

from __future__ import annotations

from codecs import BOM_UTF8

from flask import Response, request, session

from fence.formats.csv_cells import Delimiter, parted_by
from fence.web.fields import Asked, Flag, OneOf


class CsvLink(Asked):
    """How a spreadsheet wants its CSV: what parts the cells, and whether it is marked as UTF-8."""

    delimiter = OneOf(Delimiter, otherwise=Delimiter.COMMA)
    marked = Flag(default=False)


def csv_liked() -> tuple[Delimiter, bool]:
    """How this browser wants CSV: as the link says, which is remembered, else as it was chosen
    last; with commas and unmarked where it never was."""
    if "delimiter" in request.args:
        asked = CsvLink.linked()
        session.permanent = True
        session["csv"] = [str(asked.delimiter.data), asked.marked.data]
    held = session.get("csv")
    if not isinstance(held, list) or len(held) != 2 or held[0] not in set(Delimiter):
        return Delimiter.COMMA, False
    return Delimiter(held[0]), bool(held[1])


def csv_file(text: str, name: str) -> Response:
    """A CSV file to be saved under a name, parted and marked as this browser wants it; ``name`` is
    a slug, so that it needs no quoting."""
    delimiter, marked = csv_liked()
    data = parted_by(text, delimiter).encode("utf-8", "replace")
    headers = {"Content-Disposition": f'attachment; filename="{name}.csv"'}
    return Response(
        BOM_UTF8 + data if marked else data,
        content_type="text/csv; charset=utf-8",
        headers=headers,
    )
