"""Numbers of the network: how boxes count, groups, Port-Addresses, who sends what, loads [ANSI
E1.31; Art-Net 4]."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import IPv4Network

from fence.core.model.address import MAX_UNIVERSE
from fence.core.model.box import Box, BoxKind, Numbering, Port, Protocol, Use, Way
from fence.core.model.show import Show
from fence.core.model.text import joined

HIGHEST_PORT_ADDRESS = 32_767
"""15 bits: net, sub-net and universe [Art-Net 4]."""
SACN_PORT = 5568
ARTNET_PORT = 6454
RATE = 0.23
"""Mbit/s of one universe at 44 packets a second [ANSI E1.31]."""
PRIVATE = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16")
"""Networks that anybody may use inside [RFC 1918]; devices for light often come with an address in
2.0.0.0/8."""


def number_on(box: Box, universe: int) -> int:
    """What a box calls a universe, in its own counting."""
    return universe - 1 + box.counts_from


def universe_said(box: Box, says: int) -> int:
    """Fence's number of what a box says; 0 or less where that is no universe."""
    return says + 1 - box.counts_from


def first_of(box: Box) -> int | None:
    """The universe of the first port of a box that numbers its ports as a range, from any port that
    has one and is not off."""
    on = ((place, port) for place, port in enumerate(box.ports) if port.use is not Use.OFF)
    return next((port.universe - place for place, port in on if port.universe is not None), None)


def said_by(box: Box, port: Port) -> int | None:
    """The number that a port is set to, in the box's counting; with a range the first port says it
    for all."""
    if (
        port.says is None
        and box.numbering is Numbering.RANGE
        and box.ports
        and box.ports[0].says is not None
    ):
        return box.ports[0].says + box.ports.index(port)
    return port.says


def given_by(box: Box, port: Port) -> int | None:
    """The universe that really comes out of a port: what it says, else what is planned; None for
    none."""
    if port.use is not Use.OUT:
        return None
    says = said_by(box, port)
    if says is None:
        return port.universe
    if port.universe is None and port.says is None:
        return None
    universe = universe_said(box, says)
    return universe if 1 <= universe <= MAX_UNIVERSE else None


def group_of(universe: int) -> str:
    """The multicast group of a universe, 1 to 63999 [ANSI E1.31, 9.3.1]."""
    return f"239.255.{universe // 256}.{universe % 256}"


def port_address(box: Box, universe: int) -> int:
    """The 15-bit Port-Address of a universe: with a box that counts from 0 one less [Art-Net 4]."""
    return number_on(box, universe)


def artnet_parts(address: int) -> tuple[int, int, int]:
    """Net, sub-net and universe of a Port-Address."""
    return address >> 8 & 0x7F, address >> 4 & 0xF, address & 0xF


def artnet_words(address: int) -> str:
    """A Port-Address as ``net.sub.universe``."""
    return ".".join(map(str, artnet_parts(address)))


def _typed_at(box: Box, port: Port) -> str:
    number = "-" if port.universe is None else str(number_on(box, port.universe))
    return number if port.use is Use.OUT else f"{number} {port.use}"


def sheet_of(box: Box) -> str:
    """All that is typed at a box, in one line: what a mark stands for. Another plan gives another
    line."""
    ports = " ".join(f"{port.number}={_typed_at(box, port)}" for port in box.ports)
    address = f"{box.ip}/{box.prefix}" if box.gives == "hand" else "address from a server"
    priority = (
        f" priority {box.priority}"
        if box.kind is BoxKind.DESK and box.protocol is Protocol.SACN
        else ""
    )
    return f"{address} {box.protocol.written} {box.way}{priority} {box.numbering} {ports}".strip()


def called(show: Show, universe: int) -> str:
    """What people call a universe: its name, else where its fixtures hang, else its number."""
    known = show.universe_by_number.get(universe)
    if known and known.name:
        return known.name
    places = dict.fromkeys(f.position for f in show.fixtures_in.get(universe, ()) if f.position)
    return joined(list(places)) if places else f"U{universe}"


def desk_of(show: Show) -> Box | None:
    """The first desk of the show."""
    return next((box for box in show.boxes if box.kind is BoxKind.DESK), None)


@dataclass(frozen=True, slots=True)
class Outlet:
    """A port with its box."""

    box: Box
    port: Port

    @property
    def name(self) -> str:
        """As it is told: ``palm dock port 4``."""
        return f"{self.box.name} port {self.port.number}"


def outlets(show: Show) -> Iterator[Outlet]:
    """All ports that give a universe out, or could."""
    for box in show.boxes:
        for port in box.outputs:
            yield Outlet(box, port)


def senders_of(show: Show) -> dict[int, list[Box]]:
    """Who puts each universe on the network: desks, and boxes that take one in at a port."""
    wanted, found = show.carried, dict[int, list[Box]]()
    for box in show.boxes:
        if box.kind is BoxKind.DESK:
            mine = set(box.only or wanted)
        else:
            mine = {
                port.universe
                for port in box.ports
                if port.use is Use.IN and port.universe is not None
            }
        for universe in sorted(mine):
            found.setdefault(universe, []).append(box)
    return found


@dataclass(frozen=True)
class Loads:
    """What the wires to the boxes of a show carry: read once for all of them."""

    carried: tuple[int, ...]
    heard: Counter[int]
    """How many nodes give out each universe."""
    loud: bool
    """Whether a desk sends by broadcast, which brings everybody everything."""

    @classmethod
    def of(cls, show: Show) -> Loads:
        """Those of a show."""
        nodes = (box for box in show.boxes if box.kind is BoxKind.NODE)
        heard = Counter(
            u for box in nodes for u in {port.universe for port in box.outputs} if u is not None
        )
        loud = any(box.kind is BoxKind.DESK and box.way is Way.BROADCAST for box in show.boxes)
        return cls(tuple(show.carried), heard, loud)

    def on(self, box: Box) -> float:
        """Mbit/s on the wire of a box. A desk sends unicast once for every receiver."""
        if box.kind is BoxKind.DESK:
            sent = box.only or self.carried
            if box.way is not Way.UNICAST:
                return RATE * len(sent)
            return RATE * sum(self.heard[universe] for universe in set(sent))
        own = len(
            {
                port.universe
                for port in box.ports
                if port.universe is not None and port.use is not Use.OFF
            }
        )
        return RATE * (
            max(len(self.carried), own) if self.loud or box.way is Way.BROADCAST else own
        )


def load_on(show: Show, box: Box) -> float:
    """Mbit/s on the wire of one box."""
    return Loads.of(show).on(box)


def hosts_of(network: IPv4Network) -> range:
    """The addresses of a network that boxes may have, as numbers: neither the first nor the
    last."""
    return range(int(network.network_address) + 1, int(network.broadcast_address))
