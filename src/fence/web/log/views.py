"""The step Log: who changed what, when and from where; notes, snapshots, two of them beside each
other, going back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.checks import Severity, news
from fence.core.checks.finding import Finding, Verdict
from fence.core.edits.compare import Compared, Comparison, compare
from fence.core.model.errors import EditError, FenceError
from fence.core.model.once import once_a_show
from fence.core.model.show import Show
from fence.core.model.waiver import Waiver
from fence.core.setting.walk import again
from fence.store.journal import Snapshot
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.log.forms import LogLink, LogStep
from fence.web.log.page import ORIGINS, LogPage, filters_of, local, log_page, revision_in
from fence.web.pages import journal, load, load_for_edit, save, store, who
from fence.web.showing import Showing

blueprint = Blueprint("log", __name__, url_prefix="/shows/<int:show_id>/log")

MOST_COMPARED = 600
"""Fixtures of a comparison that are listed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LogIndex(Showing):
    """What is shown by ``log/index.html``."""

    template = "log/index.html"
    frame: Frame
    saved: SavedShow
    page: LogPage
    origins: tuple[str, ...]
    local: Callable[..., object]
    kept: dict[str, object]
    waived: tuple[tuple[Finding, Waiver], ...]


@blueprint.get("")
def index(show_id: int) -> tuple[str, int]:
    """The log, the newest first, by page."""
    link = LogLink.linked()
    saved = load(show_id)
    page = log_page(saved, journal(), filters_of(request.args), link.before.data)
    text = LogIndex(
        frame=frame(saved, "Log"),
        saved=saved,
        page=page,
        origins=ORIGINS,
        local=local,
        kept=_kept(),
        waived=saved.analysis.waived[:MOST_COMPARED],
    ).rendered()
    return text, 422 if page.problem else 200


@blueprint.post("/entries/<int:entry_id>/note")
def note(show_id: int, entry_id: int) -> BaseResponse:
    """Write a note to an entry, with the reason that the entry itself cannot know."""
    form = LogStep.sent()
    load(show_id)
    journal().note(show_id, entry_id, form.note.data, who=who())
    return redirect(f"{url_for('log.index', show_id=show_id, **_kept())}#entry-{entry_id}")


def _kept() -> dict[str, Any]:
    """The filters of the page that a form stands on, so that it comes back to them."""
    names = ("fixture", "who", "origin", "words", "day", "before")
    return {name: value for name in names if (value := request.args.get(name, ""))}


@blueprint.post("/snapshots")
def name_snapshot(show_id: int) -> BaseResponse:
    """Give a state of the show a name."""
    form = LogStep.sent()
    saved = load(show_id)
    revision = revision_in(form.revision.data, saved, [])
    journal().name_snapshot(show_id, revision, form.name.data, who=who())
    flash(f"State {revision} is “{' '.join(request.form.get('name', '').split())}” now.")
    return redirect(url_for("log.index", show_id=show_id))


@blueprint.post("/snapshots/<int:snapshot_id>/forget")
def forget_snapshot(show_id: int, snapshot_id: int) -> BaseResponse:
    """Take a snapshot's name away."""
    load(show_id)
    journal().forget_snapshot(show_id, snapshot_id)
    return redirect(url_for("log.index", show_id=show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class LogCompare(Showing):
    """What is shown by ``log/compare.html``."""

    template = "log/compare.html"
    frame: Frame
    saved: SavedShow
    snapshots: list[Snapshot]
    names: dict[int, str]
    before: SavedShow
    after: SavedShow
    compared: Comparison
    shown: list[Compared]
    back: Comparison
    back_again: str
    stops: list[Finding]
    then: Verdict
    problem: str


@once_a_show
def _back_to(show: Show, show_id: int, revision: int) -> Show:
    """What a show would be if it went back to one of its earlier states."""
    return edits.gone_back(show, store().state_at(show_id, revision).show)


@blueprint.get("/compare")
def between(show_id: int) -> str | tuple[str, int]:
    """Two snapshots beside each other, fixture by fixture, and what going back to the first would
    do."""
    link = LogLink.linked()
    saved = load(show_id)
    snapshots, problem = journal().snapshots(show_id), ""
    try:
        first = revision_in(link.first.data, saved, snapshots)
        last = revision_in(link.last.data, saved, snapshots)
        before, after = store().state_at(show_id, first), store().state_at(show_id, last)
    except EditError as error:
        problem, before, after = str(error), saved, saved
    compared = compare(before.show, after.show)
    back = _back_to(saved.show, show_id, before.revision)
    then = store().of(saved, back)
    text = LogCompare(
        frame=frame(saved, "Log"),
        saved=saved,
        snapshots=snapshots,
        names={snapshot.revision: snapshot.name for snapshot in snapshots},
        before=before,
        after=after,
        compared=compared,
        shown=sorted(compared.fixtures, key=lambda one: not one.again)[:MOST_COMPARED],
        back=compare(saved.show, back),
        back_again=again(saved.show, back).words,
        stops=[
            f
            for f in news(saved.analysis.findings, then.analysis.findings)
            if f.severity is Severity.STOP
        ],
        then=then.analysis.verdict,
        problem=problem,
    ).rendered()
    return (text, 422) if problem else text


@blueprint.post("/back")
def go_back(show_id: int) -> BaseResponse:
    """Go back to a snapshot as one new edit, which undo takes back like any other."""
    form = LogStep.sent()
    before = load_for_edit(show_id)
    to = form.to.data
    if to is None:
        raise FenceError("Say which snapshot to go back to.")
    save(before, edits.gone_back(before.show, store().state_at(show_id, to).show))
    flash(f"The plan is that of state {to} again; what was set and proven since stays noted.")
    return redirect(url_for("log.index", show_id=show_id))
