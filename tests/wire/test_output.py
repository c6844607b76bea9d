"""What really goes out: read on the wire by sockets, an independent dissector and a third party’s
receiver.

And the other way round, a third party’s packets read by Fence. Loopback only; everything stops by
itself.
"""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from itertools import pairwise
from pathlib import Path
from random import Random
from uuid import UUID

import pytest
import sacn as third_party

from fence.core.model.box import Protocol
from fence.core.model.errors import FenceError
from fence.wire import artnet, sacn
from fence.wire.output import (
    LAST_FRAMES,
    LOW_PRIORITY,
    MULTICAST,
    RATE,
    Others,
    Output,
    Wanted,
    Way,
    keep_rate,
    send_for,
)
from fence.wire.receiving import MOST_SOURCES, Ear
from tests.addresses import own
from tests.conftest import until
from tests.wire.test_packets import FRAME, LIST, REPLY, dissected

THERE = own(51)
U7 = Way(7, Protocol.SACN, THERE, 7)
A7 = Way(7, Protocol.ARTNET, THERE, 6)
LEVELS = bytes([255, 0, 128]) + bytes(range(256)) + bytes(253)


@contextmanager
def heard(port: int, address: str = THERE) -> Iterator[list[bytes]]:
    """All packets that arrive at a port, until the end of the block."""
    found: list[bytes] = []
    done = threading.Event()
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as there:
        there.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        there.bind((address, port))
        there.settimeout(0.05)

        def listen() -> None:
            while not done.is_set():
                try:
                    found.append(there.recv(2000))
                except OSError:
                    continue

        thread = threading.Thread(target=listen, daemon=True)
        thread.start()
        try:
            yield found
        finally:
            done.set()
            thread.join(30)
            there.setblocking(False)
            with suppress(BlockingIOError):  # on loopback what was sent has arrived
                while True:
                    found.append(there.recv(2000))


def test_a_stream_of_sacn_from_its_first_to_its_last_frame(tmp_path: Path) -> None:
    """Numbers without a gap, levels and priority in each frame; at the end zeros, then three times
    that it ends; then nothing. A dissector reads the same."""
    with heard(sacn.PORT) as packets:
        send_for(Output("127.0.0.1", name="Fence"), Wanted((U7,), {7: LEVELS}), 0.5)
    frames = [sacn.read_frame(packet) for packet in packets]
    assert all(frame is not None for frame in frames)
    first = [frame for frame in frames if frame and not frame.ends]
    ends = [frame for frame in frames if frame and frame.ends]
    assert len(ends) == LAST_FRAMES
    assert [frame.levels for frame in first[-LAST_FRAMES:]] == [bytes(512)] * LAST_FRAMES
    assert {frame.levels for frame in first[:-LAST_FRAMES]} == {LEVELS}
    assert {(frame.universe, frame.priority, frame.name) for frame in first} == {
        (7, LOW_PRIORITY, "Fence")
    }
    numbers = [frame.sequence for frame in frames if frame]
    assert all((later - earlier) % 256 == 1 for earlier, later in pairwise(numbers))
    assert 3 < len(first) - LAST_FRAMES < RATE
    fields = [
        "acn.dmx.universe",
        "acn.dmx.priority",
        "acn.dmx.source_name",
        "acn.dmx.seq_number",
        "acn.dmx.options",
        "acn.dmx.count",
        "_ws.malformed",
    ]
    told = dissected(tmp_path, [(sacn.PORT, packet) for packet in packets], fields)
    assert [int(line[3], 0) for line in told] == numbers
    assert {(int(line[0], 0), int(line[1], 0), line[2], int(line[5], 0)) for line in told} == {
        (7, 50, "Fence", 513)
    }
    assert [bool(int(line[4], 0) & 0x40) for line in told] == [
        bool(frame and frame.ends) for frame in frames
    ]
    assert not any(line[6] for line in told)


