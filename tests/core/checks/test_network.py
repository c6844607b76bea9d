"""The rules of the network, held against a second reading that knows nothing of theirs."""

from __future__ import annotations

import ipaddress
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace

import pytest
from hypothesis import example, given

from fence.core.addressing.mends import apply_mend, mends_for
from fence.core.checks import findings_of
from fence.core.checks.network import check_network
from fence.core.model.box import Box, BoxKind, Numbering, Port
from fence.core.model.line import Line, Source
from fence.core.model.show import Show
from fence.demo import demo_show
from tests.core.network.nets import networks
from tests.examples import examples
from tests.rigs import rig

Seen = tuple[str, str, str, int | None]


def naive(show: Show) -> Iterator[Seen]:
    """Rule, severity, box and port of every finding, read off the words of the rules one by one."""
    if not show.boxes:
        return
    carried = sorted(
        {
            entry.universe
            for f in show.fixtures
            for entry in f.patch
            if entry.universe and entry.slot
        }
    )
    outs = [(box, port) for box in show.boxes for port in box.ports if port.use == "out"]
    desks = [box for box in show.boxes if box.kind == "desk"]
    if outs or any(b.ports for b in show.boxes) or len(desks) < len(show.boxes):
        for universe in carried:
            if all(port.universe != universe for _, port in outs):
                yield "port-universe", "stop", "", None
    for box in show.boxes:
        yield from naive_ports(show, box, carried)
    counts = Counter(port.universe for _, port in outs if port.universe)
    for universe, count in counts.items():
        if count > 1:
            box, port = [(b, p) for b, p in outs if p.universe == universe][-1]
            yield "port-universe", "note", box.name, port.number
    yield from naive_lines(show)
    yield from naive_senders(show, carried, desks)
    for box in show.boxes:
        yield from naive_box(show, box, desks, carried)


def shown(box: Box, place: int) -> int | None:
    """What a port says: its own number, or counted on from the first."""
    port = box.ports[place]
    if port.says is None and box.numbering == "range" and box.ports[0].says is not None:
        return box.ports[0].says + place
    return port.says


def naive_off(box: Box, first: int | None) -> dict[int, int]:
    """By how much each port is off that says a number and has a universe, those left out that do
    not fit into a range from ``first``."""
    return {
        port.number: shown(box, place) - port.universe + (0 if box.counts_from else 1)  # type: ignore[operator]
        for place, port in enumerate(box.ports)
        if port.universe is not None
        and port.use != "off"
        and shown(box, place) is not None
        and (first is None or port.universe == first + place)
    }


def naive_ports(show: Show, box: Box, carried: list[int]) -> Iterator[Seen]:
    first = next(
        (
            p.universe - n
            for n, p in enumerate(box.ports)
            if p.universe is not None and p.use != "off"
        ),
        None,
    )
    said: dict[int, Port] = {}
    off = naive_off(box, first if box.numbering == "range" else None)
    alike = len(off) > 1 and len(set(off.values())) == 1 and 0 not in off.values()
    if alike:
        yield "numbering", "stop", box.name, None
    for place, port in enumerate(box.ports):
        if (
            box.numbering == "each"
            and port.use == "out"
            and port.says is not None
            and port.universe is not None
        ):
            other = said.setdefault(port.says, port)
            if other.universe != port.universe:
                yield "port-universe", "stop", box.name, port.number
        if port.universe is None or port.use == "off":
            continue
        if box.numbering == "range" and port.universe != (first or 0) + place:
            yield "numbering", "stop", box.name, port.number
            continue
        right = port.universe if box.counts_from else port.universe - 1
        if box.protocol == "artnet" and right >= 2**15:
            yield "artnet-range", "stop", box.name, port.number
        if port.use == "out" and port.universe not in carried:
            known = port.universe in [u.number for u in show.universes]
            yield "port-universe", "note" if known else "caution", box.name, port.number
        says = shown(box, place)
        if says is not None and says != right and not alike:
            yield "numbering", "stop", box.name, port.number
            if box.protocol == "sacn" and not 1 <= says + (0 if box.counts_from else 1) <= 63_999:
                yield "sacn-range", "stop", box.name, port.number
            if box.protocol == "artnet" and says >= 2**15:
                yield "artnet-range", "stop", box.name, port.number


