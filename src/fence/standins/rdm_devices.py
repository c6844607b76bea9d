"""The devices of a show that talk: what hangs on each port of its boxes, as it stands, and what can
be wrong."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from random import Random
from zlib import crc32

from fence.core import edits
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Byte, Channel, Function, Mode, Profile
from fence.core.model.record import NOBODY, SetTo
from fence.core.model.show import Show
from fence.core.model.standing import stands
from fence.core.model.text import joined, whole_number
from fence.core.model.wiring import wiring_of
from fence.core.rdm.charting import FINE, LABELS, OWN
from fence.core.rdm.controller import ME
from fence.core.rdm.device_matching import identity_kept
from fence.core.rdm.discovery import Search
from fence.core.rdm.packet import Command, Identity, Packet, read_identity
from fence.core.rdm.responder import PersonalityKept, Responder, SimulatedLine
from fence.core.rdm.values import SensorInfo, SlotInfo
from fence.wire.rdm import Carried, TableAsked, build_rdm, build_tables, read_any

FIRST_MAKER = 0x7FF0
"""The first of sixteen makers' numbers that are set aside for trying things out [ANSI E1.20]."""


class Trouble(StrEnum):
    """What can be wrong with how a device talks."""

    HEAP = "heap"
    NO_RDM = "no-rdm"
    SLOW = "slow"
    STUBBORN = "stubborn"
    BROKEN = "broken"
    TWIN = "twin"
    RACK = "rack"
    FLICKERS = "flickers"
    LOSSY = "lossy"


@dataclass(frozen=True, slots=True)
class RdmFault:
    """A trouble, at which fixture, and how much: sub-devices of a rack, percent of answers lost."""

    trouble: Trouble
    fixture: int | None = None
    much: int = 0


def read_talk_fault(show: Show, text: str) -> RdmFault:
    """A fault as typed: ``heap``, ``no-rdm=NAME``, ``slow=NAME``, ``rack=NAME:4``, ``lossy=5``.

    ``FenceError`` says what is accepted."""
    name, _, place = text.partition("=")
    if name not in set(Trouble):
        raise FenceError(f"“{name[:40]}” is not a fault. Use {', '.join(Trouble)}.")
    trouble = Trouble(name)
    if trouble is Trouble.HEAP:
        return RdmFault(trouble)
    if trouble is Trouble.LOSSY:
        percent = whole_number(place)
        if percent is None or percent > 90:
            raise FenceError("Say how much is lost in percent, 0 to 90, as lossy=5.")
        return RdmFault(trouble, much=percent)
    label, _, number = place.rpartition(":") if trouble is Trouble.RACK else (place, "", "")
    fixture = next((f for f in show.fixtures if f.label == label), None)
    if fixture is None:
        known = joined([f.label for f in show.fixtures], most=8)
        raise FenceError(
            f"There is no fixture “{label[:60]}”. Use {name}=NAME with one of {known}."
        )
    return RdmFault(trouble, fixture.id, min(whole_number(number) or 0, 64))


def identity_for(show: Show, fixture: Fixture) -> Identity:
    """Who a fixture of the stand-in is: what was kept of it, else a number of its own."""
    kept = identity_kept(fixture)
    if kept:
        return read_identity(kept)
    profile = show.profile_of(fixture)
    return Identity(
        FIRST_MAKER + crc32((profile.maker if profile else "").encode()) % 16,
        fixture.id & 0xFFFFFFFF,
    )


def responder_for(show: Show, fixture: Fixture, profile: Profile) -> Responder:
    """A fixture as a device that talks, standing as it is known to stand, else as planned."""
    known = stands(fixture)
    mode = (known.mode if known else "") or fixture.mode
    names = [held.name for held in profile.modes]
    slots = known.slots if known else tuple(entry.slot for entry in fixture.patch)
    functions = {c.function for held in profile.modes for part in held.parts for c in part.channels}
    heat = 31 + crc32(fixture.label.encode()) % 20
    return Responder(
        identity_for(show, fixture),
        profile.maker,
        profile.model,
        crc32(profile.id.encode()) & 0xFFFF,
        tuple(map(_personality, profile.modes)) or (PersonalityKept("none", 0),),
        names.index(mode) + 1 if mode in names else 1,
        slots[0] if slots and slots[0] and slots[0] <= 512 else 1,
        fixture.label[:32],
        pan_invert=0 if Function.PAN in functions else None,
        tilt_invert=0 if Function.TILT in functions else None,
        hours=150 + crc32(fixture.label.encode()) % 4000,
        sensors=(SensorInfo("temperature", heat, "°C", (0, 70)),),
    )


def _personality(mode: Mode) -> PersonalityKept:
    channels = [channel for part in mode.parts for channel in part.channels]
    first: dict[tuple[Function, int | None], int] = {}
    slots = []
    for offset, channel in enumerate(channels):
        if channel.byte is Byte.FINE and (channel.function, channel.cell) in first:
            slots.append(SlotInfo(offset, FINE, first[channel.function, channel.cell]))
            continue
        first.setdefault((channel.function, channel.cell), offset)
        slots.append(SlotInfo(offset, OWN, _label(channel)))
    words = tuple(channel.title for channel in channels)
    return PersonalityKept(
        mode.name, mode.footprint, tuple(slots), words, tuple(c.default for c in channels)
    )


def _label(channel: Channel) -> int:
    return next(
        (
            label
            for label, (function, name) in LABELS.items()
            if function is channel.function and not name
        ),
        0xFFFF,
    )


