"""Finding all on a line, compared with who is known to be on it."""

from __future__ import annotations

import math
from functools import reduce
from itertools import combinations
from operator import or_
from random import Random

import pytest

from fence.core.rdm.controller import ME
from fence.core.rdm.discovery import Search
from fence.core.rdm.packet import Identity, branch_answer, read_branch_answer
from fence.core.rdm.responder import Responder, SimulatedLine
from tests.core.rdm.lines import devices
from tests.examples import DEEP

LINES = 400 * DEEP
PARTS = 4
SIZES = [0, 1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 8, 8, 10, 12, 16, 20, 24, 32, 64]


def in_theory(count: int) -> float:
    """Packets for so many random identities on a line that loses nothing: a binary trie has 1.4427
    inner nodes a device on average, each a collision; a device takes a question, an answer to mute,
    and silence after it."""
    inner = count / math.log(2)
    return 3 + inner + 5 * count + 3 * max(0.0, inner * 2 - inner - count) + 3


@pytest.mark.parametrize("part", range(PARTS))
def test_all_are_found_and_nobody_else(part: int, capsys: pytest.CaptureFixture[str]) -> None:
    """Hundreds of random lines: 0 to 300 devices, near and far identities, losses, those that do
    not mute or do not say that they do."""
    chance = Random(part)
    packets = theory = count = 0.0
    for number in range(LINES // PARTS):
        size = 300 if number == 7 else chance.choice(SIZES)
        near, loss = chance.random() < 0.5, chance.choice([0, 0, 0.02, 0.05])
        made = devices(chance, size, near=near, bad=chance.choice([0, 0, 0, 0.05]))
        search = Search(SimulatedLine(made, chance, loss).send, ME)
        found = search.run()
        assert set(found) == {one.identity for one in made}, (part, number, size, near, loss)
        assert {one.identity for one in made if one.stubborn} <= search.stubborn
        assert not search.given_up
        if not near and not loss and not any(one.stubborn or one.shy for one in made):
            packets, theory, count = (
                packets + search.packets,
                theory + in_theory(size),
                count + size,
            )
    with capsys.disabled():
        print(
            f"\n{packets:.0f} packets for {count:.0f} devices on clean lines, {theory:.0f} in "
            "theory"
        )
    assert packets < 1.25 * theory


def mixed(*identities: Identity) -> bytes:
    """What is heard when these answer at once: each bit that one of them sends."""
    return bytes(
        reduce(or_, column) for column in zip(*map(branch_answer, identities), strict=True)
    )


class Strong(Random):
    """A line on which whoever pulls it up wins every bit."""

    def random(self) -> float:
        """Always the same side."""
        return 0.1


MAKER = 0x0010
GHOSTS = [
    (one, other, third)
    for maker in (0x7FF0, MAKER)
    for one, other in combinations([Identity(maker, number) for number in range(1, 49)], 2)
    if (third := read_branch_answer(mixed(one, other))) not in (None, one, other)
]
"""Two whose answers at once read as a third one's, with a right sum."""


@pytest.mark.parametrize("there", [False, True])
def test_what_reads_as_a_third_is_not_believed(there: bool) -> None:
    """Two answers at once can read as somebody else's: such as those of 7 and 14, which read as
    15's. Who does not acknowledge that it is muted is not found; who is there as well is found all
    the same. On lines that lose, too."""
    assert (Identity(MAKER, 7), Identity(MAKER, 14), Identity(MAKER, 15)) in GHOSTS
    assert len(GHOSTS) > 50
    met = 0
    for number, (one, other, third) in enumerate(GHOSTS):
        assert third is not None
        lines: list[tuple[Random, float]] = [(Strong(number), 0.0)]
        if number % 4 == 0 or DEEP > 1:
            lines.append((Random(number), 0.05))
        for chance, loss in lines:
            known = {one, other} | ({third} if there else set())
            line = SimulatedLine([Responder(identity) for identity in known], chance, loss)
            search = Search(line.send, ME)
            assert set(search.run()) == known, (one, other, third, loss)
            assert not search.given_up
            met += third in search.heard
    assert there or met >= len(GHOSTS)  # it was really heard, and not believed


def test_two_of_one_identity_are_found_as_one() -> None:
    """They answer alike, so that nobody can tell; the search comes to its end."""
    twin = [
        Responder(Identity(0x7FF0, 5)),
        Responder(Identity(0x7FF0, 5), address=40),
        Responder(Identity(0x7FF0, 9)),
    ]
    assert Search(SimulatedLine(twin, Random(1)).send, ME).run() == (
        Identity(0x7FF0, 5),
        Identity(0x7FF0, 9),
    )


def test_a_search_can_be_stopped() -> None:
    """It ends before the next branch, and says that it found no end."""
    search = Search(
        SimulatedLine(devices(Random(2), 40, near=False), Random(2)).send, ME, stop=lambda: True
    )
    assert search.run() == ()
    assert search.given_up
