"""Packets: built and read back, read by an independent dissector, and anything at all thrown at the
readers."""

from __future__ import annotations

import shutil
import struct
import subprocess
from pathlib import Path
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.box import Use
from fence.wire import artnet, sacn
from tests.examples import examples

PORTS = st.builds(
    artnet.ReplyPort, st.sampled_from([Use.OUT, Use.IN]), st.integers(0, 32_767), st.just(False)
) | st.just(artnet.ReplyPort(Use.OFF))
NAMES = st.text(st.characters(categories=["L", "N"]), max_size=30)


@given(NAMES, st.lists(PORTS, max_size=12), st.ip_addresses(v=4).filter(int))
def test_answers_come_back(name: str, ports: list[artnet.ReplyPort], ip: object) -> None:
    """Whatever ports a box has, its answers say them in order, four at most and of one sub-net
    each."""
    pages = artnet.replies_for(artnet.PollReply(str(ip), name, name, tuple(ports)))
    back = [artnet.read_reply(artnet.build_reply(page)) for page in pages]
    assert [port for page in back if page for port in page.ports] == ports
    assert [page.index for page in back if page] == list(range(1, len(pages) + 1))
    assert all(page and page.bind == str(ip) and name.startswith(page.short_name) for page in back)
    assert all(len(artnet.build_reply(page)) == 239 for page in pages)


@given(NAMES, st.sets(st.integers(1, 63_999), max_size=40), st.integers(0, 200), st.uuids())
def test_sources_come_back(name: str, universes: set[int], priority: int, cid: UUID) -> None:
    """The list of a source and a frame of it."""
    heard = sacn.read_source(sacn.build_list(cid, name, list(universes)))
    assert heard is not None
    assert (heard.cid, heard.universes) == (str(cid), tuple(sorted(universes)))
    assert heard.name == (name if len(name.encode()) < 64 else heard.name)
    assert name.startswith(heard.name)
    frame = sacn.read_source(sacn.build_data(cid, name, 7, bytes(512), priority=priority))
    assert frame == sacn.Heard(str(cid), heard.name, (7,), priority)


REPLY = artnet.build_reply(
    artnet.PollReply("10.0.0.5", "Gate", "Gate house", (artnet.ReplyPort(Use.OUT, 3),))
)
LIST = sacn.build_list(UUID(int=5), "Shed 8", [1, 2, 3])
FRAME = sacn.build_data(UUID(int=5), "Shed 8", 3, bytes(range(256)))


@st.composite
def mutated(draw: st.DrawFn) -> bytes:
    """A good packet with bytes changed, cut off or added; or nothing like a packet."""
    data = bytearray(draw(st.sampled_from([REPLY, artnet.poll(), LIST, FRAME])))
    for _ in range(draw(st.integers(0, 6))):
        data[draw(st.integers(0, len(data) - 1))] = draw(st.integers(0, 255))
    return bytes(data[: draw(st.integers(0, len(data)))]) + draw(st.binary(max_size=40))


@examples(800)
@given(st.one_of(mutated(), mutated(), st.binary(max_size=1600)))
def test_anything_is_read_or_refused(data: bytes) -> None:
    """Nothing raises, whatever its lengths claim; what is taken is in range and printable."""
    reply = artnet.read_reply(data)
    if reply is not None:
        assert len(reply.ports) <= 4
        assert all(0 <= port.address <= 32_767 for port in reply.ports)
        assert (reply.short_name + reply.long_name).isprintable()
    heard = sacn.read_source(data)
    if heard is not None:
        assert all(1 <= universe <= 63_999 for universe in heard.universes)
        assert len(heard.universes) <= 512
        assert heard.name.isprintable()
        assert heard.priority is None or 0 <= heard.priority <= 200
    artnet.is_poll(data)


def pcap(packets: list[tuple[int, bytes]]) -> bytes:
    """UDP packets from loopback to loopback as a capture file; the port says what they are."""
    out = struct.pack("<IHHiIII", 0xA1B2C3D4, 2, 4, 0, 0, 65535, 101)
    for port, data in packets:
        udp = struct.pack(">HHHH", port, port, 8 + len(data), 0) + data
        head = struct.pack(
            ">BBHHHBBH4s4s", 0x45, 0, 20 + len(udp), 1, 0, 64, 17, 0, b"\x7f\0\0\1", b"\x7f\0\0\2"
        )
        raw = head + udp
        out += struct.pack("<IIII", 0, 0, len(raw), len(raw)) + raw
    return out


def dissected(
    tmp_path: Path, packets: list[tuple[int, bytes]], fields: list[str]
) -> list[list[str]]:
    """What the dissector reads in each packet, field by field."""
    if shutil.which("tshark") is None:
        pytest.skip(
            "tshark is not installed: the packets were not held against an independent dissector"
        )
    (tmp_path / "p.pcap").write_bytes(pcap(packets))
    asked = [piece for field in fields for piece in ("-e", field)]
    command = [
        "tshark",
        "-r",
        str(tmp_path / "p.pcap"),
        "--enable-heuristic",
        "acn",
        "-o",
        "acn.dmx_enable:TRUE",
    ]
    ran = subprocess.run(
        [*command, "-T", "fields", *asked], capture_output=True, text=True, timeout=60, check=True
    )
    return [line.split("\t") for line in ran.stdout.splitlines()]


def test_a_dissector_reads_the_packets_of_artnet(tmp_path: Path) -> None:
    """Opcode, address, net, sub-net, names, ports: as they were meant."""
    ports = (
        artnet.ReplyPort(Use.OUT, 0x123),
        artnet.ReplyPort(Use.IN, 0x125),
        artnet.ReplyPort(Use.OFF),
    )
    reply = artnet.build_reply(
        artnet.PollReply("10.0.0.5", "Gate", "Gate house", ports, 2, "10.0.0.5")
    )
    fields = [
        *("artnet.header.opcode", "artnet.poll_reply.ip_address", "artnet.poll_reply.netswitch"),
        *(
            "artnet.poll_reply.subswitch",
            "artnet.poll_reply.short_name",
            "artnet.poll_reply.long_name",
        ),
        *("artnet.poll_reply.num_ports", "artnet.poll_reply.swout_1", "artnet.poll_reply.swin_2"),
        *("artnet.poll_reply.bind_index",),
    ]
    asked, told = dissected(tmp_path, [(6454, artnet.poll()), (6454, reply)], fields)
    assert int(asked[0], 0) == 0x2000
    assert int(told[0], 0) == 0x2100
    assert told[1] == "10.0.0.5"
    assert [int(word, 0) for word in (told[2], told[3], told[6], told[9])] == [1, 2, 3, 2]
    assert told[4:6] == ["Gate", "Gate house"]
    assert [int(word, 0) & 0xF for word in told[7:9]] == [3, 5]


def test_a_dissector_reads_the_packets_of_sacn(tmp_path: Path) -> None:
    """Source, universe, priority, sequence and number of slots of a frame."""
    cid = UUID("12345678-1234-5678-1234-567812345678")
    frame = sacn.build_data(cid, "Shed 8", 300, bytes([0, 255, 7]), priority=90, sequence=5)
    fields = [
        "acn.cid",
        "acn.dmx.source_name",
        "acn.dmx.priority",
        "acn.dmx.universe",
        "acn.dmx.seq_number",
        "acn.dmx.count",
    ]
    (told,) = dissected(tmp_path, [(5568, frame)], fields)
    assert told[:2] == [str(cid), "Shed 8"]
    assert [int(word, 0) for word in told[2:]] == [90, 300, 5, 4]
