"""Finding all on a line, compared with who is known to be on it."""

from __future__ import annotations

import math
from random import Random

import pytest

from fence.core.rdm.discovery import Search
from fence.core.rdm.packet import Identity
from fence.core.rdm.responder import Responder, SimulatedLine
from fence.core.rdm.talking import ME
from tests.core.rdm.lines import devices

LINES = 1000
SIZES = [0, 1, 1, 2, 2, 3, 3, 4, 5, 5, 6, 8, 8, 10, 12, 16, 20, 24, 32, 64]


def in_theory(count: int) -> float:
    """Packets for so many random identities on a line that loses nothing: a binary trie has 1.4427 inner nodes a
    device on average, each a collision; a device takes a question, an answer to mute, and silence after it."""
    inner = count / math.log(2)
    return 3 + inner + 5 * count + 3 * max(0.0, inner * 2 - inner - count) + 3


@pytest.mark.parametrize("part", range(4))
def test_all_are_found_and_nobody_else(part: int, capsys: pytest.CaptureFixture[str]) -> None:
    """A thousand random lines: 0 to 300 devices, near and far identities, losses, those that do not mute or do not
    say that they do."""
    chance = Random(part)
    packets = theory = count = 0.0
    for number in range(LINES // 4):
        size = 300 if number == 7 else chance.choice(SIZES)
        near, loss = chance.random() < 0.5, chance.choice([0, 0, 0.02, 0.05])
        made = devices(chance, size, near=near, bad=chance.choice([0, 0, 0, 0.05]))
        search = Search(SimulatedLine(made, chance, loss).send, ME)
        found = search.run()
        assert set(found) == {one.identity for one in made}, (part, number, size, near, loss)
        assert {one.identity for one in made if one.stubborn} <= search.stubborn
        assert not search.given_up
        if not near and not loss and not any(one.stubborn or one.shy for one in made):
            packets, theory, count = packets + search.packets, theory + in_theory(size), count + size
    with capsys.disabled():
        print(f"\n{packets:.0f} packets for {count:.0f} devices on clean lines, {theory:.0f} in theory")
    assert packets < 1.25 * theory


def test_two_of_one_identity_are_found_as_one() -> None:
    """They answer alike, so that nobody can tell; the search comes to its end."""
    twin = [Responder(Identity(0x7FF0, 5)), Responder(Identity(0x7FF0, 5), address=40), Responder(Identity(0x7FF0, 9))]
    assert Search(SimulatedLine(twin, Random(1)).send, ME).run() == (Identity(0x7FF0, 5), Identity(0x7FF0, 9))


def test_a_search_can_be_stopped() -> None:
    """It ends before the next branch, and says that it found no end."""
    search = Search(SimulatedLine(devices(Random(2), 40, near=False), Random(2)).send, ME, stop=lambda: True)
    assert search.run() == ()
    assert search.given_up
