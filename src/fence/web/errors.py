"""Errors as people see them: one shape, as a page, as a fragment, never a stack trace."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from urllib.parse import urlsplit

from flask import Flask, Response, current_app, make_response, request, url_for
from flask_wtf.csrf import CSRFError, generate_csrf
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge, SecurityError

from fence.core.checks.finding import Finding
from fence.core.edits.prose import describe
from fence.core.model.errors import FenceError
from fence.store.errors import StorageError
from fence.store.shows import NoSuchShow, StaleShow
from fence.web.access.guard import NotYours, guarded
from fence.web.frame import Frame, back_to, frame
from fence.web.outcome import Outcome, outcome_of
from fence.web.pages import asked_by_htmx, sending
from fence.web.set.later import refused as refused_mark
from fence.web.showing import Showing
from fence.work.saving import UnseenStops, mended

InPlace = Callable[[UnseenStops, str, Sequence[tuple[str, str]]], str]
"""Shows an edit with new stops, under a title, with the fields that were sent, in a fragment."""
MEANINGS = {
    400: "This request could not be understood.",
    404: "There is nothing at this place.",
    429: "That was tried too often: wait some minutes, then try again.",
    405: "This place does not take that kind of request.",
    500: "Something went wrong in Fence. Nothing of this step was saved; the log of the server "
    "has the details.",
}


OUT_OF_DATE = (
    "This page was open too long or its cookie is gone: load it again, and repeat the step."
)
NO_COOKIE = "This browser lost its cookie: repeat the step. If that does not help, allow cookies."


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedMessage(Showing):
    """What is shown by ``shared/_message.html``."""

    template = "shared/_message.html"
    message: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedError(Showing):
    """What is shown by ``shared/error.html``."""

    template = "shared/error.html"
    message: str
    status: int
    back: str


def answer(message: str, status: int, back: str = "") -> Response:
    """A message for the person, in the notice of the page it came from, or as a page with a way
    ``back``."""
    if asked_by_htmx():
        response = make_response(SharedMessage(message=message).rendered(), status)
        return _into_notice(response)
    return make_response(
        SharedError(message=message, status=status, back=back or back_to("")).rendered(),
        status,
    )


def _into_notice(response: Response) -> Response:
    response.headers["HX-Retarget"] = "#notice"
    response.headers["HX-Reswap"] = "innerHTML"
    return response


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedConflict(Showing):
    """What is shown by ``shared/_conflict.html``."""

    template = "shared/_conflict.html"
    error: StaleShow
    fields: list[tuple[str, str]]
    action: str
    repeatable: bool


class SharedConflictPage(SharedConflict):
    """The same on a page of its own."""

    template = "shared/conflict.html"


def conflict(error: StaleShow) -> Response:
    """Tell that the show has moved on, and offer to do the step on top of that.

    The form that was sent comes back as it is, with the revision that it began at: so only what
    this person changed is done again. An undo or redo is not offered again: it would now take back
    another step than the one the person saw; nor is a step that began longer ago than the log
    tells.
    """
    repeatable = request.endpoint not in ("steps.undo", "steps.redo") and bool(error.reasons)
    fields = _sent("csrf_token", "on_top")
    shown = SharedConflict if asked_by_htmx() else SharedConflictPage
    body = shown(error=error, fields=fields, action=request.path, repeatable=repeatable)
    response = make_response(body.rendered(), 409)
    return _into_notice(response) if asked_by_htmx() else response


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedNewStops(Showing):
    """What is shown by ``shared/new_stops.html``."""

    template = "shared/new_stops.html"
    frame: Frame
    title: str
    stops: Sequence[Finding]
    fields: list[tuple[str, str]]
    action: str
    outcome: Outcome
    repaired: Outcome | None
    back: str


def seen_first(in_place: InPlace, error: UnseenStops) -> str:
    """Show an edit that makes new stops, with the form that was sent, to be sent again as it is or
    with the repair: in the place that asked for a fragment, else as a page."""
    show, after = error.before.show, error.after
    title = describe(show, after) or "Change"
    fields = _sent("csrf_token", "seen", "repair")
    if asked_by_htmx():
        return in_place(error, title, fields)
    repaired = mended(error.before, after)
    return SharedNewStops(
        frame=frame(error.before, ""),
        title=title,
        stops=error.stops,
        fields=fields,
        action=request.path,
        outcome=outcome_of(show, after, error.before.analysis),
        repaired=outcome_of(show, repaired, error.before.analysis) if repaired != after else None,
        back=back_to(url_for("shows.open_show", show_id=error.before.id)),
    ).rendered()


def _sent(*without: str) -> list[tuple[str, str]]:
    """The fields of the form that was sent, to be sent again."""
    return [
        (name, value)
        for name, values in request.form.lists()
        for value in values
        if name not in without
    ]


def register(app: Flask, in_place: InPlace) -> None:
    """Give every error a handler; ``in_place`` shows an edit with new stops where a page asked for
    a fragment."""
    app.register_error_handler(StaleShow, lambda error: refused_mark(error, 409) or conflict(error))
    app.register_error_handler(UnseenStops, partial(seen_first, in_place))
    for kind, code in REFUSED.items():
        app.register_error_handler(kind, partial(_refused, code))
    app.register_error_handler(CSRFError, _out_of_date)
    app.register_error_handler(RequestEntityTooLarge, _too_large)
    app.register_error_handler(SecurityError, _other_name)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(Exception, _unexpected)


REFUSED: Mapping[type[FenceError], int] = {
    NoSuchShow: 404,
    StorageError: 503,
    NotYours: 403,
    FenceError: 422,
}
"""What is told in its own words, with the status that it is answered by."""


def _refused(code: int, error: FenceError) -> Response:
    return refused_mark(error, code) or answer(str(error), code)


@dataclass(frozen=True, slots=True, kw_only=True)
class SharedOutOfDate(Showing):
    """What is shown by ``shared/out_of_date.html``."""

    template = "shared/out_of_date.html"
    fields: list[tuple[str, str]]
    action: str
    back: str


def _out_of_date(error: CSRFError) -> Response:
    """A step whose token is not that of the browser's cookie: the cookie is gone, or pages that
    were opened at once were each given one.

    A page of this Fence takes the fresh token and sends the step again; a form that is a page's own
    is offered again with what was typed. Where people log in, somebody else may be at the browser
    now, and nothing is repeated unseen.
    """
    current_app.logger.warning("A step at %s was not taken: %s", request.path, error.description)
    if sending():
        return make_response({"token": "stale"}, 400)
    if guarded() or not _sent_from_here() or request.files:
        return answer(OUT_OF_DATE, 400)
    if asked_by_htmx():
        response = answer(NO_COOKIE, 400)
        response.headers["X-Fresh-Token"] = generate_csrf()
        return response
    action = request.full_path.rstrip("?")
    page = SharedOutOfDate(fields=_sent("csrf_token"), action=action, back=back_to(""))
    return make_response(page.rendered(), 400)


def _sent_from_here() -> bool:
    """Whether the browser says that a page of this very Fence sent it."""
    origin = urlsplit(request.headers.get("Origin", ""))
    return bool(origin.netloc) and origin.netloc == request.host


def _too_large(_error: RequestEntityTooLarge) -> Response:
    return answer("This is too large to be sent. Use files up to 16 MB.", 413)


def _other_name(_error: SecurityError) -> Response:
    # no page: its links would carry the name that was not trusted
    told = "This Fence does not answer under that host name. Who started it can add it with --name."
    return Response(told, 400, content_type="text/plain; charset=utf-8")


def _http(error: HTTPException) -> Response:
    code = error.code or 500
    return answer(MEANINGS.get(code, error.description or error.name), code)


def _unexpected(error: Exception) -> Response:
    current_app.logger.exception("Unexpected error at %s", request.path, exc_info=error)
    return answer(MEANINGS[500], 500)