def test_frames_of_artnet(tmp_path: Path) -> None:
    """Port-Address, an even length, numbers from 1 on, zeros at the end; a dissector reads the
    same."""
    with heard(artnet.PORT) as packets:
        send_for(Output("127.0.0.1"), Wanted((A7,), {7: LEVELS}), 0.4)
    frames = [artnet.read_dmx(packet) for packet in packets]
    assert all(frame is not None and frame.address == 6 and frame.sequence >= 1 for frame in frames)
    assert [frame.levels for frame in frames if frame][-LAST_FRAMES:] == [bytes(512)] * LAST_FRAMES
    assert frames[0] is not None
    assert frames[0].levels == LEVELS
    output = [f"artnet.output.{name}" for name in ("sequence", "universe", "length")]
    fields = ["artnet.header.opcode", *output, "_ws.malformed"]
    told = dissected(tmp_path, [(artnet.PORT, packet) for packet in packets], fields)
    assert {(int(line[0], 0), int(line[2], 0), int(line[3], 0), line[4]) for line in told} == {
        (0x5000, 6, 512, "")
    }
    assert [int(line[1], 0) for line in told] == [frame.sequence for frame in frames if frame]


def test_a_third_partys_receiver_takes_it() -> None:
    """Universe, priority, source, levels and the end of the stream, as another program hears
    them."""
    receiver = third_party.sACNreceiver(bind_address=THERE)
    packets: list[object] = []
    states: list[str] = []
    receiver.register_listener("universe", packets.append, universe=7)
    receiver.register_listener(
        "availability", lambda universe, changed: states.append(f"{universe} {changed}")
    )
    receiver.start()
    try:
        send_for(Output("127.0.0.1", name="Fence", priority=80), Wanted((U7,), {7: LEVELS}), 0.5)
        until(lambda: "7 timeout" in states, "the end of the stream")
    finally:
        receiver.stop()
    assert packets
    one = packets[0]
    assert (one.universe, one.priority, one.sourceName, bytes(one.dmxData)) == (
        7,
        80,
        "Fence",
        LEVELS,
    )  # type: ignore[attr-defined]
    assert (states[0], set(states[1:])) == ("7 available", {"7 timeout"})


def test_a_third_partys_sender_is_heard() -> None:
    """Its name, priority, rate and levels."""
    sender = third_party.sACNsender(source_name="Other desk", bind_address="127.0.0.1", fps=40)
    sender.start()
    sender.activate_output(9)
    sender[9].destination = THERE
    sender[9].priority = 120
    sender[9].dmx_data = tuple(LEVELS)
    sender.manual_flush = False
    ear = Ear(Protocol.SACN, 9, THERE)
    try:
        ear.listen(1.2)
        told = ear.heard()
    finally:
        ear.close()
        sender.stop()
    assert [(one.name, one.priority, one.ip) for one in told.sources] == [
        ("Other desk", 120, "127.0.0.1")
    ]
    assert told.levels == LEVELS
    assert told.frames_per_second > 0.5


def test_the_higher_priority_is_heard_and_two_of_one_are_joined() -> None:
    """Of two sources with the same priority the higher level of each slot counts; silent ones are
    gone after 2.5 s."""
    ear = Ear(Protocol.SACN, 3, own(52))
    ear.close()
    ids = [f"{n:032x}" for n in range(3)]
    for cid, levels, priority in zip(
        ids, (b"\x0a\xff", b"\xff\x0a", b"\x01\x01"), (100, 100, 150), strict=True
    ):
        ear.take(
            sacn.build_data(UUID(cid), cid[-1], 3, levels, priority=priority), "127.0.0.1", 10.0
        )
    assert ear.heard(10.1).levels[:2] == b"\x01\x01"
    ear.take(sacn.build_data(UUID(ids[0]), "0", 3, b"\x0a\xff"), "127.0.0.1", 13.0)
    ear.take(sacn.build_data(UUID(ids[1]), "1", 3, b"\xff\x0a"), "127.0.0.1", 13.0)
    assert ear.heard(13.1).levels[:2] == b"\xff\xff"
    assert not ear.heard(16.0).any
    ear.take(sacn.build_data(UUID(ids[0]), "0", 4, b"\x0a"), "127.0.0.1", 17.0)
    assert not ear.heard(17.1).any


