"""Who is where: which fixture or position each crew has open now, and what was marked lately."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from threading import Lock

from flask import Blueprint, current_app, request

from fence.core.model.show import Show
from fence.store.journal import Entry
from fence.store.shows import SavedShow
from fence.web.access.guard import seat
from fence.web.pages import journal, load, who
from fence.web.set.forms import HereLink
from fence.web.showing import Showing

blueprint = Blueprint("here", __name__, url_prefix="/shows/<int:show_id>/set/here")

GONE = timedelta(seconds=30)
"""After so long without a word somebody is taken to be elsewhere; pages ask every five seconds."""
LATELY = timedelta(minutes=10)
MOST_SEATS = 500
MOST_SHOWN = 8
SHOWS_REMEMBERED = 32


@dataclass(frozen=True, slots=True)
class Place:
    """Where somebody is: at a fixture's card, at a position's list, or at the list of all (both
    None)."""

    who: str
    at: datetime
    fixture: int | None
    position: str | None


@dataclass(frozen=True, slots=True)
class Seen:
    """Somebody else, and where, in words."""

    who: str
    words: str
    same: bool


class Presence:
    """Who is where, by show and browser, as their pages tell it. Kept in memory: it is true for
    half a minute only.

    A show is known by its key and a browser by a random name, so that neither stands for another
    one later.
    """

    def __init__(self, clock: Callable[[], datetime]) -> None:
        self._clock, self._lock = clock, Lock()
        self._places: OrderedDict[tuple[str, str], Place] = OrderedDict()
        self._lately: OrderedDict[str, tuple[int, tuple[Entry, ...]]] = OrderedDict()

    def tell(
        self, key: str, seat: str, name: str, fixture: int | None, position: str | None
    ) -> list[Place]:
        """Note where somebody is, and give where the others of that show are, the last to come
        first."""
        now = self._clock()
        with self._lock:
            self._places[(key, seat)] = Place(name, now, fixture, position)
            self._places.move_to_end((key, seat))
            while self._places and (
                len(self._places) > MOST_SEATS or next(iter(self._places.values())).at < now - GONE
            ):
                self._places.popitem(last=False)
            return [
                place
                for (show, other), place in reversed(self._places.items())
                if show == key and other != seat
            ]

    def lately(self, saved: SavedShow, read: Callable[[], tuple[Entry, ...]]) -> tuple[Entry, ...]:
        """What was marked last in a show, read anew only when the show has moved on."""
        with self._lock:
            held = self._lately.get(saved.key)
        if held is None or held[0] != saved.revision:
            held = saved.revision, read()
            with self._lock:
                self._lately[saved.key] = held
                while len(self._lately) > SHOWS_REMEMBERED:
                    self._lately.popitem(last=False)
        since = self._clock() - LATELY
        return tuple(entry for entry in held[1] if entry.at >= since)


def _presence() -> Presence:
    found: Presence = current_app.extensions["fence_presence"]
    return found


@blueprint.record_once
def _ready(state: object) -> None:
    app = state.app  # type: ignore[attr-defined]
    app.extensions["fence_presence"] = Presence(app.extensions["fence_pages"].store.clock)


@dataclass(frozen=True, slots=True, kw_only=True)
class SetHere(Showing):
    """What is shown by ``set/_here.html``."""

    template = "set/_here.html"
    seen: list[Seen]
    more: int
    lately: tuple[Entry, ...]
    moved_on: bool


@blueprint.get("")
def index(show_id: int) -> str:
    """Say where this browser is; hear where the others are and what was marked."""
    link = HereLink.linked()
    saved = load(show_id)
    fixture = link.fixture.data
    position = request.args.get("at")
    others = _presence().tell(
        saved.key, seat(), who(), fixture, position[:200] if position is not None else None
    )
    seen = [_seen(saved.show, place, fixture, position) for place in others[:MOST_SHOWN]]
    lately = _presence().lately(saved, lambda: journal().lately(show_id, "Set", MOST_SHOWN))
    return SetHere(
        seen=sorted(seen, key=lambda one: not one.same),
        more=max(0, len(others) - MOST_SHOWN),
        lately=lately,
        moved_on=saved.revision != request.args.get("revision", saved.revision, type=int),
    ).rendered()


def _seen(show: Show, place: Place, fixture: int | None, position: str | None) -> Seen:
    """Somebody's place in words, and whether it is where this browser is: the same fixture, or the
    same position."""
    held = show.fixture_by_id.get(place.fixture) if place.fixture is not None else None
    mine = show.fixture_by_id.get(fixture) if fixture is not None else None
    where = held.position if held is not None else place.position
    if held is not None:
        words = f"at {held.label}" + (f", {held.position}" if held.position else "")
    else:
        words = f"at {place.position}" if place.position else "on the list"
    here = mine.position if mine is not None else position
    same = (
        held is not None and held == mine
        if mine is not None and held is not None
        else bool(where) and where == here
    )
    return Seen(place.who, words, same)
