"""What is wrong with the network: ports and universes, how boxes count, licences, addresses,
protocols, loads.

Nothing is said of a show without boxes. Limits are of the standard named, or practice.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from ipaddress import IPv4Address, IPv4Network

from fence.core.checks.finding import Finding, Rule, Severity
from fence.core.model.address import MAX_UNIVERSE
from fence.core.model.box import Box, BoxKind, Given, Numbering, Port, Protocol, Use, Way
from fence.core.model.line import Line, Source
from fence.core.model.network import (
    HIGHEST_PORT_ADDRESS,
    Loads,
    Outlet,
    called,
    desk_of,
    first_of,
    number_on,
    outlets,
    said_by,
    senders_of,
    universe_said,
)
from fence.core.model.show import Show
from fence.core.model.text import counted, joined

BUSY_WIRE, BUSY_AIR = 0.5, 0.25
"""The share of a wire's speed, or of a wireless link's, from which it is said (practice)."""

RULES = (
    Rule("port-universe", "Port and universe", "A universe comes out only where a port gives it."),
    Rule(
        "no-sender", "Sent by nobody", "A port can only give out what somebody puts on the network."
    ),
    Rule(
        "two-senders",
        "Two senders",
        "Two that send one universe fight for it, unless one has the higher priority.",
    ),
    Rule(
        "numbering",
        "Numbers do not agree",
        "Nodes count universes from 0 or from 1: off by one is another universe.",
    ),
    Rule("licence", "More than the desk may send", "What is over the licence is not sent at all."),
    Rule(
        "outputs",
        "No such output",
        "A line can start only at a socket that is there and gives out.",
    ),
    Rule("protocol", "Protocols do not meet", "A node hears only the protocol that it listens to."),
    Rule("sacn-range", "No universe of sACN", "sACN has universes 1 to 63999."),
    Rule(
        "artnet-range",
        "No universe of Art-Net",
        "A Port-Address of Art-Net has 15 bits: 0 to 32767.",
    ),
    Rule(
        "address-clash",
        "Address used twice",
        "Two nodes with one address: now this one answers, now that one.",
    ),
    Rule(
        "subnet",
        "Another network",
        "The mask says which part of the address must be alike to hear each other.",
    ),
    Rule(
        "bad-host",
        "Not an address for a node",
        "The first and the last address of a network belong to the network.",
    ),
    Rule(
        "reserved-host", "Address kept for others", "Sooner or later somebody else has it as well."
    ),
    Rule("no-host", "No address yet", "Without an address of its own nobody finds it."),
    Rule(
        "wire-load",
        "Full wire",
        "A universe is about 0.23 Mbit/s; a full wire drops packets and light stutters.",
    ),
    Rule("broadcast", "Broadcast where others work", "Everybody on the network gets every packet."),
)


def check_network(show: Show) -> Iterator[Finding]:
    """All findings about the boxes of a show."""
    if not show.boxes:
        return
    yield from _without_a_port(show)
    for box in show.boxes:
        yield from _ports(show, box)
    yield from _twice_given(show)
    yield from _sources(show)
    yield from _senders(show)
    yield from _protocols(show)
    yield from _addresses(show)
    loads = Loads.of(show)
    for box in show.boxes:
        yield from _wire(show, box, loads)


def _stop(
    rule: str,
    words: str,
    box: Box | None,
    port: Port | None = None,
    universe: int | None = None,
    about: str = "",
) -> Finding:
    return _told(rule, Severity.STOP, words, box, port, universe, about=about)


def _told(
    rule: str,
    severity: Severity,
    words: str,
    box: Box | None,
    port: Port | None = None,
    universe: int | None = None,
    line: Line | None = None,
    about: str = "",
) -> Finding:
    return Finding(
        rule,
        severity,
        words,
        universe=universe,
        line=line.name if line else None,
        box=box.name if box else "",
        port=port.number if port else None,
        about=about,
        line_id=line.id if line else None,
        box_id=box.id if box else None,
    )


def _without_a_port(show: Show) -> Iterator[Finding]:
    """Universes that fixtures listen to and no port gives out."""
    if all(box.kind is BoxKind.DESK and not box.ports for box in show.boxes):
        return
    given = {outlet.port.universe for outlet in outlets(show)}
    for universe, count in show.carried.items():
        if universe not in given:
            stays = "its fixture stays" if count == 1 else f"its {count} fixtures stay"
            words = f"U{universe} {_name(show, universe)}has no port: {stays} dark."
            yield _stop("port-universe", words, None, universe=universe)


def _name(show: Show, universe: int) -> str:
    """The universe's name with a blank behind it; nothing where it has none but its number."""
    name = called(show, universe)
    return "" if name == f"U{universe}" else f"{name} "


