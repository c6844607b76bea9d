"""A process that is told things and tells things, and for which nobody ever waits who speaks to
it."""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from subprocess import PIPE, Popen
from threading import Condition, Event, Thread
from typing import Any

COMMAND = (sys.executable, "-m", "fence.cli")
END_SECONDS = 1.5
"""How long a process may take to end properly; then it is ended the hard way."""
KILLED_SECONDS = 10.0
OVER = '{"over": 1}'
"""What a process says when its work is done, and only it itself is still there."""


class Child:
    """A command of Fence as a process of its own.

    What is told waits for a thread that writes: of states only the newest one. ``hear`` is called
    with each line that comes back, ``gone`` once when the process has ended, both in a thread of
    their own. ``over`` says that its work is done, ``ended`` that it is gone.
    """

    def __init__(
        self,
        words: Sequence[str],
        hear: Callable[[str], None] = lambda line: None,
        gone: Callable[[Child], None] = lambda child: None,
    ) -> None:
        self._process = Popen([*COMMAND, *words], stdin=PIPE, stdout=PIPE, text=True)
        self._news = Condition()
        self._state: str | None = None
        self._beat = self._ending = False
        self._hear, self._gone = hear, gone
        self.begun = self.heard = time.monotonic()
        self.spoke = False
        self.over, self.ended = Event(), Event()
        for act in (self._write, self._read):
            Thread(target=act, daemon=True, name=f"{words[0]} {act.__name__}").start()

    @property
    def pid(self) -> int:
        """The number of the process."""
        return self._process.pid

    @property
    def failed(self) -> bool:
        """Whether it ended in another way than it should."""
        return self._process.returncode != 0

    def tell(self, state: Mapping[str, Any]) -> None:
        """Tell it a state; one that was not written yet is forgotten."""
        with self._news:
            self._state = json.dumps(state)
            self._news.notify()

    def beat(self) -> None:
        """Tell it that somebody is there."""
        with self._news:
            self._beat = True
            self._news.notify()

    def end(self) -> None:
        """Tell it to end. Comes back at once; see ``ended``."""
        with self._news:
            self._ending = True
            self._news.notify()

    def kill(self) -> None:
        """End it the hard way, also while it stands still."""
        with suppress(OSError):
            self._process.kill()

    def bury(self) -> bool:
        """See that it ends, the hard way if need be; whether it ended properly. Takes time: not for
        a page."""
        self.end()
        if not self.ended.wait(END_SECONDS):
            self.kill()
            self.ended.wait(KILLED_SECONDS)
        return not self.failed

    def _write(self) -> None:
        stream = self._process.stdin
        assert stream is not None
        with suppress(OSError, ValueError):
            while True:
                with self._news:
                    self._news.wait_for(
                        lambda: self._state is not None or self._beat or self._ending
                    )
                    lines = [self._state or "", '{"beat": 1}' if self._beat else ""]
                    self._state, self._beat = None, False
                    over = self._ending
                if over:
                    lines = ['{"end": 1}']
                stream.write("".join(f"{line}\n" for line in lines if line))
                stream.flush()
                if over:
                    break
        with suppress(OSError, ValueError):
            stream.close()

    def _read(self) -> None:
        stream = self._process.stdout
        assert stream is not None
        with suppress(OSError, ValueError):
            for line in stream:
                self.heard, self.spoke = time.monotonic(), True
                if line.strip() == OVER:
                    self.over.set()
                self._hear(line)
        self._process.wait()
        self.end()  # so that the thread that writes ends, too
        with suppress(OSError, ValueError):
            stream.close()
        self.ended.set()
        self.over.set()
        self._gone(self)
