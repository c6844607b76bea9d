"""Where the levels of a show go: to its practice rig, or to addresses that were confirmed for it."""

from __future__ import annotations

from collections.abc import Mapping

from flask import current_app, session

from fence.core.words.box import Box, Protocol
from fence.core.words.network import number_on
from fence.core.words.show import Show
from fence.store.shows import SavedShow
from fence.store.ways import ConfirmedWay, Ways
from fence.web.pages import pages
from fence.web.prove.page import universes_of
from fence.web.prove.sender import PracticeRigs, Sender
from fence.wire.output import Way

PRACTICE, OUT = "practice", "out"


def sender() -> Sender:
    """What sends."""
    found: Sender = current_app.extensions["fence_sender"]
    return found


def rigs() -> PracticeRigs:
    """The practice rigs."""
    found: PracticeRigs = current_app.extensions["fence_rigs"]
    return found


def ways() -> Ways:
    """The confirmed addresses."""
    return pages().ways


def aim(show_id: int) -> str:
    """Where this browser sends a show: to the practice rig, unless it was told otherwise."""
    return str(session.get(f"aim-{show_id}", PRACTICE))


def aim_at(show_id: int, where: str) -> None:
    """Send a show there from now on, from this browser."""
    session[f"aim-{show_id}"] = OUT if where == OUT else PRACTICE


def send(saved: SavedShow, levels: Mapping[int, bytes], eased: Mapping[int, frozenset[int]] | None = None) -> None:
    """Send levels to where this browser aims; a practice rig that does not run is started."""
    if aim(saved.id) == OUT:
        found = ways().of(saved.id)
        sender().send(saved.id, where_words(found), real_ways(saved.show, found), levels, eased)
        return
    practice = rigs().of(saved) or rigs().start(saved)
    there = [Way(universe, Protocol.SACN, practice.bind, universe) for universe in universes_of(saved.show)]
    sender().send(saved.id, "the practice rig", there, levels, eased)


def where_words(found: list[ConfirmedWay]) -> str:
    """The confirmed addresses in words."""
    return ", ".join(f"{one.to} ({one.protocol.written})" for one in found)


def real_ways(show: Show, found: list[ConfirmedWay]) -> list[Way]:
    """Every universe of the show on every confirmed address.

    A box of the show gets those that its ports give, in its own counting; an address that the show does not know gets
    all.
    """
    by_ip = {box.ip: box for box in show.boxes if box.ip}
    made = []
    for one in found:
        box = by_ip.get(one.to)
        for universe in universes_of(show):
            if box is None or universe in _given(box):
                made.append(Way(universe, one.protocol, one.to, _number(box, one.protocol, universe)))
    return made


def _given(box: Box) -> set[int]:
    return {port.universe for port in box.ports if port.universe is not None}


def _number(box: Box | None, protocol: Protocol, universe: int) -> int:
    if protocol is Protocol.SACN:
        return universe
    return number_on(box, universe) if box else universe - 1
