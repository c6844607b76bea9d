"""Finding who is on a line by branches [ANSI E1.20, 7].

Everybody whose identity lies in a branch answers at once. One answer alone can be read: it is
muted, and the branch asked again. Several at once are rubbish: the branch is split. Silence is only
believed when it was heard several times, since lines swallow packets.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from fence.core.rdm.packet import (
    EVERYBODY,
    HIGHEST,
    Command,
    Identity,
    Packet,
    Parameter,
    branch,
    build,
    read,
    read_branch_answer,
)

Wire = Callable[[bytes], bytes]
"""Sends a packet over the line and gives what is heard after it; nothing for silence."""
SILENCES = 3
"""How often nothing must be heard before a branch is taken to be empty."""
TRIES = 8
"""How often one device is told to mute before it is taken not to."""
MOST_PACKETS = 200_000


@dataclass
class Search:
    """A search and what it has found: ``stubborn`` are those that go on answering though they were
    muted, or do not say that they are; ``packets`` how many were sent, ``collisions`` how often
    several answered at once. ``given_up`` says that it was stopped, or found no end. ``stop`` is
    asked before every branch."""

    wire: Wire
    me: Identity
    stop: Callable[[], bool] = lambda: False
    found: set[Identity] = field(default_factory=set)
    stubborn: set[Identity] = field(default_factory=set)
    heard: set[Identity] = field(default_factory=set)
    packets: int = 0
    collisions: int = 0
    given_up: bool = False

    def run(self) -> tuple[Identity, ...]:
        """Find all, in the order of their identities.

        The whole is gone through again as long as that finds somebody new: who was not heard in a
        half is then.
        """
        for _ in range(SILENCES):
            self._send(Packet(EVERYBODY, self.me, Command.DISCOVER, Parameter.UN_MUTE))
        known = -1
        while known < len(self.found) and not self.given_up:
            known = len(self.found)
            self._all_branches()
        for identity in sorted(self.heard - self.found):
            if self._answers_alone(identity):
                self.found.add(identity)
                self.stubborn.add(identity)
        return tuple(sorted(self.found))

    def _all_branches(self) -> None:
        waiting = [(0, HIGHEST)]
        while waiting:
            if self.stop() or self.packets > MOST_PACKETS:
                self.given_up = True
                return
            low, high = waiting.pop()
            if self._several_in(low, high) and low < high:
                middle = (low + high) // 2
                waiting += [(middle + 1, high), (low, middle)]

    def _several_in(self, low: int, high: int) -> bool:
        """Take out those of a branch who answer alone, until nobody does; whether there are some
        that do not."""
        silences = 0
        while silences < SILENCES:
            heard = self._send(branch(low, high, self.me))
            if not heard:
                silences += 1
                continue
            identity = read_branch_answer(heard)
            if identity is None or not low <= identity.number <= high:
                self.collisions += 1
                return True
            silences = 0
            if identity in self.found:  # it was muted, and would answer for ever
                self.stubborn.add(identity)
                return True
            self.heard.add(identity)
            # an answer by chance, or somebody who does not hear: look closer
            if not self._mute(identity):
                return True
            self.found.add(identity)
        return False

    def _mute(self, identity: Identity) -> bool:
        for _ in range(TRIES):
            heard = read(self._send(Packet(identity, self.me, Command.DISCOVER, Parameter.MUTE)))
            if heard is not None and (heard.sender, heard.parameter) == (identity, Parameter.MUTE):
                return True
        return False

    def _answers_alone(self, identity: Identity) -> bool:
        """Whether one that was heard, and did not say that it is muted, answers when it alone is
        asked for."""
        for _ in range(TRIES):
            self._send(Packet(identity, self.me, Command.DISCOVER, Parameter.UN_MUTE))
            number = identity.number
            if read_branch_answer(self._send(branch(number, number, self.me))) == identity:
                return True
        return False

    def _send(self, packet: Packet) -> bytes:
        self.packets += 1
        return self.wire(build(packet))
