"""Which pin is what, drawn."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, request

from fence.core.lines.pins import BANDS, PINS, Pin, adapter, ohms
from fence.core.model.line import Plug
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.showing import Showing

blueprint = Blueprint("pins", __name__, url_prefix="/shows/<int:show_id>/lines/pins")

RADIUS = 78


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesPins(Showing):
    """What is shown by ``lines/pins.html``."""

    template = "lines/pins.html"
    frame: Frame
    saved: SavedShow
    plugs: list[tuple[Plug, tuple[Pin, ...]]]
    radius: int
    one: Plug
    other: Plug
    wires: tuple[tuple[str, tuple[int, ...], tuple[int, ...]], ...]
    bands: tuple[tuple[str, int], ...]
    ohms: int


@blueprint.get("")
def index(show_id: int) -> str:
    """The pins of each plug, the terminator, and how an adapter is wired."""
    plugs = list(PINS)
    chosen = [
        Plug(word) if (word := request.args.get(name, "")) in PINS else usual
        for name, usual in USUAL
    ]
    saved = load(show_id)
    return LinesPins(
        frame=frame(saved, "Lines"),
        saved=saved,
        plugs=[(plug, PINS[plug]) for plug in plugs],
        radius=RADIUS,
        one=chosen[0],
        other=chosen[1],
        wires=adapter(*chosen),
        bands=BANDS,
        ohms=ohms(BANDS),
    ).rendered()


USUAL = (("one", Plug.FIVE), ("other", Plug.THREE))
