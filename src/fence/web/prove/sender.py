"""What Fence sends now, by a process of its own; and the practice rigs, each a process of its own, too.

The sending process is told every second that somebody is there. It ends all streams by itself when that stops: when the
server is killed, hangs or ends. When no browser has looked for a while the server ends them.
"""

from __future__ import annotations

import json
import subprocess
import sys
import time
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from ipaddress import IPv4Address
from pathlib import Path
from secrets import randbelow
from tempfile import TemporaryDirectory
from threading import Lock, Thread
from typing import Any

from fence.core.words.errors import FenceError
from fence.formats.show_json import write_show_json
from fence.standins.rig import ask
from fence.store.shows import SavedShow
from fence.wire.output import LOW_PRIORITY, MULTICAST, Way

COMMAND = (sys.executable, "-m", "fence.cli")
NOBODY_SECONDS = 20.0
"""After so long without a page that looks, all goes out."""
BEAT_SECONDS = 1.0
MOST_RIGS = 4
END_SECONDS = 5


@dataclass(frozen=True, slots=True)
class Sending:
    """What is sent now: of which show, where to in words, how many frames a second, what does not work,
    and who else sends the same universes (number, name, priority)."""

    show_id: int
    where: str
    universes: tuple[int, ...]
    rate: float
    problem: str
    others: tuple[tuple[int, str, int], ...] = ()


