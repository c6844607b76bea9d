"""Packets of Art-Net 4 as far as boxes are looked for: ArtPoll and ArtPollReply.

They are declared, not taken apart by hand: what is too short or malformed is no packet. Lengths
that a packet states are not believed; every field has its own size.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from ipaddress import IPv4Address
from typing import Any

from construct import (
    Array,
    Byte,
    Bytes,
    Const,
    ConstructError,
    Container,
    Int8ub,
    Int16ub,
    Int16ul,
    Padding,
    Struct,
)

from fence.core.model.address import SLOTS
from fence.core.model.box import Use
from fence.core.model.network import HIGHEST_PORT_ADDRESS

PORT = 6454
IDENTIFIER = b"Art-Net\0"
OP_POLL, OP_POLL_REPLY = 0x2000, 0x2100
VERSION = 14
REPLY_LENGTH = 239
LARGEST = 1500
"""Bytes of a packet that are looked at: no packet of the protocol is longer."""
PORTS_IN_A_REPLY = 4
OUTPUT, INPUT = 0x80, 0x40
RUNNING = 0x80
"""Bit of a port at which data goes through."""
SACN = 0x01
"""Bit of a good output: what comes out there is fed by sACN."""

_POLL = Struct(
    "identifier" / Const(IDENTIFIER),
    "opcode" / Const(OP_POLL, Int16ul),
    "version" / Int16ub,
    "flags" / Byte,
    "priority" / Byte,
)

_REPLY = Struct(
    "identifier" / Const(IDENTIFIER),
    "opcode" / Const(OP_POLL_REPLY, Int16ul),
    "ip" / Bytes(4),
    "udp" / Int16ul,
    "firmware" / Int16ub,
    "net" / Byte,
    "sub" / Byte,
    "oem" / Int16ub,
    "ubea" / Byte,
    "status1" / Byte,
    "esta" / Int16ul,
    "short_name" / Bytes(18),
    "long_name" / Bytes(64),
    "report" / Bytes(64),
    "ports" / Int16ub,
    "types" / Array(PORTS_IN_A_REPLY, Byte),
    "good_in" / Array(PORTS_IN_A_REPLY, Byte),
    "good_out" / Array(PORTS_IN_A_REPLY, Byte),
    "sw_in" / Array(PORTS_IN_A_REPLY, Byte),
    "sw_out" / Array(PORTS_IN_A_REPLY, Byte),
    "acn_priority" / Byte,
    "macro" / Byte,
    "remote" / Byte,
    Padding(3),
    "style" / Byte,
    "mac" / Bytes(6),
    "bind_ip" / Bytes(4),
    "bind_index" / Int8ub,
    "status2" / Byte,
)
"""As far as every version of the protocol sends it; later fields are not needed, and may be
missing."""


@dataclass(frozen=True, slots=True)
class ReplyPort:
    """A port in an answer: what it is for, its Port-Address, and whether sACN feeds it."""

    use: Use
    address: int = 0
    sacn: bool = False


@dataclass(frozen=True, slots=True)
class PollReply:
    """An answer: who it is, and up to four ports. ``index`` counts the answers of one box, from 1;
    0 where it does not say. ``bind`` is the address of the box that they all belong to."""

    ip: str
    short_name: str
    long_name: str
    ports: tuple[ReplyPort, ...]
    index: int = 1
    bind: str = ""


OP_DMX = 0x5000
FIRST_LEVEL = 18
"""Where the levels stand in an ArtDmx."""

_DMX = Struct(
    "identifier" / Const(IDENTIFIER),
    "opcode" / Const(OP_DMX, Int16ul),
    "version" / Int16ub,
    "sequence" / Byte,
    "physical" / Byte,
    "address" / Int16ul,
    "length" / Int16ub,
)


@dataclass(frozen=True, slots=True)
class Dmx:
    """One frame: its Port-Address, its number (0 where the sender does not count), the levels from
    slot 1 on."""

    address: int
    sequence: int
    levels: bytes


def build_dmx(address: int, levels: bytes, *, sequence: int = 0) -> bytes:
    """One frame, of an even number of levels, 2 to 512 [Art-Net 4]."""
    even = levels + b"\0" * (len(levels) % 2) or b"\0\0"
    head: bytes = _DMX.build(
        {
            "version": VERSION,
            "sequence": sequence,
            "physical": 0,
            "address": address,
            "length": len(even),
        }
    )
    return head + even


def read_dmx(data: bytes) -> Dmx | None:
    """The frame in a packet; None for whatever is none. Never raises."""
    try:
        held = _DMX.parse(data[:LARGEST])
    except ConstructError:
        return None
    if held.address > HIGHEST_PORT_ADDRESS or not 1 <= held.length <= SLOTS:
        return None
    return Dmx(held.address, held.sequence, data[FIRST_LEVEL : FIRST_LEVEL + held.length])


def poll() -> bytes:
    """An ArtPoll: who is there? No flags: only answer, do not report changes by yourself."""
    built: bytes = _POLL.build({"version": VERSION, "flags": 0, "priority": 0})
    return built


def is_poll(data: bytes) -> bool:
    """Whether a packet asks who is there."""
    try:
        _POLL.parse(data[:LARGEST])
    except ConstructError:
        return False
    return True


def read_reply(data: bytes) -> PollReply | None:
    """The answer in a packet; None for whatever is none. Never raises."""
    try:
        held = _REPLY.parse(data[:LARGEST])
    except ConstructError:
        return None
    return PollReply(
        str(IPv4Address(held.ip)),
        _name(held.short_name),
        _name(held.long_name),
        tuple(_ports(held)),
        held.bind_index,
        str(IPv4Address(held.bind_ip)) if any(held.bind_ip) else "",
    )


def _name(raw: bytes) -> str:
    """A name up to its end; what is no printable character is left out."""
    text = raw.split(b"\0", 1)[0].decode("utf-8", "replace")
    return "".join(
        character for character in text if character.isprintable() and character != "�"
    ).strip()


def _ports(held: Container[Any]) -> Iterator[ReplyPort]:
    base = (held.net & 0x7F) << 8 | (held.sub & 0xF) << 4
    for place in range(min(held.ports, PORTS_IN_A_REPLY)):
        if held.types[place] & OUTPUT:
            yield ReplyPort(
                Use.OUT, base | held.sw_out[place] & 0xF, bool(held.good_out[place] & SACN)
            )
        elif held.types[place] & INPUT:
            yield ReplyPort(Use.IN, base | held.sw_in[place] & 0xF)
        else:
            yield ReplyPort(Use.OFF)


def build_reply(reply: PollReply) -> bytes:
    """An answer as a packet of 239 bytes. All its ports have one net and sub-net; see
    ``replies_for``."""
    bases = {port.address >> 4 for port in reply.ports if port.use is not Use.OFF} or {0}
    if len(bases) > 1 or len(reply.ports) > PORTS_IN_A_REPLY:
        raise ValueError("an answer has up to four ports of one sub-net")
    base = bases.pop()

    def each(of: Callable[[ReplyPort], int]) -> list[int]:
        return [of(port) for port in reply.ports] + [0] * (PORTS_IN_A_REPLY - len(reply.ports))

    def out(port: ReplyPort) -> bool:
        return port.use is Use.OUT

    def take(port: ReplyPort) -> bool:
        return port.use is Use.IN

    built: bytes = _REPLY.build(
        {
            "ip": IPv4Address(reply.ip).packed,
            "udp": PORT,
            "firmware": 1,
            "net": base >> 4 & 0x7F,
            "sub": base & 0xF,
            "oem": 0x00FF,
            "ubea": 0,
            "status1": 0,
            "esta": 0,
            "short_name": _padded(reply.short_name, 18),
            "long_name": _padded(reply.long_name, 64),
            "report": _padded("#0001 [0000] ready", 64),
            "ports": len(reply.ports),
            "types": each(lambda port: OUTPUT * out(port) | INPUT * take(port)),
            "good_in": each(lambda port: RUNNING * take(port)),
            "good_out": each(lambda port: (RUNNING | SACN * port.sacn) * out(port)),
            "sw_in": each(lambda port: (port.address & 0xF) * take(port)),
            "sw_out": each(lambda port: (port.address & 0xF) * out(port)),
            "acn_priority": 100,
            "macro": 0,
            "remote": 0,
            "style": 0,
            "mac": bytes(6),
            "bind_ip": IPv4Address(reply.bind or reply.ip).packed,
            "bind_index": reply.index,
            "status2": 0x08,
        }
    )
    return built.ljust(REPLY_LENGTH, b"\0")


def _padded(text: str, size: int) -> bytes:
    """Text in a field of a size, cut between characters, with its end."""
    return text.encode()[: size - 1].decode(errors="ignore").encode().ljust(size, b"\0")


def replies_for(whole: PollReply) -> list[PollReply]:
    """The answers of a box with any number of ports: groups of up to four that follow each other in
    one sub-net."""
    groups: list[list[ReplyPort]] = []
    for port in whole.ports:
        last = groups[-1] if groups else []
        bases = {held.address >> 4 for held in last if held.use is not Use.OFF}
        if (
            last
            and len(last) < PORTS_IN_A_REPLY
            and (port.use is Use.OFF or bases <= {port.address >> 4})
        ):
            last.append(port)
        else:
            groups.append([port])
    return [
        replace(whole, ports=tuple(g), index=index, bind=whole.ip)
        for index, g in enumerate(groups or [[]], 1)
    ]
