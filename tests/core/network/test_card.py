"""What is typed at a box, and how it stands after marks, readings and changes of the plan; what was
found beside it."""

from __future__ import annotations

from dataclasses import replace

from fence.core import edits
from fence.core.edits.merge import merge
from fence.core.model.box import Box, BoxKind, Numbering, Port, Protocol, Use, Way
from fence.core.model.network import number_on
from fence.core.model.show import Show
from fence.core.network.card import MOST_UNICAST, Stand, advised, card_of, spans, stand_of
from fence.core.network.found import (
    FoundBox,
    FoundPort,
    FoundSource,
    add_found,
    compare,
    compare_sources,
    note_found,
)
from fence.demo import clean_show, demo_show
from fence.standins.boxes import answers


def test_the_card_is_in_the_boxs_own_counting() -> None:
    """Palm dock counts from 0; with Art-Net the Port-Address is told in every notation."""
    card = card_of(clean_show(), clean_show().box(2))
    assert [row.typed for row in card.rows] == ["0", "1", "2", "3"]
    assert dict(card.values)["Mask"] == "255.255.255.0 (/24)"
    assert card.rows[3].wire == "239.255.0.4:5568"
    assert card.rows[3].feeds == ("Line D",)
    show = edits.change_box(clean_show(), 2, protocol=Protocol.ARTNET, way=Way.UNICAST)
    show = edits.give(show, 2, {4: 300})
    assert card_of(show, show.box(2)).rows[3].wire == "1.2.11 = 299 = 0x012b"


def test_a_range_is_typed_once() -> None:
    """The first number stands among the values; a reading of the first port speaks for all."""
    show = edits.change_box(clean_show(), 2, numbering=Numbering.RANGE)
    assert dict(card_of(show, show.box(2)).values)["First universe"] == "0"
    show = edits.say(show, 2, {1: 1})
    assert [row.says for row in card_of(show, show.box(2)).rows] == [1, 2, 3, 4]
    assert all(row.wrong for row in card_of(show, show.box(2)).rows)


def test_the_card_of_a_desk_lists_all_that_is_typed() -> None:
    """Which universes are switched on, to whom each goes by unicast, the second protocol; and the
    better way to send, with its reason, only where another one is planned."""
    show = clean_show()
    desk = next(box for box in show.boxes if box.kind is BoxKind.DESK)
    plain = card_of(show, desk)
    assert dict(plain.values)["Universes to switch on"] == spans(
        number_on(desk, universe) for universe in show.carried
    )
    nodes = [box for box in show.boxes if box.kind is BoxKind.NODE]
    for protocol in Protocol:
        for way in Way:
            asked = replace(desk, way=way, protocol=protocol, both=True)
            card = card_of(show, asked)
            listed = {name.removeprefix("To ") for name, _ in card.values if name[:3] == "To "}
            assert listed == ({box.name for box in nodes} if way is Way.UNICAST else set())
            assert "Also speaks" in dict(card.values)
            best, reason = advised(show, asked)
            assert card.advice == ("" if best is way else reason)
    artnet = replace(desk, protocol=Protocol.ARTNET)
    assert advised(show, artnet)[0] is Way.UNICAST
    lost = replace(show, boxes=(artnet, *(replace(box, ip="") for box in nodes)))
    assert advised(lost, artnet)[0] is Way.BROADCAST
    assert nodes[0].name in advised(lost, artnet)[1]


def test_many_streams_are_too_many_for_unicast() -> None:
    """At the most that a desk is trusted with, and one beyond."""
    for count, way in ((MOST_UNICAST, Way.UNICAST), (MOST_UNICAST + 1, Way.BROADCAST)):
        ports = tuple(Port(number, number) for number in range(1, count + 1))
        desk = Box(1, "Desk", BoxKind.DESK, protocol=Protocol.ARTNET, only=tuple(range(1, 65)))
        node = Box(2, "Node", ip="10.0.0.2", ports=ports)
        assert advised(Show("S", boxes=(desk, node)), desk)[0] is way


