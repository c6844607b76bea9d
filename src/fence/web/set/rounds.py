"""The guided round for fixtures that are set one at a time over one cable."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.setting.rounds import Round, round_of
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, save, witness
from fence.web.set.forms import RoundsLink, RoundsStep
from fence.web.set.page import CardPage, card_page, patch_of
from fence.web.set.views import at_query, place_asked
from fence.web.showing import Showing

blueprint = Blueprint("rounds", __name__, url_prefix="/shows/<int:show_id>/set/round")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetRound(Showing):
    """What is shown by ``set/round.html``."""

    template = "set/round.html"
    frame: Frame
    saved: SavedShow
    round: Round
    card: CardPage | None
    at: str | None
    query: dict[str, object]
    kept: dict[str, object]
    typed: str
    keep: list[tuple[str, str]]
    here: dict[str, int]


@blueprint.get("")
def index(show_id: int) -> str:
    """Whose turn it is, and the five things to do with it."""
    link = RoundsLink.linked()
    saved = load(show_id)
    at = place_asked(saved.show)
    found = round_of(saved.show, at, link.turn.data)
    card = card_page(saved.show, found.current, at) if found.current else None
    return SetRound(
        frame=frame(saved, "Set"),
        saved=saved,
        round=found,
        card=card,
        at=at,
        query=at_query(at),
        kept={**at_query(at), "round": "1"},
        typed=link.serial.data,
        keep=[],
        here={"fixture": found.current.id} if found.current else {},
    ).rendered()


@blueprint.post("")
def take(show_id: int) -> BaseResponse:
    """It is set and confirmed, by its serial number or by what it shows: on to the next."""
    form = RoundsStep.sent()
    saved = load(show_id)
    fixture_id = form.fixture.data
    fixture = saved.show.fixture(fixture_id)
    serial = form.serial.data
    if not serial and not form.shown.data:
        raise EditError("Confirm it: by its serial number, or tick that it shows the new address.")
    if serial and fixture.serial and serial != fixture.serial:
        raise EditError(
            f"{fixture.label} has serial number {fixture.serial}, and this one is {serial}: "
            "another one is plugged in. "
            f"If it was exchanged, change the number on its card first."
        )
    show = saved.show
    if serial:
        show = edits.set_serial(show, fixture_id, serial)
    patch = patch_of(form.patch.data)
    show = edits.mark_set_to(show, fixture_id, form.mode.data, patch, witness())
    done = save(saved, show)
    flash(f"{fixture.label} is set. Unplug it now.")
    return redirect(url_for("rounds.index", show_id=done.id, **at_query(place_asked(done.show))))
