"""A whole position at once: steps that all of a kind take, and what a mark for all of them would
claim."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.core.model.text import counted
from fence.core.setting.prep import same_for_all
from fence.core.setting.walk import Claim, SameForAll, claim, height_words
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import ids_in, load, load_for_edit, save, witness
from fence.web.set.card import step_asked
from fence.web.set.forms import PlaceLink, PlaceStep
from fence.web.showing import Showing

blueprint = Blueprint("place", __name__, url_prefix="/shows/<int:show_id>/set/place")

MOST_LISTED = 300


def _fixtures(show: Show, at: str) -> list[Fixture]:
    found = [fixture for fixture in show.fixtures if fixture.position == at]
    if not found:
        raise EditError(f"Nothing hangs at “{at[:60]}”.")
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class SetPlace(Showing):
    """What is shown by ``set/place.html``."""

    template = "set/place.html"
    frame: Frame
    saved: SavedShow
    at: str
    height: str
    groups: tuple[SameForAll, ...]
    claim: Claim
    most: int
    keep: list[tuple[str, str]]
    here: dict[str, object]


@blueprint.get("")
def index(show_id: int) -> str:
    """What is the same for several here, and what marking the whole position would claim."""
    link = PlaceLink.linked()
    saved = load(show_id)
    at = link.at.data
    fixtures = _fixtures(saved.show, at)
    position = next((known for known in saved.show.positions if known.name == at), None)
    return SetPlace(
        frame=frame(saved, "Set"),
        saved=saved,
        at=at,
        height=height_words(position) if position else "",
        groups=same_for_all(saved.show, fixtures),
        claim=claim(saved.show, fixtures),
        most=MOST_LISTED,
        keep=[],
        here={"at": at},
    ).rendered()


@blueprint.post("/tick")
def tick(show_id: int) -> BaseResponse:
    """Tick a step for several fixtures at once."""
    form = PlaceStep.sent()
    saved = load(show_id)
    ids = ids_in(form.fixtures.data)
    if not ids:
        raise EditError("Say which fixtures are meant.")
    step = step_asked()
    save(saved, edits.tick(saved.show, ids, step, by=witness()))
    flash(f"{step.capitalize()}: ticked for {counted(len(ids), 'fixture')}.")
    return redirect(url_for("place.index", show_id=show_id, at=form.at.data))


@blueprint.post("")
def take(show_id: int) -> BaseResponse:
    """Mark all that was shown as set. It counts for the plan that the person saw."""
    form = PlaceStep.sent()
    before = load_for_edit(show_id)
    at = form.at.data
    found = claim(before.show, _fixtures(before.show, at))
    ids = [fixture.id for fixture in found.claimed]
    if not ids:
        raise EditError("Nothing is left to be marked here.")
    save(before, edits.mark_set(before.show, ids, witness()))
    flash(f"{counted(len(ids), 'fixture')} marked as set.")
    return redirect(url_for("set.index", show_id=show_id))