def _ports(show: Show, box: Box) -> Iterator[Finding]:
    """Each port of a box: what it gives, what it says, whether there is such a universe."""
    first = first_of(box) if box.numbering is Numbering.RANGE else None
    alike = off_alike(box)
    if alike:
        yield _off_by_the_same(show, box, alike)
    for place, port in enumerate(box.ports):
        universe = port.universe
        if universe is None or port.use is Use.OFF:
            continue
        if first is not None and universe != first + place:
            words = (
                f"{box.name} numbers its ports as a range from U{first}: port {port.number} is "
                f"U{first + place}, "
                f"and U{universe} is planned."
            )
            yield _stop("numbering", words, box, port, universe, "range")
            continue
        if box.protocol is Protocol.ARTNET and number_on(box, universe) > HIGHEST_PORT_ADDRESS:
            words = (
                f"{box.name} port {port.number} would be {number_on(box, universe)}: Art-Net "
                "ends at 32767."
            )
            yield _stop("artnet-range", words, box, port, universe, "planned")
        if port.use is Use.OUT and universe not in show.carried:
            known = universe in show.universe_by_number
            severity = Severity.NOTE if known else Severity.CAUTION
            words = (
                f"{box.name} port {port.number} gives out U{universe}: no fixture is planned there."
            )
            yield _told("port-universe", severity, words, box, port, universe, about="no fixture")
        if port not in alike:
            yield from _says(show, box, port, universe)
    yield from _one_number(box)


ALL_OFF = "all off"
"""What a finding is about that speaks of several ports at once."""


def off_alike(box: Box) -> tuple[Port, ...]:
    """The ports that say a number, where there are several and all are off by the same: that has
    one cause, and is told once. Empty otherwise. A port that does not fit into the range of its box
    is off by that."""
    first = first_of(box) if box.numbering is Numbering.RANGE else None
    said = [
        (port, says - number_on(box, port.universe))
        for place, port in enumerate(box.ports)
        if port.universe is not None
        and port.use is not Use.OFF
        and first in (None, port.universe - place)
        and (says := said_by(box, port)) is not None
    ]
    apart = {off for _, off in said}
    alike = len(said) > 1 and len(apart) == 1 and apart != {0}
    return tuple(port for port, _ in said) if alike else ()


def _off_by_the_same(show: Show, box: Box, ports: Sequence[Port]) -> Finding:
    """How all of them are off, and who gets nothing because of that."""
    universes = [port.universe for port in ports if port.universe is not None]
    wanted = [number_on(box, universe) for universe in universes]
    says = [says for port in ports if (says := said_by(box, port)) is not None]
    off = says[0] - wanted[0]
    whose = (
        f"All {len(ports)} ports"
        if len(ports) == len(box.ports)
        else (f"Ports {joined([str(port.number) for port in ports])}")
    )
    dark = [
        called(show, universe)
        for port, universe in zip(ports, universes, strict=True)
        if _dark(show, box, port, universe)
    ]
    words = (
        f"{whose} of {box.name} are {abs(off)} too {'high' if off > 0 else 'low'}: it counts "
        f"from {box.counts_from}, so {_in_words(universes, 'U')} are its {_in_words(wanted)}, and "
        f"they say {_in_words(says)}"
    )
    stay = "" if not dark else f": {joined(dark)} {'stays' if len(dark) == 1 else 'stay'} dark"
    return _stop("numbering", f"{words}{stay}.", box, about=ALL_OFF)


def _in_words(numbers: Sequence[int], sign: str = "") -> str:
    """Numbers with their sign: ``U1 to U4`` where they run on, else ``U1, U3 and U9``."""
    if list(numbers) == list(range(numbers[0], numbers[0] + len(numbers))) and len(numbers) > 2:
        return f"{sign}{numbers[0]} to {sign}{numbers[-1]}"
    return joined([f"{sign}{number}" for number in numbers])