class RdmLines:
    """The lines of a show with the devices on them. ``take`` answers packets; ``places`` are
    Port-Addresses with the universe that comes out there."""

    def __init__(
        self,
        show: Show,
        faults: Sequence[RdmFault] = (),
        *,
        quiet: Iterable[int] = (),
        seed: int = 1,
    ) -> None:
        self.show, self.faults = show, faults
        self.chance = Random(seed)
        self.devices: dict[int, Responder] = {}
        self.lines: dict[int, SimulatedLine] = {}
        self.known: dict[int, tuple[Identity, ...]] = {}
        self.flickers = {
            f.fixture for f in faults if f.trouble is Trouble.FLICKERS and f.fixture is not None
        }
        loss = (
            max((fault.much for fault in faults if fault.trouble is Trouble.LOSSY), default=0) / 100
        )
        hidden = {
            *quiet,
            *_hidden(show),
            *(f.fixture for f in faults if f.trouble is Trouble.NO_RDM),
        }
        on: dict[int, list[Responder]] = {}
        for fixture in show.fixtures:
            profile = show.profile_of(fixture)
            if (
                profile is None
                or not profile.rdm
                or fixture.universe is None
                or fixture.id in hidden
            ):
                continue
            device = self.devices[fixture.id] = responder_for(show, fixture, profile)
            self._trouble(fixture, device)
            on.setdefault(fixture.universe, []).append(device)
            if any(f.fixture == fixture.id and f.trouble is Trouble.TWIN for f in faults):
                on[fixture.universe].append(
                    replace(device, label=f"{device.label} twin", address=400)
                )
        for universe, devices in on.items():
            self.chance.shuffle(devices)
            self.lines[universe] = SimulatedLine(devices, self.chance, loss / 2)

    def _trouble(self, fixture: Fixture, device: Responder) -> None:
        for fault in self.faults:
            if fault.trouble is Trouble.HEAP:
                device.address, device.personality, device.label = 1, 1, ""
            if fault.fixture != fixture.id:
                continue
            device.slow |= fault.trouble is Trouble.SLOW
            device.stubborn |= fault.trouble is Trouble.STUBBORN
            device.broken |= fault.trouble is Trouble.BROKEN
            if fault.trouble is Trouble.RACK:
                device.subs = [
                    replace(device, address=device.address + n * device.footprint, subs=[])
                    for n in range(fault.much)
                ]

    def take(self, data: bytes, universe_at: Callable[[int], int | None]) -> list[bytes] | None:
        """The answers to a packet; None where it is none of RDM. ``universe_at`` says what a
        Port-Address carries."""
        asked = read_any(data)
        if isinstance(asked, TableAsked):
            return [
                packet
                for address in asked.addresses
                if (universe := universe_at(address)) is not None
                for packet in build_tables(address, self.table(universe, anew=asked.flush))
            ]
        if isinstance(asked, Carried):
            universe = universe_at(asked.address)
            line = self.lines.get(universe) if universe is not None else None
            answer = (
                line.exchange(asked.packet)
                if line is not None and _may_pass(asked.packet)
                else None
            )
            return [build_rdm(Carried(asked.address, answer))] if answer is not None else []
        return None

    def table(self, universe: int, *, anew: bool) -> tuple[Identity, ...]:
        """Who is on a line, found by a search on it."""
        if universe not in self.lines:
            return ()
        if anew or universe not in self.known:
            self.known[universe] = Search(self.lines[universe].send, ME).run()
        return self.known[universe]

    def changed(self) -> bool:
        """Whether anything was set since this was asked last."""
        found = any(device.changed for device in self.devices.values())
        for device in self.devices.values():
            device.changed = False
        return found

    def standing(self) -> Show:
        """The show with its fixtures set as the devices stand."""
        made = []
        for fixture in self.show.fixtures:
            device = self.devices.get(fixture.id)
            profile = self.show.profile_of(fixture)
            if device is None or profile is None or not profile.modes:
                made.append(fixture)
                continue
            mode = profile.modes[device.personality - 1]
            patch = (replace(fixture.patch[0], slot=device.address), *fixture.patch[1:])
            plain = replace(fixture, read_back=None, proven=None)
            made.append(replace(plain, set_to=SetTo(mode.name, patch, NOBODY)))
        return edits.with_places(replace(self.show, fixtures=tuple(made)))

    def touch(self, fixture_id: int, told: Mapping[str, object]) -> None:
        """Somebody changes something at a fixture: its address, the number of its mode, whether pan
        or tilt is turned. What is no number is passed over."""
        device = self.devices.get(fixture_id)
        if device is None:
            return
        for name in ("address", "personality", "pan_invert", "tilt_invert"):
            value = told.get(name)
            top = {"address": 512, "personality": len(device.personalities)}.get(name, 1)
            if isinstance(value, int) and (name.endswith("invert") or value >= 1) and value <= top:
                setattr(device, name, int(value))
                device.changed = True


def _may_pass(packet: Packet) -> bool:
    """Boxes search by themselves: they pass on questions and settings only."""
    return packet.command in (Command.GET, Command.SET)


def _hidden(show: Show) -> set[int]:
    """Fixtures behind what does not pass RDM."""
    found: set[int] = set()
    for line in show.lines:
        wiring = wiring_of(line)
        for stop in line.stops:
            if stop.device is not None and not stop.rdm:
                found.update(
                    held.fixture for held in wiring.behind(stop.id) if held.fixture is not None
                )
    return found
