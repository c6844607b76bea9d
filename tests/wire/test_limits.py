"""Limits of what is heard and sent, on both sides: the last that is taken and the first that is
not."""

from __future__ import annotations

from random import Random
from uuid import UUID

import pytest

from fence.core.model.box import Protocol, Use
from fence.core.rdm.controller import MOST_WAITS, Controller, UnansweredError
from fence.core.rdm.packet import (
    MOST_DATA,
    Answer,
    Command,
    Identity,
    Packet,
    Parameter,
    answer_to,
    build,
    read,
)
from fence.core.rdm.responder import Responder, SimulatedLine
from fence.wire import artnet, receiving, sacn
from fence.wire.output import Others
from fence.wire.receiving import MOST_SOURCES, Ear
from tests.addresses import own
from tests.core.rdm.lines import rig

ONE = Identity(0x7FF0, 1)


def frame(number: int, *, cid: int = 1, universe: int = 1, levels: bytes = b"\x01") -> bytes:
    return sacn.build_data(UUID(int=cid), f"S{cid}", universe, levels, sequence=number % 256)


def test_what_comes_late_is_dropped() -> None:
    """Every pair of numbers: 0 to 19 behind the last one is late, 20 behind begins anew [ANSI
    E1.31, 6.7.2]."""
    for last in range(256):
        for behind in range(-127, 129):
            assert sacn.is_late((last - behind) % 256, last) == (0 <= behind < 20)


@pytest.mark.parametrize(("pause", "taken"), [(2.49, False), (2.51, True)])
def test_a_stream_that_was_silent_begins_anew(pause: float, taken: bool) -> None:
    """A number that would be late is taken once the source was gone for 2.5 s; each stream by
    itself."""
    order = sacn.InOrder()
    first, same = sacn.read_frame(frame(9)), sacn.read_frame(frame(9))
    other = sacn.read_frame(frame(9, cid=2))
    assert first is not None
    assert same is not None
    assert other is not None
    assert order.takes(first, 100.0)
    assert not order.takes(same, 100.1)
    assert order.takes(other, 100.1)
    assert order.takes(same, 100.0 + pause) == taken


def test_late_packets_change_no_levels() -> None:
    """Frames out of order: the levels are those of the newest number; after the end of a stream any
    number begins."""
    ear = Ear(Protocol.SACN, 1, own(71))
    try:
        for at, (number, level) in enumerate(
            [(10, 1), (12, 3), (11, 2), (200, 4), (201, 5), (5, 6)]
        ):
            ear.take(frame(number, levels=bytes([level])), "10.0.0.1", 100.0 + at / 100)
            now = [one.levels[0] for one in ear.sources.values()]
            assert now == [{0: 1, 1: 3, 2: 3, 3: 4, 4: 5, 5: 6}[at]]
    finally:
        ear.close()


@pytest.mark.parametrize(("after", "there"), [(2.49, True), (2.5, False)])
def test_a_source_is_gone_after_its_silence(after: float, there: bool) -> None:
    """After 2.5 s without a frame [ANSI E1.31, 6.7.1], not before."""
    ear = Ear(Protocol.SACN, 1, own(71))
    try:
        ear.take(frame(1), "10.0.0.1", 100.0)
        assert ear.heard(100.0 + after).any == there
    finally:
        ear.close()


def test_so_many_sources_and_no_more() -> None:
    """The last that is kept, and the first that is not; those that are known go on."""
    ear = Ear(Protocol.SACN, 1, own(71))
    try:
        for cid in range(1, MOST_SOURCES + 3):
            ear.take(frame(1, cid=cid), "10.0.0.1", 100.0)
        assert len(ear.sources) == MOST_SOURCES
        ear.take(frame(2, levels=b"\x07"), "10.0.0.1", 100.0)
        assert ear.sources[str(UUID(int=1))].levels == b"\x07"
    finally:
        ear.close()


def test_frames_are_counted_over_two_seconds() -> None:
    """A frame of just two seconds ago still counts, an older one does not."""
    ear = Ear(Protocol.SACN, 1, own(71))
    try:
        ear.take(frame(1), "10.0.0.1", 100.0)
        ear.take(frame(2), "10.0.0.1", 101.9)
        assert receiving.RATE_OVER == 2.0
        assert ear.heard(102.0).frames_per_second == pytest.approx(1.0)
        assert ear.heard(102.01).frames_per_second == pytest.approx(1 / 0.5)
    finally:
        ear.close()


