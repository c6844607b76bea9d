"""Asking a device and being answered: what is lost is asked again, what comes later is waited for
[ANSI E1.20, 6]."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field, replace

from fence.core.model.errors import FenceError
from fence.core.rdm.packet import (
    REFUSED_BECAUSE,
    Answer,
    Command,
    Identity,
    Packet,
    Parameter,
    Refusal,
    read_identity,
)

ME = read_identity("7FF0:46454E43")
"""What Fence calls itself: a number out of those that are set aside for trying things out."""
TRIES = 4
MOST_WAITS = 8
LONGEST_WAIT = 2.0
TENTH = 0.1
MOST_KEPT = 8
"""Kept answers of a device that are fetched while the one that is waited for is not among them."""
LAST_ERRORS = b"\x04"
"""What is asked for where nothing is kept: errors alone, which are the fewest."""
MOST_PIECES = 20
"""Packets that one long answer may come in."""

LONG = frozenset({Parameter.SUPPORTED, Parameter.SLOT_INFO, Parameter.SLOT_DEFAULTS})
"""Answers that can be longer than a packet: one that was asked for again may begin in its
middle."""

Exchange = Callable[[Packet], Packet | None]
"""Sends a packet and gives the answer; None where none comes in time, or none that can be read."""


class RdmError(FenceError):
    """A device did not do what it was asked for."""


class UnansweredError(RdmError):
    """Nothing came back, or nothing that could be read."""


class RefusedError(RdmError):
    """The device answered that it will not; ``reason`` is its number for why."""

    def __init__(self, reason: int) -> None:
        self.reason = reason
        words = (
            REFUSED_BECAUSE[Refusal(reason)]
            if reason in set(Refusal)
            else f"its reason is number {reason}"
        )
        super().__init__(f"It refuses: {words}.")


@dataclass
class Controller:
    """A talk with the devices of one line. ``wait`` lets seconds pass; ``tries`` is how often one
    thing is asked."""

    exchange: Exchange
    wait: Callable[[float], None] = lambda seconds: None
    tries: int = TRIES
    asked: int = 0
    transaction: int = 0
    keeps_none: set[Identity] = field(default_factory=set)
    """Devices that keep no answers for later."""

    def get(self, to: Identity, parameter: int, data: bytes = b"", *, sub: int = 0) -> bytes:
        """What a device says; a long answer is put together. ``RdmError`` where it says nothing,
        or refuses."""
        for _ in range(self.tries):
            whole = self._pieces(Packet(to, ME, Command.GET, parameter, data, sub))
            if whole is not None:
                return whole
            with suppress(RdmError):  # another question, so that it begins the long answer anew
                self._ask(Packet(to, ME, Command.GET, Parameter.DEVICE_INFO))
        raise UnansweredError("Its long answer is broken off every time.")

    def _pieces(self, packet: Packet) -> bytes | None:
        """A long answer; None where a piece of it was lost on the way, for it cannot be asked for
        again."""
        whole = b""
        for _ in range(MOST_PIECES):
            answer, tries = self._ask(packet)
            if tries > 1 and packet.parameter in LONG:
                return None
            whole += answer.data
            if answer.port != Answer.MORE:
                return whole
        return whole

    def set(self, to: Identity, parameter: int, data: bytes = b"", *, sub: int = 0) -> None:
        """Set something at a device. ``UnansweredError`` means that it may have taken it, or
        not."""
        self._ask(Packet(to, ME, Command.SET, parameter, data, sub))

    def _ask(self, packet: Packet) -> tuple[Packet, int]:
        """The answer, and how often it was asked for."""
        tries, waits = 0, 0
        while tries < self.tries:
            self.asked += 1
            self.transaction = (self.transaction + 1) % 256
            asked = replace(packet, transaction=self.transaction)
            answer = self.exchange(asked)
            if answer is None or not _belongs(asked, answer):
                tries += 1
                continue
            if answer.port == Answer.TIMER and waits < MOST_WAITS:
                waits += 1
                self.wait(min(int.from_bytes(answer.data[:2]) * TENTH, LONGEST_WAIT))
                kept = self._kept(packet)
                if kept is None:
                    continue
                answer = kept
            if answer.port == Answer.REFUSED:
                raise RefusedError(int.from_bytes(answer.data[:2]))
            if answer.port in (Answer.ACK, Answer.MORE):
                return answer, tries + 1
            tries += 1
        raise UnansweredError("It does not answer.")

    def _kept(self, packet: Packet) -> Packet | None:
        """The answer that a device has kept for later, out of those that it has [ANSI E1.20, 6.3.1
        and 10.3.1]; None where it keeps none: then it is asked the same again."""
        if packet.to in self.keeps_none:
            return None
        for _ in range(MOST_KEPT):
            self.asked += 1
            self.transaction = (self.transaction + 1) % 256
            question = Packet(
                packet.to,
                ME,
                Command.GET,
                Parameter.QUEUED,
                LAST_ERRORS,
                0,
                transaction=self.transaction,
            )
            answer = self.exchange(question)
            if answer is None or (answer.sender, answer.to, answer.transaction) != (
                packet.to,
                ME,
                self.transaction,
            ):
                return None
            if answer.parameter == Parameter.QUEUED and answer.port == Answer.REFUSED:
                self.keeps_none.add(packet.to)
                return None
            if answer.parameter in (Parameter.QUEUED, Parameter.STATUS):
                return None
            same = (answer.command, answer.parameter, answer.sub_device) == (
                packet.command + 1,
                packet.parameter,
                packet.sub_device,
            )
            if (
                same
                and answer.port != Answer.TIMER
                and (
                    packet.command == Command.SET
                    or answer.data.startswith(packet.data)
                    or answer.port == Answer.REFUSED
                )
            ):
                return answer
        return None


def _belongs(asked: Packet, answer: Packet) -> bool:
    """Whether an answer is to this question: its sender, its command, its parameter and its
    number."""
    return (answer.sender, answer.to, answer.command, answer.parameter, answer.transaction) == (
        asked.to,
        asked.sender,
        asked.command + 1,
        asked.parameter,
        asked.transaction,
    )
