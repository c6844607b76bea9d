"""Charts as files: one chart, the whole library, and reading charts in with a look at them
first."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import PurePath

from flask import Blueprint, Response, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.charts.remarks import ChartRemark, check_chart
from fence.core.model.errors import EditError
from fence.core.model.profile import Profile
from fence.core.model.text import counted, slug
from fence.formats.channel_csv import write_channels_csv
from fence.formats.chart_files import read_with_notes, write_charts_json
from fence.formats.errors import FileError
from fence.formats.gdtf.writing import write_gdtf
from fence.web.charts.forms import FilesStep
from fence.web.downloads import csv_file
from fence.web.frame import Frame, frame
from fence.web.pages import drafts, library, load, who
from fence.web.showing import Showing

blueprint = Blueprint("chart_files", __name__, url_prefix="/shows/<int:show_id>/charts/files")

KIND = "charts:"
TYPES = {
    "json": "application/json",
    "csv": "text/csv; charset=utf-8",
    "gdtf": "application/octet-stream",
}


@blueprint.get("/library.json")
def export_library(show_id: int) -> Response:
    """All charts that can be planned with, in one file."""
    load(show_id)
    return _download(write_charts_json(library().profiles()), "fence-charts.json")


@blueprint.get("/<chart_id>.<any(csv, json, gdtf):ending>")
def export(show_id: int, chart_id: str, ending: str) -> Response:
    """One chart: all of it as JSON, its channels as CSV, and as a fixture type as much as the
    standard carries."""
    profile = load(show_id).show.profile_by_id.get(chart_id) or library().newest(chart_id)
    if profile is None:
        raise EditError("There is no such chart.")
    stem = PurePath(chart_id).name[:60] or "chart"
    name = f"{stem}.{ending}"
    if ending == "gdtf":
        return _download(write_gdtf(profile), name)
    if ending == "csv":
        return csv_file(write_channels_csv(profile), slug(stem, "chart"))
    return _download(write_charts_json([profile]), name)


def _download(text: str | bytes, name: str) -> Response:
    response = Response(text, content_type=TYPES[name.rpartition(".")[2]])
    response.headers.set("Content-Disposition", "attachment", filename=name)
    return response


@dataclass(frozen=True, slots=True)
class Incoming:
    """A chart of a file beside what the library holds under its id. ``same`` when nothing would
    change."""

    profile: Profile
    held: Profile | None
    same: bool
    remarks: tuple[ChartRemark, ...]
    notes: tuple[str, ...] = ()


@blueprint.post("")
def upload(show_id: int) -> BaseResponse:
    """Take a file and show what is in it."""
    load(show_id)
    file = request.files.get("file")
    if file is None or not file.filename:
        raise FileError("Choose a .json, .csv or .gdtf file with charts.")
    data = file.read()
    read_with_notes(file.filename, data, library().profiles())
    draft = drafts().keep(f"{KIND}{PurePath(file.filename).name}", data)
    return redirect(url_for("chart_files.preview", show_id=show_id, draft_id=draft.id))


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsImport(Showing):
    """What is shown by ``charts/import.html``."""

    template = "charts/import.html"
    frame: Frame
    incoming: list[Incoming]


@blueprint.get("/import/<draft_id>")
def preview(show_id: int, draft_id: str) -> str:
    """What the file holds, before anything is kept."""
    saved = load(show_id)
    return ChartsImport(
        frame=frame(saved, "Charts"),
        incoming=_incoming(draft_id),
    ).rendered()


def _incoming(draft_id: str) -> list[Incoming]:
    draft = drafts().get(draft_id)
    if not draft.filename.startswith(KIND):
        raise FileError("That file holds no charts.")
    found = []
    name = draft.filename.removeprefix(KIND)
    for profile, notes in read_with_notes(name, draft.content, library().profiles()):
        held = library().newest(profile.id)
        same = held is not None and replace(profile, revision=held.revision) == held
        found.append(Incoming(profile, held, same, check_chart(profile), notes))
    return found


@blueprint.post("/import/<draft_id>")
def confirm(show_id: int, draft_id: str) -> BaseResponse:
    """Keep the ticked charts: new ones as they are, known ones as their next revision."""
    form = FilesStep.sent()
    wanted = set(form.chart.data)
    kept = 0
    for entry in _incoming(draft_id):
        if entry.profile.id in wanted:
            library().save(entry.profile, who=who())
            kept += 1
    drafts().drop(draft_id)
    flash(f"{counted(kept, 'chart')} in the library.")
    return redirect(url_for("charts.index", show_id=show_id))
