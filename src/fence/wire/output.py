"""Sending levels at a steady rate, and ending streams properly: zeros, then the end of the stream.

What is sent is a state: ways out and levels. Every frame of every way is sent forty-four times a
second; a channel that is eased goes to its new level by steps. Packets of sACN are made by the
package ``sacn``, once for each stream; from frame to frame only their number and levels change.
"""

from __future__ import annotations

import socket
import time
from collections.abc import Callable, Iterable, Mapping
from contextlib import ExitStack, suppress
from dataclasses import dataclass
from uuid import UUID, uuid4

from sacn.messages.data_packet import DataPacket

from fence.core.model.address import SLOTS
from fence.core.model.box import Protocol
from fence.core.model.errors import FenceError
from fence.core.model.network import group_of
from fence.wire import artnet, sacn
from fence.wire.groups import group_socket
from fence.wire.targets import Reach

RATE = 44
"""Frames a second: as many as DMX takes at most [ANSI E1.11]."""
EASE_SECONDS = 1.5
"""How long an eased channel takes for its whole way."""
LOW_PRIORITY = 50
"""Below the usual 100 [ANSI E1.31], so that a desk that sends the same universe wins."""
LAST_FRAMES = 3
"""How often the end of a stream is sent [ANSI E1.31, 6.2.6]."""
TELL_EVERY = 10.0
"""Seconds between two lists of what is sent [ANSI E1.31, appendix A]."""
STRIDE = 20
"""How far apart packets are numbered by one who does not know the last number."""
MULTICAST = "multicast"
EVERYWHERE = "0.0.0.0"
MOST_GROUPS = 64
"""Groups in which others are listened for."""
MOST_AT_ONCE, MOST_OTHERS = 100, 200
SEQUENCE_AT, OPTIONS_AT = 111, 112
"""Where the number of a packet, and its options, stand in a packet of sACN."""
ARTNET_SEQUENCE_AT = 12
STEP = max(1, round(255 / (RATE * EASE_SECONDS)))


@dataclass(frozen=True, slots=True)
class Way:
    """Where a universe goes: by which protocol, to whom (an address, or ``multicast``), under which
    number there."""

    universe: int
    protocol: Protocol
    to: str
    number: int
    broadcast: bool = False
    """Whether ``to`` is everybody in a network, chosen on purpose."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be sent: the ways out, the levels of universes (others are at zero), and slots
    that are eased."""

    ways: tuple[Way, ...] = ()
    levels: Mapping[int, bytes] | None = None
    eased: Mapping[int, frozenset[int]] | None = None


class Stream:
    """One universe on one way: a packet that is changed in place."""

    def __init__(self, way: Way, cid: UUID, name: str, priority: int) -> None:
        self.way, self.sequence = way, 0
        self.levels = bytearray(SLOTS)
        if way.protocol is Protocol.SACN:
            made = DataPacket(tuple(cid.bytes), name, way.number, (0,) * SLOTS, priority)
            self.packet = bytearray(made.getBytes())
            self.first, self.counts_at, self.port = sacn.FIRST_LEVEL, SEQUENCE_AT, sacn.PORT
            self.target = group_of(way.number) if way.to == MULTICAST else way.to
        else:
            self.packet = bytearray(artnet.build_dmx(way.number, bytes(SLOTS)))
            self.first, self.counts_at, self.port = (
                artnet.FIRST_LEVEL,
                ARTNET_SEQUENCE_AT,
                artnet.PORT,
            )
            self.target = way.to

    def next(self, wanted: bytes, eased: frozenset[int]) -> bytearray:
        """The packet of the next frame, on the way to what is wanted."""
        for slot in eased:
            old, new = self.levels[slot - 1], wanted[slot - 1]
            self.levels[slot - 1] = min(new, old + STEP) if new > old else max(new, old - STEP)
        if not eased:
            self.levels[:] = wanted
        else:
            for place, level in enumerate(wanted):
                if place + 1 not in eased:
                    self.levels[place] = level
        self.packet[self.first : self.first + SLOTS] = self.levels
        return self.numbered()

    def numbered(self) -> bytearray:
        """The packet with the next number. Art-Net leaves 0 out: it means that nobody counts."""
        self.sequence = (self.sequence + 1) % 256
        if self.way.protocol is not Protocol.SACN and not self.sequence:
            self.sequence = 1
        self.packet[self.counts_at] = self.sequence
        return self.packet

    def last(self, stride: int = 1) -> Iterable[bytearray]:
        """The packets that end the stream: all at zero, then, for sACN, that it ends."""
        self.packet[self.first : self.first + SLOTS] = bytes(SLOTS)
        for _ in range(LAST_FRAMES):
            self.sequence += stride - 1
            yield self.numbered()
        if self.way.protocol is Protocol.SACN:
            self.packet[OPTIONS_AT] |= sacn.TERMINATED
            for _ in range(LAST_FRAMES):
                self.sequence += stride - 1
                yield self.numbered()