class Sender:
    """Sends for one show at a time. ``tell`` writes to the log of a show when an end was not asked for."""

    def __init__(self, database: Path, tell: Callable[[int, str], None]) -> None:
        self._database, self._tell = database, tell
        self._lock = Lock()
        self._process: subprocess.Popen[str] | None = None
        self._show_id, self._where = 0, ""
        self._ways: tuple[Way, ...] = ()
        self.levels: dict[int, bytes] = {}
        self._touched = self._rate = 0.0
        self._problem = ""
        self._others: tuple[tuple[int, str, int], ...] = ()

    @property
    def now(self) -> Sending | None:
        """What is sent; None for nothing."""
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                return None
            universes = tuple(sorted({way.universe for way in self._ways}))
            return Sending(self._show_id, self._where, universes, self._rate, self._problem, self._others)

    def touch(self) -> None:
        """Somebody looks."""
        self._touched = time.monotonic()

    def send(
        self,
        show_id: int,
        where: str,
        ways: Sequence[Way],
        levels: Mapping[int, bytes],
        eased: Mapping[int, frozenset[int]] | None = None,
    ) -> None:
        """Send these levels on these ways from now on, and nothing else."""
        if not ways:
            raise FenceError("There is nowhere to send to: confirm an address, or take the practice rig.")
        self.touch()
        if (now := self.now) is not None and now.show_id != show_id:
            self.out()
        line = {
            "ways": [_way(way) for way in ways],
            "levels": {str(universe): bytes(held).hex() for universe, held in levels.items()},
            "eased": {str(universe): sorted(slots) for universe, slots in (eased or {}).items()},
        }
        with self._lock:
            if self._process is not None and self._process.poll() is not None:
                _wait_for(self._process)
                self._process = None
            if self._process is None:
                self._start(show_id, ways)
            self._show_id, self._where, self._ways = show_id, where, tuple(ways)
            self.levels = {universe: bytes(held) for universe, held in levels.items()}
            self._say(line)

    def _start(self, show_id: int, ways: Sequence[Way]) -> None:
        """Start the process; the lock is held. What goes to this machine only is sent from it alone."""
        inside = all(way.to != MULTICAST and IPv4Address(way.to).is_loopback for way in ways)
        place = ["output", "--bind", "127.0.0.1" if inside else "0.0.0.0", "--priority", str(LOW_PRIORITY)]
        self._rate, self._problem, self._others = 0.0, "", ()
        self._process = subprocess.Popen(
            [*COMMAND, *place, "--db", str(self._database), "--show", str(show_id)],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        Thread(target=self._listen, args=(self._process,), daemon=True).start()
        Thread(target=self._beat, args=(self._process,), daemon=True).start()

    def _say(self, line: Mapping[str, Any]) -> None:
        process = self._process
        if process is not None and process.stdin is not None:
            with suppress(OSError, ValueError):
                process.stdin.write(json.dumps(line) + "\n")
                process.stdin.flush()

    def _listen(self, process: subprocess.Popen[str]) -> None:
        for line in process.stdout or ():
            with suppress(ValueError, TypeError):
                words = json.loads(line)
                self._rate, self._problem = float(words["rate"]), str(words["problem"])
                self._others = tuple((int(u), str(name), int(prio)) for u, name, prio in words["others"])

    def _beat(self, process: subprocess.Popen[str]) -> None:
        while process.poll() is None and process is self._process:
            if time.monotonic() - self._touched > NOBODY_SECONDS:
                show_id = self._show_id
                self.out()
                with suppress(FenceError):
                    self._tell(show_id, f"All out: no browser looked for {NOBODY_SECONDS:.0f} s")
                return
            with self._lock:
                self._say({"beat": 1})
            time.sleep(BEAT_SECONDS)

    def out(self) -> None:
        """All levels to zero, all streams ended, nothing more."""
        with self._lock:
            process, self._process = self._process, None
            self.levels, self._ways = {}, ()
            if process is None:
                return
            with suppress(OSError, ValueError):
                assert process.stdin is not None
                process.stdin.write('{"end": 1}\n')
                process.stdin.close()
        _wait_for(process)


def _way(way: Way) -> dict[str, Any]:
    """A way out as the sending process is told it."""
    return {"universe": way.universe, "protocol": str(way.protocol), "to": way.to, "number": way.number}


@dataclass
class Practice:
    """A running practice rig: where it listens, and the port at which it is asked."""

    process: subprocess.Popen[str]
    bind: str
    port: int


class PracticeRigs:
    """The practice rigs that are running, by show; so many at once, the one not used for longest ends."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._running: OrderedDict[str, Practice] = OrderedDict()

    def of(self, saved: SavedShow) -> Practice | None:
        """The rig of a show, if it runs."""
        with self._lock:
            found = self._running.get(saved.key)
            return found if found is not None and found.process.poll() is None else None

    def start(self, saved: SavedShow, faults: Sequence[str] = ()) -> Practice:
        """Start the rig of a show as it stands now, anew if it runs; ``FenceError`` where it does not come up."""
        bind = f"127.{64 + randbelow(60)}.{randbelow(250)}.{1 + randbelow(250)}"  # so that two rigs do not meet
        with self._lock:
            if (old := self._running.pop(saved.key, None)) is not None:
                _ended(old)
            while len(self._running) >= MOST_RIGS:
                _ended(self._running.popitem(last=False)[1])
            with TemporaryDirectory(prefix="fence-practice-") as folder:
                path = Path(folder) / "show.json"
                path.write_text(write_show_json(saved.show), encoding="utf-8")
                options = [word for fault in faults for word in ("--fault", fault)]
                process = subprocess.Popen(
                    [*COMMAND, "standin", "rig", str(path), "--bind", bind, "--tell", "0", "--with-parent", *options],
                    stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
                )  # fmt: skip
                assert process.stdout is not None
                words = process.stdout.readline().split()
            if len(words) != 2 or words[0] != "ready":
                process.kill()
                _wait_for(process)
                raise FenceError("The practice rig does not come up: its port on loopback is taken.")
            made = self._running[saved.key] = Practice(process, bind, int(words[1]))
            return made

    def state(self, saved: SavedShow) -> dict[str, Any] | None:
        """What the rig of a show does now; None where it does not run."""
        found = self.of(saved)
        return ask(found.bind, found.port, seconds=1.0) if found else None

    def put(self, saved: SavedShow, faults: Sequence[str]) -> None:
        """Put these faults on the rig, instead of those there are."""
        if (found := self.of(saved)) is not None:
            ask(found.bind, found.port, faults)

    def end(self) -> None:
        """End all of them."""
        with self._lock:
            while self._running:
                _ended(self._running.popitem()[1])


def _ended(practice: Practice) -> None:
    with suppress(OSError):
        practice.process.terminate()
    _wait_for(practice.process)


def _wait_for(process: subprocess.Popen[str]) -> None:
    """Wait until a process has ended, and end it the hard way where it takes too long; close what led to it."""
    try:
        process.wait(timeout=END_SECONDS)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()
    for stream in (process.stdin, process.stdout):
        if stream is not None:
            with suppress(OSError, ValueError):
                stream.close()