@pytest.mark.parametrize(("ports", "packets"), [(1, 1), (4, 1), (5, 2), (8, 2), (9, 3)])
def test_four_ports_stand_in_one_answer(ports: int, packets: int) -> None:
    """A box with more answers several times; five in one packet are refused."""
    whole = artnet.PollReply(
        "10.0.0.1", "box", "box", tuple(artnet.ReplyPort(Use.OUT, at) for at in range(ports))
    )
    made = artnet.replies_for(whole)
    assert (len(made), sum(len(one.ports) for one in made)) == (packets, ports)
    assert all(artnet.build_reply(one) for one in made)
    if ports > 4:
        with pytest.raises(ValueError, match="four ports"):
            artnet.build_reply(whole)


@pytest.mark.parametrize(
    ("universes", "pages"), [(1, [1]), (512, [512]), (513, [512, 1]), (1025, [512, 512, 1])]
)
def test_pages_of_a_list_of_universes(universes: int, pages: list[int]) -> None:
    """512 on each; all of them together are what is sent [ANSI E1.31, 8]."""
    made = sacn.build_lists(UUID(int=3), "Fence", list(range(1, universes + 1)))
    heard = [sacn.read_source(page) for page in made]
    assert [len(one.universes) for one in heard if one is not None] == pages
    assert [number for one in heard if one is not None for number in one.universes] == list(
        range(1, universes + 1)
    )


def test_so_much_data_in_one_packet() -> None:
    """231 bytes are carried, 232 are not [ANSI E1.20, 6.2]."""
    fits = Packet(ONE, ONE, Command.SET, Parameter.LABEL, bytes(MOST_DATA))
    held = read(build(fits))
    assert held is not None
    assert len(held.data) == MOST_DATA == 231
    with pytest.raises(ValueError, match="231"):
        build(Packet(ONE, ONE, Command.SET, Parameter.LABEL, bytes(MOST_DATA + 1)))


@pytest.mark.parametrize(
    ("times", "answered"), [(0, True), (1, True), (MOST_WAITS, True), (MOST_WAITS + 4, False)]
)
def test_so_often_is_waited_for_one_that_is_slow(times: int, answered: bool) -> None:
    """A device that asks for more time gets it so often; then it counts as silent."""
    left = [times]

    def exchange(packet: Packet) -> Packet | None:
        if packet.parameter == Parameter.QUEUED:
            return answer_to(packet, b"\x00\x00", how=Answer.REFUSED, sender=ONE)
        if left[0]:
            left[0] -= 1
            return answer_to(packet, b"\x00\x01", how=Answer.TIMER, sender=ONE)
        return answer_to(packet, b"Bud", sender=ONE)

    talk = Controller(exchange)
    if answered:
        assert talk.get(ONE, Parameter.LABEL) == b"Bud"
    else:
        with pytest.raises(UnansweredError):
            talk.get(ONE, Parameter.LABEL)


@pytest.mark.parametrize("queues", [True, False])
def test_one_that_is_slow_is_heard_in_the_end(queues: bool) -> None:
    """Kept answers are fetched, out of others that were kept before; one that keeps none is asked
    again."""
    made, line = rig(Random(4), 2)
    one: Responder = made[0]
    one.slow, one.queues, one.label = True, queues, "Bud 1"
    assert isinstance(line, SimulatedLine)
    talk = Controller(line.exchange)
    if queues:  # something else that nobody fetched yet
        one.hear(Packet(one.identity, ONE, Command.GET, Parameter.SOFTWARE))
    assert talk.get(one.identity, Parameter.LABEL)[:5] == b"Bud 1"
    talk.set(one.identity, Parameter.START_ADDRESS, (77).to_bytes(2))
    assert one.address == 77
    assert (one.identity in talk.keeps_none) == (not queues)


def test_others_are_counted_to_a_bound(monkeypatch: pytest.MonkeyPatch) -> None:
    """So many streams of others are kept, and not one more."""
    monkeypatch.setattr("fence.wire.output.MOST_OTHERS", 3)
    others = Others(own(72), UUID(int=99))
    try:

        class Packets:
            def __init__(self) -> None:
                self.left = [frame(1, cid=cid) for cid in range(1, 6)]

            def recv(self, _size: int) -> bytes:
                if not self.left:
                    raise OSError
                return self.left.pop(0)

        others._take_in(Packets())  # type: ignore[arg-type]
        assert len(others.heard) == 3
    finally:
        others.close()
