"""Where the levels of a show go: to its practice rig, or to addresses that were confirmed for
it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from ipaddress import IPv4Address
from threading import Lock

from flask import current_app

from fence.core.model.box import Box, Protocol
from fence.core.model.network import number_on
from fence.core.model.show import Show
from fence.store.people import Role
from fence.store.shows import SavedShow
from fence.store.ways import ConfirmedWay, Ways
from fence.web.access.guard import role, seat
from fence.web.pages import pages
from fence.web.prove.page import universes_of, with_tell_tale
from fence.web.still import still
from fence.wire.output import Way
from fence.wire.targets import Reach
from fence.work.practice_rigs import PracticeRigs
from fence.work.sender import Brought, Sender

PRACTICE, OUT = "practice", "out"
TO_THE_RIG, TO_FIXTURES = Role.CREW, Role.PLANNER
"""Who may send to a practice rig, and who to real fixtures."""
MOST_AIMS = 500


@dataclass
class Aims:
    """Where each browser sends each show. It is kept here and not in a cookie, so that it ends with
    a role."""

    _held: OrderedDict[tuple[str, int], str] = field(default_factory=OrderedDict)
    _lock: Lock = field(default_factory=Lock)

    def of(self, seat: str, show_id: int) -> str:
        """Where a browser sends a show: to the practice rig, unless it was told otherwise."""
        with self._lock:
            return self._held.get((seat, show_id), PRACTICE)

    def put(self, seat: str, show_id: int, where: str) -> None:
        """Send a show there from now on."""
        with self._lock:
            self._held[seat, show_id] = OUT if where == OUT else PRACTICE
            self._held.move_to_end((seat, show_id))
            while len(self._held) > MOST_AIMS:
                self._held.popitem(last=False)


def sender() -> Sender:
    """What sends."""
    found: Sender = current_app.extensions["fence_sender"]
    return found


def rigs() -> PracticeRigs:
    """The practice rigs."""
    found: PracticeRigs = current_app.extensions["fence_rigs"]
    return found


def _aims() -> Aims:
    found: Aims = current_app.extensions["fence_aims"]
    return found


def ways() -> Ways:
    """The confirmed addresses."""
    return pages().ways


def aim(show_id: int) -> str:
    """Where this browser sends a show; to fixtures only as long as its person may."""
    return _aims().of(seat(), show_id) if role().may(TO_FIXTURES) else PRACTICE


def aim_at(show_id: int, where: str) -> None:
    """Send a show there from now on, from this browser."""
    _aims().put(seat(), show_id, where)


def touch() -> None:
    """Somebody looks: sending goes on for those who may send at all."""
    if role().may(TO_THE_RIG):
        sender().touch()


def send(
    saved: SavedShow,
    levels: Mapping[int, bytes],
    eased: Mapping[int, frozenset[int]] | None = None,
    *,
    brought: Brought | None = None,
) -> None:
    """Send levels to where this browser aims; a practice rig that does not run is started.
    ``brought`` is what they bring up alone."""
    told = _told(saved)
    if aim(saved.id) == OUT:
        found = ways().of(saved.id)
        there = real_ways(saved.show, found, Reach.here())
        still_may = still(saved.id, TO_FIXTURES)
        where = where_words(found)
        sender().send(
            saved.id, where, there, levels, eased, brought=brought, still=still_may, told=told
        )
        return
    practice = rigs().of(saved) or rigs().start(saved)
    there = [
        Way(universe, Protocol.SACN, practice.bind, universe)
        for universe in universes_of(saved.show)
    ]
    still_may = still(saved.id, TO_THE_RIG)
    sender().send(
        saved.id,
        "the practice rig",
        there,
        levels,
        eased,
        brought=brought,
        still=still_may,
        told=told,
    )


def _told(saved: SavedShow) -> Callable[[Mapping[int, bytes]], Mapping[int, bytes]]:
    """What makes of levels what is sent, also once the show was changed: its tell-tale slot is
    set."""
    shows, show_id = pages().store, saved.id

    def told(levels: Mapping[int, bytes]) -> Mapping[int, bytes]:
        return with_tell_tale(shows.get(show_id).show, levels)

    return told


def where_words(found: list[ConfirmedWay]) -> str:
    """The confirmed addresses in words."""
    return ", ".join(f"{one.to} ({one.protocol.written})" for one in found)


def real_ways(show: Show, found: Sequence[ConfirmedWay], reach: Reach) -> list[Way]:
    """Every universe of the show on every confirmed address.

    A box of the show gets those that its ports give, in its own counting, and so do all that are
    fed by a broadcast; an address that the show does not know gets all.
    """
    chosen = reach.broadcasts_of(show)
    made = []
    for one in found:
        boxes = _fed_by(show, one.to, chosen)
        for universe in universes_of(show):
            box = next((box for box in boxes if universe in _given(box)), None)
            if box is not None or not boxes:
                number = _number(box, one.protocol, universe)
                made.append(Way(universe, one.protocol, one.to, number, one.to in chosen))
    return made


def _fed_by(show: Show, to: str, chosen: Mapping[str, list[str]]) -> list[Box]:
    """The boxes of a show that an address leads to."""
    return [
        box for box in show.boxes if box.ip and (box.ip == to or box.name in chosen.get(to, ()))
    ]


def broadcast_words(show: Show, reach: Reach) -> list[tuple[str, str]]:
    """The addresses of everybody that may be confirmed, each with what that means, in words."""
    told = []
    for to, names in reach.broadcasts_of(show).items():
        network = next(held.network for held in reach.attached if IPv4Address(to) in held.network)
        told.append(
            (to, f"everybody in {network}, since {', '.join(names[:3])} is fed by broadcast")
        )
    return told


def _given(box: Box) -> set[int]:
    return {port.universe for port in box.ports if port.universe is not None}


def _number(box: Box | None, protocol: Protocol, universe: int) -> int:
    if protocol is Protocol.SACN:
        return universe
    return number_on(box, universe) if box else universe - 1