def _says(show: Show, box: Box, port: Port, universe: int) -> Iterator[Finding]:
    """A port that says another number than its universe has in the box's counting."""
    says, wanted = said_by(box, port), number_on(box, universe)
    if says is None or says == wanted:
        return
    really = universe_said(box, says)
    verb = "gives out" if port.use is Use.OUT else "takes in"
    begin = f"{box.name} counts from {box.counts_from}, so U{universe} is its {wanted}"
    exists = 1 <= really <= MAX_UNIVERSE
    words = (
        f"{begin}; port {port.number} says {says} and {verb} "
        f"{f'U{really}' if exists else 'no universe'}"
    )
    yield _stop("numbering", f"{words}{_dark(show, box, port, universe)}.", box, port, universe)
    if box.protocol is Protocol.SACN and not exists:
        words = f"{box.name} port {port.number} says {says}, which is not a universe of sACN."
        yield _stop("sacn-range", words, box, port, universe)
    if box.protocol is Protocol.ARTNET and says > HIGHEST_PORT_ADDRESS:
        words = (
            f"{box.name} port {port.number} says {says}: Art-Net ends at {HIGHEST_PORT_ADDRESS}."
        )
        yield _stop("artnet-range", words, box, port, universe)


def _dark(show: Show, box: Box, port: Port, universe: int) -> str:
    """Who gets nothing from a port that says another number, unless another one gives that
    universe."""
    if universe not in show.carried or port.use is not Use.OUT:
        return ""
    for outlet in outlets(show):
        if outlet.port.universe == universe and outlet.port is not port:
            says = said_by(outlet.box, outlet.port)
            if says is None or says == number_on(outlet.box, universe):
                return ""
    return f": {called(show, universe)} stays dark"


def _one_number(box: Box) -> Iterator[Finding]:
    """Two ports of a box that say one number, and should give out different universes."""
    if box.numbering is Numbering.RANGE:
        return
    seen: dict[int, Port] = {}
    for port in box.outputs:
        if port.says is None or port.universe is None:
            continue
        other = seen.setdefault(port.says, port)
        if other.universe != port.universe:
            words = (
                f"Ports {other.number} and {port.number} of {box.name} both say {port.says}; "
                f"U{other.universe} and U{port.universe} are planned."
            )
            yield _stop("port-universe", words, box, port, port.universe, "one number")


def _twice_given(show: Show) -> Iterator[Finding]:
    """A universe on several ports is a legal duplicate, good to know."""
    given: dict[int, list[Outlet]] = {}
    for outlet in outlets(show):
        if outlet.port.universe is not None:
            given.setdefault(outlet.port.universe, []).append(outlet)
    for universe, found in given.items():
        if len(found) > 1:
            words = (
                f"U{universe} comes out {len(found)} times: "
                f"{joined([outlet.name for outlet in found])}."
            )
            last = found[-1]
            yield _told(
                "port-universe", Severity.NOTE, words, last.box, last.port, universe, about="twice"
            )


def _sources(show: Show) -> Iterator[Finding]:
    """Where lines start: at a socket that is there, gives out, and gives what the line carries."""
    taken: dict[Source, Line] = {}
    for line in show.lines:
        source = line.source
        if source is None:
            continue
        box = show.box_by_id.get(source.box)
        port = box.port(source.port) if box else None
        if box is None:
            words = f"{line.name} starts at a node that is not in the show."
            yield _told("outputs", Severity.STOP, words, None, None, line.universe, line)
        elif port is None:
            has = counted(len(box.ports), "port")
            words = f"{line.name} starts at port {source.port} of {box.name}, which has {has}."
            yield _told("outputs", Severity.STOP, words, box, None, line.universe, line)
        elif port.use is not Use.OUT:
            words = f"{line.name} starts at {box.name} port {port.number}, which {_is(port)}."
            yield _told("outputs", Severity.STOP, words, box, port, line.universe, line)
        elif line.universe is not None and port.universe != line.universe:
            gives = f"gives U{port.universe}" if port.universe is not None else "is spare"
            words = (
                f"{line.name} carries U{line.universe}; {box.name} port {port.number}, where "
                f"it starts, {gives}."
            )
            yield _told("port-universe", Severity.STOP, words, box, port, line.universe, line)
        if port is not None and (other := taken.setdefault(source, line)) is not line:
            words = (
                f"{other.name} and {line.name} both start at {box.name if box else ''} port "
                f"{port.number}."
            )
            words += " It is one socket."
            yield _told(
                "outputs", Severity.CAUTION, words, box, port, line.universe, line, "one socket"
            )


def _is(port: Port) -> str:
    return "is off" if port.use is Use.OFF else "takes a universe in"


