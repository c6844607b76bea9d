"""Distances, spacing and slack: what lengths of cable are reckoned from."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.ground import DESK, Distance, Ground
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.lines.forms import GroundStep
from fence.web.metres import metres
from fence.web.pages import load, load_for_edit, save
from fence.web.showing import Showing

blueprint = Blueprint("ground", __name__, url_prefix="/shows/<int:show_id>/lines/ground")

MOST_WAYS = 2000


@blueprint.get("")
def index(show_id: int) -> str:
    """How far the positions lie from the desk and from each other."""
    saved = load(show_id)
    ground = saved.show.ground
    typed = {
        "slack": str(ground.slack),
        "sockets": str(ground.sockets or ""),
        "between": "\n".join(
            f"{way.one} – {way.other}: {way.metres:g}"
            for way in ground.distances
            if DESK not in way.ends
        ),
    }
    for number, position in enumerate(saved.show.positions):
        way = next(
            (w for w in ground.distances if w.ends == frozenset((DESK, position.name))), None
        )
        typed[f"desk-{number}"] = f"{way.metres:g}" if way else ""
        typed[f"spacing-{number}"] = "" if position.spacing is None else f"{position.spacing:g}"
    return _page(saved, typed, "")


@dataclass(frozen=True, slots=True, kw_only=True)
class LinesGround(Showing):
    """What is shown by ``lines/ground.html``."""

    template = "lines/ground.html"
    frame: Frame
    saved: SavedShow
    typed: dict[str, str]
    problem: str
    positions: list[str]


def _page(saved: SavedShow, typed: dict[str, str], problem: str) -> str:
    return LinesGround(
        frame=frame(saved, "Lines"),
        saved=saved,
        typed=typed,
        problem=problem,
        positions=[position.name for position in saved.show.positions],
    ).rendered()


@blueprint.post("")
def take(show_id: int) -> BaseResponse | tuple[str, int]:
    """Keep what was typed; what is no number is named, and nothing of the form is lost."""
    form = GroundStep.sent()
    before = load_for_edit(show_id)
    try:
        after = _changed(before.show)
    except EditError as error:
        return _page(
            before, {name: value[:20_000] for name, value in request.form.items()}, str(error)
        ), 422
    save(before, after)
    flash("Saved." if after != before.show else "Nothing to change.")
    if form.then.data == "measure":
        return redirect(url_for("plans.index", show_id=show_id, what="measure"))
    return redirect(url_for("ground.index", show_id=show_id))


def _changed(show: Show) -> Show:
    form = GroundStep.sent()
    ways, spacings = [], {}
    for number, name in enumerate(form.place.data):
        from_desk = metres(
            request.form.get(f"desk-{number}", ""), f"the way from the desk to {name}"
        )
        if from_desk is not None:
            ways.append(Distance(DESK, name, from_desk))
        spacings[name] = metres(request.form.get(f"spacing-{number}", ""), f"the spacing at {name}")
    ways += _between(show, form.between.data)
    slack, words = (
        form.slack.data,
        form.sockets.data,
    )
    sockets = whole_number(words) if words else None
    if slack is None or (words and sockets is None):
        raise EditError(
            "Slack is a whole number of percent, and sockets a whole number from 1, or empty."
        )
    return edits.set_ground(show, Ground(tuple(ways), slack, sockets), spacings)


def _between(show: Show, text: str) -> list[Distance]:
    """Distances of positions from each other, one a line: two names and metres."""
    names = sorted((position.name for position in show.positions), key=len, reverse=True)
    found = []
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) > MOST_WAYS:
        raise EditError(f"{len(lines)} distances were typed. Use up to {MOST_WAYS}.")
    for line in lines:
        one = next((name for name in names if line.casefold().startswith(name.casefold())), None)
        rest = line[len(one) :].lstrip(" -–—>→to,;\t") if one else ""
        other = next((name for name in names if rest.casefold().startswith(name.casefold())), None)
        if one is None or other is None:
            raise EditError(
                f"“{line[:60]}” names no two positions of this show. Type them as: Palm House – "
                "Rill: 18."
            )
        length = metres(rest[len(other) :].strip(" :=,;\t"), f"the way from {one} to {other}")
        if length is None:
            raise EditError(f"“{line[:60]}” has no length: type it as {one} – {other}: 18.")
        found.append(Distance(one, other, length))
    return found
