"""A fixture without a manual: what to try next, and the chart that follows from what was seen.

The sheet is a conversation. ``probe`` is given all answers so far and gives the next thing to try,
or what was found. It walks up the slots, each raised to full and left there, until several in a row
do nothing. Then it goes back to those that did nothing while it was dark, looks at the middle of
each channel, and finds where ranges begin by halving.
"""

from __future__ import annotations

import itertools
from collections.abc import Generator, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from fence.core.charts.vocabulary import EMITTERS
from fence.core.model.address import SLOTS
from fence.core.model.errors import ChartError
from fence.core.model.profile import Function
from fence.core.simulation.charted import Found, chart_of
from fence.core.simulation.sight import OPEN_WORDS, SMOOTH

NOTHING = "nothing"
HAIR = "a hair of "
BETWEEN, AS_FULL, AS_ZERO, ELSE = "in between", "as at 255", "as at 0", "something else"

PATIENCE_LIT = 5
"""Slots in a row that do nothing, once light was seen, before the sheet takes the fixture to end.
Practice."""
PATIENCE_DARK = 12
"""The same before any light was seen."""
SAMPLES = (0, 64, 128, 192, 255)
"""Levels at which a channel with steps is looked at before its steps are narrowed down."""

LIGHT = EMITTERS | {Function.DIMMER}

Answers = Generator["Ask", str, None]


class Kind(StrEnum):
    """What is asked: what changed, how the middle of a channel compares, or what it does at a
    level."""

    CHANGE = "change"
    MIDDLE = "middle"
    STEP = "step"


@dataclass(frozen=True, slots=True)
class Ask:
    """One thing to try: ``slot`` goes from ``before`` to ``level`` while ``held`` slots stay where
    they are.

    ``hint`` says what to watch; ``function`` is what the slot was found to be, where that is known.
    """

    kind: Kind
    slot: int
    before: int
    level: int
    held: tuple[tuple[int, int], ...]
    hint: str = ""
    function: Function | None = None
    choices: tuple[str, ...] = ()

    @property
    def frame(self) -> dict[int, int]:
        """All slots that are not at 0, by slot, with this one at its new level."""
        levels = {**dict(self.held), self.slot: self.level}
        return {slot: level for slot, level in sorted(levels.items()) if level}

    @property
    def frame_before(self) -> dict[int, int]:
        """The same before this slot moved."""
        return {
            slot: level
            for slot, level in {**dict(self.held), self.slot: self.before}.items()
            if level
        }

    @property
    def words(self) -> str:
        """What to do, as a sentence."""
        if self.kind is Kind.CHANGE:
            way = "Raise" if self.level > self.before else "Take"
            down = "" if self.level > self.before else " down"
            return f"{way} slot {self.slot}{down} from {self.before} to {self.level}. What changes?"
        if self.kind is Kind.MIDDLE:
            return f"Set slot {self.slot} to {self.level}. How does it compare with 0 and 255?"
        return f"Set slot {self.slot} to {self.level}. What does it do there?"


@dataclass(slots=True)
class _Sheet:
    """What is known so far."""

    held: dict[int, int] = field(default_factory=dict)
    found: dict[int, Function] = field(default_factory=dict)
    fine: set[int] = field(default_factory=set)
    silent: list[int] = field(default_factory=list)
    ranges: dict[int, list[tuple[int, str]]] = field(default_factory=dict)
    flashing: bool = False

    @property
    def lit(self) -> bool:
        return any(function in LIGHT for function in self.found.values())

    def record(self, slot: int, seen: str) -> None:
        """Note what a slot does, and leave it where it does not get in the way: light up, all else
        at 0."""
        if seen.startswith(HAIR):
            self.found[slot] = Function(seen.removeprefix(HAIR))
            self.fine.add(slot)
        else:
            self.found[slot] = Function(seen)
        lights = self.found[slot] in LIGHT and slot not in self.fine
        self.held[slot] = 255 if lights else 0
        if slot in self.silent:
            self.silent.remove(slot)

    def ask(
        self,
        kind: Kind,
        slot: int,
        before: int,
        level: int,
        hint: str = "",
        choices: Sequence[str] = (),
    ) -> Ask:
        held = tuple(sorted((other, at) for other, at in self.held.items() if other != slot and at))
        return Ask(kind, slot, before, level, held, hint, self.found.get(slot), tuple(choices))

    def change(self, slot: int, before: int, level: int, hint: str = "") -> Ask:
        hairs = tuple(
            f"{HAIR}{function}"
            for function in dict.fromkeys(self.found.values())
            if _may_be_fine(function)
        )
        return self.ask(Kind.CHANGE, slot, before, level, hint, (NOTHING, *_CHANGES, *hairs))


