"""Undo and redo."""

from __future__ import annotations

from flask import Blueprint, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.web.access.guard import check_own_step
from fence.web.frame import back_to
from fence.web.pages import store, who
from fence.web.shows.forms import StepsStep

blueprint = Blueprint("steps", __name__, url_prefix="/shows/<int:show_id>")


@blueprint.post("/undo")
def undo(show_id: int) -> BaseResponse:
    """Take back the last edit. Those who mark take back what they marked themselves."""
    form = StepsStep.sent()
    store().undo(show_id, revision=form.revision.data, who=who(), first=check_own_step)
    return redirect(back_to(url_for("shows.open_show", show_id=show_id)))


@blueprint.post("/redo")
def redo(show_id: int) -> BaseResponse:
    """Bring back what was undone."""
    form = StepsStep.sent()
    store().redo(show_id, revision=form.revision.data, who=who(), first=check_own_step)
    return redirect(back_to(url_for("shows.open_show", show_id=show_id)))
