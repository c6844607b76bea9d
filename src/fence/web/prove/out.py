"""All out: on every screen, for everybody, as long as anything is sent."""

from __future__ import annotations

from pathlib import Path

from flask import Blueprint, Flask, current_app, flash, redirect, render_template, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import FenceError
from fence.store.people import Role
from fence.store.shows import NoSuchShow
from fence.web.access.guard import role
from fence.web.frame import back_to
from fence.web.pages import store, who
from fence.web.prove.sending import Aims
from fence.work.listening import Listeners
from fence.work.practice_rigs import PracticeRigs
from fence.work.sender import Sender, Sending

blueprint = Blueprint("out", __name__)


OUT = "All is out: nothing is sent any more."
GOING_OUT = (
    "All goes out: the end of the streams is not heard of yet. A process that stands "
    "still is ended for it."
)
NOT_LOGGED = " The log could not be written ({error})."


def put_out() -> str:
    """Put all out; how that stands, in words."""
    sender: Sender = current_app.extensions["fence_sender"]
    return OUT if sender.out() else GOING_OUT


@blueprint.post("/out")
def take() -> BaseResponse:
    """All levels to zero, all streams ended, nothing more. Nothing else can keep that from being
    done, or said."""
    sender: Sender = current_app.extensions["fence_sender"]
    now = sender.now
    told = put_out()
    if now is not None:
        try:
            store().tell(now.show_id, "All out", who=who(), origin="Prove")
        except NoSuchShow:
            pass  # it was deleted, and its log with it
        except FenceError as error:
            told += NOT_LOGGED.format(error=str(error).rstrip("."))
    flash(told)
    return redirect(back_to(url_for("shows.index")))


@blueprint.get("/sending")
def status() -> str:
    """The banner, for every page that is open: as long as one is, sending goes on."""
    if role().may(Role.CREW):
        sender: Sender = current_app.extensions["fence_sender"]
        sender.touch()
    return render_template("shared/_sending.html")


def sending() -> Sending | None:
    """What is sent now, for the banner on every screen."""
    sender: Sender = current_app.extensions["fence_sender"]
    return sender.now


def ended() -> str:
    """Why sending ended by itself a moment ago, for the banner; empty for no such end."""
    sender: Sender = current_app.extensions["fence_sender"]
    return sender.ended


def attach(app: Flask) -> None:
    """Have one sender and the practice rigs for the store that the application is on."""
    held = app.extensions["fence_pages"].store

    def tell(show_id: int, words: str) -> None:
        held.tell(show_id, words, who="Fence", origin="Prove")

    app.extensions["fence_sender"] = Sender(Path(held.engine.url.database or ""), tell)
    app.extensions["fence_rigs"] = PracticeRigs()
    app.extensions["fence_aims"] = Aims()
    app.extensions["fence_listeners"] = Listeners()


def register(app: Flask) -> None:
    """Make the banner known to templates."""
    app.add_template_global(sending, "sending_now")
    app.add_template_global(ended, "sending_ended")
    app.add_template_global(lambda: app.extensions["fence_works"].holding(), "holding_now")
