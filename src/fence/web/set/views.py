"""The walk: which fixtures are to be set, in which order; and the way in from a label or a
number."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, redirect, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.core.model.text import whole_number
from fence.core.setting.rounds import anyone_alone
from fence.core.setting.walk import places_in_order
from fence.store.shows import SavedShow
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.set.forms import SetLink
from fence.web.set.page import WalkPage, pages_to_keep, walk_page
from fence.web.showing import Showing

blueprint = Blueprint("set", __name__, url_prefix="/shows/<int:show_id>/set")

_LABEL_CODE = re.compile(r"/c/(\d{1,12})/(\d{1,15})(?:\D|$)", re.ASCII)


def place_asked(show: Show) -> str | None:
    """The position that a page was asked for; None for the whole show, or where there is no such
    position."""
    at = request.values.get("at")
    return at if at in {fixture.position for fixture in show.fixtures} else None


def at_query(at: str | None) -> dict[str, Any]:
    """The position as links carry it."""
    return {} if at is None else {"at": at}


@dataclass(frozen=True, slots=True, kw_only=True)
class SetIndex(Showing):
    """What is shown by ``set/index.html``."""

    template = "set/index.html"
    frame: Frame
    saved: SavedShow
    page: WalkPage
    keep: list[str]
    here: dict[str, object]
    at: str | None
    query: dict[str, object]
    positions: list[str]
    one_by_one: bool


@blueprint.get("")
def index(show_id: int) -> str:
    """The list for a crew: what has to be set again first, then position by position."""
    saved = load(show_id)
    at = place_asked(saved.show)
    page = walk_page(saved.show, at)
    return SetIndex(
        frame=frame(saved, "Set"),
        saved=saved,
        page=page,
        keep=pages_to_keep(saved.id, page.keep, at_query(at)),
        here=at_query(at),
        at=at,
        query=at_query(at),
        positions=[name for name in places_in_order(saved.show) if name],
        one_by_one=anyone_alone(saved.show),
    ).rendered()


@blueprint.get("/open")
def open_label(show_id: int) -> BaseResponse | str | tuple[str, int]:
    """Open a card by what stands on a label: its number, its name, its code, its serial number or
    its address."""
    link = SetLink.linked()
    saved = load(show_id)
    code = link.code.data.strip()
    if not code:
        return _open_page(saved, "", "", ())
    found = _meant(saved, code)
    if len(found) == 1:
        return redirect(url_for("card.index", show_id=show_id, fixture_id=found[0].id))
    said = "Several fixtures answer to that: choose one." if found else ""
    none = f"No fixture here has “{code[:60]}” as its number, name, serial number or address."
    return _open_page(saved, code, said or none, found), 200 if found else 404


@dataclass(frozen=True, slots=True, kw_only=True)
class SetOpen(Showing):
    """What is shown by ``set/open.html``."""

    template = "set/open.html"
    frame: Frame
    saved: SavedShow
    code: str
    problem: str
    found: tuple[Fixture, ...]


def _open_page(saved: SavedShow, code: str, problem: str, found: tuple[Fixture, ...]) -> str:
    return SetOpen(
        frame=frame(saved, "Set"),
        saved=saved,
        code=code,
        problem=problem,
        found=found[:50],
    ).rendered()


def _meant(saved: SavedShow, code: str) -> tuple[Fixture, ...]:
    """The fixtures that a code names: by the label's own code, else by number, name or serial, else
    by address."""
    show = saved.show
    if label := _LABEL_CODE.search(code):
        held = show.fixture_by_id.get(int(label[2])) if int(label[1]) == saved.id else None
        return (held,) if held else ()
    wanted = code.casefold()
    number = whole_number(code)
    named = tuple(
        fixture
        for fixture in show.fixtures
        if wanted in (fixture.label.casefold(), fixture.serial.casefold())
        or number == fixture.number is not None
    )
    if named:
        return named
    spoken = tuple(int(digits) for digits in re.findall(r"\d{1,9}", code))
    return tuple(
        fixture
        for fixture in show.fixtures
        if any(
            entry.slot and spoken in ((entry.slot,), (entry.universe, entry.slot))
            for entry in fixture.patch
        )
    )
