"""What to bring: on a page, to print, and as CSV."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from datetime import datetime
from io import StringIO

from flask import Blueprint, Response

from fence.core.lines.bring import PullList, pull_list
from fence.core.model.text import slug
from fence.formats.csv_cells import as_text
from fence.store.shows import SavedShow
from fence.web.downloads import csv_file
from fence.web.frame import Frame, frame
from fence.web.lines.page import reasons_of
from fence.web.pages import load, local_time
from fence.web.showing import Showing

blueprint = Blueprint("pull", __name__, url_prefix="/shows/<int:show_id>/lines")


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesPull(Showing):
    """What is shown by ``lines/pull.html``."""

    template = "lines/pull.html"
    frame: Frame
    saved: SavedShow
    pull: PullList
    made: datetime
    open_ends: list[tuple[str, str]]


@blueprint.get("/pull")
def index(show_id: int) -> str:
    """The cables by type and length, the pieces between them, and every cable run with its mark."""
    saved = load(show_id)
    return LinesPull(
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
    ).rendered()


@blueprint.get("/pull.csv")
def as_csv(show_id: int) -> Response:
    """Every cable run as a row."""
    saved = load(show_id)
    out = StringIO()
    rows = csv.writer(out)
    rows.writerow(["run", "line", "from", "to", "cable", "plugs", "metres", "pieces", "rent"])
    for run in pull_list(saved.show).runs:
        length = "" if run.length is None else f"{run.length:g}"
        texts = map(as_text, (run.line, run.begin, run.end))
        rows.writerow(
            [
                run.mark,
                *texts,
                run.cable,
                run.plugs,
                length,
                run.words,
                "yes" if run.made and run.made.rented else "",
            ]
        )
    return csv_file(out.getvalue(), f"{slug(saved.show.name, 'show')}-cables")
