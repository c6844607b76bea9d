"""Where the code on a label leads, through any camera's own reader."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.fixture import Fixture
from fence.web.pages import load
from fence.web.set.forms import CodesLink

blueprint = Blueprint("codes", __name__)


def address_code(fixture: Fixture) -> str:
    """The addresses as a label's code carries them, such as ``4.101``; empty for none."""
    return "+".join(
        f"{entry.universe}.{entry.slot}" for entry in fixture.patch if entry.slot is not None
    )


@blueprint.get("/c/<int:show_id>/<int:fixture_id>")
def index(show_id: int, fixture_id: int) -> BaseResponse:
    """To the card. A label that was printed before the plan of its fixture changed says so."""
    link = CodesLink.linked()
    saved = load(show_id)
    fixture = saved.show.fixture(fixture_id)
    printed = link.a.data
    if printed and printed != address_code(fixture):
        told = " + ".join(
            f"U{universe} {slot.zfill(3)}" for universe, _, slot in map(_halves, printed.split("+"))
        )
        now = fixture.planned_at
        flash(
            f"This label is old: it says {told}. The plan says {now} now: print it again.", "stop"
        )
    return redirect(url_for("card.index", show_id=show_id, fixture_id=fixture_id))


def _halves(piece: str) -> tuple[str, str, str]:
    return piece.partition(".")
