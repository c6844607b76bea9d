"""Where there is room: the free slots of the universes, and which take a run of some length."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint

from fence.core.model.address import SLOTS, Address, Run
from fence.core.model.show import Show, Universe
from fence.core.model.space import free_bits, starts_one_by_one, use_of
from fence.web.address.forms import RoomLink
from fence.web.frame import Frame, frame
from fence.web.pages import load
from fence.web.showing import Showing

blueprint = Blueprint("room", __name__, url_prefix="/shows/<int:show_id>/address/room")


LINES_A_PAGE = 200


@dataclass(frozen=True, slots=True)
class RoomLine:
    """A universe's free slots: how many, its gaps, and the first place for a run of the length that
    was asked for."""

    number: int
    name: str
    free: int
    gaps: tuple[Run, ...]
    largest: int
    first: Address | None
    times: int


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressRoom(Showing):
    """What is shown by ``address/room.html``."""

    template = "address/room.html"
    frame: Frame
    lines: list[RoomLine]
    length: int | str
    sort: str
    q: str
    at: str
    last: int
    found: int


@blueprint.get("")
def index(show_id: int) -> str:
    """Where there is room: the free slots of the universes, a page at a time, and which take a run
    of some length."""
    link = RoomLink.linked()
    saved = load(show_id)
    show = saved.show
    length = min(max(link.length.data or 0, 0), SLOTS)
    words = link.q.data.strip().casefold()
    found = [u for u in show.universes if words in f"u{u.number} {u.name}".casefold()]
    order = link.sort.data
    if order in {"free", "largest"}:
        found.sort(key=lambda universe: -_room_in(show, universe.number, order))
    last = max(0, (len(found) - 1) // LINES_A_PAGE)
    at = min(max(link.page.data, 0), last)
    shown = found[at * LINES_A_PAGE : (at + 1) * LINES_A_PAGE]
    return AddressRoom(
        frame=frame(saved, "Address"),
        lines=[_room_line(show, universe, length) for universe in shown],
        length=length or "",
        sort=order,
        q=link.q.data,
        at=at,
        last=last,
        found=len(found),
    ).rendered()


def _room_in(show: Show, number: int, order: str) -> int:
    """What a list of room is sorted by: the free slots of a universe, or its largest gap."""
    if order == "free" or not show.fixtures_in.get(number):
        return free_bits(show, number).bit_count()
    largest = use_of(show, number).largest_gap
    return largest.length if largest else 0


def _room_line(show: Show, universe: Universe, length: int) -> RoomLine:
    use = use_of(show, universe.number)
    places = starts_one_by_one(show, universe.number, length) if length else []
    largest = use.largest_gap.length if use.largest_gap else 0
    first = Address(universe.number, places[0]) if places else None
    return RoomLine(universe.number, universe.name, use.free, use.gaps, largest, first, len(places))
