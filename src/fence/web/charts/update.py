"""A newer chart for the show, seen before it is taken, and a chart’s revisions to read."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.charts.writing import write_chart_text
from fence.core.model.errors import EditError
from fence.core.model.profile import Profile
from fence.web.charts.page import (
    Effect,
    effect_on,
)
from fence.web.frame import Frame, frame
from fence.web.pages import library, load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("chart_update", __name__, url_prefix="/shows/<int:show_id>/charts")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsUpdate(Showing):
    """What is shown by ``charts/update.html``."""

    template = "charts/update.html"
    frame: Frame
    held: Profile
    newest: Profile
    effect: Effect
    revisions: list[Profile]


@blueprint.route("/<chart_id>/update", methods=["GET", "POST"])
def index(show_id: int, chart_id: str) -> BaseResponse | str:
    """Bring the show's chart to the library's newest revision, seen before it is done."""
    saved = load(show_id)
    newest, held = library().newest(chart_id), saved.show.profile_by_id.get(chart_id)
    if newest is None or held is None:
        raise EditError("There is no newer chart for this show.")
    if request.method == "GET":
        return ChartsUpdate(
            frame=frame(saved, "Charts"),
            held=held,
            newest=newest,
            effect=effect_on(saved.show, newest),
            revisions=library().revisions(chart_id),
        ).rendered()
    before = load_for_edit(show_id)
    save(before, edits.update_chart(before.show, newest))
    flash(f"{newest.title} is at revision {newest.revision} now.")
    return redirect(url_for("charts.index", show_id=show_id))


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartsRevision(Showing):
    """What is shown by ``charts/revision.html``."""

    template = "charts/revision.html"
    frame: Frame
    profile: Profile
    text: str
    others: list[int]
    held: int | None


@blueprint.get("/<chart_id>/revisions/<int:number>")
def revision(show_id: int, chart_id: str, number: int) -> str:
    """One revision of a chart, to read: what it said then, beside the others."""
    saved = load(show_id)
    known = {profile.revision: profile for profile in library().revisions(chart_id)}
    held = saved.show.profile_by_id.get(chart_id)
    if held is not None:
        known.setdefault(held.revision, held)
    if number not in known:
        raise EditError("There is no such revision of this chart.")
    return ChartsRevision(
        frame=frame(saved, "Charts"),
        profile=known[number],
        text=write_chart_text(known[number]),
        others=sorted(known),
        held=held.revision if held else None,
    ).rendered()
