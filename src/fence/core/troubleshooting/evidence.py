"""What somebody saw, and what can be looked at: checks, their answers, and evidence."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fence.core.model.errors import EditError

MOST_EVIDENCE = 500
"""Pieces of evidence that one search takes; beyond that it is surely a slip."""


class Kind(StrEnum):
    """What is checked."""

    LOOK = "look"
    TESTER = "tester"
    POWER = "power"
    DISPLAY = "display"
    LISTENS = "listens"
    RDM = "rdm"
    NODE = "node"
    DESK = "desk"
    SWAP = "swap"


class Answer(StrEnum):
    """What a check can answer."""

    RIGHT = "right"
    DARK = "dark"
    OTHER_COLOUR = "other-colour"
    ANOTHER = "another"
    OWN_PROGRAM = "own-program"
    FLICKER = "flicker"
    SIGNAL = "signal"
    NO_SIGNAL = "no-signal"
    OTHER_UNIVERSE = "other-universe"
    ERRORS = "errors"
    ON = "on"
    OFF = "off"
    SAYS = "says"
    MODE = "mode"
    YES = "yes"
    NO = "no"
    ANSWERS = "answers"
    SILENT = "silent"
    SENDS = "sends"
    BLACKOUT = "blackout"
    HELPS = "helps"
    NO_CHANGE = "no-change"


ANSWERS: dict[Kind, tuple[Answer, ...]] = {
    Kind.LOOK: (
        Answer.RIGHT,
        Answer.DARK,
        Answer.OTHER_COLOUR,
        Answer.ANOTHER,
        Answer.OWN_PROGRAM,
        Answer.FLICKER,
    ),
    Kind.TESTER: (Answer.SIGNAL, Answer.NO_SIGNAL, Answer.OTHER_UNIVERSE, Answer.ERRORS),
    Kind.POWER: (Answer.ON, Answer.OFF),
    Kind.DISPLAY: (Answer.SAYS, Answer.MODE),
    Kind.LISTENS: (Answer.YES, Answer.NO),
    Kind.RDM: (Answer.ANSWERS, Answer.SILENT),
    Kind.NODE: (Answer.SAYS, Answer.OFF),
    Kind.DESK: (Answer.SENDS, Answer.BLACKOUT),
    Kind.SWAP: (Answer.HELPS, Answer.NO_CHANGE),
}
WITH_VALUE = {
    (Kind.LOOK, Answer.ANOTHER),
    (Kind.DISPLAY, Answer.SAYS),
    (Kind.DISPLAY, Answer.MODE),
    (Kind.NODE, Answer.SAYS),
}
"""The answers that say something more: whose light, which number, which mode."""
AT_A_FIXTURE = {Kind.LOOK, Kind.POWER, Kind.DISPLAY, Kind.LISTENS, Kind.RDM}
AT_A_STOP = {Kind.TESTER, Kind.SWAP}


@dataclass(frozen=True, slots=True, order=True)
class Check:
    """One thing to look at: a fixture by id, a device on a line, a port of a node by name, or the
    desk."""

    kind: Kind
    fixture: int = 0
    line: str = ""
    stop: int = 0
    box: str = ""
    port: int = 0

    @property
    def id(self) -> str:
        """A name for it, the same as long as the rig is."""
        place = (self.fixture or "", self.line, self.stop or "", self.box, self.port or "")
        return ":".join([str(self.kind), *(str(one) for one in place if one != "")])


@dataclass(frozen=True, slots=True)
class Evidence:
    """What a check answered. ``value`` is the fixture that lit (its id), an address, the name of a
    mode, or the number on a port."""

    check: Check
    answer: Answer
    value: str = ""

    def __post_init__(self) -> None:
        if self.answer not in ANSWERS[self.check.kind]:
            raise EditError(
                f"“{self.answer}” is not an answer of {self.check.kind}. "
                f"Use {', '.join(ANSWERS[self.check.kind])}."
            )
        if ((self.check.kind, self.answer) in WITH_VALUE) != bool(self.value):
            needs = "needs a value" if not self.value else "takes no value"
            raise EditError(f"{self.check.kind} {self.answer} {needs}.")
