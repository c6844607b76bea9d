"""The process that sends: it keeps the rate while pages are slow, and ends all streams by itself
when nobody is there.

It is told what to send on its standard input, one line of JSON after the other, and says on its
standard output how it goes, once a second. When the input ends, or says nothing for four seconds,
all goes to zero and the streams are ended; the log of the show says so, unless the end was asked
for.
"""

from __future__ import annotations

import json
import os
import signal
import sys
import threading
import time
from collections.abc import Iterable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any
from uuid import UUID

import click

from fence.core.model.box import Protocol, as_ip
from fence.core.model.errors import FenceError
from fence.wire.output import MULTICAST, Others, Output, Wanted, Way, keep_rate

OVER = '{"over": 1}'
"""The last line that is said: all streams are ended."""
PATIENCE = 4.0
"""Seconds without a word after which nobody is taken to be there any more."""


@click.command(name="output", hidden=True)
@click.option("--bind", required=True)
@click.option("--priority", type=click.IntRange(0, 200), required=True)
@click.option("--name", default="Fence")
@click.option("--cid", type=click.UUID, default=None)
@click.option("--db", type=click.Path(path_type=Path, dir_okay=False), required=True)
@click.option("--show", "show_id", type=int, required=True)
def output_command(
    bind: str, priority: int, name: str, cid: UUID | None, db: Path, show_id: int
) -> None:
    """Send what the standard input says, until it ends."""
    hand = Hand(Output(str(as_ip(bind)), name=name, priority=priority, cid=cid))
    # Ctrl+C goes to the server, which then ends this properly
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, hand.terminated)
    threading.Thread(target=hand.read, args=(lines_of(sys.stdin.fileno()),), daemon=True).start()
    keep_rate(hand.tick)
    hand.output.end()
    hand.others.close()
    with suppress(OSError, ValueError):
        print(OVER, flush=True)
    if not hand.asked_to_end:
        from fence.store.database import open_engine  # only here: it sends sooner without
        from fence.store.shows import ShowStore

        with suppress(FenceError):
            store = ShowStore(open_engine(db, create=False))
            store.tell(show_id, f"All out: {hand.reason}", who="Fence", origin="Prove")


class Hand:
    """What the sending process was told last, and whether anybody still speaks to it."""

    def __init__(self, output: Output) -> None:
        self.output = output
        self.others = Others(output.bind, output.cid)
        self.heard = time.monotonic()
        self.next_wanted: Wanted | None = None
        self.asked_to_end = self.ended = False
        self.reason = ""
        self.told = 0.0
        self.sent_before = 0

    def terminated(self, *_signal: object) -> None:
        """End it, as the handler of a signal."""
        self.reason, self.ended = "the process that sends was ended", True

    def read(self, lines: Iterable[bytes]) -> None:
        """Take in what is said until there is nothing more."""
        for line in lines:
            with suppress(ValueError, KeyError, TypeError):
                words = json.loads(line)
                if words.get("end"):
                    self.asked_to_end = True
                    break
                if "ways" in words:
                    self.next_wanted = wanted_of(words)
                self.heard = time.monotonic()
        self.reason = self.reason or "Fence itself has ended"
        self.ended = True

    def tick(self) -> bool:
        """Send a frame; False once it is over."""
        now = time.monotonic()
        if not self.ended and now - self.heard > PATIENCE:
            self.reason, self.ended = "Fence did not answer any more", True
        if self.ended:
            return False
        if self.next_wanted is not None:
            wanted, self.next_wanted = self.next_wanted, None
            self.output.want(wanted)
        self.output.tick()
        if now - self.told >= 1:
            rate = (
                (self.output.sent - self.sent_before)
                / max(1, len(self.output.streams))
                / (now - self.told)
            )
            self.told, self.sent_before = now, self.output.sent
            sent = sorted(
                {way.number for way in self.output.streams if way.protocol is Protocol.SACN}
            )
            self.others.listen(sent)
            told = {
                "rate": round(rate, 1),
                "problem": self.output.problem,
                "others": self.others.on(sent),
            }
            with suppress(OSError, ValueError):
                print(json.dumps(told), flush=True)
        return True


def lines_of(source: int) -> Iterator[bytes]:
    """The lines that come from a file descriptor, without a buffer that a thread could hold when
    the process ends."""
    held = b""
    while data := os.read(source, 65536):
        *lines, held = (held + data).split(b"\n")
        yield from lines


def wanted_of(words: dict[str, Any]) -> Wanted:
    """What is to be sent, from a line."""
    ways = tuple(
        Way(
            int(one["universe"]),
            Protocol(one["protocol"]),
            _checked(str(one["to"])),
            int(one["number"]),
            one.get("broadcast") is True,
        )
        for one in words["ways"]
    )
    levels = {
        int(universe): bytes.fromhex(text) for universe, text in words.get("levels", {}).items()
    }
    eased = {
        int(universe): frozenset(map(int, slots))
        for universe, slots in words.get("eased", {}).items()
    }
    return Wanted(ways, levels, eased)


def _checked(to: str) -> str:
    return to if to == MULTICAST else str(as_ip(to))
