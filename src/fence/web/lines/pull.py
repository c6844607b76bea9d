"""What to bring: on a page, to print, and as CSV."""

from __future__ import annotations

import csv
from io import StringIO

from flask import Blueprint, Response, render_template

from fence.core.lines.bring import pull_list
from fence.core.model.text import slug
from fence.formats.csv_cells import as_text
from fence.web.downloads import csv_file
from fence.web.frame import frame
from fence.web.lines.page import reasons_of
from fence.web.pages import load, local_time

blueprint = Blueprint("pull", __name__, url_prefix="/shows/<int:show_id>/lines")


@blueprint.get("/pull")
def index(show_id: int) -> str:
    """The cables by type and length, the pieces between them, and every hop with its mark."""
    saved = load(show_id)
    return render_template(
        "lines/pull.html",
        frame=frame(saved, "Lines"),
        saved=saved,
        pull=pull_list(saved.show),
        made=local_time(),
        open_ends=[
            (f"{line.name} behind {name}", reason)
            for line in saved.show.lines
            for name, reason in reasons_of(saved.show, line)
            if reason
        ],
    )


@blueprint.get("/pull.csv")
def as_csv(show_id: int) -> Response:
    """Every hop as a row."""
    saved = load(show_id)
    out = StringIO()
    rows = csv.writer(out)
    rows.writerow(["hop", "line", "from", "to", "cable", "plugs", "metres", "pieces", "rent"])
    for hop in pull_list(saved.show).hops:
        length = "" if hop.length is None else f"{hop.length:g}"
        texts = map(as_text, (hop.line, hop.begin, hop.end))
        rows.writerow(
            [
                hop.mark,
                *texts,
                hop.cable,
                hop.plugs,
                length,
                hop.words,
                "yes" if hop.made and hop.made.rented else "",
            ]
        )
    return csv_file(out.getvalue(), f"{slug(saved.show.name, 'show')}-cables")
