"""The order of the walk, how high positions are, and which steps of the preparation the show
wants."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.record import Prep
from fence.core.model.show import Position, Show
from fence.core.setting.walk import moved_by, places_in_order
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.metres import metres
from fence.web.pages import load, load_for_edit, save
from fence.web.set.forms import OrderStep
from fence.web.showing import Showing

blueprint = Blueprint("order", __name__, url_prefix="/shows/<int:show_id>/set/order")


@blueprint.get("")
def index(show_id: int) -> str:
    """The positions in the order of the walk."""
    return _page(load(show_id), {}, "")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetOrder(Showing):
    """What is shown by ``set/order.html``."""

    template = "set/order.html"
    frame: Frame
    saved: SavedShow
    positions: list[Position]
    typed: dict[str, str]
    problem: str
    steps: list[Prep]


def _page(saved: SavedShow, typed: dict[str, str], problem: str) -> str:
    known = {position.name: position for position in saved.show.positions}
    return SetOrder(
        frame=frame(saved, "Set"),
        saved=saved,
        positions=[known[name] for name in places_in_order(saved.show) if name],
        typed=typed,
        problem=problem,
        steps=[step for step in Prep if step is not Prep.ADDRESS],
    ).rendered()


@blueprint.post("")
def take(show_id: int) -> BaseResponse | tuple[str, int]:
    """Save what was typed, and move the position whose button was pressed."""
    form = OrderStep.sent()
    before = load_for_edit(show_id)
    try:
        after = _changed(before.show)
    except EditError as error:
        typed = {name: request.form.get(f"height-{name}", "") for name in form.place.data}
        return _page(before, typed, str(error)), 422
    save(before, after)
    flash("Saved." if after != before.show else "Nothing to change.")
    return redirect(url_for("order.index", show_id=show_id))


def _changed(show: Show) -> Show:
    form = OrderStep.sent()
    known = {position.name: position for position in show.positions}
    hard = set(form.hard.data)
    for name in form.place.data:
        if name not in known:
            continue
        height = metres(request.form.get(f"height-{name}", ""), f"the height of {name}")
        if height != known[name].height:
            show = edits.set_height(show, name, height)
        if known[name].hard != (name in hard):
            show = edits.set_hard(show, name, hard=name in hard)
    move = form.move.data
    if move[:1] in ("-", "+"):
        show = edits.set_walk(show, moved_by(show, move[1:], -1 if move[0] == "-" else 1))
    wanted = set(form.step.data)
    return edits.skip_steps(
        show, [step for step in Prep if step is not Prep.ADDRESS and step not in wanted]
    )
