"""Files that a page hands out."""

from __future__ import annotations

from flask import Response


def csv_file(text: str, name: str) -> Response:
    """A CSV file to be saved under a name; ``name`` is a slug, so that it needs no quoting."""
    headers = {"Content-Disposition": f'attachment; filename="{name}.csv"'}
    return Response(text, content_type="text/csv; charset=utf-8", headers=headers)