_CHANGES = tuple(
    str(function)
    for function in Function
    if function not in {Function.PIXEL, Function.OUTPUT, Function.SPEED}
)


def _may_be_fine(function: Function) -> bool:
    return function in SMOOTH | {Function.DIMMER} | EMITTERS


def probe(answers: Sequence[str]) -> Ask | Found:
    """The next thing to try after these answers, or what was found.

    Raises ``ChartError`` for an answer that was not offered.
    """
    sheet = _Sheet()
    steps = _script(sheet)
    used = 0
    try:
        ask = next(steps)
        for answer in answers:
            if ask.kind is not Kind.STEP and answer not in ask.choices:
                raise ChartError(
                    f"“{answer[:60]}” is not an answer here. Accepted: {', '.join(ask.choices)}."
                )
            used += 1
            ask = steps.send(answer.strip()[:200])
    except StopIteration:
        return chart_of(sheet.found, sheet.fine, sheet.ranges, used)
    return ask


def _script(sheet: _Sheet) -> Answers:
    yield from _walk(sheet)
    yield from _go_back(sheet)
    yield from _try_in_context(sheet)
    for slot in sorted(sheet.found):
        if slot not in sheet.fine:
            yield from _levels(sheet, slot)


def _walk(sheet: _Sheet) -> Answers:
    slot = quiet = 0
    while slot < SLOTS and quiet < (PATIENCE_LIT if sheet.lit else PATIENCE_DARK):
        slot += 1
        seen = yield sheet.change(slot, 0, 255, "All slots before it stay as they are.")
        quiet += 1
        if seen == NOTHING:
            sheet.silent.append(slot)
            sheet.held[slot] = 255
            continue
        quiet = 0
        if seen == Function.SHUTTER and sheet.silent:
            yield from _whose_flash(sheet, slot)
        else:
            sheet.record(slot, seen)


def _whose_flash(sheet: _Sheet, slot: int) -> Answers:
    """It flashes: this slot may do it, or it only brought the light to one that was raised in the
    dark."""
    seen = yield sheet.change(
        slot, 255, 0, "Is it this slot that flashes, or did it bring the light?"
    )
    if seen == NOTHING or Function(seen.removeprefix(HAIR)) not in LIGHT:
        sheet.record(slot, str(Function.SHUTTER))
        return
    sheet.record(slot, seen)
    for earlier in list(sheet.silent):
        seen = yield sheet.change(earlier, 255, 0, "Looking for the slot that makes it flash.")
        if seen != NOTHING:
            sheet.record(earlier, seen)
        if seen == Function.SHUTTER:
            return
    if sheet.found[slot] is Function.DIMMER:
        sheet.found[slot] = Function.SHUTTER


def _go_back(sheet: _Sheet) -> Answers:
    """Slots that did nothing before the last one that did something: they may have waited for
    it."""
    last = max(sheet.found, default=0)
    for slot in [slot for slot in sheet.silent if slot < last]:
        seen = yield sheet.change(
            slot, 255, 0, "It did nothing when it was raised; the light may have been missing."
        )
        if seen != NOTHING:
            sheet.record(slot, seen)
    yield from _same_light(sheet)


def _same_light(sheet: _Sheet) -> Answers:
    """The slot that first brought light may be the dimmer of a colour that was up, so look again in
    full light."""
    firsts = [
        slot
        for slot, function in sheet.found.items()
        if function in EMITTERS and slot not in sheet.fine
    ]
    if not firsts or any(function is Function.DIMMER for function in sheet.found.values()):
        return
    twice = [slot for slot in firsts if list(sheet.found.values()).count(sheet.found[slot]) > 1]
    for slot in twice[:2]:
        seen = yield sheet.change(
            slot, 255, 0, "Two slots seem to do the same: is this one all the light?"
        )
        if seen == Function.DIMMER:
            sheet.record(slot, seen)


