"""Reading what is on the wire: which sources send a universe, how often, and at which levels."""

from __future__ import annotations

import selectors
import socket
import time
from collections import deque
from contextlib import ExitStack
from dataclasses import dataclass, field

from fence.core.model.address import SLOTS
from fence.core.model.box import Protocol
from fence.core.model.errors import FenceError
from fence.core.model.network import group_of
from fence.wire import artnet, sacn
from fence.wire.groups import group_socket

MOST_SOURCES = 100
RATE_OVER = 2.0
"""Seconds over which frames a second are counted."""
LONGEST = 60.0


@dataclass
class Source:
    """Who sends a universe. ``times`` are those of its last frames."""

    name: str
    ip: str
    priority: int
    levels: bytes = b""
    times: deque[float] = field(default_factory=lambda: deque(maxlen=200))


@dataclass(frozen=True, slots=True)
class Heard:
    """What is heard of one universe: sources, frames a second of all together, levels (those of the
    source that wins: the highest priority, else the highest level of each slot)."""

    sources: tuple[Source, ...]
    frames_per_second: float
    levels: bytes

    @property
    def any(self) -> bool:
        """Whether there is a signal."""
        return bool(self.sources)


class Ear:
    """Listens to one universe of one protocol on one address of this machine, bounded, until it is
    closed.

    ``number`` is the universe as the protocol counts it: 1 to 63999, or a Port-Address.
    ``FenceError`` where the port is taken.
    """

    def __init__(self, protocol: Protocol, number: int, bind: str) -> None:
        self.protocol, self.number = protocol, number
        self.sources: dict[str, Source] = {}
        self.order = sacn.InOrder()
        with ExitStack() as stack:
            self.sockets = [self._socket(bind, stack)]
            if protocol is Protocol.SACN:
                try:
                    self.sockets.append(group_socket(group_of(number), sacn.PORT, bind, stack))
                except OSError as error:
                    raise FenceError(
                        f"{bind} cannot listen to universe {number} ({error.strerror})."
                    ) from None
            self.stack = stack.pop_all()

    def _socket(self, address: str, stack: ExitStack) -> socket.socket:
        port = sacn.PORT if self.protocol is Protocol.SACN else artnet.PORT
        opened = stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM))
        opened.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        opened.setblocking(False)
        try:
            opened.bind((address, port))
        except OSError as error:
            raise FenceError(
                f"{address}, port {port}, cannot be listened on ({error.strerror})."
            ) from None
        return opened

    def listen(self, seconds: float) -> None:
        """Take in what comes for some seconds; ends in time whatever arrives."""
        end = time.monotonic() + min(max(seconds, 0.0), LONGEST)
        with selectors.DefaultSelector() as selector:
            for one in self.sockets:
                selector.register(one, selectors.EVENT_READ)
            while (left := end - time.monotonic()) > 0:
                for key, _ in selector.select(left):
                    assert isinstance(key.fileobj, socket.socket)
                    try:
                        data, (ip, _port) = key.fileobj.recvfrom(sacn.LARGEST + 1)
                    except OSError:
                        continue
                    self.take(data, ip, time.monotonic())

    def take(self, data: bytes, ip: str, now: float) -> None:
        """Take in one packet, whatever it is."""
        if self.protocol is Protocol.SACN:
            frame = sacn.read_frame(data)
            if frame is None or frame.universe != self.number:
                return
            if not self.order.takes(frame, now):
                return
            if frame.ends:
                self.sources.pop(frame.cid, None)
                return
            self._note(frame.cid, frame.name, ip, frame.priority, frame.levels, now)
        else:
            dmx = artnet.read_dmx(data)
            if dmx is not None and dmx.address == self.number:
                self._note(ip, "", ip, 100, dmx.levels, now)

    def _note(self, key: str, name: str, ip: str, priority: int, levels: bytes, now: float) -> None:
        source = self.sources.get(key)
        if source is None:
            if len(self.sources) >= MOST_SOURCES:
                return
            source = self.sources[key] = Source(name, ip, priority)
        source.name, source.ip, source.priority, source.levels = name, ip, priority, levels
        source.times.append(now)

    def heard(self, now: float | None = None) -> Heard:
        """What is heard at a moment: sources that are silent for 2.5 s are gone."""
        now = time.monotonic() if now is None else now
        living = [
            one
            for one in self.sources.values()
            if one.times and now - one.times[-1] < sacn.LOST_AFTER
        ]
        frames = sum(sum(1 for at in one.times if now - at <= RATE_OVER) for one in living)
        first = min(
            (at for one in living for at in one.times if now - at <= RATE_OVER), default=now
        )
        over = max(now - first, 0.5)
        highest = max((one.priority for one in living), default=0)
        leading = [one.levels.ljust(SLOTS, b"\0") for one in living if one.priority == highest]
        merged = bytes(map(max, zip(*leading, strict=True))) if leading else b""
        ordered = tuple(sorted(living, key=lambda one: (-one.priority, one.name, one.ip)))
        return Heard(ordered, frames / over, merged)

    def close(self) -> None:
        """Listen no more."""
        self.stack.close()
