"""What to ask next: Leitner’s boxes [S. Leitner, So lernt man lernen, 1972].

Every skill, a drill at a level, lies in a box from 1 to 5. A right answer puts it one box up, a
wrong one back to box 1. Practice goes in rounds: a round asks everything that is due, box 1 every
round, box 2 every second, box 3 every fourth, box 4 every eighth, box 5 every sixteenth. New skills
are begun a few a round, so that rounds stay short; a level is begun once the one below it has
reached box 3.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from fence.core.model.text import check_whole
from fence.core.practising.question import LEVELS

BOXES = 5
BEGUN_A_ROUND = 4
"""New skills that are begun in a round at most."""
ENOUGH = 3
"""The box from which on the next level of a drill is begun."""


@dataclass(frozen=True, slots=True)
class Skill:
    """A drill at a level."""

    drill: str
    level: int


@dataclass(frozen=True, slots=True)
class Held:
    """How well a skill is held: its box, the round in which it is due, how often it was asked and
    answered right, and the round in which it was begun."""

    box: int = 1
    due: int = 1
    asked: int = 0
    right: int = 0
    begun: int = 0

    def __post_init__(self) -> None:
        check_whole("box", self.box, 1, BOXES)
        check_whole("round", self.due, 0, 2**31)


@dataclass(frozen=True, slots=True)
class Progress:
    """How far somebody is: the round that is under way, from 1 on, and the skills begun."""

    round: int = 1
    skills: Mapping[Skill, Held] = field(default_factory=dict)


def interval(box: int) -> int:
    """Rounds until what lies in a box is asked again: 1, 2, 4, 8, 16."""
    return int(2 ** (box - 1))


def order_of(drills: Sequence[str]) -> list[Skill]:
    """All skills in the order in which they are begun: level by level."""
    return [Skill(drill, level) for level in LEVELS for drill in drills]


def due_now(progress: Progress, drills: Sequence[str]) -> list[Skill]:
    """What the round that is under way still asks: what is due, what waits longest first, then a
    few new skills. Empty once the round is done."""
    known = progress.skills
    due = [skill for skill, held in known.items() if held.due <= progress.round]
    due.sort(key=lambda skill: (known[skill].due, known[skill].box))
    begun = sum(1 for held in known.values() if held.begun == progress.round)
    fresh = [skill for skill in order_of(drills) if skill not in known and _may_begin(known, skill)]
    return [*due, *fresh[: max(0, BEGUN_A_ROUND - begun)]]


def _may_begin(known: Mapping[Skill, Held], skill: Skill) -> bool:
    if skill.level == LEVELS[0]:
        return True
    below = known.get(Skill(skill.drill, skill.level - 1))
    return below is not None and below.box >= ENOUGH


def answered(progress: Progress, skill: Skill, *, right: bool) -> Progress:
    """The progress after an answer: one box up, or back to the first; due again after the interval
    of its box. What is asked before it is due is lifted by no right answer: it shows nothing of
    what is remembered by then."""
    known, now = dict(progress.skills), progress.round
    before = known.get(skill, Held(due=now, begun=now))
    box, due = before.box, before.due
    if not right:
        box, due = 1, now + interval(1)
    elif due <= now:
        box = min(BOXES, box + 1)
        due = now + interval(box)
    known[skill] = Held(box, due, before.asked + 1, before.right + right, before.begun)
    return replace(progress, skills=known)


def next_round(progress: Progress, drills: Sequence[str]) -> Progress:
    """The round in which something is asked again, once this one is done: the next, or where
    nothing is due then the first in which anything is."""
    if due_now(progress, drills):
        return progress
    number = progress.round + 1
    while not due_now(replace(progress, round=number), drills):
        number += 1
    return replace(progress, round=number)
