"""Which pin is what, drawn."""

from __future__ import annotations

from flask import Blueprint, render_template, request

from fence.core.lines.pins import BANDS, PINS, adapter, ohms
from fence.core.model.line import Plug
from fence.web.frame import frame
from fence.web.pages import load

blueprint = Blueprint("pins", __name__, url_prefix="/shows/<int:show_id>/lines/pins")

RADIUS = 78


@blueprint.get("")
def index(show_id: int) -> str:
    """The pins of each plug, the terminator, and how an adapter is wired."""
    plugs = list(PINS)
    chosen = [
        Plug(word) if (word := request.args.get(name, "")) in PINS else usual
        for name, usual in USUAL
    ]
    saved = load(show_id)
    return render_template(
        "lines/pins.html",
        frame=frame(saved, "Lines"),
        saved=saved,
        plugs=[(plug, PINS[plug]) for plug in plugs],
        radius=RADIUS,
        one=chosen[0],
        other=chosen[1],
        wires=adapter(*chosen),
        bands=BANDS,
        ohms=ohms(BANDS),
    )


USUAL = (("one", Plug.FIVE), ("other", Plug.THREE))
