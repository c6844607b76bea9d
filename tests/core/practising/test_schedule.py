"""Leitner’s boxes, with a learner who has weak spots."""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import replace
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.practising.question import LEVELS
from fence.core.practising.schedule import (
    BEGUN_A_ROUND,
    BOXES,
    ENOUGH,
    Held,
    Progress,
    Skill,
    answered,
    due_now,
    interval,
    next_round,
)

DRILLS = tuple(f"drill-{n}" for n in range(8))


def learnt(seed: int, rounds: int, chances: dict[str, float]) -> dict[Skill, list[int]]:
    """The rounds in which each skill was asked of somebody who answers right as often as said;
    checked on the way: nothing waits longer than the interval of its box."""
    chance, progress = Random(seed), Progress()
    asked: dict[Skill, list[int]] = defaultdict(list)
    while progress.round <= rounds:
        begun = Counter[int]()
        while due := due_now(progress, DRILLS):
            skill = due[0]
            held = progress.skills.get(skill)
            if held is not None:
                assert progress.round - asked[skill][-1] == interval(held.box)
            else:
                begun[progress.round] += 1
            asked[skill].append(progress.round)
            right = chance.random() < chances.get(skill.drill, 0.97)
            progress = answered(progress, skill, right=right)
        assert begun[progress.round] <= BEGUN_A_ROUND
        progress = next_round(progress, DRILLS)
    return asked


@pytest.mark.parametrize("seed", range(6))
def test_weak_spots_are_asked_at_least_twice_as_often(seed: int) -> None:
    """Over many rounds, beside what is answered right nearly always."""
    weak = {"drill-2": 0.4, "drill-5": 0.4}
    asked = learnt(seed, 200, weak)
    often: dict[bool, list[int]] = {True: [], False: []}
    for skill, rounds in asked.items():
        if skill.level == LEVELS[0]:
            often[skill.drill in weak].append(len(rounds))
    least, most = min(often[True]), max(often[False])
    assert least >= 2 * most, (least, most)


@given(st.integers(0, 10**6), st.floats(0, 1))
def test_nothing_is_forgotten(seed: int, usual: float) -> None:
    """Whoever answers how, everything that was begun comes again when its box says so."""
    learnt(seed, 40, dict.fromkeys(DRILLS, usual))


def test_levels_follow_each_other() -> None:
    """The second level of a drill begins once the first has reached the third box."""
    first, second = Skill("drill-0", 1), Skill("drill-0", 2)
    for box in range(1, BOXES + 1):
        progress = Progress(5, {first: Held(box, 99, 3, 3)})
        assert (second in due_now(progress, DRILLS[:1])) == (box >= ENOUGH)


def test_boxes() -> None:
    """Right is one up to the last, wrong is back to the first; counts go on."""
    progress, skill = Progress(), Skill("drill-0", 1)
    boxes = []
    for right in (True, True, True, True, True, False, True):
        progress = answered(progress, skill, right=right)
        boxes.append(progress.skills[skill].box)
        progress = replace(progress, round=progress.skills[skill].due)
    assert boxes == [2, 3, 4, 5, 5, 1, 2]
    assert (progress.skills[skill].asked, progress.skills[skill].right) == (7, 6)
    early = replace(progress, round=progress.round - 1)
    again = answered(early, skill, right=True).skills[skill]
    assert (again.box, again.due, again.asked) == (2, progress.round, 8), "asked before it is due"
    assert answered(early, skill, right=False).skills[skill].box == 1
    assert [interval(box) for box in range(1, BOXES + 1)] == [1, 2, 4, 8, 16]
