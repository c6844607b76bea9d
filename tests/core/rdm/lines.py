"""Lines to talk on, made by chance."""

from __future__ import annotations

from random import Random

from fence.core.rdm.controller import Controller
from fence.core.rdm.device_info import DeviceInfo, hear_out
from fence.core.rdm.packet import HIGHEST, Identity, identity_of
from fence.core.rdm.responder import PersonalityKept, Responder, SimulatedLine


def devices(chance: Random, count: int, *, near: bool, bad: float = 0.0) -> list[Responder]:
    """So many devices, from all over or with identities near each other; a share of them answers
    badly."""
    identities: set[int] = set()
    while len(identities) < count:
        first = 0x7FF0 << 32
        identities.add(
            first + chance.randrange(3 * count + 5) if near else chance.randrange(HIGHEST + 1)
        )
    return [
        Responder(identity_of(one), stubborn=chance.random() < bad, shy=chance.random() < bad)
        for one in sorted(identities)
    ]


def rig(
    chance: Random, count: int, *, loss: float = 0.0, heap: bool = False
) -> tuple[list[Responder], SimulatedLine]:
    """Devices with three modes, standing anywhere or in a heap at 1, on one line."""
    modes = tuple(PersonalityKept(f"mode {n}", chance.randint(1, 12)) for n in range(3))
    made = [
        Responder(
            Identity(0x7FF0, number + 1),
            "Wren",
            "Bud",
            personalities=modes,
            personality=1 if heap else chance.randint(1, 3),
            address=1 if heap else chance.choice([1, chance.randint(1, 500)]),
        )
        for number in range(count)
    ]
    return made, SimulatedLine(made, chance, loss)


def all_said(made: list[Responder], line: SimulatedLine, universe: int = 1) -> list[DeviceInfo]:
    """What all of them say."""
    talk = Controller(line.exchange, tries=12)
    return [hear_out(talk, one.identity, universe=universe) for one in made]
