"""The practice rig by clicking: faults are put in and taken out where they are on the picture,
shown or hidden."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, flash, redirect, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.errors import EditError, FenceError
from fence.core.model.profile import Mode
from fence.core.simulation.faults import PUT_ON, Fault, Trouble
from fence.core.troubleshooting.told import KINDS, cause_words
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.practise.cases import looks_like
from fence.web.practise.where import Places, claim_of, fault_of, places, words_of
from fence.web.prove.forms import PracticeLink, PracticeStep
from fence.web.prove.sending import rigs
from fence.web.showing import Showing

blueprint = Blueprint("practice", __name__, url_prefix="/shows/<int:show_id>/prove/practice")

MOST_FAULTS = 12
MOST_SHOWN = 500
"""Fixtures, and devices of lines, that are shown to be picked."""


@dataclass(frozen=True, slots=True)
class PutIn:
    """A fault that is on the rig: what it is, and what it looks like."""

    words: str
    looks: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ProvePractice(Showing):
    """What is shown by ``prove/practice.html``. ``where`` is the place that is picked, empty for
    none; ``kinds`` what can be wrong there."""

    template = "prove/practice.html"
    frame: Frame
    saved: SavedShow
    places: Places
    more: int
    groups: list[tuple[str, list[tuple[str, str]]]]
    where: str
    place: str
    kinds: list[tuple[Trouble, str]]
    modes: tuple[Mode, ...]
    put_in: list[PutIn]
    hidden: int
    running: bool
    typed: dict[str, str]
    problem: str


@blueprint.get("")
def index(show_id: int) -> str:
    """The rig as a picture, and what is wrong with it."""
    return _page(load(show_id), PracticeLink.linked().where.data)


def _page(saved: SavedShow, where: str, problem: str = "") -> str:
    show, practice = saved.show, rigs().of(saved)
    faults = practice.put if practice else ()
    hidden = practice is not None and practice.hidden
    kinds: list[tuple[Trouble, str]] = []
    modes: tuple[Mode, ...] = ()
    if where:
        kinds = [(kind, KINDS[kind]) for kind in PUT_ON if _can_be(saved, kind, where)]
    if where.startswith("f") and where[1:].isdigit():
        fixture = show.fixture_by_id.get(int(where[1:]))
        profile = show.profile_of(fixture) if fixture else None
        modes = profile.modes if profile else ()
    by_position: dict[str, list[tuple[str, str]]] = {}
    for one in show.fixtures[:MOST_SHOWN]:
        by_position.setdefault(one.position or "no position", []).append((f"f{one.id}", one.label))
    return ProvePractice(
        frame=frame(saved, "Prove"),
        saved=saved,
        places=places(show, MOST_SHOWN),
        more=max(0, len(show.fixtures) - MOST_SHOWN),
        groups=list(by_position.items()),
        where=where if kinds else "",
        place=words_of(show, where) if kinds else "",
        kinds=kinds,
        modes=modes,
        put_in=[]
        if hidden
        else [PutIn(cause_words(show, [one]), looks_like(show, (one,))) for one in faults],
        hidden=len(faults) if hidden else 0,
        running=practice is not None,
        typed=PracticeStep.sent().typed(),
        problem=problem,
    ).rendered()


def _can_be(saved: SavedShow, kind: Trouble, where: str) -> bool:
    try:
        claim_of(saved.show, kind, where)
    except EditError:
        return False
    return kind is not Trouble.BLACKOUT or where == "d"


@blueprint.post("")
def take(show_id: int) -> BaseResponse | tuple[str, int]:
    """Put a fault in, take one out or all, hide or show them: the rig is started anew with what is
    left."""
    form, saved = PracticeStep.sent(), load(show_id)
    practice = rigs().of(saved)
    faults = practice.put if practice else ()
    hidden = practice is not None and practice.hidden
    where = form.where.data
    try:
        faults, hidden = _changed(saved, form, faults, hidden=hidden)
    except FenceError as error:
        return _page(saved, where, str(error)), 422
    rigs().start(saved, put=faults, hidden=hidden)
    flash("The practice rig is started anew.")
    return redirect(url_for("practice.index", show_id=show_id, where=where or None))


def _changed(
    saved: SavedShow, form: PracticeStep, faults: tuple[Fault, ...], *, hidden: bool
) -> tuple[tuple[Fault, ...], bool]:
    match form.do.data:
        case "put":
            if len(faults) >= MOST_FAULTS:
                raise EditError(f"{MOST_FAULTS} faults are enough: take some out first.")
            fault = fault_of(saved.show, form.trouble.data, form.where.data, form.more.data)
            return (*(one for one in faults if one != fault), fault), form.hidden.data
        case "out":
            return tuple(one for at, one in enumerate(faults) if at != form.out.data), hidden
        case "hide" | "show":
            return faults, form.do.data == "hide"
    return (), False
