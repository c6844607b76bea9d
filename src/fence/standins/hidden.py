"""A rig with hidden faults, as a process of its own: it alone knows them until they are found or
given up. It answers one question a connection, a line of JSON each way, on loopback."""

from __future__ import annotations

import json
import socket
from collections.abc import Callable, Mapping
from contextlib import suppress
from random import SystemRandom
from threading import Event
from typing import Any

from pydantic import TypeAdapter

from fence.core.model.errors import FenceError
from fence.core.model.show import Show
from fence.core.practising.hidden import Claim, Hidden, Step, draw, search_for
from fence.core.simulation.faults import Fault
from fence.core.troubleshooting.evidence import Check, Evidence
from fence.standins.rig import FAULTS

LONGEST_QUESTION = 20_000
ANSWER_SECONDS = 1.0
TICK = 0.2
MOST_FAULTS = 5
EVIDENCE = TypeAdapter(tuple[Evidence, ...])
STEPS = TypeAdapter(list[Step])
CHECK, CLAIM = TypeAdapter(Check), TypeAdapter(Claim)


class HiddenRig:
    """The rig. ``serve`` answers until it is stopped."""

    def __init__(self, show: Show) -> None:
        self.show = show
        self.faults: tuple[Fault, ...] = ()
        self.hidden = Hidden(show, ())
        self.begun: Evidence | None = None
        self.stopped = Event()

    def serve(self, ready: Callable[[int], None], bind: str = "127.0.0.1") -> None:
        """Listen at a free port, which is told to ``ready``."""
        with socket.create_server((bind, 0)) as asked:
            asked.settimeout(TICK)
            ready(asked.getsockname()[1])
            while not self.stopped.is_set():
                try:
                    line, _ = asked.accept()
                except TimeoutError:
                    continue
                with line, suppress(OSError, ValueError):
                    self._answer(line)

    def stop(self) -> None:
        """Let it end within a moment."""
        self.stopped.set()

    def _answer(self, line: socket.socket) -> None:
        line.settimeout(ANSWER_SECONDS)
        words = json.loads(line.makefile("rb").readline(LONGEST_QUESTION) or b"{}")
        try:
            told = self.told(words if isinstance(words, dict) else {})
        except FenceError as error:
            told = {"problem": str(error)}
        line.settimeout(ANSWER_SECONDS)
        line.sendall(json.dumps(told).encode() + b"\n")

    def told(self, words: Mapping[str, Any]) -> dict[str, Any]:
        """The answer to a question: ``hide`` a level or faults, make a ``check``, hear a ``claim``,
        say whether all is ``over``, and ``reveal`` what it was."""
        if "hide" in words:
            return self._hide(words["hide"])
        if "check" in words:
            return {"found": _dumped(self.hidden.found(CHECK.validate_python(words["check"])))}
        if "claim" in words:
            mended = self.hidden.without(CLAIM.validate_python(words["claim"]))
            self.hidden = mended or self.hidden
            return {"mended": mended is not None}
        if "over" in words:
            return {"left": len(self.hidden.faults)}
        if "reveal" in words and self.begun is not None:
            steps = search_for(self.show, self.faults, self.begun)
            return {
                "faults": FAULTS.dump_python(self.faults, mode="json"),
                "steps": STEPS.dump_python(steps, mode="json"),
            }
        return {}

    def _hide(self, wanted: Any) -> dict[str, Any]:
        """Hide faults: those of a level, or those that are named. What is noticed is told."""
        if isinstance(wanted, list):
            self.faults = FAULTS.validate_python(wanted[:MOST_FAULTS])
        else:
            self.faults = draw(self.show, SystemRandom(), int(wanted))
        self.hidden = Hidden(self.show, self.faults)
        self.begun = self.hidden.complaint()
        if self.begun is None:
            raise FenceError("Nothing of these faults can be noticed on this rig.")
        return {"complaint": _dumped((self.begun,))}


def _dumped(found: tuple[Evidence, ...]) -> Any:
    return EVIDENCE.dump_python(found, mode="json")


def ask_hidden(
    bind: str, port: int, question: Mapping[str, Any], *, seconds: float
) -> dict[str, Any] | None:
    """What a hidden rig answers; None where it does not within so many seconds."""
    try:
        with socket.create_connection((bind, port), timeout=seconds) as line:
            line.settimeout(seconds)
            line.sendall(json.dumps(question).encode() + b"\n")
            answer = json.loads(line.makefile("rb").readline(5_000_000))
    except (OSError, ValueError):
        return None
    return answer if isinstance(answer, dict) else None
