"""Who answers on the ports of boxes: their tables, and what each device says; and talks with
them."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from threading import Lock

from fence.core.model.box import Use
from fence.core.model.errors import FenceError
from fence.core.rdm.controller import Controller
from fence.core.rdm.device_info import DeviceInfo, hear_out
from fence.core.rdm.packet import Identity
from fence.wire.node_discovery import look
from fence.wire.rdm import SEARCH_SECONDS, BoxLine, TooLong

POLL_SECONDS = 1.0
LONGEST_TALK = 15 * 60.0
"""Seconds that one talk may take, where nobody says less."""
MOST_HEARD = 4000
"""Devices that are asked in one go."""
_one_at_a_time = Lock()
"""Two talks at once would hear each other's answers."""


@dataclass(frozen=True, slots=True)
class Place:
    """A port of a box: the address of the box, the Port-Address, and which universe that is for the
    show."""

    box: str
    address: int
    universe: int | None = None


class Lines:
    """Open ways to several boxes, and the talk with each of their ports."""

    def __init__(self, bind: str, until: float = float("inf")) -> None:
        self.bind, self.until = bind, until
        self._stack = ExitStack()
        self._boxes: dict[str, BoxLine] = {}
        self._talks: dict[tuple[str, int], Controller] = {}

    def box(self, ip: str) -> BoxLine:
        """The way to a box. All ways share one socket in turn, so that only one is open at a time
        for each box."""
        if ip not in self._boxes:
            self._boxes[ip] = self._stack.enter_context(BoxLine(self.bind, ip, until=self.until))
        return self._boxes[ip]

    def talk(self, box: str, address: int) -> Controller:
        """The talk with the devices of one port."""
        if (box, address) not in self._talks:
            self._talks[box, address] = Controller(self.box(box).on(address), time.sleep)
        return self._talks[box, address]

    def talk_with(self, said: DeviceInfo) -> Controller:
        """The talk with the line of a device."""
        return self.talk(said.box, said.port)

    def close(self) -> None:
        """Close all."""
        self._stack.close()


@contextmanager
def talking(bind: str, seconds: float = LONGEST_TALK) -> Iterator[Lines]:
    """Talk from an address of this machine, while nobody else does, for so many seconds at most:
    with the wait for others who talk. ``TooLong`` is raised once they are over.
    """
    until = time.monotonic() + seconds
    if not _one_at_a_time.acquire(timeout=seconds):
        raise TooLong(
            "Something else talks with the fixtures, and does not come to an end: try again later."
        )
    lines = Lines(bind, until)
    try:
        yield lines
    finally:
        lines.close()
        _one_at_a_time.release()


def places_of(bind: str, box: str, port: int | None = None) -> list[Place]:
    """The ports of a box that give something out, as it tells them itself; one of them by its
    number.

    ``FenceError`` where it does not answer, or has no such port.
    """
    found = look(bind, [box], seconds=POLL_SECONDS)
    told = [held for held in found.boxes if held.ip == box] or list(found.boxes)
    if not told:
        raise FenceError(f"{box} does not answer: is it on, and in the network of {bind}?")
    outs = [held for held in told[0].ports if held.use is Use.OUT]
    wanted = [held for held in outs if port in (None, held.number)]
    if not wanted:
        numbers = ", ".join(str(held.number) for held in outs[:32]) or "none"
        raise FenceError(f"{box} has no port {port} that gives out DMX. Use {numbers}.")
    return [Place(box, held.says) for held in wanted]


def hear_all(
    lines: Lines,
    places: Sequence[Place],
    *,
    flush: bool = True,
    seconds: float = SEARCH_SECONDS,
    stop: Callable[[], bool] = lambda: False,
    tell: Callable[[int, int, str], None] = lambda done, of, words: None,
) -> tuple[list[DeviceInfo], list[str]]:
    """All who answer on these ports, and what each says; with what was in the way, in words.

    ``stop`` is asked before each device, ``tell`` is told how many were heard of how many.
    """
    notes: list[str] = []
    by_box: dict[str, list[Place]] = {}
    for place in places:
        by_box.setdefault(place.box, []).append(place)
    heard: list[DeviceInfo] = []
    waiting: list[tuple[Place, Identity]] = []
    for box, mine in by_box.items():
        tell(0, 0, f"{box} searches its lines")
        tables = lines.box(box).tables(
            [place.address for place in mine], flush=flush, seconds=seconds
        )
        if not tables:
            notes.append(
                f"{box} gives no table of devices: it is off, elsewhere, or passes no RDM."
            )
        waiting += [(place, one) for place in mine for one in tables.get(place.address, ())]
    if len(waiting) > MOST_HEARD:
        notes.append(
            f"{len(waiting)} devices are on these lines: the first {MOST_HEARD} were asked."
        )
        del waiting[MOST_HEARD:]
    for done, (place, identity) in enumerate(waiting):
        if stop():
            notes.append(f"Stopped after {done} of {len(waiting)}.")
            break
        talk = lines.talk(place.box, place.address)
        try:
            said = hear_out(
                talk, identity, box=place.box, port=place.address, universe=place.universe
            )
        except TooLong as error:
            notes.append(f"After {done} of {len(waiting)}: {error}")
            break
        heard.append(said)
        tell(done + 1, len(waiting), said.label or said.title)
    return heard, notes
