"""Packets: what is built is read, what is broken is refused, several at once are told from one."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.errors import EditError
from fence.core.rdm import packet as p
from fence.core.rdm import values as v

IDENTITIES = st.builds(p.Identity, st.integers(0, 0xFFFF), st.integers(0, 0xFFFFFFFF))
PACKETS = st.builds(
    p.Packet,
    IDENTITIES,
    IDENTITIES,
    st.sampled_from([*p.Command]),
    st.integers(0, 0xFFFF),
    st.binary(max_size=231),
    st.integers(0, 512),
    st.integers(0, 255),
    st.integers(0, 255),
    st.integers(0, 255),
)


@given(PACKETS)
def test_packets_come_back(packet: p.Packet) -> None:
    """Built by declaration, checked against the layout of the standard written out by hand."""
    raw = p.build(packet)
    assert p.read(raw) == packet
    assert raw[:3] == bytes((0xCC, 0x01, 24 + len(packet.data)))
    assert len(raw) == 24 + len(packet.data) + 2
    assert raw[3:15] == packet.to.number.to_bytes(6) + packet.sender.number.to_bytes(6)
    assert int.from_bytes(raw[-2:]) == sum(raw[:-2]) % 65536


@given(PACKETS, st.data())
def test_one_wrong_byte_is_noticed(packet: p.Packet, data: st.DataObject) -> None:
    """The sum finds any single byte that was changed."""
    raw = bytearray(p.build(packet))
    place = data.draw(st.integers(0, len(raw) - 1))
    raw[place] ^= data.draw(st.integers(1, 255))
    assert p.read(bytes(raw)) is None


@given(IDENTITIES, st.integers(0, 7))
def test_the_answer_to_a_branch(identity: p.Identity, dropped: int) -> None:
    """It is read with any number of its first bytes lost, as boxes lose them."""
    raw = p.branch_answer(identity)
    assert len(raw) == 24
    assert raw[:8] == b"\xfe" * 7 + b"\xaa"
    assert p.read_branch_answer(raw[dropped:]) == identity
    assert p.read_branch_answer(raw[:-1]) is None


@given(st.binary(max_size=300))
def test_nothing_that_comes_breaks_a_reader(data: bytes) -> None:
    """Any bytes are read or refused, by every reader."""
    assert p.read(data) is None or p.build(p.read(data)) == data[: data[2] + 2]  # type: ignore[arg-type]
    p.read_branch_answer(data)
    info = v.read_info(data)
    assert info is None or len(data) == 19
    for reader in (v.read_personality, v.read_slots, v.read_defaults, v.read_words, v.read_numbers):
        reader(data)
    assert v.read_words(data).isprintable()
    v.read_sensor(data, data)


def test_identities_are_read_as_typed() -> None:
    """With and without the colon; anything else says what is accepted."""
    assert str(p.read_identity(" 7ff00000001a ")) == "7FF0:0000001A"
    for wrong in ("", "7FF0", "7FF0:1A", "7FF0-0000001A", "GGGG:00000000"):
        with pytest.raises(EditError, match="12 digits"):
            p.read_identity(wrong)
