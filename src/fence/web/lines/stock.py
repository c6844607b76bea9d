"""What lies in the venue's store: pasted or read from CSV, shown as a table."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import FenceError
from fence.core.model.text import counted, slug
from fence.formats.stock_csv import COLUMNS, read_stock_csv, write_stock_csv
from fence.store.shows import SavedShow
from fence.web.downloads import csv_file
from fence.web.frame import Frame, frame
from fence.web.lines.forms import StockStep
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("stock", __name__, url_prefix="/shows/<int:show_id>/lines/stock")


@blueprint.get("")
def index(show_id: int) -> str:
    """The stock, to be read and changed."""
    saved = load(show_id)
    return _page(saved, write_stock_csv(saved.show.stock) if saved.show.stock else "", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesStock(Showing):
    """What is shown by ``lines/stock.html``."""

    template = "lines/stock.html"
    frame: Frame
    saved: SavedShow
    text: str
    problem: str
    columns: tuple[str, ...]


def _page(saved: SavedShow, text: str, problem: str) -> str:
    return LinesStock(
        frame=frame(saved, "Lines"),
        saved=saved,
        text=text,
        problem=problem,
        columns=COLUMNS,
    ).rendered()


@blueprint.post("")
def take(show_id: int) -> BaseResponse | tuple[str, int]:
    """Keep the stock as it stands in the text, or in a file."""
    form = StockStep.sent()
    before = load_for_edit(show_id)
    file = request.files.get("file")
    data = file.read() if file and file.filename else form.text.data.encode()
    try:
        after = edits.set_stock(before.show, read_stock_csv(data) if data.strip() else ())
    except FenceError as error:
        return _page(
            before, data.decode("utf-8-sig", "replace").replace("\0", "�"), str(error)
        ), 422
    save(before, after)
    flash(
        f"The stock has {counted(len(after.stock), 'line')} now."
        if after != before.show
        else "Nothing to change."
    )
    return redirect(url_for("stock.index", show_id=show_id))


@blueprint.get("/stock.csv")
def as_csv(show_id: int) -> Response:
    """The stock as a file."""
    show = load(show_id).show
    return csv_file(write_stock_csv(show.stock), f"{slug(show.name, 'show')}-stock")
