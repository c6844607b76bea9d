"""Packets of sACN [ANSI E1.31] as far as sources are listened for: data, and the list of what a
source sends.

Declared, as those of Art-Net. A source is told by its CID.
"""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from construct import (
    Byte,
    Bytes,
    Const,
    ConstructError,
    Error,
    GreedyRange,
    Int16ub,
    Int32ub,
    Struct,
    Switch,
    this,
)

from fence.core.model.address import MAX_UNIVERSE, SLOTS

PORT = 5568
DISCOVERY_UNIVERSE = 64_214
"""Where sources tell which universes they send [ANSI E1.31, 11]."""
LARGEST = 1500
FIRST_LEVEL = 126
"""Where the levels stand in a packet of data."""
MOST_UNIVERSES = 512
"""Universes on one page of a source's list."""
IDENTIFIER = b"ASC-E1.17\0\0\0"
ROOT_DATA, ROOT_EXTENDED = 4, 8

_DATA = Struct(
    "size" / Int16ub,
    "vector" / Const(2, Int32ub),
    "name" / Bytes(64),
    "priority" / Byte,
    "sync" / Int16ub,
    "sequence" / Byte,
    "options" / Byte,
    "universe" / Int16ub,
    "dmp_size" / Int16ub,
    "dmp_vector" / Const(2, Byte),
    "type" / Const(0xA1, Byte),
    "first" / Const(0, Int16ub),
    "step" / Const(1, Int16ub),
    "count" / Int16ub,
    "start_code" / Byte,
)

_LIST = Struct(
    "size" / Int16ub,
    "vector" / Const(2, Int32ub),
    "name" / Bytes(64),
    "reserved" / Int32ub,
    "list_size" / Int16ub,
    "list_vector" / Const(1, Int32ub),
    "page" / Byte,
    "last" / Byte,
    "universes" / GreedyRange(Int16ub),
)

_PACKET = Struct(
    "preamble" / Const(0x0010, Int16ub),
    "postamble" / Const(0, Int16ub),
    "identifier" / Const(IDENTIFIER),
    "size" / Int16ub,
    "vector" / Int32ub,
    "cid" / Bytes(16),
    "body" / Switch(this.vector, {ROOT_DATA: _DATA, ROOT_EXTENDED: _LIST}, default=Error),
)


@dataclass(frozen=True, slots=True)
class Heard:
    """What one packet tells of its source: universes that it sends, and its priority where the
    packet has it."""

    cid: str
    name: str
    universes: tuple[int, ...]
    priority: int | None = None


TERMINATED, PREVIEW = 0x40, 0x80
"""Bits of the options: this stream ends; these levels are not for a stage [ANSI E1.31, 6.2.6]."""
LOST_AFTER = 2.5
"""Seconds of silence after which a source is taken to be gone [ANSI E1.31, 6.7.1]."""


LATE = 20
"""A packet whose number lies less than so many before the last one of its stream comes late [ANSI
E1.31, 6.7.2]."""


def is_late(number: int, last: int) -> bool:
    """Whether a packet comes after one that was sent later: then it is dropped [ANSI E1.31, 6.7.2].
    Numbers 0 to 255 go round; one that jumps back by 20 or more begins anew."""
    ahead = (number - last + 128) % 256 - 128
    return -LATE < ahead <= 0


class InOrder:
    """Which packets of streams are taken: none that comes late. Bounded; a stream that was silent
    for 2.5 s begins anew."""

    def __init__(self, most: int = 2000) -> None:
        self.most = most
        self.last: dict[tuple[int, str], tuple[int, float]] = {}

    def takes(self, frame: Frame, now: float) -> bool:
        """Whether a frame is taken at a moment (seconds of a clock that only goes forward)."""
        key = (frame.universe, frame.cid)
        number, when = self.last.get(key, (0, float("-inf")))
        if now - when < LOST_AFTER and is_late(frame.sequence, number):
            return False
        if key not in self.last and len(self.last) >= self.most:
            self.last = {held: one for held, one in self.last.items() if now - one[1] < LOST_AFTER}
            if len(self.last) >= self.most:
                return True
        if frame.ends:
            self.last.pop(key, None)
        else:
            self.last[key] = (frame.sequence, now)
        return True


