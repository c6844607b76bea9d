"""Importing a file: what was understood, what was refused and why, before anything is saved."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import PurePath
from re import split

from flask import Blueprint, flash, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.changes import edits
from fence.core.checks import Analysis, analyse
from fence.core.words.fixture import Fixture
from fence.core.words.show import Show
from fence.formats.errors import FileError
from fence.formats.files import ending_of
from fence.formats.rig_csv import RefusedRow, read_rig_csv
from fence.formats.show_json import read_show_json
from fence.store.shows import Draft
from fence.web.errors import answer
from fence.web.frame import frame
from fence.web.pages import library, load, load_for_edit, save, store, who
from fence.web.shows.forms import ImportForm

blueprint = Blueprint("imports", __name__)

ROWS_SHOWN = 300
MENDABLE_ROWS = 100


@dataclass(frozen=True, slots=True)
class RowSeen:
    """A row of the preview."""

    line: int
    fixture: Fixture
    remark: str


@dataclass(frozen=True, slots=True)
class Preview:
    """What a waiting file would become."""

    draft: Draft
    show: Show
    rows: tuple[RowSeen, ...]
    refused: tuple[RefusedRow, ...]
    noted_columns: tuple[str, ...]
    header: str
    analysis: Analysis


def preview_of(draft: Draft) -> Preview:
    """Read a waiting file; ``FileError`` where it cannot be read as a whole."""
    stem = PurePath(draft.filename).stem or "Imported rig"
    if ending_of(draft.filename) == ".json":
        show = read_show_json(draft.content)
        rows = tuple(RowSeen(place, fixture, "") for place, fixture in enumerate(show.fixtures, 1))
        return Preview(draft, show, rows, (), (), "", analyse(show))
    reading = read_rig_csv(draft.content, name=stem, known=library().profiles())
    rows = tuple(RowSeen(row.line, row.fixture, row.remark) for row in reading.understood)
    return Preview(
        draft, reading.show, rows, reading.refused, reading.noted_columns, reading.header, analyse(reading.show)
    )


@blueprint.post("/import")
def upload() -> BaseResponse:
    """Take a file and show what it is understood as."""
    form = ImportForm()
    if not form.validate():
        return answer("No file came with the form. Choose a .csv or .json file.", 422)
    data = form.file.data.read()
    filename = PurePath(form.file.data.filename or "").name
    ending_of(filename)
    preview_of(Draft("", filename, data))
    draft = store().keep_draft(filename, data)
    into = request.form.get("into", type=int)
    return redirect(url_for("imports.preview", draft_id=draft.id, into=into))


@blueprint.get("/import/<draft_id>")
def preview(draft_id: str) -> str:
    """What was understood, row by row, and what was refused."""
    into = request.args.get("into", type=int)
    return _preview(store().draft(draft_id), into)


def _preview(draft: Draft, into: int | None, **typed: object) -> str:
    target = load(into) if into else None
    found = preview_of(draft)
    return render_template(
        "shows/import.html",
        found=found,
        shown=found.rows[:ROWS_SHOWN],
        mendable=[row for row in found.refused if "\n" not in row.text][:MENDABLE_ROWS],
        target=target,
        frame=frame(target, "Rig") if target else None,
        **{"name": found.show.name, **typed},
    )


@blueprint.post("/import/<draft_id>/rows")
def mend_rows(draft_id: str) -> BaseResponse:
    """Put the corrected text of refused rows into the waiting file and read it again."""
    draft = store().draft(draft_id)
    lines = split(r"\r\n|\r|\n", draft.content.decode("utf-8-sig"))
    for line, text in zip(request.form.getlist("line", type=int), request.form.getlist("text"), strict=False):
        if 1 < line <= len(lines):
            lines[line - 1] = text.replace("\r", " ").replace("\n", " ")
    store().keep_draft(draft.filename, "\n".join(lines).encode("utf-8"), draft_id=draft.id)
    return redirect(url_for("imports.preview", draft_id=draft.id, into=request.form.get("into", type=int)))


@blueprint.post("/import/<draft_id>/save")
def confirm(draft_id: str) -> BaseResponse | tuple[str, int]:
    """Save what was understood: all of it in one step, or nothing."""
    draft = store().draft(draft_id)
    found = preview_of(draft)
    into = request.form.get("into", type=int)
    if not found.rows and found.refused:
        raise FileError("No row was understood, so there is nothing to save.")
    if found.refused and not request.form.get("leave_out"):
        raise FileError(f"{len(found.refused)} rows are refused: mend them, or say that they are left out.")
    if into:
        before = load_for_edit(into, request.form.get("revision", type=int))
        save(before, edits.merge_rig(before.show, found.show))
        target = into
    else:
        name = (request.form.get("name") or "").strip()
        if not name:
            return _preview(draft, None, name="", problem="A name is needed: it cannot be empty."), 422
        target = store().create(replace(found.show, name=name), who=who()).id
    store().drop_draft(draft_id)
    flash(f"{len(found.rows)} fixtures saved.")
    return redirect(url_for("rig.index", show_id=target))
