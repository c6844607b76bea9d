"""What is typed at a box, in its own counting, and how it stands with what was typed and read
there."""

from __future__ import annotations

import re
from collections.abc import Iterable
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
from fence.core.model.text import counted, joined


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
    advice: str


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
    return BoxCard(
        box, stand_of(box), tuple(_values(show, box)), rows, _hint(box), _advice(show, box)
    )


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


def _values(show: Show, box: Box) -> list[tuple[str, str]]:
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
    if box.kind is BoxKind.DESK:
        found += _of_the_desk(show, box)
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


def _advice(show: Show, box: Box) -> str:
    """How a desk had better send, where that is another way than is planned."""
    if box.kind is not BoxKind.DESK:
        return ""
    way, words = advised(show, box)
    return "" if way is box.way else words


def _of_the_desk(show: Show, box: Box) -> list[tuple[str, str]]:
    """What else is typed at a desk: its second protocol, the universes that it sends, and to whom
    it sends them."""
    found = []
    if box.both:
        other = Protocol.ARTNET if box.protocol is Protocol.SACN else Protocol.SACN
        found.append(("Also speaks", f"{other.written}: off, unless a node needs it"))
    sent = sorted(box.only or show.carried)
    if sent:
        numbers = spans(number_on(box, universe) for universe in sent)
        found.append(("Universes to switch on", numbers))
    if box.way is Way.UNICAST:
        found += [
            (f"To {held.name}", _sent_to(box, held, set(sent))) for held in hearing(show, box)
        ]
    return found


def hearing(show: Show, desk: Box) -> list[Box]:
    """The nodes that are fed by the network from a desk: those that give out what it sends."""
    sent = set(desk.only or show.carried)
    return [
        box
        for box in show.boxes
        if box.kind is BoxKind.NODE and sent & {port.universe for port in box.outputs}
    ]


def _sent_to(desk: Box, box: Box, sent: set[int]) -> str:
    universes = sorted({port.universe for port in box.outputs if port.universe is not None} & sent)
    return f"{box.ip or 'no address yet'}: {spans(number_on(desk, one) for one in universes)}"


MOST_UNICAST = 30
"""Up to how many streams a desk is sent by unicast without a thought (practice: desks have limits
of their own, often 32 to 64)."""


def advised(show: Show, desk: Box) -> tuple[Way, str]:
    """How a desk had better send, and why, in a sentence."""
    nodes = hearing(show, desk)
    streams = sum(
        len({port.universe for port in box.outputs} & set(desk.only or show.carried))
        for box in nodes
    )
    if desk.protocol is Protocol.SACN:
        return Way.MULTICAST, (
            "Multicast: each switch sends a universe only where it is wanted, and nobody keeps a "
            "list; unicast where a switch or wireless bridge does not pass multicast on."
        )
    unknown = [box.name for box in nodes if not box.ip or box.gives is Given.SERVER]
    if nodes and not unknown and streams <= MOST_UNICAST:
        return Way.UNICAST, (
            f"Unicast to {counted(len(nodes), 'node')}: every address is planned, and nobody else "
            "gets the packets."
        )
    reason = "who listens is not known by address yet"
    if unknown and nodes:
        reason = f"{joined(unknown, most=3)} has no address of its own"
    if streams > MOST_UNICAST:
        reason = f"{streams} streams by unicast are more than most desks send"
    return Way.BROADCAST, f"Broadcast, on a network that nobody else uses: {reason}."


def spans(numbers: Iterable[int]) -> str:
    """Numbers as they are typed: ``1 to 4, 7``."""
    runs: list[list[int]] = []
    for number in sorted(numbers):
        if runs and number == runs[-1][1] + 1:
            runs[-1][1] = number
        else:
            runs.append([number, number])
    return ", ".join(str(a) if a == b else f"{a} to {b}" for a, b in runs)


def _hint(box: Box) -> str:
    example = next((port.universe for port in box.ports if port.universe is not None), None)
    if example is None:
        return f"It counts from {box.counts_from}."
    words = f"It counts from {box.counts_from}, so U{example} is its {number_on(box, example)}."
    if box.numbering is Numbering.RANGE:
        words += " Type the first; the others count on."
    return words