class Output:
    """Sends what is wanted from one address of this machine until it is ended."""

    def __init__(
        self,
        bind: str,
        *,
        name: str = "Fence",
        priority: int = LOW_PRIORITY,
        cid: UUID | None = None,
    ) -> None:
        self.name, self.priority, self.cid, self.bind = name, priority, cid or uuid4(), bind
        self.streams: dict[Way, Stream] = {}
        self.wanted = Wanted()
        self.sent = 0
        self.tell_at = float("-inf")
        self.problem = ""
        self.socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.socket.setblocking(False)
        # where such an address was asked for
        self.socket.setsockopt(socket.SOL_SOCKET, socket.SO_BROADCAST, 1)
        try:
            self.socket.bind((bind, 0))
            self.socket.setsockopt(
                socket.IPPROTO_IP, socket.IP_MULTICAST_IF, socket.inet_aton(bind)
            )
        except OSError as error:
            self.socket.close()
            raise FenceError(f"Nothing can be sent from {bind} ({error.strerror}).") from None

    def want(self, wanted: Wanted) -> None:
        """Send this from now on; streams that are no more wanted are ended."""
        for way in [way for way in self.streams if way not in wanted.ways]:
            self._end(self.streams.pop(way))
        reach = Reach.here()
        for way in wanted.ways:
            if way not in self.streams:
                try:
                    self._check(way, reach)
                except FenceError as error:
                    self.problem = str(error)
                    continue
                self.streams[way] = Stream(way, self.cid, self.name, self.priority)
        self.wanted = wanted

    @staticmethod
    def _check(way: Way, reach: Reach) -> None:
        if way.to != MULTICAST:
            reach.check(way.to, broadcasts=(way.to,) if way.broadcast else ())

    def tick(self) -> None:
        """Send one frame of every stream."""
        levels, eased = self.wanted.levels or {}, self.wanted.eased or {}
        for way, stream in self.streams.items():
            wanted = levels.get(way.universe, b"").ljust(SLOTS, b"\0")[:SLOTS]
            self._send(stream, stream.next(wanted, eased.get(way.universe, frozenset())))
        self._tell_universes()

    def _tell_universes(self) -> None:
        """Tell everybody who looks which universes of sACN are sent, as a source has to [ANSI
        E1.31, 4.3]."""
        now = time.monotonic()
        numbers = [way.number for way in self.streams if way.protocol is Protocol.SACN]
        if not numbers or now < self.tell_at:
            return
        self.tell_at = now + TELL_EVERY
        for page in sacn.build_lists(self.cid, self.name, numbers):
            with suppress(OSError):  # who looks is not there: sending goes on
                self.socket.sendto(page, (group_of(sacn.DISCOVERY_UNIVERSE), sacn.PORT))

    def end(self) -> None:
        """All to zero, all streams ended, nothing more."""
        self.want(Wanted())
        self.socket.close()

    def end_others(self, ways: Iterable[Way]) -> None:
        """End streams that were begun under the same CID by one who cannot end them any more, and
        close.

        Nobody knows the number of their last packet; numbers that are twenty apart are taken after
        any [ANSI E1.31, 6.7.2: one is dropped that lies 0 to 19 before the last].
        """
        self.want(Wanted(tuple(ways)))
        for stream in self.streams.values():
            for packet in stream.last(STRIDE):
                self._send(stream, packet)
        self.socket.close()

    def _end(self, stream: Stream) -> None:
        for packet in stream.last():
            self._send(stream, packet)

    def _send(self, stream: Stream, packet: bytearray) -> None:
        try:
            self.socket.sendto(packet, (stream.target, stream.port))
            self.sent += 1
        except OSError as error:
            self.problem = f"{stream.target} cannot be reached ({error.strerror})."


class Others:
    """Who else sends the same universes of sACN, as far as it can be heard: by their groups, and at
    one address."""

    def __init__(self, bind: str, own: UUID) -> None:
        self.own, self.bind = str(own), bind
        self.heard: dict[tuple[int, str], tuple[float, str, int]] = {}
        self.joined: set[int] = set()
        self.stack = ExitStack()
        self.sockets: list[socket.socket] = []
        opened = self.stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM))
        opened.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        opened.setblocking(False)
        with suppress(OSError):  # another program keeps the port to itself
            if bind != EVERYWHERE:
                opened.bind((bind, sacn.PORT))
                self.sockets.append(opened)

    def listen(self, universes: Iterable[int]) -> None:
        """Join the groups of these universes, up to a bound, and take in what has come."""
        for universe in universes:
            if universe not in self.joined and len(self.joined) < MOST_GROUPS:
                self.joined.add(universe)
                with suppress(OSError):
                    self.sockets.append(
                        group_socket(group_of(universe), sacn.PORT, self.bind, self.stack)
                    )
        for one in self.sockets:
            self._take_in(one)

    def _take_in(self, one: socket.socket) -> None:
        for _ in range(MOST_AT_ONCE):
            try:
                data = one.recv(sacn.LARGEST)
            except OSError:
                return
            frame = sacn.read_frame(data)
            if frame is not None and frame.cid != self.own and len(self.heard) < MOST_OTHERS:
                self.heard[(frame.universe, frame.cid)] = (
                    time.monotonic(),
                    frame.name,
                    frame.priority,
                )

    def on(self, universes: Iterable[int]) -> list[tuple[int, str, int]]:
        """Universe, name and priority of those that are there now."""
        now, wanted = time.monotonic(), set(universes)
        self.heard = {key: one for key, one in self.heard.items() if now - one[0] < sacn.LOST_AFTER}
        return sorted(
            (universe, name, prio)
            for (universe, _), (_, name, prio) in self.heard.items()
            if universe in wanted
        )

    def close(self) -> None:
        """Listen no more."""
        self.stack.close()


def keep_rate(tick: Callable[[], bool], rate: float = RATE) -> None:
    """Call ``tick`` so many times a second until it says no. One that is late by less than its turn
    is made up for by the next; later ones are left out, so that none come in a burst."""
    due = time.monotonic()
    while tick():
        due += 1 / rate
        left = due - time.monotonic()
        if left > 0:
            time.sleep(left)
        elif left < -1 / rate:
            due = time.monotonic()


def send_for(output: Output, wanted: Wanted, seconds: float) -> None:
    """Send levels for some seconds, and end properly, also when interrupted."""
    end = time.monotonic() + seconds
    output.want(wanted)

    def tick() -> bool:
        output.tick()
        return time.monotonic() < end

    with suppress(KeyboardInterrupt):
        keep_rate(tick)
    output.end()