def test_rubbish_is_passed_over_and_kept_nowhere() -> None:
    """5,000 random and mutated packets: no exception, and never more sources than are kept."""
    random, ear = Random(4), Ear(Protocol.SACN, 3, own(53))
    ear.close()
    for number in range(5000):
        data = bytearray(
            random.choice(
                [FRAME, REPLY, LIST, artnet.build_dmx(3, bytes(512)), random.randbytes(300)]
            )
        )
        for _ in range(random.randint(0, 8)):
            data[random.randrange(len(data))] = random.randrange(256)
        if number % 2:
            data[22:38] = random.randbytes(16)  # another sender each time
        cut = bytes(data[: random.randint(0, len(data))] if number % 3 == 0 else data)
        ear.take(cut, "127.0.0.1", 1.0)
        dmx, frame = artnet.read_dmx(cut), sacn.read_frame(cut)
        assert dmx is None or (0 <= dmx.address <= 32_767 and len(dmx.levels) <= 512)
        assert frame is None or (
            1 <= frame.universe <= 63_999 and len(frame.levels) <= 512 and frame.name.isprintable()
        )
    assert len(ear.sources) <= MOST_SOURCES


def test_a_channel_is_eased_and_a_stream_that_is_left_out_ends() -> None:
    """Pan goes by steps while the dimmer jumps; taking a way out ends its stream and leaves the
    other."""
    other = Way(8, Protocol.SACN, THERE, 8)
    with heard(sacn.PORT) as packets:
        output = Output("127.0.0.1")
        output.want(Wanted((U7, other), {7: bytes([255, 255])}, {7: frozenset({2})}))
        for _ in range(5):
            output.tick()
        output.want(Wanted((other,), {}))
        for _ in range(3):
            output.tick()
        output.end()
    frames = [frame for packet in packets if (frame := sacn.read_frame(packet))]
    sevens = [frame for frame in frames if frame.universe == 7]
    pans = [frame.levels[1] for frame in sevens[:5]]
    assert [frame.levels[0] for frame in sevens[:5]] == [255] * 5
    assert pans == sorted(pans)
    assert 0 < pans[0] < pans[4] < 60
    assert [frame.ends for frame in sevens[-LAST_FRAMES:]] == [True] * LAST_FRAMES
    last = max(place for place, frame in enumerate(frames) if frame.universe == 7)
    assert sum(1 for frame in frames[last + 1 :] if frame.universe == 8 and not frame.ends) >= 3


class Clock:
    """A clock that goes on by what is slept, and by what work takes."""

    def __init__(self) -> None:
        self.now = 100.0

    def monotonic(self) -> float:
        return self.now

    def sleep(self, seconds: float) -> None:
        self.now += seconds


@pytest.mark.parametrize("late", [0.004, 0.2, 3.0])
def test_the_rate_is_kept_without_bursts(monkeypatch: pytest.MonkeyPatch, late: float) -> None:
    """A tick that comes late by less than its turn is made up for; of any later one nothing is: the
    next ones come a hundredth of a second apart, as all do."""
    clock = Clock()
    monkeypatch.setattr("fence.wire.output.time", clock)
    at: list[float] = []

    def tick() -> bool:
        at.append(clock.now)
        if len(at) == 10:
            clock.sleep(late)
        return len(at) < 40

    keep_rate(tick, 100)
    apart = [after - before for before, after in pairwise(at)]
    assert apart[:9] == pytest.approx([0.01] * 9)
    assert apart[9] == pytest.approx(max(0.01, late))
    assert apart[11:] == pytest.approx([0.01] * 28)
    assert at[-1] - at[0] == pytest.approx(0.38 + max(0.01, late))


def test_an_address_that_is_not_ours() -> None:
    """It is said, and nothing is opened."""
    with pytest.raises(FenceError, match="Nothing can be sent from"):
        Output("203.0.113.9")


def test_another_source_on_the_universe_is_noticed() -> None:
    """A desk that sends the same universe to its group is named with its priority; our own packets
    are not."""
    output = Output("127.0.0.1")
    others = Others("127.0.0.1", output.cid)
    sender = third_party.sACNsender(source_name="Other desk", bind_address="127.0.0.1", fps=40)
    universe = 7000 + int(own(0).split(".")[2])
    try:
        others.listen([universe])
        sender.start()
        sender.activate_output(universe)
        sender[universe].multicast = True
        sender[universe].priority = 110
        sender[universe].dmx_data = (255,)
        output.want(Wanted((Way(universe, Protocol.SACN, MULTICAST, universe),)))

        def heard() -> object:
            output.tick()
            others.listen([universe])
            return others.on([universe])

        until(heard, "the other desk")
        assert others.on([universe]) == [(universe, "Other desk", 110)]
        assert others.on([universe + 1]) == []
    finally:
        sender.stop()
        output.end()
        others.close()
