"""A chart from what a device says of its slots: what each does, its words, its default. Completed
by hand.

A device tells the slots of the mode that it is in only. To learn the others it is put into each,
and back again.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, field, replace

from fence.core.charts.naming import Namer
from fence.core.model.profile import (
    Byte,
    Channel,
    Function,
    Mode,
    Part,
    Profile,
    Setter,
    SetterKind,
)
from fence.core.model.text import slug
from fence.core.rdm.controller import Controller, RdmError
from fence.core.rdm.device_info import DeviceInfo
from fence.core.rdm.packet import Identity, Parameter
from fence.core.rdm.values import Personality, SlotInfo, read_defaults, read_slots, read_words

F = Function
LABELS: Mapping[int, tuple[Function, str]] = {
    0x0001: (F.DIMMER, ""),
    0x0002: (F.DIMMER, "master dimmer"),
    0x0101: (F.PAN, ""),
    0x0102: (F.TILT, ""),
    0x0201: (F.COLOUR_WHEEL, ""),
    0x0202: (F.CYAN, ""),
    0x0203: (F.YELLOW, ""),
    0x0204: (F.MAGENTA, ""),
    0x0205: (F.RED, ""),
    0x0206: (F.GREEN, ""),
    0x0207: (F.BLUE, ""),
    0x0208: (F.CCT, "colour correction"),
    0x0209: (F.COLOUR_WHEEL, "colour scroll"),
    0x0210: (F.OTHER, "colour semaphore"),
    0x0211: (F.AMBER, ""),
    0x0212: (F.WHITE, ""),
    0x0213: (F.WHITE, "warm white"),
    0x0214: (F.WHITE, "cold white"),
    0x0215: (F.UV, ""),
    0x0216: (F.OTHER, "hue"),
    0x0217: (F.OTHER, "saturation"),
    0x0301: (F.GOBO, ""),
    0x0302: (F.GOBO, "turning gobo"),
    0x0303: (F.PRISM, ""),
    0x0304: (F.OTHER, "effects wheel"),
    0x0401: (F.IRIS, ""),
    0x0402: (F.FOCUS, "edge"),
    0x0403: (F.FROST, ""),
    0x0404: (F.SHUTTER, "strobe"),
    0x0405: (F.ZOOM, ""),
    0x0406: (F.OTHER, "framing shutter"),
    0x0407: (F.OTHER, "framing rotation"),
    0x0408: (F.SHUTTER, "douser"),
    0x0409: (F.OTHER, "barn door"),
    0x0501: (F.RESET, "lamp control"),
    0x0502: (F.RESET, "fixture control"),
    0x0503: (F.SPEED, "fixture speed"),
    0x0504: (F.PROGRAM, ""),
    0x0505: (F.OTHER, "power control"),
    0x0506: (F.FAN, ""),
    0x0507: (F.OTHER, "heater"),
    0x0508: (F.OTHER, "fountain"),
}
"""What the labels of slots mean [ANSI E1.20, table C-2]."""
OWN, FINE, TIMING, SPEED, CONTROL, INDEX, ROTATION, TURNING = range(8)
"""What a slot is to another one [ANSI E1.20, table C-1]: ``OWN`` is none."""
BESIDE = {
    TIMING: "timing",
    SPEED: "speed",
    CONTROL: "control",
    INDEX: "index",
    ROTATION: "rotation",
    TURNING: "turning",
}
MOST_ASKED = 128
"""Slots whose words are asked for, one packet each."""
COLOURS = frozenset(
    {F.RED, F.GREEN, F.BLUE, F.WHITE, F.AMBER, F.UV, F.LIME, F.CYAN, F.MAGENTA, F.YELLOW, F.DIMMER}
)
SOURCE = "said by the fixture"


@dataclass(frozen=True, slots=True)
class SlotsOf:
    """What a device says of the slots of one mode: their kinds, words and defaults, by offset from
    0."""

    slots: tuple[SlotInfo, ...] = ()
    words: dict[int, str] = field(default_factory=dict)
    defaults: dict[int, int] = field(default_factory=dict)


def slots_of(talk: Controller, identity: Identity, footprint: int) -> SlotsOf:
    """The slots of the mode that a device is in; empty where it says nothing of them."""

    def asked(parameter: int, data: bytes = b"") -> bytes:
        try:
            return talk.get(identity, parameter, data)
        except RdmError:
            return b""

    slots = tuple(
        slot for slot in read_slots(asked(Parameter.SLOT_INFO)) if slot.offset < footprint
    )
    words: dict[int, str] = {}
    for slot in slots[:MOST_ASKED]:
        data = asked(Parameter.SLOT_WORDS, slot.offset.to_bytes(2))
        if not data and not words:
            break  # it gives no words at all
        if data[:2] == slot.offset.to_bytes(2):
            words[slot.offset] = read_words(data[2:])
    return SlotsOf(slots, words, read_defaults(asked(Parameter.SLOT_DEFAULTS)))


def all_slots(
    talk: Controller, said: DeviceInfo, stop: Callable[[], bool] = lambda: False
) -> dict[int, SlotsOf]:
    """The slots of every mode: the device goes through all of them and back to its own, whatever
    happens."""
    found = {}
    try:
        for held in said.personalities:
            if stop():
                break
            talk.set(said.identity, Parameter.PERSONALITY, bytes((held.number,)))
            found[held.number] = slots_of(talk, said.identity, held.footprint)
    finally:
        talk.set(said.identity, Parameter.PERSONALITY, bytes((said.personality,)))
        if said.address is not None:  # some move when their mode changes
            talk.set(said.identity, Parameter.START_ADDRESS, said.address.to_bytes(2))
    return found


def chart_said(
    said: DeviceInfo, slots: Mapping[int, SlotsOf] | None = None, namer: Namer | None = None
) -> Profile:
    """The chart of a device, by what it says. A mode whose slots it did not tell is known by its
    footprint only.

    ``slots`` are by number of the mode. Raises nothing: two modes of one name are numbered.
    """
    slots, namer = slots or {}, namer or Namer(())
    modes: list[Mode] = []
    for held in said.personalities or (Personality(1, "", said.footprint),):
        footprint = held.footprint or (said.footprint if held.number == said.personality else 0)
        told = slots.get(held.number)
        channels = tuple(_channels(told, footprint, namer)) if told and told.slots else ()
        name = held.name or (f"{footprint} channel" if footprint else f"mode {held.number}")
        modes.append(
            Mode(
                _free(name, held.number, {mode.name for mode in modes}),
                (Part(footprint, channels),),
            )
        )
    return Profile(
        slug(f"{said.maker} {said.model}", f"said-{said.model_number:04x}"),
        said.maker,
        said.model or f"model {said.model_number:04X}",
        tuple(modes),
        setter=Setter(SetterKind.MENU),
        rdm=True,
        source=f"{SOURCE}{f', software {said.software}' if said.software else ''}",
    )


def _free(name: str, number: int, taken: Collection[str]) -> str:
    """The name of a mode that no other one has: with its number behind it, as often as it takes."""
    while name in taken:
        name = f"{name} ({number})"
    return name


def _channels(told: SlotsOf, footprint: int, namer: Namer) -> Iterator[Channel]:
    by_offset = {slot.offset: slot for slot in told.slots}
    whole = [_channel(told, by_offset, offset, namer) for offset in range(footprint)]
    fine = {by_offset[o].label for o in by_offset if by_offset[o].kind == FINE}
    repeats = Counter(c.function for c in whole if c.byte is not Byte.FINE)
    seen: Counter[Function] = Counter()
    for offset, channel in enumerate(whole):
        cell = None
        if channel.function in COLOURS and repeats[channel.function] > 1:
            seen[channel.function] += channel.byte is not Byte.FINE
            cell = seen[channel.function] or None
        byte = Byte.COARSE if offset in fine and channel.byte is Byte.WHOLE else channel.byte
        yield replace(channel, byte=byte, cell=cell)


def _channel(
    told: SlotsOf, by_offset: Mapping[int, SlotInfo], offset: int, namer: Namer
) -> Channel:
    slot, words = by_offset.get(offset), told.words.get(offset, "")
    default = told.defaults.get(offset, 0)
    if slot is None:
        return Channel(F.OTHER, words or "not told", default=default)
    if slot.kind == OWN:
        function, name = LABELS.get(slot.label, (F.OTHER, ""))
        if slot.label not in LABELS and words:
            function = _by_words(words, namer)
        return Channel(function, words or name, default=default)
    first = by_offset.get(slot.label)
    main = (
        _channel(told, by_offset, slot.label, namer)
        if first is not None and first.kind == OWN
        else Channel(F.OTHER)
    )
    if slot.kind == FINE:
        return Channel(main.function, main.name, byte=Byte.FINE, default=default)
    name = words or f"{main.title} {BESIDE.get(slot.kind, '')}".strip()
    if slot.kind in (TIMING, SPEED):
        return Channel(F.SPEED, name, default=default)
    turns = main.function is F.GOBO and slot.kind in (INDEX, ROTATION, TURNING)
    return Channel(F.GOBO_ROTATION if turns else F.OTHER, name, default=default)


def _by_words(words: str, namer: Namer) -> Function:
    return namer.channel(words).channel.function
