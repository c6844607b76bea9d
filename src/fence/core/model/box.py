"""Boxes that carry universes: the desk and network nodes, their ports and how they count [ANSI
E1.31; Art-Net 4]."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from ipaddress import AddressValueError, IPv4Address, IPv4Interface

from fence.core.model.address import check_universe
from fence.core.model.errors import EditError
from fence.core.model.line import HIGHEST_NUMBER
from fence.core.model.record import NOBODY, Witness
from fence.core.model.text import check_finite, check_text, check_whole, printable, whole_number

MOST_PORTS = 512
MOST_BOXES = 2000
HIGHEST_SAID = 65_535
"""Beyond any number that a box can be set to."""
USUAL_SPEED = 100.0
"""Mbit/s of the wire to a box, where nobody says otherwise."""
FASTEST = 400_000.0


class BoxKind(StrEnum):
    """What a box is."""

    DESK = "desk"
    NODE = "node"


class Protocol(StrEnum):
    """What it speaks."""

    SACN = "sacn"
    ARTNET = "artnet"

    @property
    def written(self) -> str:
        """As it is written."""
        return "sACN" if self is Protocol.SACN else "Art-Net"


class Way(StrEnum):
    """How packets go to it."""

    MULTICAST = "multicast"
    UNICAST = "unicast"
    BROADCAST = "broadcast"


class Use(StrEnum):
    """What a port is for: it gives a universe out as DMX, takes one in, or is off."""

    OUT = "out"
    IN = "in"
    OFF = "off"


class Numbering(StrEnum):
    """Whether each port has a number of its own, or all count on from the first."""

    EACH = "each"
    RANGE = "range"


class Given(StrEnum):
    """Where a box has its network address from."""

    HAND = "hand"
    SERVER = "server"


class Merging(StrEnum):
    """What a box does with two senders of one universe."""

    HIGHEST = "highest"
    LATEST = "latest"
    PRIORITY = "priority"
    FIRST = "first"


@dataclass(frozen=True, slots=True)
class Port:
    """A port of a box. ``universe`` in Fence's numbering, None for a spare one; ``says`` what the
    box itself is set to, in its own counting, None while nobody knows (then it is taken to be
    right)."""

    number: int
    universe: int | None = None
    says: int | None = None
    use: Use = Use.OUT

    def __post_init__(self) -> None:
        check_whole("port", self.number, 1, 100_000)
        if self.universe is not None:
            check_universe(self.universe)
        if self.says is not None:
            check_whole("number that a port says", self.says, 0, HIGHEST_SAID)


@dataclass(frozen=True, slots=True)
class Typed:
    """That the ``values`` of a box's card (see ``network.sheet_of``) were typed or read there, by
    whom and when."""

    values: str
    by: Witness = NOBODY

    def __post_init__(self) -> None:
        check_text("values of a node", self.values, most=20_000)


@dataclass(frozen=True, slots=True)
class Box:
    """A desk or a network node.

    ``ip`` is its address (IPv4, empty while not planned) with ``prefix`` bits of network; one that
    a server ``gives`` is only what was seen last. ``counts_from`` 0 or 1 is its first universe,
    ``numbering`` whether ports have numbers of their own. ``priority`` 0 to 200 [ANSI E1.31];
    ``merging`` what it does with two senders, None where not known. ``sends`` is how many universes
    a desk may send, None where nothing limits it, ``only`` those that it does send (empty: all that
    are planned); ``both`` says that it speaks the other protocol as well. ``speed`` of its wire in
    Mbit/s, or of its wireless link where it is ``over_air``.
    """

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
    model: str = ""
    numbering: Numbering = Numbering.EACH
    gives: Given = Given.HAND
    merging: Merging | None = None
    both: bool = False
    only: tuple[int, ...] = ()
    speed: float = USUAL_SPEED
    over_air: bool = False
    typed: Typed | None = None
    read: Typed | None = None

    def __post_init__(self) -> None:
        check_whole("box", self.id, 1, HIGHEST_NUMBER)
        check_text("name of a node", self.name)
        check_text("model of a node", self.model, required=False)
        if self.ip:
            object.__setattr__(self, "ip", str(as_ip(self.ip)))
        check_whole("network prefix", self.prefix, 8, 30)
        check_whole("first universe of a node", self.counts_from, 0, 1)
        check_whole("priority", self.priority, 0, 200)
        if self.sends is not None:
            check_whole("number of universes", self.sends, 0, HIGHEST_SAID)
        if not 0 < check_finite("speed of a wire", self.speed) <= FASTEST:
            raise EditError(
                f"{self.speed:g} Mbit/s is not a speed of a wire. Use more than 0 to {FASTEST:g}."
            )
        for universe in self.only:
            check_universe(universe)
        if len(self.ports) > MOST_PORTS:
            raise EditError(f"{self.name} has {len(self.ports)} ports. Use up to {MOST_PORTS}.")
        if len({port.number for port in self.ports}) < len(self.ports):
            raise EditError(f"{self.name} has two ports of one number: each has its own.")

    @property
    def interface(self) -> IPv4Interface | None:
        """Address and network together; None without an address."""
        return IPv4Interface(f"{self.ip}/{self.prefix}") if self.ip else None

    @property
    def outputs(self) -> tuple[Port, ...]:
        """The ports that give a universe out, or could."""
        return tuple(port for port in self.ports if port.use is Use.OUT)

    def port(self, number: int) -> Port | None:
        """The port of that number."""
        return next((port for port in self.ports if port.number == number), None)

    def speaks(self, protocol: Protocol) -> bool:
        """Whether it understands a protocol."""
        return self.both or self.protocol is protocol


def as_ip(text: str) -> IPv4Address:
    """A network address as typed; ``EditError`` for what is none."""
    try:
        return IPv4Address(text.strip())
    except AddressValueError:
        shown = printable(text.strip()[:40])
        raise EditError(
            f"“{shown}” is not a network address. Use four numbers, as 10.0.0.5."
        ) from None


def as_prefix(text: str) -> int:
    """Bits of a network from ``24``, ``/24`` or ``255.255.255.0``; ``EditError`` for a mask that is
    none."""
    words = text.strip().removeprefix("/")
    number = whole_number(words)
    if number is not None:
        return number
    try:
        bits = f"{int(as_ip(words)):032b}"
    except EditError:
        bits = "01"
    if "01" in bits:
        shown = printable(words[:40])
        raise EditError(f"“{shown}” is not a mask. Use /8 to /30, or as 255.255.255.0.")
    return bits.count("1")


def as_host(text: str) -> tuple[str, int | None]:
    """An address, and the bits of its network where they stand behind it: ``10.20.4.6/24``,
    ``10.20.4.6 255.255.255.0``; None where they do not."""
    address, _, mask = text.strip().replace("/", " ").partition(" ")
    return str(as_ip(address)), as_prefix(mask) if mask.strip() else None
