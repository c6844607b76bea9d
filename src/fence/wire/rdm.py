"""RDM by way of Art-Net boxes: who is on their ports, and packets to and from devices [Art-Net 4;
ANSI E1.20].

A box searches its lines by itself and keeps a table of who is there; a packet of RDM goes to it
without its start code, and comes back the same way.
"""

from __future__ import annotations

import errno
import selectors
import socket
import time
from collections.abc import Collection, Iterator, Sequence
from contextlib import ExitStack, suppress
from dataclasses import dataclass
from typing import Any

from construct import (
    Byte,
    Const,
    ConstructError,
    Container,
    GreedyBytes,
    Int16ub,
    Int16ul,
    Padding,
    Struct,
)

from fence.core.model.errors import FenceError
from fence.core.rdm.controller import Exchange
from fence.core.rdm.packet import START, Identity, Packet, build, identity_of, read
from fence.wire.artnet import IDENTIFIER, LARGEST, PORT, VERSION, poll
from fence.wire.node_discovery import DiscoveryError, bound, everybody
from fence.wire.targets import Reach

OP_TOD_REQUEST, OP_TOD_DATA, OP_TOD_CONTROL, OP_RDM = 0x8000, 0x8100, 0x8200, 0x8300
STANDARD = 0x01
"""The version of RDM that is spoken: that of the standard as it was published."""
FLUSH = 0x01
"""Forget the table and search anew."""
NO_TABLE = 0xFF
MOST_IN_A_PACKET = 200
MOST_DEVICES = 4000
"""Devices of one port that are taken from a table."""
SEARCH_SECONDS = 12.0
"""How long a box may search."""
PATIENCE = 0.3
"""Seconds that one answer may take: the line is busy with frames in between."""
MOST_SLACK = 4.0
"""How many times as long is waited where a box was late, or a device silent, just before."""
SILENT_SECONDS = 3.0
"""Seconds after which a box that says nothing at all is taken to be away: a poll is answered within
[Art-Net 4]."""
TURN, ASKED_AGAIN = 0.1, 1.0
"""Seconds that one look at the network takes at most, and after which a table that does not come is
asked for again."""
SETTLES, SETTLES_ANEW = 0.3, 1.0
"""Seconds without news after which a table is taken to be whole; one that is searched for comes in
pieces."""
EMPTY_SECONDS = 3.0
"""Seconds after which an empty table is believed while it is searched for: some tell first that all
is forgotten."""

_TOD_REQUEST = Struct(
    "identifier" / Const(IDENTIFIER),
    "opcode" / Const(OP_TOD_REQUEST, Int16ul),
    "version" / Int16ub,
    Padding(9),
    "net" / Byte,
    "command" / Byte,
    "count" / Byte,
    "addresses" / GreedyBytes,
)
_TOD_DATA = Struct(
    "identifier" / Const(IDENTIFIER),
    "opcode" / Const(OP_TOD_DATA, Int16ul),
    "version" / Int16ub,
    "rdm" / Byte,
    "port" / Byte,
    Padding(6),
    "index" / Byte,
    "net" / Byte,
    "response" / Byte,
    "address" / Byte,
    "total" / Int16ub,
    "block" / Byte,
    "count" / Byte,
    "table" / GreedyBytes,
)
_TOD_CONTROL = Struct(
    "identifier" / Const(IDENTIFIER),
    "opcode" / Const(OP_TOD_CONTROL, Int16ul),
    "version" / Int16ub,
    Padding(9),
    "net" / Byte,
    "command" / Byte,
    "address" / Byte,
)
_RDM = Struct(
    "identifier" / Const(IDENTIFIER),
    "opcode" / Const(OP_RDM, Int16ul),
    "version" / Int16ub,
    "rdm" / Byte,
    Padding(8),
    "net" / Byte,
    "command" / Byte,
    "address" / Byte,
    "packet" / GreedyBytes,
)


@dataclass(frozen=True, slots=True)
class TableAsked:
    """Somebody asks for the tables of ports, by their Port-Addresses; ``flush``: they are to be
    searched anew."""

    addresses: tuple[int, ...]
    flush: bool = False


@dataclass(frozen=True, slots=True)
class Table:
    """A piece of the table of a port: how many devices there are in all, and these. ``total`` None:
    it has none."""

    address: int
    total: int | None
    identities: tuple[Identity, ...]
    block: int = 0
    port: int = 1