def test_how_a_box_stands() -> None:
    """To type, typed, read back, again after a change of the plan, differs; a mend has it typed
    anew."""
    show = clean_show()
    assert stand_of(show.box(2)) is Stand.TO_TYPE
    show = edits.type_in(show, 2)
    assert stand_of(show.box(2)) is Stand.TYPED
    assert [port.says for port in show.box(2).ports] == [0, 1, 2, 3]
    read = edits.say(show, 2, {1: 0})
    assert stand_of(read.box(2)) is Stand.READ
    moved = edits.change_box(show, 2, ip="192.168.40.13")
    assert stand_of(moved.box(2)) is Stand.AGAIN
    wrong = edits.say(show, 2, {4: 4})
    assert stand_of(wrong.box(2)) is Stand.DIFFERS
    again = edits.have_typed(wrong, 2, 4)
    assert stand_of(again.box(2)) is Stand.READ or stand_of(again.box(2)) is Stand.AGAIN
    assert stand_of(edits.untype(edits.type_in(moved, 2), 2).box(2)) is Stand.TO_TYPE


def test_a_mark_joins_with_a_change_of_the_plan() -> None:
    """One types a box in while another plans its address anew: both stand, and it is to be typed
    again."""
    base = clean_show()
    mine, theirs = edits.type_in(base, 2), edits.change_box(base, 2, ip="192.168.40.13")
    joined = merge(base, mine, theirs)
    assert joined.collisions == ()
    assert (joined.show.box(2).ip, stand_of(joined.show.box(2))) == ("192.168.40.13", Stand.AGAIN)
    assert (
        "palm dock was changed meanwhile as well."
        in merge(base, mine, edits.give(base, 2, {1: 2})).collisions
    )


def told(show: object, faults: tuple[object, ...] = ()) -> list[FoundBox]:
    """What the stand-in's boxes would say, as it is found."""
    found = []
    for pages in answers(show, faults).values():  # type: ignore[arg-type]
        ports = [port for page in pages for port in page.ports]
        numbered = tuple(FoundPort(n, p.use, p.address, p.sacn) for n, p in enumerate(ports, 1))
        found.append(FoundBox(pages[0].ip, pages[0].short_name, pages[0].long_name, numbered))
    return found


def test_what_was_found_beside_the_plan() -> None:
    """As planned where it is; the port and the number where it is not; silence; a stranger; one
    that tells nothing."""
    show = clean_show()
    assert [beside.differs for beside in compare(show, told(show))] == [(), ()]
    off = compare(show, told(demo_show()))
    assert off[0].box is not None
    assert {words for beside in off for words in beside.differs} == {
        "port 4 says 4, planned is 3: it gives U5 in place of U4",
        "it is at 192.168.4.12, planned is 192.168.40.12, another network (/24)",
    }
    assert [b.differs for b in compare(show, [])] == [("did not answer",), ("did not answer",)]
    strange = FoundBox("192.168.40.99", "Sluice", ports=(FoundPort(1, Use.OUT, 6),))
    assert [b.differs for b in compare(show, [strange, *told(show)]) if b.box is None] == [
        ("not in the plan",)
    ]
    mute = replace(told(show)[0], ports=())
    assert "without telling" in compare(show, [mute])[0].differs[0]


def test_what_was_found_is_taken_over() -> None:
    """What a box says is noted beside the plan, or becomes the plan; a stranger joins; by hand
    stays by hand."""
    show, said = clean_show(), told(demo_show())
    noted = note_found(show, 2, said[0])
    assert [(p.universe, p.says) for p in noted.box(2).ports] == [(1, 0), (2, 1), (3, 2), (4, 4)]
    assert stand_of(noted.box(2)) is Stand.DIFFERS
    planned = note_found(show, 2, said[0], as_plan=True)
    assert [p.universe for p in planned.box(2).ports] == [1, 2, 3, 5]
    mute = note_found(show, 2, replace(said[0], ports=()))
    assert (mute.box(2).ports, mute.box(2).read) == (show.box(2).ports, None)
    added = add_found(
        show, FoundBox("192.168.40.99", "palm dock", "Sluice", (FoundPort(2, Use.OUT, 6),))
    )
    fresh = added.boxes[-1]
    assert (fresh.name, fresh.ip, fresh.protocol) == (
        "palm dock 2",
        "192.168.40.99",
        Protocol.ARTNET,
    )
    assert [(p.number, p.universe, p.says) for p in fresh.ports] == [(2, 7, 6)]


def test_sources_that_were_heard() -> None:
    """Several on one universe are named with their priorities, and what was not heard."""
    main = FoundSource("a", "Shed 8", "127.0.0.1", (1, 2, 3), 100)
    other = FoundSource("b", "", "127.0.0.2", (2,), 90)
    assert compare_sources(clean_show(), [main, other]) == [
        "U2 is sent by 2 sources: Shed 8 (100) and 127.0.0.2 (90).",
        "Not heard: U4.",
    ]
    assert compare_sources(clean_show(), []) == []
