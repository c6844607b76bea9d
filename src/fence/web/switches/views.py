"""The Switches page: tap switches and see the address, or type an address and see the switches."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, request

from fence.core.model.profile import Profile
from fence.web.frame import Frame, frame
from fence.web.pages import asked_by_htmx, load
from fence.web.showing import Showing
from fence.web.switches.page import (
    Asked,
    Row,
    asked_for,
    row_for,
    types_with_switches,
    words_of,
)

blueprint = Blueprint("switches", __name__)


@blueprint.get("/switches")
def index() -> str:
    """The switches of any fixture, without a show."""
    return _page(None)


@blueprint.get("/shows/<int:show_id>/switches")
def of_show(show_id: int) -> str:
    """The same with the types of a show's rig at hand."""
    return _page(show_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchesRow(Showing):
    """What is shown by ``switches/_row.html``."""

    template = "switches/_row.html"
    asked: Asked
    row: Row
    types: list[Profile]
    words: str
    show_id: int | None
    extra: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchesIndex(Showing):
    """What is shown by ``switches/index.html``."""

    template = "switches/index.html"
    base: str
    frame: Frame | None
    whole: SwitchesRow


def _page(show_id: int | None) -> str:
    saved = load(show_id) if show_id is not None else None
    asked = asked_for(request.args, saved.show if saved else None)
    row = SwitchesRow(
        asked=asked,
        row=row_for(asked),
        types=types_with_switches(saved.show if saved else None),
        words=words_of(asked.setter),
        show_id=show_id,
        extra=", ".join(map(str, asked.setter.fixed_on)),
    )
    if asked_by_htmx():
        return row.rendered()
    return SwitchesIndex(
        frame=frame(saved, "Switches") if saved else None,
        base="shared/show.html" if saved else "shared/plain.html",
        whole=row,
    ).rendered()
