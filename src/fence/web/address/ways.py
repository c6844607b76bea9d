"""Ways of the house: the tell-tale slot of all universes, and the positions that are hard to
reach."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.datastructures.structures import ImmutableMultiDict
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.edits.prose import describe
from fence.core.model.address import SLOTS
from fence.core.model.desk import Scale, TellTale
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show, Universe
from fence.web.address.forms import WaysStep
from fence.web.frame import Frame, frame
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("ways", __name__, url_prefix="/shows/<int:show_id>/address/ways")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressWays(Showing):
    """What is shown by ``address/ways.html``."""

    template = "address/ways.html"
    frame: Frame
    show: Show
    levels: list[tuple[Universe, int | None]]
    scales: list[Scale]
    hung: dict[str, int]
    problem: str
    typed: ImmutableMultiDict[str, str]


@blueprint.route("", methods=["GET", "POST"])
def index(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """The tell-tale slot of all universes, and the positions that are hard to reach."""
    form = WaysStep.sent()
    saved, problem = load(show_id), ""
    if request.method == "POST":
        saved = load_for_edit(show_id)
        try:
            after = saved.show
            if "tell_tale" in request.form:
                slot, scale = form.slot.data, form.scale.data
                on = form.on.data == "1"
                if on and (slot is None or scale not in set(Scale)):
                    raise EditError(f"A slot of 1 to {SLOTS} and a scale are needed.")
                after = edits.set_tell_tale(
                    after, TellTale(slot or SLOTS, Scale(scale)) if on else None
                )
            else:
                hard = set(form.hard.data)
                for position in after.positions:
                    after = edits.set_hard(after, position.name, hard=position.name in hard)
        except FenceError as error:
            problem = str(error)
        else:
            save(saved, after)
            flash(describe(saved.show, after) or "Nothing to change.")
            return redirect(url_for("ways.index", show_id=show_id))
    levels = []
    if saved.show.tell_tale:
        levels = [(u, saved.show.tell_tale.level(u.number)) for u in saved.show.universes[:128]]
    page = AddressWays(
        frame=frame(saved, "Address"),
        show=saved.show,
        levels=levels,
        scales=list(Scale),
        hung=_hung(saved.show.fixtures),
        problem=problem,
        typed=request.form,
    ).rendered()
    return (page, 422) if problem else page


def _hung(fixtures: tuple[Fixture, ...]) -> dict[str, int]:
    counted: dict[str, int] = {}
    for fixture in fixtures:
        counted[fixture.position] = counted.get(fixture.position, 0) + 1
    return counted
