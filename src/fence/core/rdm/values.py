"""What is carried in packets of RDM, parameter by parameter [ANSI E1.20, 10]: declared, and read
without belief.

Every reader gives None for what is malformed; texts are taken to their end and without what cannot
be printed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from construct import (
    Byte,
    ConstructError,
    GreedyBytes,
    GreedyRange,
    Int16sb,
    Int16ub,
    Int32ub,
    Struct,
    Terminated,
)

LONGEST_WORDS = 32
"""Characters of a label or a description."""
NO_ADDRESS = 0xFFFF
"""What a device without a footprint has for an address."""
PROTOCOL = 0x0100


@dataclass(frozen=True, slots=True)
class DeviceInfo:
    """What a device says of itself in one answer. ``personality`` counts from 1; ``address`` is
    None without one."""

    model: int = 0
    category: int = 0
    software: int = 0
    footprint: int = 0
    personality: int = 1
    personalities: int = 1
    address: int | None = None
    sub_devices: int = 0
    sensors: int = 0


_INFO = Struct(
    "protocol" / Int16ub,
    "model" / Int16ub,
    "category" / Int16ub,
    "software" / Int32ub,
    "footprint" / Int16ub,
    "personality" / Byte,
    "personalities" / Byte,
    "address" / Int16ub,
    "sub_devices" / Int16ub,
    "sensors" / Byte,
    Terminated,
)


def build_info(info: DeviceInfo) -> bytes:
    """DEVICE_INFO as it is answered."""
    fields = (
        "model",
        "category",
        "software",
        "footprint",
        "personality",
        "personalities",
        "sub_devices",
        "sensors",
    )
    held = {name: getattr(info, name) for name in fields}
    address = NO_ADDRESS if info.address is None else info.address
    built: bytes = _INFO.build({"protocol": PROTOCOL, "address": address, **held})
    return built


def read_info(data: bytes) -> DeviceInfo | None:
    """DEVICE_INFO; None where it is malformed, or says what cannot be."""
    held = _parsed(_INFO, data)
    if (
        held is None
        or held.footprint > 512
        or not (held.address == NO_ADDRESS or held.address <= 512)
    ):
        return None
    return DeviceInfo(
        held.model,
        held.category,
        held.software,
        held.footprint,
        held.personality,
        held.personalities,
        held.address if 1 <= held.address <= 512 else None,
        min(held.sub_devices, 512),
        held.sensors,
    )


def _parsed(kind: Struct, data: bytes) -> Any:
    try:
        return kind.parse(data)
    except ConstructError:
        return None


def read_words(data: bytes) -> str:
    """A text up to its end, 32 characters at most, without what cannot be printed."""
    text = data[:LONGEST_WORDS].split(b"\0", 1)[0].decode("utf-8", "replace")
    return " ".join(
        "".join(c if c.isprintable() else " " for c in text.replace("\ufffd", "")).split()
    )


def build_words(text: str) -> bytes:
    """A text for a packet: 32 bytes at most, cut between characters."""
    return text.encode()[:LONGEST_WORDS].decode(errors="ignore").encode()


def read_number(data: bytes, size: int) -> int | None:
    """A whole number of so many bytes; None for another size."""
    return int.from_bytes(data) if len(data) == size else None


def read_numbers(data: bytes) -> tuple[int, ...]:
    """The numbers of 16 bits in a list."""
    return tuple(int.from_bytes(data[place : place + 2]) for place in range(0, len(data) - 1, 2))


# ---- personalities

_PERSONALITY = Struct("number" / Byte, "footprint" / Int16ub, "words" / GreedyBytes)


@dataclass(frozen=True, slots=True)
class Personality:
    """A mode as its device tells it: ``number`` from 1, its footprint, what it is called."""

    number: int
    name: str
    footprint: int


def build_personality(found: Personality) -> bytes:
    """The description of a personality."""
    built: bytes = _PERSONALITY.build(
        {"number": found.number, "footprint": found.footprint, "words": build_words(found.name)}
    )
    return built


def read_personality(data: bytes) -> Personality | None:
    """The description of a personality."""
    held = _parsed(_PERSONALITY, data)
    if held is None or held.footprint > 512:
        return None
    return Personality(held.number, read_words(bytes(held.words)), held.footprint)


# ---- slots

PRIMARY = 0x00
_SLOTS = GreedyRange(Struct("offset" / Int16ub, "kind" / Byte, "label" / Int16ub))
_DEFAULTS = GreedyRange(Struct("offset" / Int16ub, "value" / Byte))


@dataclass(frozen=True, slots=True)
class SlotInfo:
    """A slot as its device tells it: ``offset`` from 0; ``kind`` 0 for a slot of its own, else what
    it is to another; ``label`` what it does, or of a secondary one the offset of the slot that it
    belongs to."""

    offset: int
    kind: int
    label: int


def build_slots(slots: Sequence[SlotInfo]) -> bytes:
    """SLOT_INFO."""
    built: bytes = _SLOTS.build(
        [{"offset": s.offset, "kind": s.kind, "label": s.label} for s in slots]
    )
    return built


def read_slots(data: bytes) -> tuple[SlotInfo, ...]:
    """SLOT_INFO, as far as it can be read."""
    return tuple(SlotInfo(s.offset, s.kind, s.label) for s in _SLOTS.parse(data) if s.offset < 512)


def build_defaults(values: Sequence[tuple[int, int]]) -> bytes:
    """DEFAULT_SLOT_VALUE: offsets with their levels."""
    built: bytes = _DEFAULTS.build([{"offset": offset, "value": value} for offset, value in values])
    return built


def read_defaults(data: bytes) -> dict[int, int]:
    """DEFAULT_SLOT_VALUE: levels by offset."""
    return {held.offset: held.value for held in _DEFAULTS.parse(data) if held.offset < 512}


# ---- sensors

_SENSOR_WORDS = Struct(
    "number" / Byte,
    "kind" / Byte,
    "unit" / Byte,
    "prefix" / Byte,
    "lowest" / Int16sb,
    "highest" / Int16sb,
    "normal_low" / Int16sb,
    "normal_high" / Int16sb,
    "records" / Byte,
    "words" / GreedyBytes,
)
_SENSOR = Struct(
    "number" / Byte, "value" / Int16sb, "lowest" / Int16sb, "highest" / Int16sb, "kept" / Int16sb
)
UNITS = {
    0x01: "°C",
    0x02: "V",
    0x03: "V",
    0x04: "V",
    0x05: "A",
    0x06: "A",
    0x07: "A",
    0x08: "Hz",
    0x09: "Ω",
    0x0A: "W",
}
"""Units of sensors that are told; of others only the number is."""
PREFIXES = {
    **dict(
        zip(
            range(0x01, 0x0B),
            (1e-1, 1e-2, 1e-3, 1e-6, 1e-9, 1e-12, 1e-15, 1e-18, 1e-21, 1e-24),
            strict=True,
        )
    ),
    **dict(
        zip(range(0x11, 0x1B), (1e1, 1e2, 1e3, 1e6, 1e9, 1e12, 1e15, 1e18, 1e21, 1e24), strict=True)
    ),
}
"""By what a sensor's numbers are multiplied [ANSI E1.20, table A-14]: deci to yocto, deca to yotta;
0 is one."""


@dataclass(frozen=True, slots=True)
class SensorInfo:
    """A sensor as its device tells it. ``usual`` is the range that it calls normal, None without
    one."""

    name: str
    value: float
    unit: str = ""
    usual: tuple[float, float] | None = None

    @property
    def unusual(self) -> bool:
        """Whether it lies outside of what is normal."""
        return self.usual is not None and not self.usual[0] <= self.value <= self.usual[1]

    def __str__(self) -> str:
        return f"{self.name} {self.value:g} {self.unit}".strip()


def build_sensor_words(number: int, sensor: SensorInfo) -> bytes:
    """The description of a sensor, in whole units."""
    unit = next((key for key, words in UNITS.items() if words == sensor.unit), 0)
    low, high = (int(end) for end in sensor.usual or (-32768, 32767))
    built: bytes = _SENSOR_WORDS.build(
        {
            "number": number,
            "kind": 0,
            "unit": unit,
            "prefix": 0,
            "lowest": -32768,
            "highest": 32767,
            "normal_low": low,
            "normal_high": high,
            "records": 0,
            "words": build_words(sensor.name),
        }
    )
    return built


def build_sensor(number: int, value: int) -> bytes:
    """What a sensor reads."""
    built: bytes = _SENSOR.build(
        {"number": number, "value": value, "lowest": 0, "highest": 0, "kept": 0}
    )
    return built


def read_sensor(words: bytes, value: bytes) -> SensorInfo | None:
    """A sensor from its description and its reading; None where either is malformed."""
    told, now = _parsed(_SENSOR_WORDS, words), _parsed(_SENSOR, value)
    if told is None or now is None:
        return None
    factor = PREFIXES.get(told.prefix, 1.0)
    known = told.normal_low > -32768 or told.normal_high < 32767
    usual = (_exact(told.normal_low * factor), _exact(told.normal_high * factor)) if known else None
    name = read_words(bytes(told.words)) or f"sensor {told.number}"
    return SensorInfo(name, _exact(now.value * factor), UNITS.get(told.unit, ""), usual)


def _exact(number: float) -> float:
    """A number without the noise of its last bits: a sensor tells five digits at most."""
    return float(f"{number:.6g}")
