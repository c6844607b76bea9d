"""Importing a file: what was understood, what was refused and why, before anything is saved."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path, PurePath
from re import split

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.checks import Analysis, analyse
from fence.core.edits.arriving import ALL_COLUMNS, differing, take_over, who_is_who
from fence.core.edits.prose import describe
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Profile
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.disk import DiskError
from fence.formats.errors import FileError
from fence.formats.files import ending_of, read_table
from fence.formats.rig_csv import COLUMNS, NOTE, HeadsError, RefusedRow, column_of, head_of
from fence.formats.scenes import Missing
from fence.formats.show_json import read_show_json
from fence.store.drafts import Draft
from fence.store.keeping import IMPORT, keep
from fence.store.shows import SavedShow
from fence.web.errors import answer
from fence.web.frame import Frame, frame
from fence.web.outcome import Outcome, outcome_of
from fence.web.pages import drafts, library, load, load_for_edit, pages, save, store, who
from fence.web.showing import Showing
from fence.web.shows.forms import ImportForm, ImportsEither, ImportsLink, ImportsStep

blueprint = Blueprint("imports", __name__)

ROWS_SHOWN = 300
MENDABLE_ROWS = 100
MOST_CHOSEN = 1000
"""Types of a scene for which somebody chooses a chart."""


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
    columns: tuple[str, ...]
    notes: tuple[str, ...] = ()
    missing: tuple[Missing, ...] = ()


@dataclass(frozen=True, slots=True)
class ChangedFixture:
    """A fixture of the show that the file changes: what, before and after."""

    fixture: Fixture
    what: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True)
class Meeting:
    """What a file would do to the show that it is read into."""

    changed: tuple[ChangedFixture, ...]
    same: int
    added: tuple[Fixture, ...]
    missing: tuple[Fixture, ...]
    outcome: Outcome


def meeting_of(target: SavedShow, found: Preview, *, drop_missing: bool = False) -> Meeting:
    """Who of the file is who in the show, and how the show would be judged."""
    show = target.show
    key = target.key
    after = take_over(show, found.show, found.columns, drop_missing=drop_missing, key=key)
    arrivals = who_is_who(show, found.show, found.columns, key)
    known = [arrival.held for arrival in arrivals.each if arrival.held]
    changed = [
        ChangedFixture(held, tuple(what))
        for held in known
        if (what := differing(held, after.fixture_by_id[held.id]))
    ]
    return Meeting(
        tuple(changed),
        len(known) - len(changed),
        tuple(fixture for fixture in after.fixtures if fixture.id not in show.fixture_by_id),
        arrivals.missing,
        outcome_of(show, after, target.analysis),
    )


def preview_of(
    draft: Draft, target: Show | None = None, instead: Mapping[str, str] | None = None
) -> Preview:
    """Read a waiting file; ``FileError`` where it cannot be read as a whole. ``instead`` are charts
    for types that a scene lacks."""
    ending = ending_of(draft.filename)
    if ending == ".json":
        show = read_show_json(draft.content)
        return Preview(draft, show, _rows(show), (), (), "", analyse(show), tuple(ALL_COLUMNS))
    known = [*library().profiles(), *(target.profiles if target else ())]
    if ending == ".mvr":
        return _scene(draft, known, instead or {})
    heads = pages().heads.all()
    reading = read_table(draft.filename, draft.content, known=known, heads=heads)
    rows = tuple(RowSeen(row.line, row.fixture, row.remark) for row in reading.understood)
    return Preview(
        draft,
        reading.show,
        rows,
        reading.refused,
        reading.noted_columns,
        reading.header,
        analyse(reading.show),
        (*reading.columns, *(("note",) if reading.noted_columns else ())),
    )


def _rows(show: Show) -> tuple[RowSeen, ...]:
    return tuple(RowSeen(place, fixture, "") for place, fixture in enumerate(show.fixtures, 1))


def _scene(draft: Draft, known: Sequence[Profile], instead: Mapping[str, str]) -> Preview:
    """The rig of a scene, with what was left out and which types it lacks."""
    from fence.formats.mvr import SPOKEN_OF, read_mvr  # its packages are slow to load

    stem = PurePath(draft.filename).stem or "Scene"
    scene = read_mvr(draft.content, name=stem, known=known, instead=instead)
    of_types = [
        f"{read.profile.title}, {mode}: {note}"
        for read in scene.types
        for mode, notes in read.of_modes.items()
        for note in notes
        if any((f.profile, f.mode) == (read.profile.id, mode) for f in scene.show.fixtures)
    ]
    return Preview(
        draft,
        scene.show,
        _rows(scene.show),
        (),
        (),
        "",
        analyse(scene.show),
        SPOKEN_OF,
        (*scene.notes, *of_types),
        scene.missing,
    )


def _instead() -> dict[str, str]:
    """Charts for types that a scene lacks, as they were chosen: its name in the scene, a tab, the
    chart."""
    chosen = (one.partition("\t") for one in ImportsEither.either().instead.data[:MOST_CHOSEN])
    return {spec: chart for spec, _, chart in chosen if chart}


@blueprint.post("/import")
def upload() -> BaseResponse:
    """Take a file and show what it is understood as."""
    step = ImportsStep.sent()
    form, into = ImportForm(), step.into.data
    if not form.validate():
        return answer(
            "No file came with the form. Choose a .csv, .json, .xlsx or .mvr file.",
            422,
            _way_back(into),
        )
    data = form.file.data.read()
    filename = PurePath(form.file.data.filename or "").name
    try:
        ending_of(filename)
        preview_of(Draft("", filename, data))
    except HeadsError:
        draft = drafts().keep(filename, data)
        return redirect(url_for("imports.heads", draft_id=draft.id, into=into))
    except FenceError as error:
        return answer(str(error), 422, _way_back(into))
    draft = drafts().keep(filename, data)
    return redirect(url_for("imports.preview", draft_id=draft.id, into=into))


def _way_back(into: int | None) -> str:
    """Where the file was chosen."""
    return url_for("rig.index", show_id=into) if into else url_for("shows.index")


@dataclass(frozen=True, slots=True)
class Head:
    """The head of a column with what stands below it, and the column that it is taken for."""

    words: str
    below: tuple[str, ...]
    column: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowsHeads(Showing):
    """What is shown by ``shows/heads.html``."""

    template = "shows/heads.html"
    draft: Draft
    into: int | None
    heads: list[Head]
    columns: tuple[str, ...]
    problem: str


@blueprint.get("/import/<draft_id>/heads")
def heads(draft_id: str) -> str | BaseResponse:
    """Ask which column is which, where the heads of a table do not say it."""
    into = ImportsLink.linked().into.data
    draft = drafts().get(draft_id)
    try:
        preview_of(draft)
    except HeadsError as error:
        return _heads_page(draft, into, error)
    return redirect(url_for("imports.preview", draft_id=draft_id, into=into))


def _heads_page(draft: Draft, into: int | None, told: HeadsError) -> str:
    known = pages().heads.all()
    return ShowsHeads(
        draft=draft,
        into=into,
        heads=[
            Head(
                words,
                tuple(row[at] for row in told.rows if at < len(row)),
                column_of(words, known),
            )
            for at, words in enumerate(told.heads)
        ],
        columns=(*COLUMNS, NOTE),
        problem=str(told),
    ).rendered()


@blueprint.post("/import/<draft_id>/heads")
def say_heads(draft_id: str) -> BaseResponse:
    """Keep which column is which, for this file and all later ones, and read it again."""
    form = ImportsStep.sent()
    told = dict(zip(map(head_of, form.head.data), form.column.data, strict=False))
    pages().heads.teach({head: of for head, of in told.items() if head}, (*COLUMNS, NOTE))
    return redirect(url_for("imports.heads", draft_id=draft_id, into=form.into.data))


@blueprint.get("/import/<draft_id>")
def preview(draft_id: str) -> str:
    """What was understood, row by row, and what was refused."""
    link = ImportsLink.linked()
    into = link.into.data
    return _preview(drafts().get(draft_id), into)


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowsImport(Showing):
    """What is shown by ``shows/import.html``."""

    template = "shows/import.html"
    found: Preview
    meeting: Meeting | None
    drop: bool
    charts: Sequence[Profile]
    instead: list[str]
    most: int
    shown: tuple[RowSeen, ...]
    mendable: list[RefusedRow]
    target: SavedShow | None
    frame: Frame | None
    name: str
    problem: str


def _preview(draft: Draft, into: int | None, name: str | None = None, problem: str = "") -> str:
    asked = ImportsEither.either()
    target = load(into) if into else None
    found = preview_of(draft, target.show if target else None, _instead())
    drop = asked.drop_missing.data
    return ShowsImport(
        found=found,
        meeting=meeting_of(target, found, drop_missing=drop) if target else None,
        drop=drop,
        charts=library().profiles() if found.missing else (),
        instead=[f"{spec}\t{chart}" for spec, chart in _instead().items()],
        most=ROWS_SHOWN,
        shown=found.rows[:ROWS_SHOWN],
        mendable=[row for row in found.refused if "\n" not in row.text][:MENDABLE_ROWS],
        target=target,
        frame=frame(target, "Rig") if target else None,
        name=found.show.name if name is None else name,
        problem=problem,
    ).rendered()


@blueprint.post("/import/<draft_id>/rows")
def mend_rows(draft_id: str) -> BaseResponse:
    """Put the corrected text of refused rows into the waiting file and read it again."""
    form = ImportsStep.sent()
    draft = drafts().get(draft_id)
    lines = split(r"\r\n|\r|\n", draft.content.decode("utf-8-sig"))
    for line, text in zip(form.line.data, form.text.data, strict=False):
        if 1 < line <= len(lines):
            lines[line - 1] = text.replace("\r", " ").replace("\n", " ")
    drafts().keep(draft.filename, "\n".join(lines).encode("utf-8"), draft_id=draft.id)
    return redirect(url_for("imports.preview", draft_id=draft.id, into=form.into.data))


def _copy_first() -> None:
    """A copy of the database before a file changes a rig that is there. A full disk stops no
    import."""
    database = store().engine.url.database
    if database:
        with suppress(DiskError):
            keep(Path(database), IMPORT, datetime.now())


@blueprint.post("/import/<draft_id>/save")
def confirm(draft_id: str) -> BaseResponse | tuple[str, int]:
    """Save what was understood: all of it in one step, or nothing."""
    form = ImportsStep.sent()
    draft = drafts().get(draft_id)
    into = form.into.data
    before = load_for_edit(into) if into else None
    found = preview_of(draft, before.show if before else None, _instead())
    if not found.rows and found.refused:
        raise FileError("No row was understood, so there is nothing to save.")
    if not found.rows and found.missing:
        raise FileError("All types of the scene are missing, so there is nothing to save.")
    if (found.refused or found.missing) and not form.leave_out.data:
        lacking = len(found.refused) or len(found.missing)
        words = counted(
            lacking,
            "row is refused: mend it" if found.refused else "type is missing: choose a chart",
            "rows are refused: mend them" if found.refused else "types are missing: choose charts",
        )
        left = "it is" if found.refused and lacking == 1 else "they are"
        problem = f"{words}, or say that {left} left out."
        return _preview(draft, into, problem=problem), 422
    if before is not None and into:
        _copy_first()
        after = take_over(
            before.show,
            found.show,
            found.columns,
            drop_missing=form.drop_missing.data,
            key=before.key,
        )
        save(before, after, seen=True)
        drafts().drop(draft_id)
        flash(describe(before.show, after) or "Nothing to change.")
        return redirect(url_for("rig.index", show_id=into))
    name = (form.name.data or "").strip()
    if not name:
        return _preview(draft, None, name="", problem="A name is needed: it cannot be empty."), 422
    target = store().create(replace(found.show, name=name), who=who()).id
    drafts().drop(draft_id)
    flash(f"{counted(len(found.rows), 'fixture')} saved.")
    return redirect(url_for("rig.index", show_id=target))
