"""The practice rigs that run, each a process of its own. No page waits for one to come up, or to
answer."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as NotYet
from pathlib import Path
from secrets import randbelow
from tempfile import TemporaryDirectory
from threading import Event, Lock, Thread
from typing import Any

from fence.core.model.errors import FenceError
from fence.core.simulation.faults import Fault
from fence.formats.show_json import write_show_json
from fence.standins.rig import FAULTS, ask
from fence.store.shows import SavedShow
from fence.work.child import Child

MOST_RIGS = 4
START_SECONDS = 30.0
"""How long one may take to come up."""
PAGE_SECONDS = 0.15
"""How long a page looks for what one says."""


class Practice:
    """A practice rig: where it listens, and from when on the port at which it is asked. ``problem``
    says why it did not come up."""

    def __init__(
        self,
        show: str,
        bind: str,
        faults: Sequence[str],
        put: Sequence[Fault] = (),
        *,
        hidden: bool = False,
    ) -> None:
        self.bind, self.port, self.problem = bind, 0, ""
        self.put, self.hidden = tuple(put), hidden
        self.up = Event()
        self._child: Child | None = None
        self._lock = Lock()
        self._over = False
        self._asked: Future[dict[str, Any] | None] | None = None
        Thread(target=self._start, args=(show, faults), daemon=True, name="practice rig").start()

    @property
    def runs(self) -> bool:
        """Whether it runs, or comes up."""
        return (
            not self._over
            and not self.problem
            and (self._child is None or not self._child.ended.is_set())
        )

    def _start(self, show: str, faults: Sequence[str]) -> None:
        with TemporaryDirectory(prefix="fence-practice-") as folder:
            path = Path(folder) / "show.json"
            path.write_text(show, encoding="utf-8")
            options = [word for fault in faults for word in ("--fault", fault)]
            if self.put:
                options += ["--put", FAULTS.dump_json(self.put).decode()]
            place = [
                "standin",
                "rig",
                str(path),
                "--bind",
                self.bind,
                "--tell",
                "0",
                "--with-parent",
                *options,
            ]
            try:
                child = Child(place, self._hear, lambda child: self.up.set())
            except OSError as error:
                self.problem = f"The practice rig cannot be started ({error.strerror or error})."
                self.up.set()
                return
            with self._lock:
                self._child = child
                over = self._over
            came = self.up.wait(START_SECONDS)
        if not came or not self.port:
            self.problem = (
                "The practice rig does not come up: its port on loopback is taken, or "
                "a fault is none."
            )
            over = True
        if over:
            child.kill()

    def _hear(self, line: str) -> None:
        words = line.split()
        if len(words) == 2 and words[0] == "ready" and words[1].isdigit():
            self.port = int(words[1])
            self.up.set()

    def wait(self, seconds: float = START_SECONDS) -> None:
        """Wait until it is up; ``FenceError`` where it does not come. Takes time: not for a
        page."""
        if not self.up.wait(seconds) or not self.port:
            raise FenceError(self.problem or "The practice rig does not come up.")

    def state(self, pool: ThreadPoolExecutor) -> dict[str, Any] | None:
        """What it does now, as far as it says so in a moment."""
        if not self.port or not self.runs:
            return None
        with self._lock:
            if self._asked is None or self._asked.done():
                self._asked = pool.submit(ask, self.bind, self.port, seconds=1.0)
            asked = self._asked
        try:
            return asked.result(PAGE_SECONDS)
        except NotYet:
            return None

    def end(self) -> None:
        """End it. Comes back at once."""
        with self._lock:
            self._over = True
            child = self._child
        if child is not None:
            child.end()
            Thread(target=child.bury, daemon=True, name="practice rig end").start()

    def bury(self) -> None:
        """End it and wait for that: for the end of the server."""
        self.end()
        if self._child is not None:
            self._child.bury()


class PracticeRigs:
    """The practice rigs that are running, by show; so many at once, the one not used for longest
    ends."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._running: OrderedDict[str, Practice] = OrderedDict()
        self._pool = ThreadPoolExecutor(MOST_RIGS, thread_name_prefix="practice rig asked")

    def of(self, saved: SavedShow) -> Practice | None:
        """The rig of a show, if it runs or comes up."""
        with self._lock:
            found = self._running.get(saved.key)
        return found if found is not None and found.runs else None

    def problem_of(self, saved: SavedShow) -> str:
        """Why the rig of a show did not come up; empty where it did."""
        with self._lock:
            found = self._running.get(saved.key)
        return found.problem if found is not None else ""

    def start(
        self,
        saved: SavedShow,
        faults: Sequence[str] = (),
        *,
        put: Sequence[Fault] = (),
        hidden: bool = False,
    ) -> Practice:
        """Start the rig of a show as it stands now, anew if it runs; it comes up in its own time.
        ``faults`` are as typed, ``put`` those that were clicked, which may be ``hidden``."""
        # so that two rigs do not meet
        bind = f"127.{64 + randbelow(60)}.{randbelow(250)}.{1 + randbelow(250)}"
        made = Practice(write_show_json(saved.show), bind, faults, put, hidden=hidden)
        with self._lock:
            ending = [self._running.pop(saved.key)] if saved.key in self._running else []
            while len(self._running) >= MOST_RIGS:
                ending.append(self._running.popitem(last=False)[1])
            self._running[saved.key] = made
        for old in ending:
            old.end()
        return made

    def state(self, saved: SavedShow) -> dict[str, Any] | None:
        """What the rig of a show does now; None where it does not run, or does not answer in a
        moment."""
        found = self.of(saved)
        return found.state(self._pool) if found else None

    def end(self) -> None:
        """End all of them, and wait for that: for the end of the server."""
        with self._lock:
            ending = list(self._running.values())
            self._running.clear()
        for one in ending:
            one.end()
        for one in ending:
            one.bury()
