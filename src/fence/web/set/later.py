"""Marks that a browser's script sends, at once or when it is back in reach: each is taken once, and
none is dropped."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

from flask import Blueprint, Response, current_app, flash, jsonify, request, url_for
from flask_wtf.csrf import generate_csrf
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import FenceError
from fence.core.model.text import printable
from fence.store.shows import NoSuchShow
from fence.web.access.guard import NotYours
from fence.web.assets import shipped_version, styles
from fence.web.pages import sending, store, tell, who
from fence.web.set.forms import LaterStep

blueprint = Blueprint("later", __name__)

KEPT = frozenset(
    {"set.index", "set.open_label", "card.index", "says.index", "place.index", "rounds.index"}
)
"""The pages that are kept on a phone, for where there is no network."""


@blueprint.get("/sw.js")
def worker() -> Response:
    """The script that keeps the walk and the cards for when the network is gone; it stands at the
    root."""
    told = json.dumps({"pages": _kept_pages(), "styles": styles(), "version": shipped_version()})
    script = Path(str(current_app.static_folder), "worker.js").read_text(encoding="utf-8")
    answer = Response(f'"use strict";\nconst FENCE = {told};\n{script}', mimetype="text/javascript")
    answer.headers["Cache-Control"] = "no-cache"
    return answer


def _kept_pages() -> list[str]:
    """Patterns of the paths that are kept on a phone, as a script reads them."""
    rules = (rule.rule for rule in current_app.url_map.iter_rules() if rule.endpoint in KEPT)
    return sorted(f"^{re.sub('<[^>]+>', '[0-9]+', rule)}/?$" for rule in rules)


@blueprint.get("/shows/<int:show_id>/set/token")
def token(show_id: int) -> Response:
    """What a page that was kept for long needs to send: a fresh token, and who is logged in now."""
    return jsonify(token=generate_csrf(), who=who(), revision=store().get(show_id).revision)


@blueprint.before_app_request
def came_before() -> Response | None:
    """Answer a mark that was taken already, whose answer got lost, as it was answered then."""
    show_id = (request.view_args or {}).get("show_id")
    if (
        request.method != "POST"
        or show_id is None
        or not sending()
        or not store().was_sent(show_id, sending())
    ):
        return None
    return jsonify(kept=True, again=True, to=url_for("set.index", show_id=show_id))


@blueprint.after_app_request
def for_the_script(answer: BaseResponse) -> BaseResponse:
    """A mark that was taken leads on to a page: the script is told which."""
    if sending() and answer.status_code in (302, 303):
        return jsonify(kept=True, to=answer.headers["Location"])
    return answer


def refused(error: FenceError, status: int) -> Response | None:
    """What the script is told of a mark that is refused. One that has waited is not dropped: it is
    logged."""
    form = LaterStep.sent()
    if not sending():
        return None
    show_id = (request.view_args or {}).get("show_id")
    lasting = isinstance(error, NotYours | NoSuchShow) or status >= 500
    if show_id is None or lasting or not form.waited.data:
        return _said(status, problem=str(error))
    words = printable(form.words.data).replace("“", "'").replace("”", "'") or "a mark"
    try:
        tell(show_id, f"Sent late and not kept as a mark: “{words}”. {error}")
    except FenceError as gone:
        return _said(status, problem=f"{error} {gone}")
    flash(f"“{words}” is not kept as a mark, the log has it. {error}", "stop")
    return _said(200, kept=True, to=url_for("log.index", show_id=show_id))


def _said(status: int, **told: Any) -> Response:
    made = jsonify(**told)
    made.status_code = status
    return made