def naive_lines(show: Show) -> Iterator[Seen]:
    for place, line in enumerate(show.lines):
        if line.source is None:
            continue
        box = next((b for b in show.boxes if b.id == line.source.box), None)
        port = next((p for p in box.ports if p.number == line.source.port), None) if box else None
        if box is None or port is None:
            yield "outputs", "stop", box.name if box else "", None
            continue
        if port.use != "out":
            yield "outputs", "stop", box.name, port.number
        elif line.universe and port.universe != line.universe:
            yield "port-universe", "stop", box.name, port.number
        if any(other.source == line.source for other in show.lines[:place]):
            yield "outputs", "caution", box.name, port.number


def naive_senders(show: Show, carried: list[int], desks: list[Box]) -> Iterator[Seen]:
    sent: dict[int, list[Box]] = {}
    for box in show.boxes:
        mine = (
            (box.only or carried)
            if box in desks
            else [p.universe for p in box.ports if p.use == "in"]
        )
        for universe in {number for number in mine if number}:
            sent.setdefault(universe, []).append(box)
    for desk in desks:
        if desk.sends is not None and sum(desk in boxes for boxes in sent.values()) > desk.sends:
            yield "licence", "stop", desk.name, None
    for universe in carried:
        if desks and universe not in sent:
            yield "no-sender", "stop", desks[0].name, None
    for boxes in {
        tuple(b.id for b in boxes): boxes for boxes in sent.values() if len(boxes) > 1
    }.values():
        universes = [
            u for u, several in sent.items() if [b.id for b in several] == [b.id for b in boxes]
        ]
        strongest = sorted((b.priority for b in boxes), reverse=True)
        takers = [
            b
            for b in show.boxes
            if any(p.use == "out" and p.universe in universes for p in b.ports)
        ]
        clear = all(b.protocol == "sacn" for b in boxes) and strongest[0] > strongest[1]
        clear = clear or (bool(takers) and all(b.merging for b in takers))
        weaker = sorted(boxes, key=lambda b: -b.priority)[1]
        yield "two-senders", "note" if clear else "caution", weaker.name, None


def naive_box(show: Show, box: Box, desks: list[Box], carried: list[int]) -> Iterator[Seen]:
    if (box.protocol, box.way) in (("artnet", "multicast"), ("sacn", "broadcast")):
        yield "protocol", "note", box.name, None
    if box not in desks and desks:
        near = [d for d in desks if d.both or box.both or d.protocol == box.protocol]
        if not near:
            yield "protocol", "stop", box.name, None
        sent = {d.way for d in near if d.protocol == "sacn" and d.way != "broadcast"}
        if box.protocol == "sacn" and box.way != "broadcast" and sent and box.way not in sent:
            first = next(d.way for d in near if d.protocol == "sacn" and d.way != "broadcast")
            yield "protocol", "stop" if first == "multicast" else "caution", box.name, None
        if (
            near
            and box.protocol == "artnet"
            and box.counts_from not in {d.counts_from for d in near}
        ):
            yield "numbering", "caution", box.name, None
        if box.gives == "server" and any(d.way == "unicast" for d in near):
            yield "no-host", "caution", box.name, None
    if not box.ip:
        if box.gives == "hand":
            yield "no-host", "note", box.name, None
    else:
        yield from naive_address(show, box, desks)
    every = len(carried)
    loud = any(d.way == "broadcast" for d in desks) or box.way == "broadcast"
    own = len({p.universe for p in box.ports if p.universe and p.use != "off"})
    if box in desks:
        mine = set(box.only or carried)
        taking = [b for b in show.boxes if b not in desks]
        each = [len(mine & {p.universe for p in b.ports if p.use == "out"}) for b in taking]
        universes = sum(each) if box.way == "unicast" else len(mine)
    else:
        universes = max(every, own) if loud else own
    load = 0.23 * universes
    if load > box.speed * (0.25 if box.over_air else 0.5):
        yield "wire-load", "stop" if load > box.speed else "caution", box.name, None
    if show.net.shared and box.way == "broadcast":
        yield "broadcast", "caution", box.name, None


