"""Boxes that carry universes: the desk and network nodes, their ports and how they count [ANSI E1.31; Art-Net 4]."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from ipaddress import AddressValueError, IPv4Address

from fence.core.words.address import check_universe
from fence.core.words.errors import EditError
from fence.core.words.line import HIGHEST_NUMBER
from fence.core.words.text import check_text, check_whole, printable

MOST_PORTS = 512
HIGHEST_SAID = 65_535
"""Beyond any number that a box can be set to."""


class BoxKind(StrEnum):
    """What a box is."""

    DESK = "desk"
    NODE = "node"


class Protocol(StrEnum):
    """What it speaks."""

    SACN = "sacn"
    ARTNET = "artnet"


class Way(StrEnum):
    """How packets go to it."""

    MULTICAST = "multicast"
    UNICAST = "unicast"
    BROADCAST = "broadcast"


@dataclass(frozen=True, slots=True)
class Port:
    """A port of a box. ``universe`` in Fence's numbering, None for a spare one; ``says`` what the box itself is set to,
    in its own counting, None while nobody knows (then it is taken to be right)."""

    number: int
    universe: int | None = None
    says: int | None = None

    def __post_init__(self) -> None:
        check_whole("port", self.number, 1, 100_000)
        if self.universe is not None:
            check_universe(self.universe)
        if self.says is not None:
            check_whole("number that a port says", self.says, 0, HIGHEST_SAID)


@dataclass(frozen=True, slots=True)
class Box:
    """A desk or a network node. ``ip`` is its address (IPv4, empty while not planned) with ``prefix`` bits of network;
    ``counts_from`` 0 or 1 is its first universe; ``priority`` 0 to 200 [ANSI E1.31]; ``sends`` how many universes it
    may send, None where nothing limits it."""

    id: int
    name: str
    kind: BoxKind = BoxKind.NODE
    ip: str = ""
    prefix: int = 24
    protocol: Protocol = Protocol.SACN
    counts_from: int = 1
    way: Way = Way.MULTICAST
    priority: int = 100
    sends: int | None = None
    ports: tuple[Port, ...] = ()

    def __post_init__(self) -> None:
        check_whole("box", self.id, 1, HIGHEST_NUMBER)
        check_text("name of a box", self.name)
        if self.ip:
            try:
                IPv4Address(self.ip)
            except AddressValueError:
                shown = printable(self.ip[:40])
                raise EditError(f"“{shown}” is no network address: accepted are four numbers, as 10.0.0.5.") from None
        check_whole("network prefix", self.prefix, 8, 30)
        check_whole("first universe of a box", self.counts_from, 0, 1)
        check_whole("priority", self.priority, 0, 200)
        if self.sends is not None:
            check_whole("number of universes", self.sends, 0, HIGHEST_SAID)
        if len(self.ports) > MOST_PORTS:
            raise EditError(f"{self.name} has {len(self.ports)} ports: accepted are up to {MOST_PORTS}.")
        if len({port.number for port in self.ports}) < len(self.ports):
            raise EditError(f"{self.name} has two ports of one number: each has its own.")
