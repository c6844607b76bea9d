"""Adding a run of fixtures, with a look at where they will land."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse
from wtforms.fields.choices import SelectChoice

from fence.core import edits
from fence.core.charts.oneline import ACCEPTED, channels_of
from fence.core.edits.prose import describe
from fence.core.model.address import SLOTS, parse_address
from fence.core.model.errors import EditError, FenceError
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.model.text import counted, slug, whole_number
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, load_for_edit, save
from fence.web.rig.forms import AddForm, AddLink, AddStep
from fence.web.rig.kinds import kind_choices, kind_named
from fence.web.rig.page import AddPreview, preview_of
from fence.web.showing import Showing

blueprint = Blueprint("add", __name__, url_prefix="/shows/<int:show_id>/rig/add")


ANY = "any"
"""The kind of a fixture that is known by its channels only."""


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Add a run of fixtures, with a preview of where they will land."""
    step = AddStep.sent()
    link = AddLink.linked()
    saved = load(show_id)
    if request.method == "GET":
        home = link.u.data or min(saved.show.universe_by_number, default=1)
        form = AddForm(
            formdata=None,
            kind=request.args.get("kind"),
            position=request.args.get("position"),
            quantity=1,
            universe=home,
            number=edits.next_number(saved.show),
        )
        return _add_page(saved, form)
    form = AddForm()
    if not form.validate():
        return _add_page(saved, form), 422
    before = load_for_edit(show_id)
    try:
        after = edits.add_fixtures(before.show, _spec(before.show, form))
    except FenceError as error:
        return _add_page(saved, form, problem=str(error)), 422
    save(before, after)
    flash(describe(before.show, after))
    if step.more.data:
        again = {
            "kind": form.kind.data,
            "u": form.universe.data,
            "position": form.position.data or None,
        }
        return redirect(url_for("add.index", show_id=show_id, **again))
    return redirect(url_for("rig.index", show_id=show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class RigAddPreview(Showing):
    """What is shown by ``rig/_add_preview.html``."""

    template = "rig/_add_preview.html"
    preview: AddPreview | None
    problem: str
    saved: SavedShow


@blueprint.get("/preview")
def preview(show_id: int) -> str:
    """The landing of the run as typed so far."""
    saved = load(show_id)
    values = request.args.copy()
    if not values.get("label", "").strip():
        values["label"] = "New 1"  # so that the next start is seen before anything is typed
    form = AddForm(values, meta={"csrf": False})
    preview, problem = None, ""
    if form.validate():
        try:
            preview = preview_of(saved, edits.add_fixtures(saved.show, _spec(saved.show, form)))
        except FenceError as error:
            problem = str(error)
    else:
        problem = next(iter(form.errors.values()))[0]
    return RigAddPreview(preview=preview, problem=problem, saved=saved).rendered()


@dataclass(frozen=True, slots=True, kw_only=True)
class RigAdd(Showing):
    """What is shown by ``rig/add.html``."""

    template = "rig/add.html"
    frame: Frame
    saved: SavedShow
    form: AddForm
    problem: str
    preview: None
    positions: list[str]


def _add_page(saved: SavedShow, form: AddForm, problem: str = "") -> str:
    form.kind.choices = [
        SelectChoice(ANY, "any fixture, by its channels", optgroup="Without a chart"),
        *kind_choices(saved.show),
    ]
    return RigAdd(
        frame=frame(saved, "Rig"),
        saved=saved,
        form=form,
        problem=problem,
        preview=None,
        positions=[position.name for position in saved.show.positions],
    ).rendered()


def _spec(show: Show, form: AddForm) -> edits.AddRun:
    if form.kind.data == ANY:
        plain = any_fixture(form.channels.data or "")
        return _run(form, plain, plain.modes[0].name)
    return _run(form, *kind_named(show, form.kind.data or ""))


def any_fixture(words: str) -> Profile:
    """A type without a chart, known by how many channels it takes, or by what they do.

    ``EditError`` for anything else, saying what is accepted.
    """
    count = whole_number(words)
    if count is None and not words.strip():
        raise EditError(f"Say which channels the fixture takes. {ACCEPTED}")
    if count is None:
        channels = channels_of(words)
        name = counted(len(channels), "channel")
        does = " ".join(words.split())[:80]
        mode = Mode(name, (Part(len(channels), channels),))
        return Profile(f"any-{slug(does, name)}", "", f"Any fixture, {does}", (mode,))
    if not 1 <= count <= SLOTS:
        raise EditError(f"{count} channels are not possible. Use 1 to {SLOTS}.")
    name = counted(count, "channel")
    return Profile(f"any-{count}", "", f"Any fixture, {name}", (Mode(name, (Part(count),)),))


def _run(form: AddForm, profile: Profile, mode: str) -> edits.AddRun:
    universe = form.universe.data or 1
    typed = (form.start.data or "").strip()
    return edits.AddRun(
        profile=profile,
        mode=mode,
        quantity=form.quantity.data or 1,
        first_label=form.label.data or "",
        first_number=form.number.data,
        position=form.position.data or "",
        universe=universe,
        start=parse_address(typed, current_universe=universe, absolute=False) if typed else None,
    )
