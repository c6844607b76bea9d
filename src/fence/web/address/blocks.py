"""Steps on several picked fixtures, or on a whole universe: seen first where much moves, else done
at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from flask import Blueprint, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.addressing.moves import compact, split, swap
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.model.standing import as_planned
from fence.core.model.text import agreeing, counted
from fence.web.address.asked import Asked
from fence.web.address.forms import StepForm, valid
from fence.web.address.proposed import ProposedEdit
from fence.web.address.views import asked_for, board_page, saved_board
from fence.web.pages import load, load_for_edit, witness

blueprint = Blueprint("blocks", __name__, url_prefix="/shows/<int:show_id>/address/block")


def _swap(show: Show, asked: Asked) -> Show:
    if len(asked.picks) != 2:
        raise EditError(
            f"{counted(len(asked.picks), 'fixture is', 'fixtures are')} selected: "
            "select just two to swap their addresses."
        )
    return swap(show, *asked.picks)


def _toggle_set(show: Show, asked: Asked) -> Show:
    done = all(as_planned(show, show.fixture(i)) for i in asked.picks)
    return (
        edits.mark_unset(show, asked.picks)
        if done
        else edits.mark_set(show, asked.picks, witness())
    )


def _toggle_pin(show: Show, asked: Asked) -> Show:
    done = all(show.fixture(i).pinned for i in asked.picks)
    return edits.unpin(show, asked.picks) if done else edits.pin(show, asked.picks)


STEPS: dict[str, Callable[[Show, Asked], Show]] = {
    "swap": _swap,
    "pin": _toggle_pin,
    "set": _toggle_set,
    "unplace": lambda show, asked: edits.unplace(show, asked.picks),
    "share": lambda show, asked: edits.share(show, asked.picks),
    "split": lambda show, asked: split(show, asked.picks),
    "compact": lambda show, asked: compact(show, asked.universe or 1),
}


@dataclass(frozen=True, slots=True)
class Words:
    """What a preview says: the title, why, and the button."""

    title: str
    why: str
    button: str


def _words(show: Show, after: Show, asked: Asked, step: str) -> Words:
    picked = [show.fixture(i) for i in asked.picks]
    if step == "share":
        each = sum(show.footprints_of(picked[0]))
        saved = each * (len(picked) - 1)
        return Words(
            f"Share one address: {len(picked)} fixtures",
            f"Gained: {counted(saved, 'channel')}, and one thing to program. "
            "Given up: they cannot be controlled apart any more.",
            "Declare them as shared",
        )
    if step == "split":
        clashing = sum(1 for f in picked if after.fixture(f.id).patch == f.patch)
        stay = f"{clashing} {agreeing(clashing, 'keeps', 'keep')} the address."
        return Words(
            "End the sharing", f"Each finds its own place in the nearest gap; {stay}", "Split them"
        )
    moved = sum(
        1 for old, new in zip(show.fixtures, after.fixtures, strict=True) if old.patch != new.patch
    )
    title = f"Close the gaps of U{asked.universe or 1}"
    return Words(
        title,
        f"{counted(moved, 'fixture moves', 'fixtures move')} down in their order; what is pinned "
        "stays.",
        "Close them",
    )


@blueprint.get("/<any(share, split, compact):step>")
def preview(show_id: int, step: str) -> str:
    """What a step would do."""
    saved = load(show_id)
    asked = asked_for()
    after = STEPS[step](saved.show, asked)
    words = _words(saved.show, after, asked, step)
    fields = (("pick", str(asked.pick or "")), ("also", asked.also_words))
    action = url_for("blocks.take", show_id=show_id, step=step)
    return board_page(
        saved, asked, ProposedEdit(after, words.title, words.why, action, fields, words.button)
    )


@blueprint.post("/<step>")
def take(show_id: int, step: str) -> BaseResponse | str:
    """Do a step."""
    valid(StepForm())
    asked = asked_for()
    if step not in STEPS:
        raise EditError("Say what to do with the selected fixtures.")
    if not asked.picks and step != "compact":
        raise EditError("Select at least one fixture first.")
    before = load_for_edit(show_id)
    after = STEPS[step](before.show, asked)
    return saved_board(before, after, asked)
