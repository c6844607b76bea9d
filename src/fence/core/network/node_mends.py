"""Ways out of a finding about the network."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from ipaddress import IPv4Address

from fence.core.checks import Finding, Severity
from fence.core.checks.network import ALL_OFF, bad_host, off_alike
from fence.core.edits import boxes as edits
from fence.core.model.box import Box, BoxKind, Given, Numbering, Port, Protocol, Use, Way
from fence.core.model.line import Line, Source
from fence.core.model.network import (
    HIGHEST_PORT_ADDRESS,
    desk_of,
    first_of,
    load_on,
    number_on,
    said_by,
    senders_of,
)
from fence.core.model.show import Show
from fence.core.network.addresses import new_address

NEW_PORTS = 4
"""Ports of a box that is added to give room."""


class Act(StrEnum):
    """What is done to the network."""

    TYPE = "type"
    TYPE_ALL = "type all"
    COUNT = "count"
    GIVE = "give"
    SPARE = "spare"
    ADD_BOX = "add box"
    START = "start"
    LOOSE = "loose"
    ADDRESS = "address"
    MASK = "mask"
    PROTOCOL = "protocol"
    WAY = "way"
    PRIORITY = "priority"
    SEND_ALL = "send all"
    BY_ITSELF = "by itself"
    OUT = "out"
    BY_HAND = "by hand"


@dataclass(frozen=True, slots=True)
class BoxStep:
    """A step that mends a finding: at a box, at a port of it, with a number or word where it needs
    one."""

    act: Act
    box: int = 0
    port: int = 0
    number: int = 0
    word: str = ""
    line: int = 0


@dataclass(frozen=True, slots=True)
class BoxMend:
    """A way out: what it does, in words, why this one, and the step itself."""

    text: str
    why: str
    step: BoxStep


def box_named(show: Show, name: str | None) -> Box | None:
    """The box of that name, if there is one."""
    return next((box for box in show.boxes if name and box.name == name), None)


def box_mends(show: Show, finding: Finding) -> Iterator[BoxMend]:
    """The ways out of a finding about the network, the first the one to take as a rule."""
    box = show.box_by_id.get(finding.box_id) if finding.box_id is not None else None
    port = box.port(finding.port) if box and finding.port is not None else None
    line = show.line_by_id.get(finding.line_id) if finding.line_id is not None else None
    if line is not None:
        yield from _start_elsewhere(show, finding, line, box, port)
    elif finding.rule == "port-universe":
        yield from _of_a_universe(show, finding, box, port)
    elif box is not None:
        found = _OF_A_BOX.get(finding.rule)
        yield from found(show, finding, box, port) if found else ()


def _of_a_universe(
    show: Show, finding: Finding, box: Box | None, port: Port | None
) -> Iterator[BoxMend]:
    """A universe without a port; a port whose universe nobody needs, or that another one gives as
    well."""
    universe = finding.universe or 0
    if box is None:
        for held, number in _spare(show, universe)[:3]:
            why = f"It is spare; the node calls U{universe} {number_on(held, universe)}."
            step = BoxStep(Act.GIVE, held.id, number, universe)
            yield BoxMend(f"Give U{universe} out at {held.name} port {number}", why, step)
        yield BoxMend(
            f"Add a node with {NEW_PORTS} ports for it",
            "Its address is the next free one.",
            BoxStep(Act.ADD_BOX, number=universe),
        )
    elif port is not None and finding.severity is Severity.STOP:
        yield from _type_right(show, finding, box, port)
    elif port is not None:
        yield BoxMend(
            f"Make {box.name} port {port.number} spare",
            "The node stays as it is.",
            BoxStep(Act.SPARE, box.id, port.number),
        )


def _spare(show: Show, universe: int) -> list[tuple[Box, int]]:
    """Ports that can take a universe and have none: those of boxes that a line of it starts at, and
    of boxes in use."""
    home = {line.source.box for line in show.lines if line.source and line.universe == universe}
    found = []
    for box in show.boxes:
        first = first_of(box) if box.numbering is Numbering.RANGE else None
        for place, port in enumerate(box.ports):
            if port.use is Use.OUT and port.universe is None and first in (None, universe - place):
                used = any(held.universe is not None for held in box.ports)
                found.append(((box.id not in home, not used, box.id, place), (box, port.number)))
    return [held for _, held in sorted(found, key=lambda pair: pair[0])]


def _type_right(_show: Show, finding: Finding, box: Box, port: Port | None) -> Iterator[BoxMend]:
    """Numbers that do not agree: at one port, at all of a box, or in what is said of how it
    counts."""
    if port is None or port.universe is None:
        return
    if finding.rule == "artnet-range" and number_on(box, port.universe) > HIGHEST_PORT_ADDRESS:
        spare = f"Make {box.name} port {port.number} spare"
        yield BoxMend(
            spare, "Art-Net has no such universe.", BoxStep(Act.SPARE, box.id, port.number)
        )
        return
    first = first_of(box)
    place = box.ports.index(port)
    if box.numbering is Numbering.RANGE and first is not None and port.universe != first + place:
        yield BoxMend(
            "Let each port have its own number",
            "Where the node can.",
            BoxStep(Act.BY_ITSELF, box.id),
        )
        spare = "Make the port spare"
        yield BoxMend(
            spare,
            f"The range gives U{first + place} there.",
            BoxStep(Act.SPARE, box.id, port.number),
        )
        return
    says, wanted = said_by(box, port), number_on(box, port.universe)
    if says is None or says == wanted:
        return
    told = [
        (p, said_by(box, p))
        for p in box.ports
        if p.universe is not None and said_by(box, p) is not None
    ]
    off = {
        said - number_on(box, p.universe)
        for p, said in told
        if said is not None and p.universe is not None
    }
    other = 1 - box.counts_from
    if len(told) > 1 and off == {1 if box.counts_from == 0 else -1}:
        why = "All that its ports say is off by the same one."
        yield BoxMend(
            f"Say that {box.name} counts from {other}",
            why,
            BoxStep(Act.COUNT, box.id, number=other),
        )
    if box.numbering is Numbering.RANGE:
        start = number_on(box, first or port.universe)
        yield BoxMend(
            f"Have {start} typed as the first of {box.name}",
            "All ports follow.",
            BoxStep(Act.TYPE_ALL, box.id),
        )
        return
    why = f"Then port {port.number} gives out U{port.universe}."
    yield BoxMend(
        f"Have {wanted} typed at {box.name} port {port.number}",
        why,
        BoxStep(Act.TYPE, box.id, port.number),
    )
    if len(told) > 1 and sum(said != number_on(box, p.universe or 0) for p, said in told) > 1:
        yield BoxMend(
            f"Have all of {box.name} typed as planned",
            "Its card says what.",
            BoxStep(Act.TYPE_ALL, box.id),
        )


def _start_elsewhere(
    show: Show, finding: Finding, line: Line, box: Box | None, port: Port | None
) -> Iterator[BoxMend]:
    """A line that starts where its universe does not come out, or where there is nothing."""
    taken = {held.source for held in show.lines if held.source}
    giving = [
        (other, held.number)
        for other in show.boxes
        for held in other.outputs
        if held.universe is not None
        and held.universe == line.universe
        and Source(other.id, held.number) != line.source
    ]
    giving.sort(key=lambda pair: (Source(pair[0].id, pair[1]) in taken, pair[0] is not box))
    for other, number in giving[:2]:
        if Source(other.id, number) not in taken or finding.severity is Severity.STOP:
            text = f"Start {line.name} at {other.name} port {number}"
            yield BoxMend(
                text,
                f"It gives out U{line.universe}.",
                BoxStep(Act.START, other.id, number, line=line.id),
            )
    if (
        box is not None
        and port is not None
        and finding.rule == "port-universe"
        and line.universe is not None
    ):
        first = first_of(box) if box.numbering is Numbering.RANGE else None
        if port.universe is None and first in (None, line.universe - box.ports.index(port)):
            text = f"Give U{line.universe} out at {box.name} port {port.number}"
            yield BoxMend(
                text, "It is spare.", BoxStep(Act.GIVE, box.id, port.number, line.universe)
            )
    if (
        finding.severity is Severity.STOP
        and port is not None
        and port.use is not Use.OUT
        and box is not None
    ):
        text = f"Let {box.name} port {port.number} give out"
        yield BoxMend(text, "It is a socket for it.", BoxStep(Act.OUT, box.id, port.number))
    yield BoxMend(f"Leave open where {line.name} starts", "", BoxStep(Act.LOOSE, line=line.id))


def _readdress(show: Show, finding: Finding, box: Box, _port: Port | None) -> Iterator[BoxMend]:
    """Another address, computed; for one that a server gives, set by hand from now on."""
    desk = desk_of(show)
    masked = finding.rule == "subnet" and desk is not None and box.prefix != desk.prefix
    if masked and desk is not None and desk.interface:
        same = replace(box, prefix=desk.prefix)
        if (
            not bad_host(same)
            and same.interface
            and same.interface.network == desk.interface.network
        ):
            free = new_address(show, box) == (box.ip, desk.prefix)
            if free:
                why = f"As {desk.name} has."
                step = BoxStep(Act.MASK, box.id, number=desk.prefix)
                yield BoxMend(f"Use mask {desk.interface.netmask} at {box.name}", why, step)
                return
    found = new_address(show, box)
    if found is None:
        return
    ip, prefix = found
    if box.gives is Given.SERVER:
        step = BoxStep(Act.BY_HAND, box.id, number=prefix, word=ip)
        yield BoxMend(f"Set {box.name} to {ip} by hand", "It stays then.", step)
        return
    why = f"Free, and in the network of the others (/{prefix})."
    yield BoxMend(
        f"Plan {ip} for {box.name}", why, BoxStep(Act.ADDRESS, box.id, number=prefix, word=ip)
    )


def _other_protocol(
    show: Show, finding: Finding, box: Box, _port: Port | None
) -> Iterator[BoxMend]:
    if finding.about == "reach":
        for held in show.boxes:
            if (
                held.kind is BoxKind.DESK
                and held.protocol is Protocol.SACN
                and held.way is not Way.BROADCAST
            ):
                yield _by(box, held.way)
                return
        return
    desk = next((held for held in show.boxes if held.kind is BoxKind.DESK), None)
    if (
        desk is not None
        and box is not desk
        and not desk.speaks(box.protocol)
        and not box.speaks(desk.protocol)
    ):
        text = f"Set {box.name} to {desk.protocol.written}"
        yield BoxMend(
            text, f"As {desk.name} sends.", BoxStep(Act.PROTOCOL, box.id, word=desk.protocol)
        )
    elif box.protocol is Protocol.ARTNET and box.way is Way.MULTICAST:
        yield _by(box, Way.BROADCAST if not show.net.shared else Way.UNICAST)
    elif box.protocol is Protocol.SACN and box.way is Way.BROADCAST:
        yield _by(box, Way.MULTICAST)


def _quieter(show: Show, finding: Finding, box: Box, _port: Port | None) -> Iterator[BoxMend]:
    """Not to everybody: this box, or the desk that is as loud. For a full wire only where that
    makes it lighter."""
    loud = [
        held
        for held in show.boxes
        if held.way is Way.BROADCAST and (held is box or held.kind is BoxKind.DESK)
    ]
    for held in loud if finding.rule == "wire-load" else [box]:
        mend = _by(held, Way.MULTICAST if held.protocol is Protocol.SACN else Way.UNICAST)
        after = take_step(show, mend.step)
        if finding.rule == "broadcast" or load_on(after, after.box(box.id)) < load_on(show, box):
            yield mend


def _by(box: Box, way: Way) -> BoxMend:
    whom = "Only who wants it gets it."
    if way is Way.BROADCAST:
        whom = "It needs no list of addresses."
    elif way is Way.UNICAST:
        whom = "It goes to this address alone."
    return BoxMend(f"Set {box.name} to {way}", whom, BoxStep(Act.WAY, box.id, word=way))


def _who_wins(show: Show, finding: Finding, _box: Box, _port: Port | None) -> Iterator[BoxMend]:
    """The first of several senders wins, where the protocol has priorities."""
    several = senders_of(show).get(finding.universe or 0, [])
    strongest = max((box.priority for box in several), default=200)
    if all(box.protocol is Protocol.SACN for box in several) and strongest < 200:
        number = min(200, strongest + 10)
        why = "The others follow when it is gone."
        step = BoxStep(Act.PRIORITY, several[0].id, number=number)
        yield BoxMend(f"Let {several[0].name} win with priority {number}", why, step)


def _send_all(_show: Show, _finding: Finding, box: Box, _port: Port | None) -> Iterator[BoxMend]:
    yield BoxMend(f"Let {box.name} send all that are planned", "", BoxStep(Act.SEND_ALL, box.id))


def _count_alike(show: Show, finding: Finding, box: Box, port: Port | None) -> Iterator[BoxMend]:
    """Numbers: at a port, or between the desk and a box that count differently."""
    if port is not None:
        yield from _type_right(show, finding, box, port)
        return
    if finding.about == ALL_OFF:
        for mend in _type_right(show, finding, box, off_alike(box)[0]):
            if mend.step.act is not Act.TYPE:
                yield mend
        return
    other = 1 - box.counts_from
    yield BoxMend(
        f"Say that {box.name} counts from {other}",
        "As the desk.",
        BoxStep(Act.COUNT, box.id, number=other),
    )


_OF_A_BOX: Mapping[str, Callable[[Show, Finding, Box, Port | None], Iterator[BoxMend]]] = {
    "numbering": _count_alike,
    "sacn-range": _type_right,
    "artnet-range": _type_right,
    "address-clash": _readdress,
    "subnet": _readdress,
    "bad-host": _readdress,
    "reserved-host": _readdress,
    "no-host": _readdress,
    "protocol": _other_protocol,
    "broadcast": _quieter,
    "wire-load": _quieter,
    "two-senders": _who_wins,
    "no-sender": _send_all,
}


def take_step(show: Show, step: BoxStep) -> Show:
    """The show after a step. Raises ``EditError`` where an edit would."""
    return _TAKEN[step.act](show, step)


def _with_address(show: Show, step: BoxStep) -> Show:
    return edits.change_box(show, step.box, ip=str(IPv4Address(step.word)), prefix=step.number)


def _with_protocol(show: Show, step: BoxStep) -> Show:
    return edits.change_box(show, step.box, protocol=Protocol(step.word))


def _by_hand(show: Show, step: BoxStep) -> Show:
    return edits.change_box(show, step.box, gives=Given.HAND, ip=step.word, prefix=step.number)


_TAKEN: Mapping[Act, Callable[[Show, BoxStep], Show]] = {
    Act.TYPE: lambda show, step: edits.have_typed(show, step.box, step.port),
    Act.TYPE_ALL: lambda show, step: edits.have_typed(show, step.box),
    Act.COUNT: lambda show, step: edits.change_box(show, step.box, counts_from=step.number),
    Act.GIVE: lambda show, step: edits.give(show, step.box, {step.port: step.number}),
    Act.SPARE: lambda show, step: edits.give(show, step.box, {step.port: None}),
    Act.ADD_BOX: lambda show, step: _with_a_box(show, step.number),
    Act.START: lambda show, step: edits.start_line(show, step.line, Source(step.box, step.port)),
    Act.LOOSE: lambda show, step: edits.start_line(show, step.line, None),
    Act.ADDRESS: _with_address,
    Act.MASK: lambda show, step: edits.change_box(show, step.box, prefix=step.number),
    Act.PROTOCOL: _with_protocol,
    Act.WAY: lambda show, step: edits.change_box(show, step.box, way=Way(step.word)),
    Act.PRIORITY: lambda show, step: edits.change_box(show, step.box, priority=step.number),
    Act.SEND_ALL: lambda show, step: edits.change_box(show, step.box, only=()),
    Act.BY_ITSELF: lambda show, step: edits.change_box(show, step.box, numbering=Numbering.EACH),
    Act.OUT: lambda show, step: edits.use_port(show, step.box, step.port, Use.OUT),
    Act.BY_HAND: _by_hand,
}


def _with_a_box(show: Show, universe: int) -> Show:
    """A box more, with a universe on its first port, an address of its own, speaking as the others
    do."""
    like = next((box for box in show.boxes if box.kind is BoxKind.NODE), None)
    show = edits.add_box(show, "", ports=NEW_PORTS, like=like)
    fresh = show.boxes[-1]
    found = new_address(show, fresh)
    if found is not None:
        show = edits.change_box(show, fresh.id, ip=found[0], prefix=found[1])
    return edits.give(show, fresh.id, {1: universe})