def naive_address(show: Show, box: Box, desks: list[Box]) -> Iterator[Seen]:
    if any(other.ip == box.ip for other in show.boxes[: show.boxes.index(box)]):
        yield "address-clash", "stop", box.name, None
    ip = ipaddress.ip_address(box.ip)
    if naive_bad(box):
        yield "bad-host", "stop", box.name, None
    elif desks and desks[0] is not box and desks[0].ip and not naive_bad(desks[0]):
        desk = desks[0]
        theirs = ipaddress.ip_network(f"{desk.ip}/{desk.prefix}", strict=False)
        own = ipaddress.ip_network(f"{box.ip}/{box.prefix}", strict=False)
        if ip not in theirs or ipaddress.ip_address(desk.ip) not in own:
            yield "subnet", "stop", box.name, None
        elif desk.prefix != box.prefix:
            yield "subnet", "caution", box.name, None
    held = [
        r
        for r in show.net.reserved
        if ipaddress.ip_address(r.first) <= ip <= ipaddress.ip_address(r.last)
    ]
    if box.gives == "hand" and held:
        yield "reserved-host", "caution", box.name, None


def naive_bad(box: Box) -> bool:
    """The first or last of its network, or an address that no single box has."""
    mask = (1 << (32 - box.prefix)) - 1
    number = int(ipaddress.ip_address(box.ip))
    return number & mask in (0, mask) or number >> 24 == 0 or number >> 24 >= 224


@examples(250)
@given(networks())
def test_the_rules_say_what_a_second_reading_says(show: Show) -> None:
    """On random desks, boxes, ports, masks and lines: the same findings, no more and no fewer."""
    found = Counter((f.rule, str(f.severity), f.box or "", f.port) for f in check_network(show))
    assert found == Counter(naive(show))


OUT_OF_RANGE = Box(
    1,
    "node 1",
    numbering=Numbering.RANGE,
    ports=(Port(1, 1), Port(2, 32768, says=0), Port(3, 32768, says=0)),
)
"""Two ports that do not fit into the range, and say the same."""


@examples(80)
@example(Show("Test", boxes=(OUT_OF_RANGE,)))
@given(networks())
def test_every_way_out_ends_its_finding(show: Show) -> None:
    """A mend ends what it was offered for, unless that is a number that somebody else must make
    room for."""
    for finding in check_network(show):
        for mend in mends_for(show, finding):
            after = apply_mend(show, mend)
            assert after != show
            left = {
                f.key
                for f in check_network(after)
                if (f.rule, f.message) == (finding.rule, finding.message)
            }
            assert finding.key not in left, (finding, mend.text)


def gate(*ports: Port, **said: object) -> Box:
    """A box that counts from 0."""
    return Box(2, "palm dock", ports=ports, counts_from=0, ip="192.168.40.11", **said)  # type: ignore[arg-type]


def test_it_is_told_in_the_words_of_the_rig() -> None:
    """Which universe comes out, in both countings, and who stays dark; which number of the address
    differs."""
    messages = [finding.message for finding in findings_of(demo_show())]
    assert (
        "palm dock counts from 0, so U4 is its 3; port 4 says 4 and gives out U5: Gatehouse stays "
        "dark." in messages
    )
    assert (
        "rill dock is in another network: 192.168.4.12 and Shed 8’s 192.168.40.2 differ in the "
        "third number; "
        "mask 255.255.255.0 (/24) wants them alike." in messages
    )


