"""What answers on a line: devices as they are, good and bad ones, and a line on which they talk
over each other.

This is what the practice rig and the stand-in boxes are made of; nothing here knows of a network or
a clock.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from random import Random

from fence.core.rdm.packet import (
    EVERYBODY,
    MOST_DATA,
    Answer,
    Command,
    Identity,
    Packet,
    Parameter,
    Refusal,
    answer_to,
    branch_answer,
    build,
    read,
)
from fence.core.rdm.values import (
    DeviceInfo,
    Personality,
    SensorInfo,
    SlotInfo,
    build_defaults,
    build_info,
    build_personality,
    build_sensor,
    build_sensor_words,
    build_slots,
    build_words,
)

FLAGS = {
    Parameter.DISPLAY_INVERT: "display_invert",
    Parameter.PAN_INVERT: "pan_invert",
    Parameter.TILT_INVERT: "tilt_invert",
}
LATER = b"\x00\x01"
"""When a slow device asks to be asked again: in a tenth of a second."""


class Refuses(Exception):  # noqa: N818 - not an error: an answer
    """Raised by a handler: the device refuses, with its reason."""

    def __init__(self, reason: Refusal) -> None:
        super().__init__(reason)
        self.reason = reason


@dataclass(frozen=True, slots=True)
class PersonalityKept:
    """A mode of a device: what it is called, and its slots with their words and levels."""

    name: str
    footprint: int
    slots: tuple[SlotInfo, ...] = ()
    words: tuple[str, ...] = ()
    defaults: tuple[int, ...] = ()


@dataclass
class Responder:
    """A device that talks. ``personality`` counts from 1; None for what it does not know: hours,
    how it is turned.

    ``silent``: it hears nothing. ``stubborn``: it says that it is muted and goes on. ``shy``: it
    mutes and does not say so. ``slow``: it answers only when asked again, or, where it ``queues``,
    keeps the answer until it is asked for what it has kept. ``broken``: the sums of its answers are
    wrong.
    """

    identity: Identity
    maker: str = ""
    model: str = ""
    model_number: int = 1
    personalities: tuple[PersonalityKept, ...] = (PersonalityKept("1 channel", 1),)
    personality: int = 1
    address: int = 1
    label: str = ""
    software: str = "1.0"
    display_invert: int | None = 0
    pan_invert: int | None = None
    tilt_invert: int | None = None
    hours: int | None = None
    lamp_hours: int | None = None
    sensors: tuple[SensorInfo, ...] = ()
    subs: list[Responder] = field(default_factory=list)
    silent: bool = False
    stubborn: bool = False
    shy: bool = False
    slow: bool = False
    queues: bool = False
    broken: bool = False
    identify: bool = False
    muted: bool = False
    resets: int = 0
    changed: bool = False
    _later: Packet | None = None
    _kept: list[Packet] = field(default_factory=list)
    _rest: tuple[tuple[int, bytes, int], bytes] | None = None

    def __post_init__(self) -> None:
        self.number = self.identity.number

    @property
    def footprint(self) -> int:
        """Channels of the mode that it is in."""
        return self.personalities[self.personality - 1].footprint

    def hear(self, packet: Packet) -> bytes:
        """What it puts on the line after a packet; nothing where it stays quiet."""
        if self.silent:
            return b""
        if packet.command == Command.DISCOVER:
            return self._discovery(packet)
        mine = packet.to == self.identity
        everybody = packet.to.device == EVERYBODY.device and packet.to.maker in (
            EVERYBODY.maker,
            self.identity.maker,
        )
        if not (mine or everybody) or packet.command not in (Command.GET, Command.SET):
            return b""
        if everybody:
            if packet.command == Command.SET:
                self._answer(packet)
            return b""
        if self.queues and packet.parameter == Parameter.QUEUED:
            return build(self._from_queue(packet))
        if self.slow and packet.parameter not in (Parameter.DEVICE_INFO, Parameter.QUEUED):
            if self.queues:
                self._kept.append(self._answer(packet))
            if self.queues or not self._asked_again(packet):
                return build(answer_to(packet, LATER, how=Answer.TIMER))
        raw = build(self._answer(packet))
        return raw[:-1] + bytes((raw[-1] ^ 0x5A,)) if self.broken else raw

    def _from_queue(self, packet: Packet) -> Packet:
        """The answer that it has kept longest, or that it has no more to say."""
        if not self._kept:
            return replace(answer_to(packet, b""), parameter=Parameter.STATUS)
        return replace(self._kept.pop(0), transaction=packet.transaction)

    def _asked_again(self, packet: Packet) -> bool:
        same = self._later is not None and (self._later.parameter, self._later.data) == (
            packet.parameter,
            packet.data,
        )
        self._later = None if same else packet
        return same

    def _discovery(self, packet: Packet) -> bytes:
        mine = packet.to in (self.identity, EVERYBODY)
        if packet.parameter == Parameter.UNIQUE_BRANCH and len(packet.data) == 12:
            low, high = int.from_bytes(packet.data[:6]), int.from_bytes(packet.data[6:])
            inside = low <= self.identity.number <= high
            return branch_answer(self.identity) if inside and not self.muted else b""
        if packet.parameter in (Parameter.MUTE, Parameter.UN_MUTE) and mine:
            self.muted = packet.parameter == Parameter.MUTE and not self.stubborn
            if packet.to == EVERYBODY or self.shy:
                return b""
            return build(answer_to(packet, b"\x00\x00"))
        return b""

    # ---- what can be asked and set

    def _answer(self, packet: Packet) -> Packet:
        device = self._device(packet.sub_device)
        if device is None:
            return self._refused(packet, Refusal.SUB_DEVICE)
        key = (packet.parameter, packet.data, packet.sub_device)
        if packet.command == Command.GET and self._rest is not None and self._rest[0] == key:
            return self._piece(packet, key, self._rest[1])
        self._rest = None
        try:
            data = device.said(packet) if packet.command == Command.GET else device.take(packet)
        except Refuses as refusal:
            return self._refused(packet, refusal.reason)
        return self._piece(packet, key, data)

    def _piece(self, packet: Packet, key: tuple[int, bytes, int], data: bytes) -> Packet:
        now, rest = data[: MOST_DATA - MOST_DATA % 5], data[MOST_DATA - MOST_DATA % 5 :]
        self._rest = (key, rest) if rest else None
        return answer_to(packet, now, how=Answer.MORE if rest else Answer.ACK, sender=self.identity)

    def _refused(self, packet: Packet, reason: Refusal) -> Packet:
        return answer_to(packet, int(reason).to_bytes(2), how=Answer.REFUSED, sender=self.identity)

    def _device(self, number: int) -> Responder | None:
        if number == 0:
            return self
        return self.subs[number - 1] if 1 <= number <= len(self.subs) else None

    def supported(self) -> list[int]:
        """What can be asked beside what every device must know."""
        found: list[int] = [
            Parameter.MODEL,
            Parameter.MAKER,
            Parameter.LABEL,
            Parameter.FACTORY_DEFAULTS,
            Parameter.PERSONALITY,
            Parameter.PERSONALITY_WORDS,
            Parameter.RESET,
        ]
        kept = self.personalities[self.personality - 1]
        found += [Parameter.SLOT_INFO, Parameter.SLOT_DEFAULTS] if kept.slots else []
        found += [Parameter.SLOT_WORDS] if kept.words else []
        found += [Parameter.SENSOR_WORDS, Parameter.SENSOR] if self.sensors else []
        found += [Parameter.DEVICE_HOURS] if self.hours is not None else []
        found += [Parameter.LAMP_HOURS] if self.lamp_hours is not None else []
        found += [parameter for parameter, name in FLAGS.items() if getattr(self, name) is not None]
        return found

    def said(self, packet: Packet) -> bytes:
        """The answer to a question. Raises ``Refuses``."""
        asked = packet.parameter
        kept = self.personalities[self.personality - 1]
        words = {
            Parameter.MODEL: self.model,
            Parameter.MAKER: self.maker,
            Parameter.LABEL: self.label,
            Parameter.SOFTWARE: self.software,
        }
        if asked == Parameter.DEVICE_INFO:
            return build_info(self.info())
        if asked == Parameter.SUPPORTED:
            return b"".join(int(one).to_bytes(2) for one in self.supported())
        if asked in words:
            return build_words(words[Parameter(asked)])
        if asked == Parameter.PERSONALITY:
            return bytes((self.personality, len(self.personalities)))
        if asked == Parameter.PERSONALITY_WORDS:
            number = self._one(packet.data, 1, len(self.personalities))
            found = self.personalities[number - 1]
            return build_personality(Personality(number, found.name, found.footprint))
        if asked == Parameter.START_ADDRESS and self.footprint:
            return self.address.to_bytes(2)
        if asked == Parameter.IDENTIFY:
            return bytes((self.identify,))
        if asked in self.supported():
            return self._beside(packet, kept)
        raise Refuses(Refusal.UNKNOWN)

    def _beside(self, packet: Packet, kept: PersonalityKept) -> bytes:
        """The answer to what not every device knows."""
        asked = packet.parameter
        if asked == Parameter.SLOT_INFO:
            return build_slots(kept.slots)
        if asked == Parameter.SLOT_DEFAULTS:
            return build_defaults(list(enumerate(kept.defaults)))
        if asked == Parameter.SLOT_WORDS:
            offset = int.from_bytes(packet.data[:2])
            if offset >= len(kept.words):
                raise Refuses(Refusal.RANGE)
            return packet.data[:2] + build_words(kept.words[offset])
        if asked in (Parameter.SENSOR, Parameter.SENSOR_WORDS):
            number = self._one(packet.data, 0, len(self.sensors) - 1)
            sensor = self.sensors[number]
            made = build_sensor_words(number, sensor) if asked == Parameter.SENSOR_WORDS else None
            return made or build_sensor(number, int(sensor.value))
        if asked == Parameter.DEVICE_HOURS:
            return (self.hours or 0).to_bytes(4)
        if asked == Parameter.LAMP_HOURS:
            return (self.lamp_hours or 0).to_bytes(4)
        if asked in FLAGS:
            return bytes((int(getattr(self, FLAGS[Parameter(asked)])),))
        raise Refuses(Refusal.COMMAND_CLASS)

    def info(self) -> DeviceInfo:
        """What it says of itself in one answer."""
        return DeviceInfo(
            self.model_number,
            0x0101,
            0x00010000,
            self.footprint,
            self.personality,
            len(self.personalities),
            self.address if self.footprint else None,
            len(self.subs),
            len(self.sensors),
        )

    def take(self, packet: Packet) -> bytes:
        """Set what is to be set. Raises ``Refuses``."""
        asked, data = packet.parameter, packet.data
        if asked == Parameter.START_ADDRESS and self.footprint:
            self.address = self._two(data, 1, 512)
        elif asked == Parameter.PERSONALITY:
            self.personality = self._one(data, 1, len(self.personalities))
        elif asked == Parameter.LABEL:
            if len(data) > 32:
                raise Refuses(Refusal.FORMAT)
            self.label = data.split(b"\0", 1)[0].decode("utf-8", "replace")
        elif asked == Parameter.IDENTIFY:
            self.identify = bool(self._one(data, 0, 1))
        elif asked in FLAGS and getattr(self, FLAGS[Parameter(asked)]) is not None:
            setattr(self, FLAGS[Parameter(asked)], self._one(data, 0, 1))
        elif asked == Parameter.FACTORY_DEFAULTS:
            self.personality, self.address, self.label = 1, 1, ""
            for name in FLAGS.values():
                if getattr(self, name) is not None:
                    setattr(self, name, 0)
        elif asked == Parameter.RESET:
            self.resets, self.identify = self.resets + 1, False
        else:
            raise Refuses(Refusal.COMMAND_CLASS if asked in self.supported() else Refusal.UNKNOWN)
        self.changed = True
        return b""

    def _one(self, data: bytes, least: int, most: int) -> int:
        if len(data) != 1:
            raise Refuses(Refusal.FORMAT)
        if not least <= data[0] <= most:
            raise Refuses(Refusal.RANGE)
        return data[0]

    def _two(self, data: bytes, least: int, most: int) -> int:
        if len(data) != 2:
            raise Refuses(Refusal.FORMAT)
        number = int.from_bytes(data)
        if not least <= number <= most:
            raise Refuses(Refusal.RANGE)
        return number


@dataclass
class SimulatedLine:
    """A line with devices. ``loss`` is the share of packets, 0 to 1, that get lost on each way;
    ``chance`` decides."""

    devices: Sequence[Responder]
    chance: Random
    loss: float = 0.0
    sent: int = 0

    def send(self, raw: bytes) -> bytes:
        """Put a packet on the line; what is heard after it."""
        self.sent += 1
        packet = read(raw)
        if packet is None:
            return b""
        heard = []
        for device in self._asked(packet):
            if self.loss and self.chance.random() < self.loss:
                continue
            if said := device.hear(packet):
                heard.append(said)
        if not heard or (self.loss and self.chance.random() < self.loss):
            return b""
        return self._together(heard)

    def _asked(self, packet: Packet) -> Sequence[Responder]:
        """Those that a packet can mean anything to; asking the others would only take time."""
        if packet.parameter == Parameter.UNIQUE_BRANCH and len(packet.data) == 12:
            low, high = int.from_bytes(packet.data[:6]), int.from_bytes(packet.data[6:])
            return [
                device
                for device in self.devices
                if not device.muted and low <= device.number <= high
            ]
        if packet.to.device != EVERYBODY.device:
            return [device for device in self.devices if device.identity == packet.to]
        return self.devices

    def exchange(self, packet: Packet) -> Packet | None:
        """Ask one device."""
        return read(self.send(build(packet)))

    def _together(self, heard: Sequence[bytes]) -> bytes:
        """What several at once sound like: the stronger driver wins each bit, now this one, now
        that."""
        whole = bytearray(heard[0])
        for said in heard[1:]:
            for place in range(min(len(whole), len(said))):
                if whole[place] != said[place]:
                    mixed = (
                        whole[place] | said[place]
                        if self.chance.random() < 0.5
                        else whole[place] & said[place]
                    )
                    whole[place] = mixed
            whole += said[len(whole) :]
        return bytes(whole)