def _senders(show: Show) -> Iterator[Finding]:
    """Licences, universes that nobody sends, universes that several send."""
    sent = senders_of(show)
    desks = [box for box in show.boxes if box.kind is BoxKind.DESK]
    for desk in desks:
        mine = [universe for universe in sent if desk in sent[universe]]
        if desk.sends is not None and len(mine) > desk.sends:
            over = joined([f"U{universe}" for universe in sorted(mine)[desk.sends :]])
            words = (
                f"{desk.name} may send {counted(desk.sends, 'universe')}, and {len(mine)} are "
                f"planned: {over} too many."
            )
            yield _stop("licence", words, desk)
    if desks:
        for universe in show.carried:
            if universe not in sent:
                names = joined([desk.name for desk in desks])
                words = (
                    f"U{universe} {_name(show, universe)}is sent by nobody: {names} leaves it out."
                )
                yield _stop("no-sender", words, desks[0], universe=universe)
    fights: dict[tuple[int, ...], list[int]] = {}
    for universe, boxes in sent.items():
        if len(boxes) > 1:
            fights.setdefault(tuple(box.id for box in boxes), []).append(universe)
    for ids, universes in fights.items():
        yield _fight(show, [show.box(box_id) for box_id in ids], universes)


def _fight(show: Show, boxes: Sequence[Box], universes: Sequence[int]) -> Finding:
    """Several senders of the same universes: harmless where it is said who wins."""
    names = joined([box.name for box in boxes])
    words = f"{names} all send" if len(boxes) > 2 else f"{names} both send"
    words += f" {joined([f'U{universe}' for universe in universes])}."
    first, second = sorted(boxes, key=lambda box: -box.priority)[:2]
    if all(box.protocol is Protocol.SACN for box in boxes) and first.priority > second.priority:
        words += f" {first.name} wins with priority {first.priority}."
        return _told("two-senders", Severity.NOTE, words, second, universe=universes[0])
    takers = {o.box.id: o.box for o in outlets(show) if o.port.universe in universes}
    if takers and all(box.merging is not None for box in takers.values()):
        words += " What the nodes do then is said."
        return _told("two-senders", Severity.NOTE, words, second, universe=universes[0])
    return _told(
        "two-senders",
        Severity.CAUTION,
        f"{words} Nothing says who wins.",
        second,
        universe=universes[0],
    )


def _protocols(show: Show) -> Iterator[Finding]:
    """Whether boxes hear what the desks say, and ways that a protocol does not have."""
    desks = [box for box in show.boxes if box.kind is BoxKind.DESK]
    for box in show.boxes:
        if box.protocol is Protocol.ARTNET and box.way is Way.MULTICAST:
            words = f"{box.name}: Art-Net goes by broadcast or unicast, not by multicast."
            yield _told("protocol", Severity.NOTE, words, box, about="way")
        if box.protocol is Protocol.SACN and box.way is Way.BROADCAST:
            words = f"{box.name}: sACN goes by multicast or unicast, not by broadcast."
            yield _told("protocol", Severity.NOTE, words, box, about="way")
        if box.kind is BoxKind.DESK or not desks:
            continue
        hearing = [desk for desk in desks if desk.speaks(box.protocol) or box.speaks(desk.protocol)]
        if not hearing:
            words = (
                f"{box.name} listens to {box.protocol.written}; {desks[0].name} sends "
                f"{desks[0].protocol.written}."
            )
            yield _stop("protocol", words, box)
        elif box.protocol is Protocol.ARTNET and all(
            desk.counts_from != box.counts_from for desk in hearing
        ):
            desk = hearing[0]
            words = (
                f"{desk.name} counts from {desk.counts_from} and {box.name} from "
                f"{box.counts_from}: on Art-Net U1 is "
                f"{number_on(desk, 1)} to the one and {number_on(box, 1)} to the other. Check "
                "which one goes out."
            )
            yield _told("numbering", Severity.CAUTION, words, box)
        yield from _reaches(box, hearing)
        if box.gives is Given.SERVER and any(desk.way is Way.UNICAST for desk in hearing):
            words = (
                f"{hearing[0].name} sends to single addresses, and that of {box.name} may "
                "change: a server gives it."
            )
            yield _told("no-host", Severity.CAUTION, words, box, about="server")