CASES = [
    ("a universe without a port", gate(Port(1, 1)), "U2 has no port: its fixture stays dark."),
    ("a spare port is not a trouble", gate(Port(1, 1), Port(2, 2), Port(3)), ""),
    ("one port is off by one", gate(Port(1, 1, 1), Port(2, 2, 1)), "gives out U2"),
    (
        "all of them are off by one",
        gate(Port(1, 1, 1), Port(2, 2, 2)),
        "All 2 ports of palm dock are 1 too high: it counts from 0, so U1 and U2 are its 0 and 1, "
        "and they say 1 and 2: U1 and U2 stay dark.",
    ),
    ("nobody has looked", gate(Port(1, 1), Port(2, 2)), ""),
    (
        "a range out of step",
        gate(Port(1, 2), Port(2, 1), numbering=Numbering.RANGE),
        "port 2 is U3, and U1 is planned",
    ),
    ("two ports say one number", gate(Port(1, 1, 0), Port(2, 2, 0)), "both say 0"),
    ("no such number", gate(Port(1, 1), Port(2, 2, 65_000)), "not a universe of sACN"),
]


@pytest.mark.parametrize(
    ("box", "words"), [case[1:] for case in CASES], ids=[case[0] for case in CASES]
)
def test_ports(box: Box, words: str) -> None:
    """What is said of two universes at the ports of one box, and where nothing is."""
    show = replace(rig(("A", 4, 1, 1), ("B", 4, 2, 1)), boxes=(box,))
    told = [finding.message for finding in check_network(show) if finding.severity != "note"]
    assert any(words in message for message in told) if words else told == []


def test_all_off_by_one_is_said_of_the_box() -> None:
    """Where all that a box says is off by the same one, it counts the other way: that is the first
    way out."""
    show = replace(rig(("A", 4, 1, 1), ("B", 4, 2, 1)), boxes=(gate(Port(1, 1, 1), Port(2, 2, 2)),))
    finding = next(f for f in check_network(show) if f.rule == "numbering")
    mend = mends_for(show, finding)[0]
    assert mend.text == "Say that palm dock counts from 1"
    assert list(check_network(apply_mend(show, mend))) == []


def test_a_line_starts_at_a_socket_that_is_there() -> None:
    """A port that is not there, one socket for two lines, a port that gives another universe."""
    lines = tuple(
        Line(n, f"L{n}", u, Source(2, p))
        for n, (u, p) in enumerate([(1, 1), (1, 1), (2, 3), (2, 1)], 1)
    )
    show = replace(
        rig(("A", 4, 1, 1), ("B", 4, 2, 1)), boxes=(gate(Port(1, 1), Port(2, 2)),), lines=lines
    )
    told = {(f.line, f.severity): f.message for f in check_network(show) if f.line}
    assert told["L2", "caution"] == "L1 and L2 both start at palm dock port 1. It is one socket."
    assert told["L3", "stop"] == "L3 starts at port 3 of palm dock, which has 2 ports."
    assert "gives U1" in told["L4", "stop"]
    finding = next(f for f in check_network(show) if f.line == "L3")
    after = apply_mend(show, mends_for(show, finding)[0])
    assert after.line(3).source == Source(2, 2)


def test_desks_and_boxes_of_the_same_name_of_kind() -> None:
    """Desks alone, without sockets, need no port yet; with a box everything does."""
    show = replace(rig(("A", 4, 1, 1)), boxes=(Box(1, "Desk", BoxKind.DESK, "10.0.0.1", sends=4),))
    assert list(check_network(show)) == []
    more = replace(show, boxes=(*show.boxes, Box(2, "Dock", ip="10.0.0.2")))
    assert [f.rule for f in check_network(more)] == ["port-universe"]
