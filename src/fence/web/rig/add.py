"""Adding a run of fixtures, with a look at where they will land."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse
from wtforms.fields.choices import SelectChoice

from fence.core import edits
from fence.core.edits.prose import describe
from fence.core.model.address import parse_address
from fence.core.model.errors import EditError, FenceError
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import library, load, load_for_edit, save
from fence.web.rig.forms import AddForm, AddLink, AddStep
from fence.web.rig.page import AddPreview, preview_of
from fence.web.showing import Showing

blueprint = Blueprint("add", __name__, url_prefix="/shows/<int:show_id>/rig/add")


KIND_JOIN = " | "
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
    ] + [
        SelectChoice(
            f"{profile.id}{KIND_JOIN}{mode.name}",
            f"{profile.title}, {mode.name} ({mode.footprint} ch)",
            optgroup=profile.title,
        )
        for profile in _available(saved.show)
        for mode in profile.modes
    ]
    return RigAdd(
        frame=frame(saved, "Rig"),
        saved=saved,
        form=form,
        problem=problem,
        preview=None,
        positions=[position.name for position in saved.show.positions],
    ).rendered()


def _available(show: Show) -> list[Profile]:
    """The profiles of the show and, below their ids, those on the shelf."""
    held = {profile.id for profile in show.profiles}
    found = [
        *show.profiles,
        *(profile for profile in library().profiles() if profile.id not in held),
    ]
    return sorted(found, key=lambda profile: (profile.title.casefold(), profile.id))


def _spec(show: Show, form: AddForm) -> edits.AddRun:
    profile_id, _, mode = (form.kind.data or "").partition(KIND_JOIN)
    if profile_id == ANY:
        if not form.channels.data:
            raise EditError("Say how many channels the fixture takes. Use 1 to 512.")
        mode = counted(form.channels.data, "channel")
        plain = Profile(
            f"any-{form.channels.data}",
            "",
            f"Any fixture, {mode}",
            (Mode(mode, (Part(form.channels.data),)),),
        )
        return _run(form, plain, mode)
    profile = next((profile for profile in _available(show) if profile.id == profile_id), None)
    if profile is None:
        raise EditError("Choose a fixture and its mode from the list.")
    return _run(form, profile, mode)


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
