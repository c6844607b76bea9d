"""Packets of RDM, start code 0xCC [ANSI E1.20]. They are declared, and what is malformed is no
packet."""

from __future__ import annotations

import re
import struct
from dataclasses import dataclass
from enum import IntEnum
from functools import lru_cache, total_ordering

from construct import (
    Byte,
    Const,
    ConstructError,
    GreedyBytes,
    Int16ub,
    Int32ub,
    Prefixed,
    Struct,
)

from fence.core.model.errors import EditError
from fence.core.model.text import printable

START = 0xCC
HEAD = 24
"""Bytes before the data; the length that a packet states is these and its data, without the sum."""
MOST_DATA = 231
HIGHEST_DEVICE = 0xFFFFFFFF
PARTS = re.compile(r"([0-9A-F]{4}):?([0-9A-F]{8})", re.ASCII | re.IGNORECASE)


@total_ordering
@dataclass(frozen=True, slots=True)
class Identity:
    """Who a device is for good: its maker's number (16 bits) and its own (32 bits)."""

    maker: int
    device: int

    def __post_init__(self) -> None:
        if not (0 <= self.maker <= 0xFFFF and 0 <= self.device <= HIGHEST_DEVICE):
            raise EditError(
                "An identity has a maker's number of 16 bits and a device's of 32, as "
                "7FF0:0000001A."
            )

    @property
    def number(self) -> int:
        """Both as one number of 48 bits, by which a line is searched."""
        return self.maker << 32 | self.device

    def __lt__(self, other: Identity) -> bool:
        return self.number < other.number

    def __str__(self) -> str:
        return f"{self.maker:04X}:{self.device:08X}"


EVERYBODY = Identity(0xFFFF, HIGHEST_DEVICE)
HIGHEST = EVERYBODY.number - 1
"""The highest identity that a device can have."""


def identity_of(number: int) -> Identity:
    """The identity of a number of 48 bits."""
    return Identity(number >> 32 & 0xFFFF, number & HIGHEST_DEVICE)


def read_identity(text: str) -> Identity:
    """An identity as typed: ``7FF0:0000001A``, the colon may be missing. ``EditError`` says what is
    accepted."""
    found = PARTS.fullmatch(text.strip())
    if found is None:
        shown = printable(text.strip()[:40])
        raise EditError(f"“{shown}” is not an identity. Use 12 digits 0 to F, as 7FF0:0000001A.")
    return Identity(int(found[1], 16), int(found[2], 16))


class Command(IntEnum):
    """What a packet is for; an answer has one more."""

    DISCOVER = 0x10
    DISCOVER_ANSWER = 0x11
    GET = 0x20
    GET_ANSWER = 0x21
    SET = 0x30
    SET_ANSWER = 0x31


class Answer(IntEnum):
    """How a device answers: done, later, refused, or more to come."""

    ACK = 0
    TIMER = 1
    REFUSED = 2
    MORE = 3


class Parameter(IntEnum):
    """What can be asked for or set."""

    UNIQUE_BRANCH = 0x0001
    MUTE = 0x0002
    UN_MUTE = 0x0003
    QUEUED = 0x0020
    STATUS = 0x0030
    SUPPORTED = 0x0050
    DEVICE_INFO = 0x0060
    MODEL = 0x0080
    MAKER = 0x0081
    LABEL = 0x0082
    FACTORY_DEFAULTS = 0x0090
    SOFTWARE = 0x00C0
    PERSONALITY = 0x00E0
    PERSONALITY_WORDS = 0x00E1
    START_ADDRESS = 0x00F0
    SLOT_INFO = 0x0120
    SLOT_WORDS = 0x0121
    SLOT_DEFAULTS = 0x0122
    SENSOR_WORDS = 0x0200
    SENSOR = 0x0201
    DEVICE_HOURS = 0x0400
    LAMP_HOURS = 0x0401
    DISPLAY_INVERT = 0x0500
    PAN_INVERT = 0x0600
    TILT_INVERT = 0x0601
    IDENTIFY = 0x1000
    RESET = 0x1001


class Refusal(IntEnum):
    """Why a device refuses."""

    UNKNOWN = 0x0000
    FORMAT = 0x0001
    HARDWARE = 0x0002
    PROXY = 0x0003
    WRITE_PROTECTED = 0x0004
    COMMAND_CLASS = 0x0005
    RANGE = 0x0006
    BUFFER_FULL = 0x0007
    PACKET_SIZE = 0x0008
    SUB_DEVICE = 0x0009


REFUSED_BECAUSE = {
    Refusal.UNKNOWN: "it does not know what was asked",
    Refusal.FORMAT: "it found the question malformed",
    Refusal.HARDWARE: "its hardware has a fault",
    Refusal.PROXY: "what stands for it is not its own proxy",
    Refusal.WRITE_PROTECTED: "it is locked against changes",
    Refusal.COMMAND_CLASS: "that can only be read there, or only be set",
    Refusal.RANGE: "the value is out of its range",
    Refusal.BUFFER_FULL: "it has no room for the answer now",
    Refusal.PACKET_SIZE: "the packet is too long for it",
    Refusal.SUB_DEVICE: "it has no such sub-device",
}


