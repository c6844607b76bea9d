"""The card of one fixture, and every mark that is made on it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.record import How, Prep
from fence.core.model.show import Show
from fence.core.setting.walk import walk
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, save, witness
from fence.web.set.forms import CardStep
from fence.web.set.page import CardPage, card_page, pages_to_keep, patch_of
from fence.web.set.views import at_query, place_asked
from fence.web.showing import Showing

blueprint = Blueprint("card", __name__, url_prefix="/shows/<int:show_id>/set/<int:fixture_id>")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetCard(Showing):
    """What is shown by ``set/card.html``."""

    template = "set/card.html"
    frame: Frame
    saved: SavedShow
    card: CardPage
    query: dict[str, object]
    kept: dict[str, object]
    keep: list[str]
    here: dict[str, int]


@blueprint.get("")
def index(show_id: int, fixture_id: int) -> str:
    """Everything about one fixture at once, the address first."""
    saved = load(show_id)
    at = place_asked(saved.show)
    card = card_page(saved.show, saved.show.fixture(fixture_id), at)
    return SetCard(
        frame=frame(saved, "Set"),
        saved=saved,
        card=card,
        query=at_query(at),
        kept=at_query(at),
        keep=pages_to_keep(saved.id, (card.fixture, *card.keep), at_query(at)),
        here={"fixture": fixture_id},
    ).rendered()


@blueprint.post("/mark")
def mark(show_id: int, fixture_id: int) -> BaseResponse:
    """Record that it is set (to what the person saw on the card), proven, or not after all."""
    form = CardStep.sent()
    saved = load(show_id)
    fixture = saved.show.fixture(fixture_id)
    what = form.what.data
    if what == "set":
        seen = (form.mode.data, patch_of(form.patch.data))
        after = edits.mark_set_to(saved.show, fixture_id, *seen, witness())
        done = save(saved, after)
        if seen != (fixture.mode, fixture.patch):
            told = f"{' + '.join(map(str, seen[1]))}, {seen[0]}"
            flash(
                f"The plan of {fixture.label} changed meanwhile. What you set is kept: {told}. It "
                "has to be set again.",
                "stop",
            )
            return redirect(_card(done, fixture_id))
        return _on(saved, fixture_id, f"{fixture.label} is set.")
    if what == "proven":
        return _on(
            save(saved, _proven(saved.show, fixture)), fixture_id, f"{fixture.label} is proven."
        )
    if what not in TAKEN_BACK:
        raise EditError("Say what to record: set, proven, or taken back.")
    done = save(saved, TAKEN_BACK[what](saved.show, [fixture_id]))
    return redirect(_card(done, fixture_id))


def _proven(show: Show, fixture: Fixture) -> Show:
    """It answered as the card said that the person saw, by the way that the cable took then."""
    form = CardStep.sent()
    if "patch" not in request.form:
        return edits.mark_proven(show, [fixture.id], witness(How.SEEN))
    seen = (form.mode.data, patch_of(form.patch.data))
    way = form.way.data or 0
    return edits.mark_proven_as(show, fixture.id, *seen, way, witness(How.SEEN))


TAKEN_BACK = {
    "unset": edits.mark_unset,
    "unproven": edits.mark_unproven,
    "unread": edits.forget_reading,
}


def _on(saved: SavedShow, fixture_id: int, words: str) -> BaseResponse:
    """On to the next fixture that is not done, by the walk as it was before the mark; at the end
    back to the list."""
    at = place_asked(saved.show)
    following = walk(saved.show, at).after(fixture_id)
    flash(words)
    if following is None:
        return redirect(url_for("set.index", show_id=saved.id, **at_query(at)))
    return redirect(_card(saved, following.id))


def _card(saved: SavedShow, fixture_id: int) -> str:
    at = place_asked(saved.show)
    return url_for("card.index", show_id=saved.id, fixture_id=fixture_id, **at_query(at))


@blueprint.post("/tick")
def tick(show_id: int, fixture_id: int) -> BaseResponse:
    """Tick a step of the preparation, or take the tick back."""
    form = CardStep.sent()
    return _changed(
        show_id,
        fixture_id,
        lambda show: edits.tick(
            show, [fixture_id], step_asked(), done=form.done.data, by=witness()
        ),
    )


def step_asked() -> Prep:
    """The step that a form names; ``EditError`` for none."""
    form = CardStep.sent()
    step = form.step.data
    if step not in set(Prep):
        raise EditError("Say which step of the preparation is meant.")
    return Prep(step)


@blueprint.post("/turned")
def turned(show_id: int, fixture_id: int) -> BaseResponse:
    """Say that it hangs upside down, or upright; where a reading waits for that, on to what it
    means."""
    form = CardStep.sent()
    saved = load(show_id)
    done = save(saved, edits.set_turned(saved.show, [fixture_id], turned=form.turned.data))
    says = form.says.data
    if not says:
        return redirect(_where_it_was_marked(done, fixture_id))
    told = {name: request.form.get(name, "")[:200] for name in ("part", "mode")}
    query = {**at_query(place_asked(done.show)), **told, "says": says}
    return redirect(url_for("says.index", show_id=show_id, fixture_id=fixture_id, **query))


@blueprint.post("/serial")
def serial(show_id: int, fixture_id: int) -> BaseResponse:
    """Keep its serial number."""
    form = CardStep.sent()
    return _changed(
        show_id,
        fixture_id,
        lambda show: edits.set_serial(show, fixture_id, form.serial.data),
    )


def _changed(show_id: int, fixture_id: int, change: Callable[[Show], Show]) -> BaseResponse:
    saved = load(show_id)
    return redirect(_where_it_was_marked(save(saved, change(saved.show)), fixture_id))


def _where_it_was_marked(saved: SavedShow, fixture_id: int) -> str:
    """The page that a mark came from: the round of one at a time, at the same turn, or the card."""
    if not CardStep.sent().round.data:
        return _card(saved, fixture_id)
    at = at_query(place_asked(saved.show))
    return url_for("rounds.index", show_id=saved.id, turn=fixture_id, **at)
