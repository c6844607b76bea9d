"""What Fence sends now, by a process of its own.

That process is told every second that somebody is there. It ends all streams by itself when that
stops: when the server is killed, hangs or ends. The server ends them when no browser has looked for
a while, when whoever sends may not any more, and for a process that was killed or stands still. No
page ever waits for any of that.
"""

from __future__ import annotations

import json
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from ipaddress import IPv4Address
from pathlib import Path
from threading import Lock, Thread
from typing import Any
from uuid import UUID, uuid4

from fence.core.model.errors import FenceError
from fence.core.model.patch import Patch
from fence.wire.output import LOW_PRIORITY, MULTICAST, Output, Way
from fence.work.child import END_SECONDS, KILLED_SECONDS, Child

NOBODY_SECONDS = 20.0
"""After so long without a page that looks, all goes out."""
BEAT_SECONDS = 1.0
HUNG_SECONDS, START_SECONDS = 5.0, 30.0
"""After so long without a word the process is taken to stand still: once it has begun to send, and
before."""
LOOKED_AT_SECONDS = 0.1
"""How long the end of the streams is waited for before a page says that it will come."""
ENDED_SHOWN_SECONDS = 60.0
"""How long pages say that sending has ended by itself."""


@dataclass(frozen=True, slots=True)
class Brought:
    """What is brought up alone: which fixture, in which look, planned how, by which way (see
    ``Show.way_in``)."""

    fixture: int
    look: str
    mode: str
    patch: tuple[Patch, ...]
    way: int


@dataclass(frozen=True, slots=True)
class Sending:
    """What is sent now: of which show, where to in words, how many frames a second, what does not
    work, and who else sends the same universes (number, name, priority). ``brought`` is what is
    brought up alone, None where something else is sent."""

    show_id: int
    where: str
    universes: tuple[int, ...]
    rate: float
    problem: str
    others: tuple[tuple[int, str, int], ...] = ()
    brought: Brought | None = None


@dataclass(frozen=True, slots=True)
class Ended:
    """Sending that ended without being asked to: why, and when on the clock of
    ``time.monotonic``."""

    why: str
    at: float


def always() -> str:
    """Nothing speaks against sending."""
    return ""