@dataclass(frozen=True, slots=True)
class Carried:
    """A packet of RDM for the port of a Port-Address, or from it."""

    address: int
    packet: Packet


def build_request(address: int) -> bytes:
    """Ask for the table of one port."""
    built: bytes = _TOD_REQUEST.build(
        {
            "version": VERSION,
            "net": address >> 8,
            "command": 0,
            "count": 1,
            "addresses": bytes((address & 0xFF,)).ljust(32, b"\0"),
        }
    )
    return built


def build_flush(address: int) -> bytes:
    """Have a port searched anew."""
    built: bytes = _TOD_CONTROL.build(
        {"version": VERSION, "net": address >> 8, "command": FLUSH, "address": address & 0xFF}
    )
    return built


def build_tables(address: int, identities: Sequence[Identity], *, port: int = 1) -> list[bytes]:
    """The table of a port, in as many packets as it needs."""
    found = []
    for block in range(max(1, -(-len(identities) // MOST_IN_A_PACKET))):
        piece = identities[block * MOST_IN_A_PACKET : (block + 1) * MOST_IN_A_PACKET]
        found.append(
            _TOD_DATA.build(
                {
                    "version": VERSION,
                    "rdm": STANDARD,
                    "port": port,
                    "index": 1,
                    "net": address >> 8,
                    "response": 0,
                    "address": address & 0xFF,
                    "total": len(identities),
                    "block": block,
                    "count": len(piece),
                    "table": b"".join(one.number.to_bytes(6) for one in piece),
                }
            )
        )
    return found


def build_rdm(carried: Carried) -> bytes:
    """A packet of RDM for a box, or from it: without its start code."""
    built: bytes = _RDM.build(
        {
            "version": VERSION,
            "rdm": STANDARD,
            "net": carried.address >> 8,
            "command": 0,
            "address": carried.address & 0xFF,
            "packet": build(carried.packet)[1:],
        }
    )
    return built


def read_any(data: bytes) -> TableAsked | Table | Carried | None:
    """Whichever of these a packet is; None for all others. Never raises, and believes no length."""
    data = data[:LARGEST]
    for kind, made in (
        (_RDM, _read_rdm),
        (_TOD_DATA, _read_table),
        (_TOD_REQUEST, _read_request),
        (_TOD_CONTROL, _read_control),
    ):
        try:
            return made(kind.parse(data))
        except ConstructError:
            continue
    return None


def _read_rdm(held: Container[Any]) -> Carried | None:
    packet = read(bytes((START,)) + bytes(held.packet))
    return Carried((held.net & 0x7F) << 8 | held.address, packet) if packet is not None else None


def _read_table(held: Container[Any]) -> Table | None:
    raw = bytes(held.table)
    count = min(held.count, len(raw) // 6, MOST_IN_A_PACKET)
    identities = tuple(identity_of(int.from_bytes(raw[n * 6 : n * 6 + 6])) for n in range(count))
    total = None if held.response == NO_TABLE else held.total
    return Table((held.net & 0x7F) << 8 | held.address, total, identities, held.block, held.port)


def _read_request(held: Container[Any]) -> TableAsked | None:
    addresses = bytes(held.addresses)[: min(held.count, 32)]
    return TableAsked(tuple((held.net & 0x7F) << 8 | low for low in addresses))


def _read_control(held: Container[Any]) -> TableAsked | None:
    return TableAsked(((held.net & 0x7F) << 8 | held.address,), flush=held.command == FLUSH)


class TooLong(FenceError):  # noqa: N818 - it is an answer for people first
    """A talk that came to the end of its time."""


class BoxLine:
    """A way to the devices on the ports of one box. Use it in a ``with``; raises ``DiscoveryError``
    where ``bind`` is no address of this machine, ``TargetError`` where the box is at none that may
    be sent to.

    ``until`` is when all talk is over, on the clock of ``time.monotonic``; then everything raises
    ``TooLong``.
    """

    def __init__(
        self, bind: str, box: str, *, patience: float = PATIENCE, until: float = float("inf")
    ) -> None:
        self.bind, self.box, self.patience, self.until = (
            bind,
            Reach.here().check(box),
            patience,
            until,
        )
        self._slack = 1.0
        self._stack, self._selector = ExitStack(), selectors.DefaultSelector()

    def __enter__(self) -> BoxLine:
        with self._stack as stack:
            self._asking = _opened(self.bind, stack)
            self._selector.register(self._asking, selectors.EVENT_READ)
            with suppress(OSError):  # some boxes tell everybody
                self._selector.register(
                    bound(everybody(self.bind), PORT, stack), selectors.EVENT_READ
                )
            stack.callback(self._selector.close)
            self._stack = stack.pop_all()
        return self

    def __exit__(self, *_: object) -> None:
        self._stack.close()

    def tables(
        self, addresses: Collection[int], *, flush: bool = True, seconds: float = SEARCH_SECONDS
    ) -> dict[int, tuple[Identity, ...]]:
        """Who is on the ports of these Port-Addresses; ports that say nothing in time are left out.

        With ``flush`` the box searches anew, else it says what it knows.
        """
        found: dict[int, dict[Identity, None]] = {}
        totals: dict[int, int] = {}
        self._send(poll())
        for address in addresses:
            self._send(build_flush(address) if flush else build_request(address))
        begun = news = asked = time.monotonic()
        lives, settles = False, SETTLES_ANEW if flush else SETTLES
        while (now := time.monotonic()) < min(begun + seconds, self.until):
            for data in self._packets(TURN):
                lives, told = True, read_any(data)
                if isinstance(told, Table) and told.address in addresses:
                    held = found.setdefault(told.address, {})
                    totals[told.address] = min(told.total or 0, MOST_DEVICES)
                    if len(held) < MOST_DEVICES:
                        held.update(dict.fromkeys(told.identities))
                    news = now
            early = flush and now - begun < EMPTY_SECONDS
            missing = set(addresses) - set(totals)
            whole = not missing and all(len(found[a]) >= totals[a] for a in totals)
            if whole and not (early and 0 in totals.values()) and now - news > settles:
                break
            if not lives and now - begun > SILENT_SECONDS:
                break
            if missing and not early and now - asked > ASKED_AGAIN:
                asked = now
                for address in missing:  # some only search when told, and tell when asked
                    self._send(build_request(address))
        return {address: tuple(sorted(held)) for address, held in found.items()}

    def on(self, address: int) -> Exchange:
        """Packets to and from the devices on one port."""

        def exchange(packet: Packet) -> Packet | None:
            self._send(build_rdm(Carried(address, packet)))
            end = min(time.monotonic() + self.patience * self._slack, self.until)
            while (left := end - time.monotonic()) > 0:
                for data in self._packets(left):
                    told = read_any(data)
                    if isinstance(told, Carried) and _answers(packet, told.packet):
                        self._slack = 1.0
                        return told.packet
            self._slack = min(2 * self._slack, MOST_SLACK)
            return None

        return exchange

    def _send(self, data: bytes) -> None:
        if time.monotonic() >= self.until:
            raise TooLong("This took too long and was ended: some do not answer.")
        try:
            self._asking.sendto(data, (self.box, PORT))
        except OSError as error:
            raise FenceError(f"{self.box} cannot be reached ({error.strerror}).") from None

    def _packets(self, seconds: float) -> Iterator[bytes]:
        """What comes within a time, as soon as something does."""
        for key, _ in self._selector.select(seconds):
            assert isinstance(key.fileobj, socket.socket)
            try:
                data, (sender, _port) = key.fileobj.recvfrom(LARGEST + 1)
            except OSError:
                continue
            if sender == self.box:
                yield data


def _answers(asked: Packet, answer: Packet) -> bool:
    return (answer.sender, answer.transaction, answer.parameter, answer.command) == (
        asked.to,
        asked.transaction,
        asked.parameter,
        asked.command + 1,
    )


def _opened(bind: str, stack: ExitStack) -> socket.socket:
    """A socket at the port of the protocol, else at any: most boxes answer where they are asked
    from."""
    try:
        return bound(bind, PORT, stack)
    except OSError as error:
        if error.errno == errno.EADDRNOTAVAIL:
            raise DiscoveryError(
                f"{bind} is not an address of this machine: choose one of those that it has."
            ) from None
        if error.errno not in (errno.EADDRINUSE, errno.EACCES):
            raise DiscoveryError(
                f"The network cannot be asked from {bind} ({error.strerror})."
            ) from None
    return bound(bind, 0, stack)