@dataclass(frozen=True, slots=True)
class Frame:
    """One frame of a universe: who sends it, with which priority, and the levels from slot 1 on."""

    cid: str
    name: str
    universe: int
    priority: int
    sequence: int
    levels: bytes
    ends: bool = False


def read_frame(data: bytes) -> Frame | None:
    """The frame in a packet; None for whatever is none, also for a preview and for other start
    codes. Never raises."""
    try:
        held = _PACKET.parse(data[:LARGEST])
    except ConstructError:
        return None
    if held.vector != ROOT_DATA:
        return None
    body = held.body
    usable = 1 <= body.universe <= MAX_UNIVERSE and body.priority <= 200 and body.start_code == 0
    if not usable or body.options & PREVIEW or not 1 <= body.count <= SLOTS + 1:
        return None
    levels = data[FIRST_LEVEL : FIRST_LEVEL + body.count - 1]
    name = _said(body.name)
    ends = bool(body.options & TERMINATED)
    return Frame(
        str(UUID(bytes=held.cid)), name, body.universe, body.priority, body.sequence, levels, ends
    )


def _said(raw: bytes) -> str:
    """A name up to its end; what is no printable character is left out."""
    text = raw.split(b"\0", 1)[0].decode("utf-8", "replace")
    return "".join(
        character for character in text if character.isprintable() and character != "�"
    ).strip()


def read_source(data: bytes) -> Heard | None:
    """What a packet tells of its source; None for whatever is no packet of sACN. Never raises."""
    try:
        held = _PACKET.parse(data[:LARGEST])
    except ConstructError:
        return None
    body, cid = held.body, str(UUID(bytes=held.cid))
    name = _said(body.name)
    if held.vector == ROOT_EXTENDED:
        listed = sorted(
            {number for number in body.universes[:MOST_UNIVERSES] if 1 <= number <= MAX_UNIVERSE}
        )
        return Heard(cid, name, tuple(listed))
    if not 1 <= body.universe <= MAX_UNIVERSE or body.priority > 200:
        return None
    return Heard(cid, name, (body.universe,), body.priority)


def build_lists(cid: UUID, name: str, universes: list[int]) -> list[bytes]:
    """All pages of what a source sends, 512 universes on each [ANSI E1.31, 8]."""
    numbers = sorted(set(universes))
    pages = [numbers[at : at + MOST_UNIVERSES] for at in range(0, len(numbers), MOST_UNIVERSES)][
        :256
    ]
    return [build_list(cid, name, page, at, len(pages) - 1) for at, page in enumerate(pages)]


def build_list(cid: UUID, name: str, universes: list[int], page: int = 0, last: int = 0) -> bytes:
    """A page of what a source sends, up to 512 universes."""
    numbers = sorted(universes)[:MOST_UNIVERSES]
    inner = 8 + 2 * len(numbers)
    body = {
        "size": _sized(inner + 74),
        "name": _named(name),
        "reserved": 0,
        "list_size": _sized(inner),
        "page": page,
        "last": last,
        "universes": numbers,
    }
    return _packet(cid, ROOT_EXTENDED, body, inner + 74)


def build_data(
    cid: UUID, name: str, universe: int, levels: bytes, *, priority: int = 100, sequence: int = 0
) -> bytes:
    """One frame of a universe, up to 512 levels."""
    inner = 11 + len(levels)
    body = {
        "size": _sized(inner + 77),
        "name": _named(name),
        "priority": priority,
        "sync": 0,
        "sequence": sequence,
        "options": 0,
        "universe": universe,
        "dmp_size": _sized(inner),
        "count": 1 + len(levels),
        "start_code": 0,
    }
    return _packet(cid, ROOT_DATA, body, inner + 77) + levels


def _packet(cid: UUID, vector: int, body: dict[str, object], inner: int) -> bytes:
    built: bytes = _PACKET.build(
        {"size": _sized(inner + 22), "vector": vector, "cid": cid.bytes, "body": body}
    )
    return built


def _sized(length: int) -> int:
    """Flags and length of a layer [ANSI E1.17]."""
    return 0x7000 | length


def _named(name: str) -> bytes:
    return name.encode()[:63].decode(errors="ignore").encode().ljust(64, b"\0")
