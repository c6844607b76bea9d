"""The page of one fixture."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse
from wtforms.fields.choices import SelectChoice

from fence.core import edits
from fence.core.checks.finding import Finding
from fence.core.edits.prose import describe
from fence.core.model.address import parse_address
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Profile
from fence.core.model.scene import read_place
from fence.core.model.show import Show
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, load_for_edit, save
from fence.web.rig.forms import FixtureForm
from fence.web.showing import Showing

blueprint = Blueprint("fixture", __name__, url_prefix="/shows/<int:show_id>/rig")


@blueprint.route("/<int:fixture_id>", methods=["GET", "POST"])
def index(show_id: int, fixture_id: int) -> BaseResponse | str | tuple[str, int]:
    """Change one fixture."""
    saved = load(show_id)
    shown = saved.show.fixture(fixture_id)
    if request.method == "GET":
        address = f"{shown.universe}/{shown.start}" if shown.start else ""
        form = FixtureForm(
            formdata=None,
            label=shown.label,
            number=shown.number,
            mode=shown.mode,
            position=shown.position,
            address=address,
            note=shown.note,
            at=shown.at.words if shown.at else "",
        )
        return _fixture_page(saved, shown, form)
    form = FixtureForm()
    if not form.validate():
        return _fixture_page(saved, shown, form), 422
    before = load_for_edit(show_id)
    try:
        after = _changed(before.show, fixture_id, form)
    except FenceError as error:
        return _fixture_page(saved, shown, form, problem=str(error)), 422
    save(before, after)
    flash(describe(before.show, after) or "Nothing to change.")
    return redirect(url_for("rig.index", show_id=show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFixture(Showing):
    """What is shown by ``rig/fixture.html``."""

    template = "rig/fixture.html"
    frame: Frame
    fixture: Fixture
    profile: Profile | None
    form: FixtureForm
    problem: str
    positions: list[str]
    findings: Sequence[Finding]


def _fixture_page(saved: SavedShow, shown: Fixture, form: FixtureForm, problem: str = "") -> str:
    profile = saved.show.profile_of(shown)
    modes = profile.modes if profile else ()
    form.mode.choices = [
        SelectChoice(mode.name, f"{mode.name} ({mode.footprint} ch)") for mode in modes
    ]
    if shown.mode and saved.show.mode_of(shown) is None:
        form.mode.choices = [
            SelectChoice(shown.mode, f"{shown.mode} (not in the chart)"),
            *form.mode.choices,
        ]
    return RigFixture(
        frame=frame(saved, "Rig"),
        fixture=shown,
        profile=profile,
        form=form,
        problem=problem,
        positions=[position.name for position in saved.show.positions],
        findings=saved.analysis.by_fixture.get(shown.id, ()),
    ).rendered()


def _changed(show: Show, fixture_id: int, form: FixtureForm) -> Show:
    shown = show.fixture(fixture_id)
    if form.mode.data and form.mode.data != shown.mode:
        show = edits.change_mode(show, [fixture_id], form.mode.data)
    if form.label.data != shown.label:
        show = edits.rename(show, fixture_id, form.label.data or "")
    show = edits.set_number(show, fixture_id, form.number.data)
    show = edits.set_position(show, [fixture_id], form.position.data or "")
    show = edits.set_note(show, [fixture_id], form.note.data or "")
    show = edits.hang_at(show, fixture_id, read_place(form.at.data or ""))
    typed = (form.address.data or "").strip()
    if not typed and shown.start is not None:
        return edits.unplace(show, [fixture_id])
    if typed:
        target = parse_address(typed, current_universe=shown.universe or 1, absolute=False)
        if target != shown.patch[0].address:
            return edits.place(show, fixture_id, target)
    return show
