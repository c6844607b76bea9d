"""Talking: packets of a search against the theory, and the order in which a whole line is set.

Ratios within one run: packets a device to those of a binary trie, steps to devices, ways round to
direct ones.
"""

from __future__ import annotations

import math
from random import Random
from time import perf_counter

from fence.core.rdm.controller import ME
from fence.core.rdm.course import Course, Goal, Stand
from fence.core.rdm.discovery import Search
from fence.core.rdm.packet import HIGHEST, Identity, identity_of
from fence.core.rdm.responder import Responder, SimulatedLine


def search(count: int) -> None:
    """A clean line with so many devices from all over."""
    chance = Random(count)
    made = [Responder(identity_of(chance.randrange(HIGHEST + 1))) for _ in range(count)]
    begin = perf_counter()
    found = Search(SimulatedLine(made, chance).send, ME)
    found.run()
    inner = count / math.log(2)
    print(
        f"{count} devices: {found.packets} packets, {found.packets / count:.1f} a device, "
        f"{found.collisions} collisions"
        f" ({inner:.0f} in theory), {perf_counter() - begin:.2f} s of reckoning"
    )


def order(count: int) -> None:
    """A full line turned round: everybody goes where somebody else is."""
    length = 512 // (count + 1)
    stands = {(Identity(1, n), 0): Stand(1, 1, length, 1 + n * length) for n in range(count)}
    goals = {
        (Identity(1, n), 0): Goal(
            Identity(1, n), address=1 + (count - 1 - n) * length, footprint=length
        )
        for n in range(count)
    }
    begin = perf_counter()
    course, steps, parked = Course(stands, goals), 0, 0
    while (step := course.next_step()) is not None:
        course.took(step)
        steps, parked = steps + 1, parked + step.parks
    spent = perf_counter() - begin
    print(
        f"{count} turned round: {steps} steps ({steps / count:.2f} each), {parked} by a gap, "
        f"{spent * 1000:.0f} ms"
    )


def main() -> None:
    """Print the figures."""
    for count in (10, 100, 300):
        search(count)
    for count in (10, 50, 170):
        order(count)


if __name__ == "__main__":
    main()