@dataclass(frozen=True, slots=True)
class Packet:
    """One packet. ``port`` is the port of who asks, in an answer how it is answered (see
    ``Answer``)."""

    to: Identity
    sender: Identity
    command: int
    parameter: int
    data: bytes = b""
    sub_device: int = 0
    transaction: int = 0
    port: int = 1
    messages: int = 0


_IDENTITY = Struct("maker" / Int16ub, "device" / Int32ub)
_PACKET = Struct(
    "start" / Const(START, Byte),
    "sub_start" / Const(0x01, Byte),
    "length" / Byte,
    "to" / _IDENTITY,
    "sender" / _IDENTITY,
    "transaction" / Byte,
    "port" / Byte,
    "messages" / Byte,
    "sub_device" / Int16ub,
    "command" / Byte,
    "parameter" / Int16ub,
    "data" / Prefixed(Byte, GreedyBytes),
).compile()


def build(packet: Packet) -> bytes:
    """A packet as it goes over the line, start code and sum with it."""
    if len(packet.data) > MOST_DATA:
        raise ValueError(f"a packet carries up to {MOST_DATA} bytes")
    body: bytes = _PACKET.build(
        {
            "length": HEAD + len(packet.data),
            "to": {"maker": packet.to.maker, "device": packet.to.device},
            "sender": {"maker": packet.sender.maker, "device": packet.sender.device},
            "transaction": packet.transaction,
            "port": packet.port,
            "messages": packet.messages,
            "sub_device": packet.sub_device,
            "command": packet.command,
            "parameter": packet.parameter,
            "data": packet.data,
        }
    )
    return body + _sum_of(body)


def _sum_of(body: bytes) -> bytes:
    """The sum that follows a packet, modulo 65,536."""
    return (sum(body) & 0xFFFF).to_bytes(2)


@lru_cache(maxsize=64)  # all on a line hear the same
def read(data: bytes) -> Packet | None:
    """The packet in bytes from the line; None where it is none, or its length or sum is wrong.
    Never raises."""
    data = data[: HEAD + MOST_DATA + 2]
    try:
        held = _PACKET.parse(data)
        end = HEAD + len(held.data)
        if held.length != end or data[end:] != _sum_of(data[:end]):
            return None
    except (ConstructError, struct.error):
        return None
    return Packet(
        Identity(held.to.maker, held.to.device),
        Identity(held.sender.maker, held.sender.device),
        held.command,
        held.parameter,
        bytes(held.data),
        held.sub_device,
        held.transaction,
        held.port,
        held.messages,
    )


def answer_to(
    asked: Packet, data: bytes = b"", *, how: Answer = Answer.ACK, sender: Identity | None = None
) -> Packet:
    """The answer to a packet, from the device that it was for."""
    return Packet(
        asked.sender,
        sender or asked.to,
        asked.command + 1,
        asked.parameter,
        data,
        asked.sub_device,
        asked.transaction,
        int(how),
    )


# ---- the answer to a branch: no header, so that several at once can be told from one

PREAMBLE, SEPARATOR = 0xFE, 0xAA
LONGEST_PREAMBLE = 7
SPREAD = 16
"""Bytes of an identity and its sum, each spread over two."""


def branch_answer(identity: Identity) -> bytes:
    """What a device says when a branch that it is in is asked for: every byte spread over two, one
    OR 0xAA, one OR 0x55."""
    raw = identity.number.to_bytes(6)
    spread = b"".join(bytes((byte | 0xAA, byte | 0x55)) for byte in raw)
    total = sum(spread) & 0xFFFF
    return (
        bytes((PREAMBLE,)) * LONGEST_PREAMBLE
        + bytes((SEPARATOR,))
        + spread
        + bytes((total >> 8 | 0xAA, total >> 8 | 0x55, total & 0xFF | 0xAA, total & 0xFF | 0x55))
    )


def read_branch_answer(data: bytes) -> Identity | None:
    """Who says that it is in a branch; None where it is nobody alone. Up to seven bytes of
    preamble, or fewer."""
    head = data[: LONGEST_PREAMBLE + 1]
    place = head.find(SEPARATOR)
    if place < 0 or any(byte != PREAMBLE for byte in head[:place]):
        return None
    spread = data[place + 1 : place + 1 + SPREAD]
    if len(spread) < SPREAD:
        return None
    if any(byte & 0xAA != 0xAA for byte in spread[::2]) or any(
        byte & 0x55 != 0x55 for byte in spread[1::2]
    ):
        return None
    whole = bytes(one & two for one, two in zip(spread[::2], spread[1::2], strict=True))
    if int.from_bytes(whole[6:]) != sum(spread[:12]) & 0xFFFF:
        return None
    return identity_of(int.from_bytes(whole[:6]))


def branch(low: int, high: int, sender: Identity, transaction: int = 0) -> Packet:
    """The question who is in a branch, from one identity to another."""
    data = low.to_bytes(6) + high.to_bytes(6)
    return Packet(
        EVERYBODY, sender, Command.DISCOVER, Parameter.UNIQUE_BRANCH, data, transaction=transaction
    )
