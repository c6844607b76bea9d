"""What is typed at a box, in its own counting, and how it stands with what was typed and read
there."""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum
from ipaddress import IPv4Network

from fence.core.model.box import Box, BoxKind, Given, Numbering, Port, Protocol, Use, Way
from fence.core.model.network import (
    ARTNET_PORT,
    SACN_PORT,
    artnet_words,
    called,
    first_of,
    given_by,
    group_of,
    number_on,
    port_address,
    said_by,
    sheet_of,
)
from fence.core.model.show import Show


class Stand(StrEnum):
    """How a box stands: not typed yet, typed as planned, typed before the plan changed, or it says
    something else."""

    TO_TYPE = "to type"
    TYPED = "typed"
    READ = "read back"
    AGAIN = "type again"
    DIFFERS = "says something else"


@dataclass(frozen=True, slots=True)
class PortRow:
    """A port on the card. ``typed`` is the number to type, as the box counts; ``wire`` what that is
    on the network."""

    port: Port
    title: str
    typed: str
    says: int | None
    wrong: bool
    gives: int | None
    wire: str
    feeds: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class BoxCard:
    """All that is typed at a box: its menu values by name, then port by port."""

    box: Box
    stand: Stand
    values: tuple[tuple[str, str], ...]
    rows: tuple[PortRow, ...]
    hint: str


def stand_of(box: Box) -> Stand:
    """How a box stands with its plan."""
    if any(_wrong(box, port) for port in box.ports):
        return Stand.DIFFERS
    sheet = sheet_of(box)
    if box.read is not None and box.read.values == sheet:
        return Stand.READ
    if box.typed is not None:
        return Stand.TYPED if box.typed.values == sheet else Stand.AGAIN
    return Stand.AGAIN if box.read is not None else Stand.TO_TYPE


def _wrong(box: Box, port: Port) -> bool:
    says = said_by(box, port)
    return port.universe is not None and says is not None and says != number_on(box, port.universe)


def card_of(show: Show, box: Box) -> BoxCard:
    """The card of a box."""
    feeds: dict[int, list[str]] = {}
    for line in show.lines:
        if line.source and line.source.box == box.id:
            feeds.setdefault(line.source.port, []).append(line.name)
    rows = tuple(_row(show, box, port, tuple(feeds.get(port.number, ()))) for port in box.ports)
    return BoxCard(box, stand_of(box), tuple(_values(box)), rows, _hint(box))


def _row(show: Show, box: Box, port: Port, feeds: tuple[str, ...]) -> PortRow:
    universe = port.universe
    typed = "" if universe is None else str(number_on(box, universe))
    if port.use is Use.OFF:
        typed = "off"
    title = "" if universe is None else _title(called(show, universe), universe)
    wire = on_the_wire(box, universe) if universe is not None else ""
    return PortRow(
        port, title, typed, said_by(box, port), _wrong(box, port), given_by(box, port), wire, feeds
    )


def _title(name: str, universe: int) -> str:
    """The number of a universe and its name, each once."""
    number = f"U{universe}"
    if not name or re.match(rf"{number}(?!\d)", name):
        return name or number
    return f"{number} {name}"


def on_the_wire(box: Box, universe: int) -> str:
    """Where a universe goes on the network: the sACN group and port, or the Port-Address in every
    notation."""
    if box.protocol is Protocol.SACN:
        return (
            f"{group_of(universe)}:{SACN_PORT}"
            if box.way is Way.MULTICAST
            else f"sACN {universe}, port {SACN_PORT}"
        )
    number = port_address(box, universe)
    return f"{artnet_words(number)} = {number} = {number:#06x}"


def _values(box: Box) -> list[tuple[str, str]]:
    netmask = IPv4Network(f"0.0.0.0/{box.prefix}").netmask
    if box.gives is Given.SERVER:
        address = [("Address", "from the server (DHCP)" + (f", last {box.ip}" if box.ip else ""))]
    else:
        address = [("Address", box.ip or "not planned yet"), ("Mask", f"{netmask} (/{box.prefix})")]
    verb = "Sends" if box.kind is BoxKind.DESK else "Listens to"
    protocol = f"{box.protocol.written}, {box.way}"
    found = [*address, (verb, protocol)]
    if box.kind is BoxKind.DESK and box.protocol is Protocol.SACN:
        found.append(("Priority", str(box.priority)))
    if box.protocol is Protocol.ARTNET:
        found.append(("UDP port", str(ARTNET_PORT)))
    first = first_of(box)
    if box.numbering is Numbering.RANGE and first is not None:
        found.append(("First universe", str(number_on(box, first))))
    if box.merging is not None:
        found.append(
            (
                "Two senders",
                f"{box.merging} wins" if box.merging != "priority" else "priority decides",
            )
        )
    return found


def _hint(box: Box) -> str:
    example = next((port.universe for port in box.ports if port.universe is not None), None)
    if example is None:
        return f"It counts from {box.counts_from}."
    words = f"It counts from {box.counts_from}, so U{example} is its {number_on(box, example)}."
    if box.numbering is Numbering.RANGE:
        words += " Type the first; the others count on."
    return words
