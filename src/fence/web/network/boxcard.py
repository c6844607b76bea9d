"""What to type at each box, in its own counting; what was typed and what was read back there."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.edits.prose import describe
from fence.core.model.box import Box, Use
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.model.text import printable, whole_number
from fence.core.network.card import BoxCard, card_of
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.network.forms import BoxcardLink, BoxcardStep
from fence.web.pages import load, load_for_edit, local_time, save, witness
from fence.web.showing import Showing

blueprint = Blueprint("boxcard", __name__, url_prefix="/shows/<int:show_id>/network/cards")

CARDS_SHOWN = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkCards(Showing):
    """What is shown by ``network/cards.html``."""

    template = "network/cards.html"
    frame: Frame
    saved: SavedShow
    cards: list[BoxCard]
    more: int
    made: datetime


@blueprint.get("")
def index(show_id: int) -> str:
    """All cards, to be printed or picked."""
    link = BoxcardLink.linked()
    saved = load(show_id)
    cards = [card_of(saved.show, box) for box in saved.show.boxes]
    shown = cards[:CARDS_SHOWN] if not link.all.data else cards
    return NetworkCards(
        frame=frame(saved, "Network"),
        saved=saved,
        cards=shown,
        more=len(cards) - len(shown),
        made=local_time(),
    ).rendered()


@blueprint.get("/<int:box_id>")
def card(show_id: int, box_id: int) -> str:
    """The card of one box."""
    return _page(load(show_id), box_id, {}, "")


@dataclass(frozen=True, slots=True, kw_only=True)
class NetworkCard(Showing):
    """What is shown by ``network/card.html``."""

    template = "network/card.html"
    frame: Frame
    saved: SavedShow
    card: BoxCard
    typed: dict[str, str]
    problem: str
    made: datetime
    next: Box | None


def _page(saved: SavedShow, box_id: int, typed: dict[str, str], problem: str) -> str:
    show = saved.show
    boxes = list(show.boxes)
    place = boxes.index(show.box(box_id))
    return NetworkCard(
        frame=frame(saved, "Network"),
        saved=saved,
        card=card_of(show, show.box(box_id)),
        typed=typed,
        problem=problem,
        made=local_time(),
        next=boxes[place + 1] if place + 1 < len(boxes) else None,
    ).rendered()


@blueprint.post("/<int:box_id>/mark")
def mark(show_id: int, box_id: int) -> BaseResponse | tuple[str, int]:
    """Record that the card was typed, was not after all, or what the box says."""
    form = BoxcardStep.sent()
    before = load_for_edit(show_id)
    what = form.what.data
    try:
        after = _marked(before.show, box_id, what)
    except EditError as error:
        typed = {
            name: value[:40] for name, value in request.form.items() if name.startswith("says-")
        }
        return _page(before, box_id, typed, str(error)), 422
    save(before, after, seen=True)
    flash(describe(before.show, after) or "Nothing to change.")
    following = form.next.data
    target = following if what == "typed" and following in after.box_by_id else box_id
    return redirect(url_for("boxcard.card", show_id=show_id, box_id=target))


def _marked(show: Show, box_id: int, what: str) -> Show:
    if what == "typed":
        return edits.type_in(show, box_id, witness())
    if what == "untyped":
        return edits.untype(show, box_id)
    if what != "says":
        raise EditError("Say what was done at the node: typed, or what it says.")
    box, says = show.box(box_id), dict[int, int | None]()
    for port in box.ports:
        words = request.form.get(f"says-{port.number}", "").strip()
        number = whole_number(words)
        if words and number is None:
            shown = printable(words[:20])
            raise EditError(
                f"“{shown}” at port {port.number} is not a number that a node shows. Type 0, 1, "
                "2 and so on."
            )
        if port.use is not Use.OFF:
            says[port.number] = number
    return edits.say(show, box_id, says, witness())
