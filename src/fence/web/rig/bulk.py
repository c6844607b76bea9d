"""Changing all fixtures that are selected in the list."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.edits.prose import describe
from fence.core.model.errors import EditError, FenceError
from fence.core.model.show import Show
from fence.web.pages import load, load_for_edit, save
from fence.web.rig.forms import BulkForm, BulkStep
from fence.web.rig.kinds import kind_named
from fence.web.rig.views import list_page

blueprint = Blueprint("bulk", __name__, url_prefix="/shows/<int:show_id>/rig/bulk")


Bulk = Callable[[Show, list[int], BulkForm], Show]


def _change_fields(show: Show, ids: list[int], form: BulkForm) -> Show:
    """Those fields that were filled in."""
    if form.mode.data:
        show = edits.change_mode(show, ids, form.mode.data)
    if form.label.data:
        show = edits.relabel(show, ids, form.label.data)
    if form.number.data is not None:
        show = edits.renumber(show, ids, form.number.data)
    if form.position.data:
        show = edits.set_position(show, ids, form.position.data)
    return show


def _change_mode(show: Show, ids: list[int], form: BulkForm) -> Show:
    if not form.mode.data:
        raise EditError("Choose the mode that the selected fixtures should take.")
    return edits.change_mode(show, ids, form.mode.data)


def _duplicate(show: Show, ids: list[int], form: BulkForm) -> Show:
    return edits.duplicate(show, ids, form.copies.data or 1, on_line=bool(form.on_line.data))


def _exchange(show: Show, ids: list[int], form: BulkForm) -> Show:
    if not form.kind.data:
        raise EditError("Choose the type that should take the places of the selected fixtures.")
    return edits.exchange(show, ids, *kind_named(show, form.kind.data))


SEEN_FIRST = {"preview-mode": "mode", "preview-kind": "kind"}
"""What is shown before it is done, and the field that says what."""

BULK: dict[str, Bulk] = {
    "change": _change_fields,
    "preview-mode": _change_mode,
    "preview-kind": _exchange,
    "duplicate": _duplicate,
    "turn-over": lambda show, ids, form: edits.set_turned(show, ids, turned=True),
    "turn-upright": lambda show, ids, form: edits.set_turned(show, ids, turned=False),
    "pin": lambda show, ids, form: edits.pin(show, ids),
    "unpin": lambda show, ids, form: edits.unpin(show, ids),
    "share": lambda show, ids, form: edits.share(show, ids, form.group.data or ""),
    "unshare": lambda show, ids, form: edits.unshare(show, ids),
    "unplace": lambda show, ids, form: edits.unplace(show, ids),
    "remove": lambda show, ids, form: edits.remove_fixtures(show, ids),
}


@blueprint.post("")
def index(show_id: int) -> BaseResponse | tuple[str, int]:
    """Change all picked fixtures in one step."""
    step = BulkStep.sent()
    form = BulkForm()
    picked = step.picked.data
    action = BULK.get(step.action.data)
    problem = ""
    if not form.validate():
        problem = "; ".join(
            f"{form[name].label.text}: {messages[0]}" for name, messages in form.errors.items()
        )
    elif action is None:
        problem = "Say what to do with the selected fixtures."
    elif not picked:
        problem = "Select at least one fixture in the list."
    if not problem and action:
        before = load_for_edit(show_id)
        ids = _in_rig_order(before.show, picked)
        try:
            after = action(before.show, ids, form)
        except FenceError as error:
            problem = str(error)
        else:
            if (what := SEEN_FIRST.get(step.action.data)) is not None:
                asked = {"ids": ",".join(map(str, ids)), what: form[what].data}
                return redirect(url_for("change.index", show_id=show_id, **asked))
            save(before, after)
            flash(describe(before.show, after) or "Nothing to change.")
            kept: dict[str, Any] = {
                name: request.form.get(f"f_{name}") or None
                for name in ("q", "position", "sort", "dir")
            }
            return redirect(url_for("rig.index", show_id=show_id, **kept))
    return list_page(load(show_id), form, picked=picked, problem=problem), 422


def _in_rig_order(show: Show, picked: Sequence[int]) -> list[int]:
    """The picked ids in rig order, so that labels and numbers count along the rig; unknown ones
    refused."""
    wanted = set(picked)
    for fixture_id in wanted:
        show.fixture(fixture_id)
    return [fixture.id for fixture in show.fixtures if fixture.id in wanted]