class Sender:
    """Sends for one show at a time. ``tell`` writes to the log of a show when an end was not asked
    for."""

    def __init__(self, database: Path, tell: Callable[[int, str], None]) -> None:
        self._database, self._tell = database, tell
        self._lock = Lock()
        self._child: Child | None = None
        self._cid = uuid4()
        self._show_id, self._where = 0, ""
        self._ways: tuple[Way, ...] = ()
        self.levels: dict[int, bytes] = {}
        self._sent: dict[int, bytes] = {}
        self._eased: dict[int, frozenset[int]] = {}
        self._told: Callable[[Mapping[int, bytes]], Mapping[int, bytes]] = dict
        self._touched = self._rate = 0.0
        self._problem = ""
        self._others: tuple[tuple[int, str, int], ...] = ()
        self._brought: Brought | None = None
        self._still: Callable[[], str] = always
        self._ended: Ended | None = None

    @property
    def now(self) -> Sending | None:
        """What is sent; None for nothing."""
        with self._lock:
            if self._child is None or self._child.ended.is_set():
                return None
            universes = tuple(sorted({way.universe for way in self._ways}))
            return Sending(
                self._show_id,
                self._where,
                universes,
                self._rate,
                self._problem,
                self._others,
                self._brought,
            )

    @property
    def ended(self) -> str:
        """Why sending ended by itself a moment ago; empty for no such end."""
        found = self._ended
        return found.why if found and time.monotonic() - found.at < ENDED_SHOWN_SECONDS else ""

    def touch(self) -> None:
        """Somebody looks."""
        self._touched = time.monotonic()

    def send(
        self,
        show_id: int,
        where: str,
        ways: Sequence[Way],
        levels: Mapping[int, bytes],
        eased: Mapping[int, frozenset[int]] | None = None,
        *,
        brought: Brought | None = None,
        still: Callable[[], str] = always,
        told: Callable[[Mapping[int, bytes]], Mapping[int, bytes]] = dict,
    ) -> None:
        """Send these levels on these ways from now on, and nothing else. They bring up what is
        ``brought`` alone.

        ``still`` is asked every second why that may not go on; while it gives nothing, it does.
        ``told`` makes of the levels what is sent; it is asked every second as well, so that it
        follows what was changed.
        """
        if not ways:
            raise FenceError(
                "There is nowhere to send to: confirm an address, or take the practice rig."
            )
        self.touch()
        if (now := self.now) is not None and now.show_id != show_id:
            self.out()
        sent = {universe: bytes(held) for universe, held in told(levels).items()}
        with self._lock:
            if self._child is None or self._child.ended.is_set():
                self._child = self._started(show_id, ways)
                Thread(
                    target=self._watch, args=(self._child,), daemon=True, name="sender watch"
                ).start()
            self._show_id, self._where, self._ways, self._still = show_id, where, tuple(ways), still
            self._brought = brought
            self._ended = None
            self.levels = {universe: bytes(held) for universe, held in levels.items()}
            self._sent, self._eased, self._told = sent, dict(eased or {}), told
            self._child.tell(self._state())

    def _state(self) -> dict[str, Any]:
        """What the process is told to send; the lock is held."""
        return {
            "ways": [_way(way) for way in self._ways],
            "levels": {str(universe): held.hex() for universe, held in self._sent.items()},
            "eased": {str(universe): sorted(slots) for universe, slots in self._eased.items()},
        }

    def _follow(self, child: Child) -> None:
        """Send what comes of the same levels by now, where that is something else."""
        with self._lock:
            levels, told = self.levels, self._told
        fresh = {universe: bytes(held) for universe, held in told(levels).items()}
        with self._lock:
            if child is self._child and levels is self.levels and fresh != self._sent:
                self._sent = fresh
                child.tell(self._state())

    def _started(self, show_id: int, ways: Sequence[Way]) -> Child:
        """Start the process; the lock is held. What goes to this machine only is sent from it
        alone."""
        self._cid = uuid4()
        self._rate, self._problem, self._others = 0.0, "", ()
        place = [
            "output",
            "--bind",
            _bind(ways),
            "--priority",
            str(LOW_PRIORITY),
            "--cid",
            str(self._cid),
        ]
        return Child(
            [*place, "--db", str(self._database), "--show", str(show_id)], self._hear, self._gone
        )

    def _hear(self, line: str) -> None:
        with suppress(ValueError, TypeError, KeyError):
            words = json.loads(line)
            self._rate, self._problem = float(words["rate"]), str(words["problem"])
            self._others = tuple(
                (int(u), str(name), int(prio)) for u, name, prio in words["others"]
            )

    def _watch(self, child: Child) -> None:
        """Tell the process every second that somebody is there, as long as that is so.

        Where this process itself stood still, nothing is concluded from that at once: what the
        other one did meanwhile, such as to end, is heard first.
        """
        looked, waited = time.monotonic(), False
        while child is self._child and not child.ended.is_set():
            waited = not waited and time.monotonic() - looked > HUNG_SECONDS
            looked = time.monotonic()
            if not waited and (why := self._why_not(child)):
                self._end_by_itself(child, why)
                return
            child.beat()
            with suppress(FenceError):  # what cannot be looked up now is looked up in a second
                self._follow(child)
            child.ended.wait(BEAT_SECONDS)

    def _why_not(self, child: Child) -> str:
        now = time.monotonic()
        if now - self._touched > NOBODY_SECONDS:
            return f"no browser looked for {NOBODY_SECONDS:.0f} s"
        if now - child.heard > (HUNG_SECONDS if child.spoke else START_SECONDS):
            return "the process that sends stood still"
        try:
            return self._still()
        except FenceError as error:
            return f"it cannot be looked up whether that may go on ({error})"

    def _gone(self, child: Child) -> None:
        """The process has ended. One that was told to by somebody else has said so in the log."""
        self._end_by_itself(child, "the process that sends was ended", told=not child.failed)

    def _end_by_itself(self, child: Child, why: str, *, told: bool = False) -> None:
        with self._lock:
            if child is not self._child:
                return
            show_id, ways, cid = self._show_id, self._ways, self._cid
            self._forget()
            self._ended = Ended(why, time.monotonic())
        self._bury(child, ways, cid)
        if not told:
            with suppress(FenceError):
                self._tell(show_id, f"All out: {why}")

    def out(self) -> bool:
        """All levels to zero, all streams ended, nothing more. Whether that is done; else it is
        under way."""
        with self._lock:
            child, ways, cid = self._child, self._ways, self._cid
            self._forget()
            self._ended = None
        if child is None:
            return True
        child.end()
        well = child.over.wait(LOOKED_AT_SECONDS) and not (child.ended.is_set() and child.failed)
        Thread(target=self._bury, args=(child, ways, cid), daemon=True, name="sender end").start()
        return well

    def _forget(self) -> None:
        self._child, self._ways, self._still, self._brought = None, (), always, None
        self.levels, self._sent, self._eased, self._told = {}, {}, {}, dict

    def _bury(self, child: Child, ways: Sequence[Way], cid: UUID) -> None:
        """See that the process ends, and end its streams where it did not."""
        if child.bury():
            return
        with suppress(FenceError):
            Output(_bind(ways), priority=LOW_PRIORITY, cid=cid).end_others(ways)

    def close(self) -> None:
        """All out, and wait for it: for the end of the server."""
        child = self._child
        self.out()
        if child is not None:
            child.ended.wait(END_SECONDS + KILLED_SECONDS)


def _bind(ways: Sequence[Way]) -> str:
    inside = all(way.to != MULTICAST and IPv4Address(way.to).is_loopback for way in ways)
    return "127.0.0.1" if inside else "0.0.0.0"


def _way(way: Way) -> dict[str, Any]:
    """A way out as the sending process is told it."""
    return {
        "universe": way.universe,
        "protocol": str(way.protocol),
        "to": way.to,
        "number": way.number,
        "broadcast": way.broadcast,
    }