def _reaches(box: Box, desks: Sequence[Box]) -> Iterator[Finding]:
    """Whether what desks send by multicast or to single addresses of sACN comes to a box that is
    set to one of both."""
    sending = [
        desk for desk in desks if desk.protocol is Protocol.SACN and desk.way is not Way.BROADCAST
    ]
    if box.protocol is not Protocol.SACN or box.way is Way.BROADCAST or not sending:
        return
    if any(desk.way is box.way for desk in sending):
        return
    desk = sending[0]
    if desk.way is Way.MULTICAST:
        words = (
            f"{desk.name} sends by multicast, and {box.name} is set to unicast: it hears "
            "nothing of that."
        )
        yield _stop("protocol", words, box, about="reach")
    else:
        words = (
            f"{desk.name} sends by unicast, and {box.name} is set to multicast: not every node "
            "hears both."
        )
        yield _told("protocol", Severity.CAUTION, words, box, about="reach")


def _addresses(show: Show) -> Iterator[Finding]:
    desk = desk_of(show)
    first: dict[str, Box] = {}
    for box in show.boxes:
        if not box.ip:
            if box.gives is Given.HAND:
                yield _told(
                    "no-host", Severity.NOTE, f"{box.name} has no network address yet.", box
                )
            continue
        if (other := first.setdefault(box.ip, box)) is not box:
            yield _stop("address-clash", f"{other.name} and {box.name} both have {box.ip}.", box)
        if words := bad_host(box):
            yield _stop("bad-host", words, box)
        elif desk and desk is not box and desk.ip and not bad_host(desk):
            yield from _meets(desk, box)
        if box.gives is Given.HAND and (kept := show.net.keeps(IPv4Address(box.ip))):
            words = f"{box.name} has {box.ip}; {kept.first} to {kept.last} is kept"
            words += f": {kept.why}." if kept.why else " for others."
            yield _told("reserved-host", Severity.CAUTION, words, box)


def bad_host(box: Box) -> str:
    """Why no box can have the address of this one; empty where it can."""
    interface = box.interface
    assert interface is not None
    ip, network = interface.ip, interface.network
    if ip == network.network_address:
        return (
            f"{box.ip} is the network itself with mask {network.netmask}: {box.name} needs another."
        )
    if ip == network.broadcast_address:
        return f"{box.ip} goes to everybody with mask {network.netmask}: {box.name} needs another."
    if ip.is_multicast or ip.is_reserved or ip in _THIS:
        return f"{box.ip} is not an address of a single node: {box.name} needs another."
    return ""


_THIS = IPv4Network("0.0.0.0/8")


def _meets(desk: Box, box: Box) -> Iterator[Finding]:
    """Whether a box is in the desk's network, seen from both."""
    theirs, own = desk.interface, box.interface
    assert theirs is not None
    assert own is not None
    if own.ip not in theirs.network or theirs.ip not in own.network:
        odd = own if own.ip in theirs.network else theirs
        mask = f"mask {odd.network.netmask} (/{odd.network.prefixlen})"
        differ = f"{box.ip} and {desk.name}’s {desk.ip} {_differ(desk, box, odd.network.prefixlen)}"
        words = f"{box.name} is in another network: {differ}; {mask} wants them alike."
        yield _stop("subnet", words, box, about="network")
    elif desk.prefix != box.prefix:
        masks = f"{box.name} has mask {own.netmask}, {desk.name} has {theirs.netmask}"
        words = f"{masks}: some would hear each other, some not."
        yield _told("subnet", Severity.CAUTION, words, box)


def _differ(desk: Box, box: Box, prefix: int) -> str:
    """Which of the four numbers differ that the mask wants alike."""
    names = ("first", "second", "third", "fourth")
    pairs = list(zip(desk.ip.split("."), box.ip.split("."), strict=True))
    found = [
        name
        for place, (name, (a, b)) in enumerate(zip(names, pairs, strict=True))
        if a != b and place * 8 < prefix
    ]
    return f"differ in the {joined(found)} number"


def _wire(show: Show, box: Box, loads: Loads) -> Iterator[Finding]:
    """The load of a box's wire, and broadcast where others work."""
    load, share = loads.on(box), BUSY_AIR if box.over_air else BUSY_WIRE
    if load > share * box.speed:
        over = load > box.speed
        wire = "wireless link" if box.over_air else "wire"
        words = f"The {wire} of {box.name} carries about {load:.1f} of {box.speed:g} Mbit/s."
        yield _told("wire-load", Severity.STOP if over else Severity.CAUTION, words, box)
    if show.net.shared and box.way is Way.BROADCAST:
        words = f"{box.name} is set to broadcast, and others use this network too."
        yield _told("broadcast", Severity.CAUTION, words, box)