def _try_in_context(sheet: _Sheet) -> Answers:
    """Slots that did nothing alone: the fine byte of a dimmer, or the speed of something that must
    first move."""
    programs = [
        slot
        for slot, function in sheet.found.items()
        if function in {Function.PROGRAM, Function.SOUND}
    ]
    moves = [
        slot for slot, function in sheet.found.items() if function in {Function.PAN, Function.TILT}
    ]
    for slot in list(sheet.silent):
        if slot > max(sheet.found, default=0) + 1:
            return
        sheet.held[slot] = 0
        before = slot - 1
        if sheet.found.get(before) in LIGHT and before not in sheet.fine:
            kept, sheet.held[before] = sheet.held[before], 0
            seen = yield sheet.change(
                slot, 0, 255, f"With slot {before} at 0, in the dark: look for the faintest glow."
            )
            sheet.held[before] = kept
            if seen != NOTHING:
                # alone in the dark, whatever light it gives is the fine part of the slot before
                sheet.record(slot, f"{HAIR}{sheet.found[before]}")
                continue
        if programs and (last := max(programs)) < slot:
            sheet.held[last] = 255
            seen = yield sheet.change(
                slot, 0, 255, f"Slot {last} is at 255, so that it runs by itself."
            )
            sheet.held[last] = 0
            if seen != NOTHING:
                sheet.record(slot, seen)
                continue
        if moves and min(moves) < slot:
            hint = (
                f"Then send slot {min(moves)} from 0 to 255 and back: does it move in another time?"
            )
            choices = (NOTHING, str(Function.SPEED))
            seen = yield sheet.ask(Kind.CHANGE, slot, 0, 255, hint, choices)
            if seen != NOTHING:
                sheet.record(slot, seen)


def _levels(sheet: _Sheet, slot: int) -> Answers:
    function = sheet.found[slot]
    if function in LIGHT | SMOOTH | {Function.FUNCTION_SPEED, Function.SPEED}:
        if function in {Function.FUNCTION_SPEED, Function.SPEED}:
            return
        choices = (BETWEEN, AS_FULL, AS_ZERO, ELSE)
        seen = yield sheet.ask(Kind.MIDDLE, slot, sheet.held.get(slot, 0), 128, "", choices)
        if seen == BETWEEN:
            return
        if function is Function.DIMMER:
            sheet.found[slot] = Function.SHUTTER
    known: dict[int, str] = {}
    for level in SAMPLES:
        known[level] = yield sheet.ask(Kind.STEP, slot, 0, level, "", _words_so_far(known))
    for low, high in itertools.pairwise(SAMPLES):
        yield from _halve(sheet, slot, low, high, known)
    sheet.ranges[slot] = _steps(known)
    if sheet.found[slot] is Function.SHUTTER:
        steady = [
            level for level, words in sorted(known.items()) if words.lower().startswith(OPEN_WORDS)
        ]
        sheet.held[slot] = steady[-1] if steady else sheet.held.get(slot, 0)


def _halve(sheet: _Sheet, slot: int, low: int, high: int, known: dict[int, str]) -> Answers:
    """Ask in the middle until neighbours are known on both sides of every change."""
    if known[low] == known[high] or high - low == 1:
        return
    middle = (low + high) // 2
    known[middle] = yield sheet.ask(
        Kind.STEP, slot, 0, middle, f"Between {low} and {high}.", _words_so_far(known)
    )
    yield from _halve(sheet, slot, low, middle, known)
    yield from _halve(sheet, slot, middle, high, known)


def _words_so_far(known: dict[int, str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(words for words in known.values() if words))


def _steps(known: dict[int, str]) -> list[tuple[int, str]]:
    """The level at which each range begins, and its words."""
    steps: list[tuple[int, str]] = []
    for level, words in sorted(known.items()):
        if not steps or steps[-1][1] != words:
            steps.append((level, words))
    return steps
