"""Holding devices as they stand: what was changed at one is noticed, and put back or told."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fence.core.rdm.controller import Controller
from fence.core.rdm.device_info import FLAGS, DeviceInfo, heard_again
from fence.core.rdm.packet import Parameter


class Rule(StrEnum):
    """What is done about a change at a fixture."""

    PUT_BACK = "put back"
    TELL = "tell"


@dataclass(frozen=True, slots=True)
class Change:
    """One thing that was changed: what, as it was held, as it is now; both in words."""

    what: str
    before: str
    now: str

    def __str__(self) -> str:
        return f"{self.what} {self.before} → {self.now}"


WORDS = {"display_invert": "display", "pan_invert": "pan", "tilt_invert": "tilt"}


def changes(held: DeviceInfo, now: DeviceInfo) -> tuple[Change, ...]:
    """What is different at a device from how it is held."""
    found = []
    if now.personality != held.personality:
        names = {one.number: one.name for one in held.personalities}
        found.append(
            Change(
                "mode",
                names.get(held.personality) or str(held.personality),
                names.get(now.personality) or str(now.personality),
            )
        )
    if now.address != held.address:
        found.append(Change("address", _slot(held.address), _slot(now.address)))
    for name, words in WORDS.items():
        before, after = getattr(held, name), getattr(now, name)
        if before is not None and after is not None and before != after:
            found.append(Change(words, _way(before), _way(after)))
    return tuple(found)


def _slot(address: int | None) -> str:
    return "none" if address is None else f"{address:03d}"


def _way(inverted: bool) -> str:
    return "turned" if inverted else "straight"


def put_back(talk: Controller, held: DeviceInfo, now: DeviceInfo) -> DeviceInfo:
    """Set a device to how it is held, and hear what it says then. Raises ``RdmError``."""
    if now.personality != held.personality:
        talk.set(held.identity, Parameter.PERSONALITY, bytes((held.personality,)))
    if held.address is not None:  # also after a mode, for some move with it
        talk.set(held.identity, Parameter.START_ADDRESS, held.address.to_bytes(2))
    for name, parameter in FLAGS.items():
        before, after = getattr(held, name), getattr(now, name)
        if before is not None and before != after:
            talk.set(held.identity, parameter, bytes((before,)))
    return heard_again(talk, now)
