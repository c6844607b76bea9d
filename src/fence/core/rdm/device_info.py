"""What a device says of itself, read parameter by parameter; what it does not know is left out."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace

from fence.core.rdm.controller import Controller, RdmError, RefusedError
from fence.core.rdm.packet import Identity, Parameter
from fence.core.rdm.values import (
    Personality,
    SensorInfo,
    read_info,
    read_number,
    read_numbers,
    read_personality,
    read_sensor,
    read_words,
)

MOST_SENSORS = 16
MOST_SUBS = 64


@dataclass(frozen=True, slots=True)
class SubDeviceInfo:
    """A sub-device: a dimmer of a rack, with an address of its own."""

    number: int
    address: int | None
    footprint: int
    personality: int = 1


@dataclass(frozen=True, slots=True)
class DeviceInfo:
    """What a device said. ``box`` is the address of the box that it answers through, ``port`` its
    Port-Address there, ``universe`` what that is for the show, None where nobody knows.

    ``personality`` counts from 1; ``address`` is None for a device without channels. Hours, sensors
    and whether display, pan and tilt are turned are None where it does not say. ``problem`` is what
    went wrong, in words.
    """

    identity: Identity
    box: str = ""
    port: int = 0
    universe: int | None = None
    maker: str = ""
    model: str = ""
    model_number: int = 0
    label: str = ""
    software: str = ""
    personality: int = 0
    personalities: tuple[Personality, ...] = ()
    footprint: int = 0
    address: int | None = None
    hours: int | None = None
    lamp_hours: int | None = None
    sensors: tuple[SensorInfo, ...] = ()
    display_invert: bool | None = None
    pan_invert: bool | None = None
    tilt_invert: bool | None = None
    subs: tuple[SubDeviceInfo, ...] = ()
    knows: tuple[int, ...] = ()
    identify: bool = False
    problem: str = ""

    @property
    def mode(self) -> str:
        """What it calls the mode that it is in; empty where it gives no name."""
        return next(
            (held.name for held in self.personalities if held.number == self.personality), ""
        )

    @property
    def title(self) -> str:
        """Maker and model."""
        return f"{self.maker} {self.model}".strip() or "a device that says no model"


Asked = Callable[[], bytes]


def hear_out(
    talk: Controller,
    identity: Identity,
    *,
    box: str = "",
    port: int = 0,
    universe: int | None = None,
) -> DeviceInfo:
    """All that a device says of itself. One that does not answer is given with its ``problem``."""
    said = DeviceInfo(identity, box, port, universe)
    try:
        said = _from_info(talk, said)
    except RdmError as error:
        return replace(said, problem=str(error))
    said = replace(said, knows=_known(talk, identity))
    words = {
        name: read_words(_or_nothing(talk, identity, p))
        for name, p in _WORDS.items()
        if _may(said, p)
    }
    numbers = {
        name: read_number(_or_nothing(talk, identity, p), 4)
        for name, p in _HOURS.items()
        if _may(said, p)
    }
    flags = {
        name: _flag(_or_nothing(talk, identity, p)) for name, p in FLAGS.items() if _may(said, p)
    }
    said = replace(said, **words, **numbers, **flags)  # type: ignore[arg-type]
    return replace(
        said,
        identify=_flag(_or_nothing(talk, identity, Parameter.IDENTIFY)) or False,
        personalities=_personalities(talk, said),
        sensors=_sensors(talk, said),
        subs=_subs(talk, identity, len(said.subs)),
    )


_WORDS = {
    "maker": Parameter.MAKER,
    "model": Parameter.MODEL,
    "label": Parameter.LABEL,
    "software": Parameter.SOFTWARE,
}
_HOURS = {"hours": Parameter.DEVICE_HOURS, "lamp_hours": Parameter.LAMP_HOURS}
FLAGS = {
    "display_invert": Parameter.DISPLAY_INVERT,
    "pan_invert": Parameter.PAN_INVERT,
    "tilt_invert": Parameter.TILT_INVERT,
}
"""What is turned, by its name in ``DeviceInfo``."""
ALWAYS = frozenset({Parameter.SOFTWARE})


def _may(said: DeviceInfo, parameter: Parameter) -> bool:
    """Whether it is worth asking: it says that it knows, or it does not say what it knows."""
    return not said.knows or parameter in ALWAYS or parameter in said.knows


def _from_info(talk: Controller, said: DeviceInfo) -> DeviceInfo:
    info = read_info(talk.get(said.identity, Parameter.DEVICE_INFO))
    if info is None:
        raise RdmError("What it says of itself cannot be read.")
    return replace(
        said,
        model_number=info.model,
        personality=info.personality,
        personalities=tuple(Personality(number + 1, "", 0) for number in range(info.personalities)),
        footprint=info.footprint,
        address=info.address,
        subs=(SubDeviceInfo(0, None, 0),) * min(info.sub_devices, MOST_SUBS),
        sensors=(SensorInfo("", 0),) * min(info.sensors, MOST_SENSORS),
    )


def heard_again(talk: Controller, said: DeviceInfo) -> DeviceInfo:
    """What changes at a device, asked anew: its address, its mode, how it is turned. Raises
    ``RdmError``."""
    info = read_info(talk.get(said.identity, Parameter.DEVICE_INFO))
    if info is None:
        raise RdmError("What it says of itself cannot be read.")
    turned = {
        name: _flag(talk.get(said.identity, parameter))
        for name, parameter in FLAGS.items()
        if getattr(said, name) is not None
    }
    return replace(
        said,
        personality=info.personality,
        footprint=info.footprint,
        address=info.address,
        problem="",
        **turned,  # type: ignore[arg-type]
    )


def _known(talk: Controller, identity: Identity) -> tuple[int, ...]:
    return read_numbers(_or_nothing(talk, identity, Parameter.SUPPORTED))


def _or_nothing(talk: Controller, identity: Identity, parameter: int, data: bytes = b"") -> bytes:
    try:
        return talk.get(identity, parameter, data)
    except RdmError:
        return b""


def _flag(data: bytes) -> bool | None:
    return bool(data[0]) if len(data) == 1 else None


def _personalities(talk: Controller, said: DeviceInfo) -> tuple[Personality, ...]:
    """Its modes with names and footprints; of one that gives none only the footprint of the mode
    that it is in."""
    found = []
    for held in said.personalities:
        told = None
        if _may(said, Parameter.PERSONALITY_WORDS):
            data = _or_nothing(
                talk, said.identity, Parameter.PERSONALITY_WORDS, bytes((held.number,))
            )
            told = read_personality(data)
        if told is None or told.number != held.number:
            told = replace(held, footprint=said.footprint if held.number == said.personality else 0)
        found.append(told)
    return tuple(found)


def _sensors(talk: Controller, said: DeviceInfo) -> tuple[SensorInfo, ...]:
    found = []
    for number in range(len(said.sensors)):
        asked = bytes((number,))
        with suppress(RdmError):
            words = talk.get(said.identity, Parameter.SENSOR_WORDS, asked)
            sensor = read_sensor(words, talk.get(said.identity, Parameter.SENSOR, asked))
            if sensor is not None:
                found.append(sensor)
    return tuple(found)


def _subs(talk: Controller, identity: Identity, count: int) -> tuple[SubDeviceInfo, ...]:
    found = []
    for number in range(1, count + 1):
        try:
            info = read_info(talk.get(identity, Parameter.DEVICE_INFO, sub=number))
        except RefusedError:
            continue  # sub-devices are counted with gaps at some
        except RdmError:
            break
        if info is not None:
            found.append(SubDeviceInfo(number, info.address, info.footprint, info.personality))
    return tuple(found)
