"""How this browser likes it: its theme, and what its person is called."""

from __future__ import annotations

from flask import Blueprint, flash, redirect, session, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError
from fence.store.naming import check_name
from fence.web.frame import THEMES, back_to, theme
from fence.web.pages import who
from fence.web.shows.forms import WhoForm

blueprint = Blueprint("preferences", __name__)


@blueprint.post("/theme")
def switch_theme() -> BaseResponse:
    """Change between dark and light."""
    session.permanent = True
    session["theme"] = THEMES[1 - THEMES.index(theme())]
    return redirect(back_to(url_for("shows.index")))


@blueprint.post("/who")
def say_who() -> BaseResponse:
    """Say what this browser's person is called on the log."""
    form = WhoForm()
    if not form.validate():
        flash("A name of up to 60 characters is needed.", "stop")
        return redirect(back_to(url_for("shows.index")))
    try:
        name = check_name(form.who.data or "")
    except EditError as error:
        flash(str(error), "stop")
    else:
        session.permanent = True
        session["who"] = name
        flash(f"The log will say {who()}.")
    return redirect(back_to(url_for("shows.index")))
