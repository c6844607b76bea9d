"""Hold: what is changed at the fixtures is noticed while it is on, and put back or told."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError
from fence.core.model.text import counted
from fence.core.rdm.holding import Rule
from fence.store.people import Role
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load, store, who, works
from fence.web.rdm.forms import HoldingStep
from fence.web.rdm.page import Look, answers_of, look_at, names_of, tabs
from fence.web.showing import Part, Showing
from fence.web.still import still
from fence.work.rdm_jobs import Hold
from fence.work.rdm_recording import ORIGIN

blueprint = Blueprint("hold", __name__, url_prefix="/shows/<int:show_id>/rdm/hold")

LONGEST = 120
"""Minutes that a hold may last."""
RULES = {
    Rule.PUT_BACK: (
        "Put it back",
        "The fixture gets its address, mode and directions again, at once.",
    ),
    Rule.TELL: ("Tell me", "It stays as it was changed; the log and the Set step say so."),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class HoldState(Part):
    """How a hold stands."""

    hold: Hold | None
    left: str
    on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RdmHold(Showing):
    """What is shown by ``rdm/hold.html``."""

    template = "rdm/hold.html"
    frame: Frame
    saved: SavedShow
    tabs: list[tuple[str, str]]
    look: Look | None
    rules: dict[Rule, tuple[str, str]]
    longest: int
    state: HoldState


@dataclass(frozen=True, slots=True, kw_only=True)
class RdmHolding(Showing):
    """What is shown by ``rdm/_holding.html``."""

    template = "rdm/_holding.html"
    saved: SavedShow
    state: HoldState


@blueprint.get("")
def index(show_id: int) -> str:
    """The hold: how it stands, what it noticed, and the form that begins one."""
    saved = load(show_id)
    answers = answers_of(show_id)
    look = look_at(saved.show, answers) if answers else None
    return RdmHold(
        frame=frame(saved, "Prove"),
        saved=saved,
        tabs=tabs(show_id),
        look=look if look and look.answers.said else None,
        rules=RULES,
        longest=LONGEST,
        state=_state(saved.key),
    ).rendered()


def _state(key: str) -> HoldState:
    hold = works().hold_of(key)
    left = max(0, int((hold.until - datetime.now(UTC)).total_seconds())) if hold else 0
    return HoldState(
        hold=hold,
        left=f"{left // 60}:{left % 60:02d}",
        on=hold is not None and not hold.ended.is_set(),
    )


@blueprint.get("/status")
def status(show_id: int) -> str:
    """What changes from second to second."""
    saved = load(show_id)
    return RdmHolding(saved=saved, state=_state(saved.key)).rendered()


@blueprint.post("")
def begin(show_id: int) -> BaseResponse:
    """Hold all who answered last, as they stand now."""
    form = HoldingStep.sent()
    saved = load(show_id)
    answers = answers_of(show_id)
    held = {str(one.identity): one for one in answers.said if not one.problem} if answers else {}
    if answers is None or not held:
        raise EditError("Nobody has answered yet: ask who is there first.")
    minutes = form.minutes.data
    if minutes is None or not 1 <= minutes <= LONGEST:
        raise EditError(f"Say for how many minutes. Use 1 to {LONGEST}.")
    rule = form.rule.data
    if rule not in set(Rule):
        raise EditError("Choose what is done about a change: put it back, or tell.")
    names = names_of(look_at(saved.show, answers))
    now = datetime.now(UTC)
    hold = Hold(
        show_id, answers.bind, held, names, Rule(rule), now + timedelta(minutes=minutes), who(), now
    )
    hold.still = still(show_id, Role.PLANNER)
    works().hold(saved.key, hold)
    words = f"Hold over RDM began: {counted(len(held), 'device')}, {minutes} min, changes are "
    store().tell(
        show_id,
        words + ("put back" if hold.rule is Rule.PUT_BACK else "told"),
        who=who(),
        origin=ORIGIN,
    )
    flash("The hold is on. It ends by itself.")
    return redirect(url_for("hold.index", show_id=show_id))


@blueprint.post("/end")
def end(show_id: int) -> BaseResponse:
    """End the hold."""
    works().let_go(load(show_id).key, f"{who()} ended it")
    flash("The hold is off.")
    return redirect(url_for("hold.index", show_id=show_id))
