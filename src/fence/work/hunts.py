"""Searches for hidden faults that are under way: one a learner, each with a process of its own that
alone knows what is wrong. No page waits longer for it than a moment."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from threading import Event, Lock, Thread
from typing import Any

from fence.core.model.errors import FenceError
from fence.core.model.show import Show
from fence.core.practising.hidden import Claim, Step
from fence.core.simulation.faults import Fault
from fence.core.troubleshooting.evidence import Check, Evidence
from fence.formats.show_json import write_show_json
from fence.standins.hidden import CHECK, CLAIM, EVIDENCE, STEPS, ask_hidden
from fence.standins.rig import FAULTS
from fence.work.child import Child

MOST_HUNTS = 6
START_SECONDS = 30.0
BIND = "127.0.0.1"
QUICK_SECONDS = 3.0
"""How long a page waits for what one check finds, at most."""
SLOW_SECONDS = 60.0
"""How long hiding faults, or going through a search, may take."""
MOST_DONE = 300


@dataclass(frozen=True, slots=True)
class Did:
    """Something that was done: a check with what it found, or a claim and whether it was right.
    ``minutes`` as they are reckoned."""

    minutes: float
    check: Check | None = None
    found: tuple[Evidence, ...] = ()
    claim: Claim | None = None
    right: bool = False
    words: str = ""


@dataclass
class Hunt:
    """A search under way. ``complaint`` is None until the rig stands; ``problem`` says why it does
    not. ``solved`` is None while it goes on; ``faults`` and ``steps`` are empty until it is over
    and has been told."""

    show: Show
    case: int | None = None
    title: str = ""
    complaint: Evidence | None = None
    problem: str = ""
    done: list[Did] = field(default_factory=list)
    solved: bool | None = None
    faults: tuple[Fault, ...] = ()
    steps: list[Step] = field(default_factory=list)
    told: bool = False
    kept: bool = False
    _port: int = 0
    _child: Child | None = None
    _up: Event = field(default_factory=Event)
    _lock: Lock = field(default_factory=Lock)

    @property
    def minutes(self) -> float:
        """All that was done, in minutes."""
        return sum(one.minutes for one in self.done)

    def begin(self, hide: int | Sequence[Fault]) -> None:
        """Start the process and have it hide faults of a level, or these, in a thread."""
        wanted = hide if isinstance(hide, int) else FAULTS.dump_python(tuple(hide), mode="json")
        Thread(target=self._begin, args=(wanted,), daemon=True, name="hidden rig").start()

    def _begin(self, hide: int | list[Any]) -> None:
        with TemporaryDirectory(prefix="fence-hidden-") as folder:
            path = Path(folder) / "show.json"
            path.write_text(write_show_json(self.show), encoding="utf-8")
            try:
                self._child = Child(
                    ["standin", "hidden", str(path)], self._hear, lambda child: self._up.set()
                )
            except OSError as error:
                self.problem = f"The rig cannot be started ({error.strerror or error})."
                return
            self._up.wait(START_SECONDS)
        if not self._port:
            self.problem = "The rig does not come up: start it once more."
            return
        told = ask_hidden(BIND, self._port, {"hide": hide}, seconds=SLOW_SECONDS) or {}
        if "complaint" not in told:
            self.problem = str(told.get("problem") or "The rig does not answer: start it anew.")
            self.end()
            return
        (self.complaint,) = EVIDENCE.validate_python(told["complaint"])

    def _hear(self, line: str) -> None:
        words = line.split()
        if len(words) == 2 and words[0] == "ready" and words[1].isdigit():
            self._port = int(words[1])
            self._up.set()

    def check(self, check: Check, minutes: float) -> Did:
        """Make a check; ``FenceError`` where there is nothing such, or no answer."""
        told = self._asked({"check": CHECK.dump_python(check, mode="json")})
        did = Did(minutes, check, EVIDENCE.validate_python(told["found"]))
        return self._note(did)

    def claim(self, claim: Claim, minutes: float) -> Did:
        """Say what is wrong and mend it: it is mended where that is so."""
        told = self._asked({"claim": CLAIM.dump_python(claim, mode="json")})
        return self._note(Did(minutes, claim=claim, right=bool(told["mended"])))

    def over(self, minutes: float) -> bool:
        """Say that all is in order: whether it is. If so the search is over."""
        right = not self._asked({"over": True})["left"]
        self._note(Did(minutes, words="over", right=right))
        if right:
            self._finish(solved=True)
        return right

    def give_up(self) -> None:
        """Have it told what was wrong."""
        self._finish(solved=False)

    def _finish(self, *, solved: bool) -> None:
        if self.solved is None:
            self.solved = solved
            Thread(target=self._reveal, daemon=True, name="hidden rig told").start()

    def _reveal(self) -> None:
        told = ask_hidden(BIND, self._port, {"reveal": True}, seconds=SLOW_SECONDS)
        if told and "faults" in told:
            self.faults = FAULTS.validate_python(told["faults"])
            self.steps = STEPS.validate_python(told["steps"])
        else:
            self.problem = "What was wrong cannot be told: the rig has ended."
        self.told = True
        self.end()

    def _asked(self, question: dict[str, Any]) -> dict[str, Any]:
        with self._lock:
            if self.solved is not None:
                raise FenceError("This search is over: begin another one.")
            if len(self.done) >= MOST_DONE:
                raise FenceError(f"{MOST_DONE} steps are enough: give up, or say what it is.")
            told = ask_hidden(BIND, self._port, question, seconds=QUICK_SECONDS)
        if told is None:
            raise FenceError("The rig does not answer: try once more, or begin anew.")
        if "problem" in told:
            raise FenceError(str(told["problem"]))
        return told

    def _note(self, did: Did) -> Did:
        self.done.append(did)
        return did

    def end(self) -> None:
        """End the process. Comes back at once."""
        if self._child is not None:
            self._child.end()
            Thread(target=self._child.bury, daemon=True, name="hidden rig end").start()

    def bury(self) -> None:
        """End it and wait for that: for the end of the server."""
        self.end()
        if self._child is not None:
            self._child.bury()


class Hunts:
    """The searches under way, by learner; so many at once, the one not used for longest ends."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._running: OrderedDict[str, Hunt] = OrderedDict()

    def of(self, learner: str) -> Hunt | None:
        """The search of somebody."""
        with self._lock:
            if learner in self._running:
                self._running.move_to_end(learner)
            return self._running.get(learner)

    def begin(self, learner: str, hunt: Hunt, hide: int | Sequence[Fault]) -> None:
        """Begin a search, in place of the one before."""
        with self._lock:
            ending = [self._running.pop(learner)] if learner in self._running else []
            while len(self._running) >= MOST_HUNTS:
                ending.append(self._running.popitem(last=False)[1])
            self._running[learner] = hunt
        for old in ending:
            old.end()
        hunt.begin(hide)

    def forget(self, learner: str) -> None:
        """End the search of somebody."""
        with self._lock:
            hunt = self._running.pop(learner, None)
        if hunt is not None:
            hunt.end()

    def end(self) -> None:
        """End all of them, and wait for that: for the end of the server."""
        with self._lock:
            ending = list(self._running.values())
            self._running.clear()
        for one in ending:
            one.bury()
