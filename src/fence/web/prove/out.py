"""All out: on every screen, for everybody, as long as anything is sent."""

from __future__ import annotations

from pathlib import Path

from flask import Blueprint, Flask, current_app, flash, redirect, render_template, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.web.frame import back_to
from fence.web.pages import store, who
from fence.web.prove.sender import PracticeRigs, Sender, Sending

blueprint = Blueprint("out", __name__)


@blueprint.post("/out")
def take() -> BaseResponse:
    """All levels to zero, all streams ended, nothing more."""
    sender: Sender = current_app.extensions["fence_sender"]
    now = sender.now
    sender.out()
    if now is not None:
        store().tell(now.show_id, "All out", who=who(), origin="Prove")
    flash("All is out: nothing is sent any more.")
    return redirect(back_to(url_for("shows.index")))


@blueprint.get("/sending")
def status() -> str:
    """The banner, for every page that is open: as long as one is, sending goes on."""
    sender: Sender = current_app.extensions["fence_sender"]
    sender.touch()
    return render_template("shared/_sending.html")


def sending() -> Sending | None:
    """What is sent now, for the banner on every screen."""
    sender: Sender = current_app.extensions["fence_sender"]
    return sender.now


def attach(app: Flask) -> None:
    """Have one sender and the practice rigs for the store that the application is on."""
    held = app.extensions["fence_pages"].store

    def tell(show_id: int, words: str) -> None:
        held.tell(show_id, words, who="Fence", origin="Prove")

    app.extensions["fence_sender"] = Sender(Path(held.engine.url.database or ""), tell)
    app.extensions["fence_rigs"] = PracticeRigs()


def register(app: Flask) -> None:
    """Make the banner known to templates."""
    app.add_template_global(sending, "sending_now")
    app.add_template_global(lambda: app.extensions["fence_works"].holding(), "holding_now")
