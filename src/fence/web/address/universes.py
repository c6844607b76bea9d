"""Adding, renaming, reserving in and removing a universe."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.address import parse_slots
from fence.core.model.errors import EditError, FenceError
from fence.core.model.show import Universe
from fence.store.shows import StaleShow
from fence.web.address.forms import UniverseForm, valid
from fence.web.frame import Frame, frame
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("universes", __name__, url_prefix="/shows/<int:show_id>/address/universes")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressUniverse(Showing):
    """What is shown by ``address/universe.html``."""

    template = "address/universe.html"
    frame: Frame
    form: UniverseForm
    held: Universe | None
    problem: str | None = None


@blueprint.route("", methods=["GET", "POST"])
@blueprint.route("/<int:number>", methods=["GET", "POST"])
def edit(show_id: int, number: int | None = None) -> BaseResponse | str | tuple[str, int]:
    """Add a universe, or rename one and say which slots it reserves."""
    saved = load(show_id)
    held = saved.show.universe_by_number.get(number or 0)
    if number is not None and held is None:
        raise EditError(f"The show has no universe {number}.")
    if request.method == "GET":
        fresh = max(saved.show.universe_by_number, default=0) + 1
        form = UniverseForm(
            formdata=None,
            number=held.number if held else fresh,
            name=held.name if held else "",
            reserved=", ".join(map(str, held.reserved)) if held else "",
            revision=saved.revision,
        )
        return AddressUniverse(frame=frame(saved, "Address"), form=form, held=held).rendered()
    form = UniverseForm()
    try:
        valid(form)
        before = load_for_edit(show_id)
        target = number or form.number.data or 0
        show = before.show if number else edits.add_universe(before.show, target)
        show = edits.rename_universe(show, target, form.name.data or "")
        show = edits.reserve(show, target, parse_slots(form.reserved.data or ""))
    except StaleShow:
        raise
    except FenceError as error:
        page = AddressUniverse(
            frame=frame(saved, "Address"),
            form=form,
            held=held,
            problem=str(error),
        ).rendered()
        return page, 422
    save(before, show)
    return redirect(url_for("address.index", show_id=show_id, u=target))


@blueprint.post("/<int:number>/remove")
def remove(show_id: int, number: int) -> BaseResponse:
    """Remove an empty universe."""
    before = load_for_edit(show_id)
    save(before, edits.remove_universe(before.show, number))
    return redirect(url_for("address.index", show_id=show_id))
