"""The list of shows: new, open, copy, rename, delete with a way back, export."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, Response, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence import demo
from fence.core import edits
from fence.core.charts.vocabulary import meaning_of
from fence.core.model.address import SLOTS
from fence.core.model.desk import Desk
from fence.core.model.errors import EditError, FenceError
from fence.core.model.profile import Function
from fence.core.model.show import Show
from fence.core.model.text import slug
from fence.formats.csv_cells import Delimiter
from fence.formats.files import write_rig
from fence.library.desks import DESKS, DeskType
from fence.store.shows import SavedShow, ShowSummary
from fence.web.downloads import csv_liked
from fence.web.frame import Frame, frame
from fence.web.pages import load, load_for_edit, save, store, who, works
from fence.web.prove.out import put_out
from fence.web.prove.sending import sender
from fence.web.showing import Showing
from fence.web.shows.forms import DeskForm, ImportForm, NewShowForm, ShowsLink, WhoForm

MOST_NEW_UNIVERSES = 16
"""Universes of a new desk that are listed at once; those of a larger one come as they are used."""
blueprint = Blueprint("shows", __name__)

TYPES = {
    "csv": "text/csv; charset=utf-8",
    "json": "application/json",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "mvr": "application/octet-stream",
}


@blueprint.get("/healthz")
def healthz() -> Response:
    """Answers ``ok`` while Fence runs."""
    return Response("ok", content_type="text/plain; charset=utf-8")


@blueprint.get("/")
def index() -> str:
    """All shows."""
    return _list(NewShowForm(formdata=None))


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowsIndex(Showing):
    """What is shown by ``shows/index.html``."""

    template = "shows/index.html"
    shows: list[ShowSummary]
    deleted: list[ShowSummary]
    form: NewShowForm
    problem: str
    import_form: ImportForm
    who_form: WhoForm


def _list(form: NewShowForm, problem: str = "") -> str:
    return ShowsIndex(
        shows=store().list_shows(),
        deleted=store().list_shows(deleted=True),
        form=form,
        problem=problem,
        import_form=ImportForm(formdata=None),
        who_form=WhoForm(formdata=None, who=who()),
    ).rendered()


@blueprint.post("/shows")
def create() -> BaseResponse | tuple[str, int]:
    """Make an empty show with its desk, and with the universes that it sends as far as they are
    few."""
    form = NewShowForm()
    if not form.validate():
        return _list(form), 422
    try:
        desk = _new_desk(form)
        show = edits.set_desk(Show((form.name.data or "").strip()), desk)
        for number in range(1, min(desk.universes or 1, MOST_NEW_UNIVERSES) + 1):
            show = edits.add_universe(show, number)
    except FenceError as error:
        return _list(form, str(error)), 422
    saved = store().create(show, who=who())
    return redirect(url_for("rig.index", show_id=saved.id))


def _new_desk(form: NewShowForm) -> Desk:
    """The ready-made desk that was chosen, with what was typed instead of its own."""
    typed = _desk(form)
    chosen = DESKS.get(form.ready.data or "")
    if chosen is None:
        return typed
    ready = chosen.desk
    return Desk(
        typed.name or ready.name,
        typed.universes or ready.universes,
        typed.page or ready.page,
        typed.buttons or ready.buttons,
        form.desk_highest.data or ready.highest,
        typed.layout or ready.layout,
    )


@blueprint.post("/shows/demo")
def make_demo() -> BaseResponse:
    """Make the demo show."""
    saved = store().create(demo.demo_show(), who="Fence demo")
    return redirect(url_for("address.index", show_id=saved.id))


@blueprint.get("/shows/<int:show_id>")
def open_show(show_id: int) -> BaseResponse:
    """Go to where the work is: addresses if there are fixtures, else the rig."""
    saved = load(show_id)
    return redirect(
        url_for("address.index" if saved.show.fixtures else "rig.index", show_id=show_id)
    )


@blueprint.route("/shows/<int:show_id>/settings", methods=["GET", "POST"])
def settings(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Rename a show and say which desk it is for."""
    link = ShowsLink.linked()
    saved = load(show_id)
    show = saved.show
    if request.method == "GET":
        ready = DESKS.get(link.desk.data)
        desk = ready.desk if ready else show.desk
        form = DeskForm(
            formdata=None,
            name=show.name,
            desk_name=desk.name,
            desk_universes=desk.universes,
            desk_page=desk.page,
            desk_buttons=desk.buttons,
            desk_highest=desk.highest if desk.highest < SLOTS else None,
            desk_layout=", ".join(desk.layout),
        )
        return _settings_page(saved, form)
    form = DeskForm()
    if not form.validate():
        return _settings_page(saved, form), 422
    before = load_for_edit(show_id)
    try:
        after = edits.set_desk(edits.rename_show(before.show, form.name.data or ""), _desk(form))
    except FenceError as error:
        return _settings_page(saved, form, str(error)), 422
    save(before, after)
    flash("Saved.")
    return redirect(url_for("shows.settings", show_id=show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowsSettings(Showing):
    """What is shown by ``shows/settings.html``."""

    template = "shows/settings.html"
    frame: Frame
    form: DeskForm
    problem: str
    desks: dict[str, DeskType]


def _settings_page(saved: SavedShow, form: DeskForm, problem: str = "") -> str:
    return ShowsSettings(
        frame=frame(saved, ""),
        form=form,
        problem=problem,
        desks=DESKS,
    ).rendered()


def _desk(form: DeskForm) -> Desk:
    """The desk that the form describes; ``EditError`` for a function in its layout that is not
    known."""
    layout = []
    for wording in filter(
        None, (piece.strip() for piece in (form.desk_layout.data or "").split(","))
    ):
        meaning = meaning_of(wording)
        if meaning is None:
            raise EditError(f"“{wording[:40]}” is not a function. Accepted: {', '.join(Function)}.")
        layout.append(meaning.function)
    return Desk(
        (form.desk_name.data or "").strip(),
        form.desk_universes.data,
        form.desk_page.data,
        form.desk_buttons.data,
        form.desk_highest.data or SLOTS,
        tuple(layout),
    )


@blueprint.post("/shows/<int:show_id>/copy")
def copy(show_id: int) -> BaseResponse:
    """Copy a show."""
    saved = store().copy(show_id, who=who())
    flash(f"{saved.show.name} made.")
    return redirect(url_for("shows.index"))


@blueprint.post("/shows/<int:show_id>/delete")
def delete(show_id: int) -> BaseResponse:
    """Put a show among the deleted ones."""
    name = store().delete(show_id)
    if (now := sender().now) is not None and now.show_id == show_id:
        flash(put_out())
    works().let_go_of(show_id, "the show was deleted")
    flash(f"{name} deleted. It waits below, under Deleted shows, until you remove it for good.")
    return redirect(url_for("shows.index"))


@blueprint.post("/shows/<int:show_id>/put-back")
def put_back(show_id: int) -> BaseResponse:
    """Bring a deleted show back."""
    flash(f"{store().put_back(show_id, who=who()).show.name} is back.")
    return redirect(url_for("shows.index"))


@blueprint.post("/shows/<int:show_id>/remove")
def remove(show_id: int) -> BaseResponse:
    """Remove a deleted show for good."""
    store().remove_for_good(show_id)
    flash("Removed for good.")
    return redirect(url_for("shows.index"))


@blueprint.get("/shows/<int:show_id>/export.<any(csv, json, xlsx, mvr):ending>")
def export(show_id: int, ending: str) -> Response:
    """The show as a file."""
    saved = load(show_id)
    name = f"{slug(saved.show.name, 'show')}.{ending}"
    delimiter, marked = csv_liked() if ending == "csv" else (Delimiter.COMMA, False)
    written = write_rig(name, saved.show, saved.key, delimiter=delimiter, marked=marked)
    response = Response(written, content_type=TYPES[ending])
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
