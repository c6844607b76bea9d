"""Whoever is met on the way to an address is said, and nobody is met where there is a way round."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.address import EVERY_SLOT, bits_of
from fence.core.rdm.course import Course, Goal, Key, Stand
from fence.core.rdm.packet import Identity

WIDTHS = st.sampled_from([1, 2, 5, 10, 20, 60, 200])


def slots(address: int | None, footprint: int) -> set[int]:
    """The slots of a run, one by one, as far as they exist."""
    return set(range(address, min(513, address + footprint))) if address else set()


@st.composite
def courses(draw: st.DrawFn) -> Course:
    """Some devices on one line on their way to other modes and addresses, among fixtures that
    cannot be asked."""
    stands: dict[Key, Stand] = {}
    goals: dict[Key, Goal] = {}
    for number in range(1, draw(st.integers(1, 4)) + 1):
        key = (Identity(0x7FF0, number), 0)
        stands[key] = Stand(1, 1, draw(WIDTHS), draw(st.integers(1, 512)))
        if draw(st.booleans()) or number == 1:
            mode = draw(st.sampled_from([None, 1, 2]))
            footprint = draw(WIDTHS) if mode == 2 else stands[key].footprint
            goals[key] = Goal(
                key[0], 0, mode, footprint, draw(st.one_of(st.none(), st.integers(1, 512)))
            )
    fixed = 0
    for _ in range(draw(st.integers(0, 4))):
        fixed |= (
            bits_of(draw(st.integers(1, 512)), draw(st.sampled_from([1, 10, 100, 300])))
            & EVERY_SLOT
        )
    return Course(stands, goals, {1: fixed})


@given(courses())
def test_whoever_is_met_is_said(course: Course) -> None:
    """Step by step, slot by slot: who comes to listen to the slots of somebody else is said, those
    that cannot be asked among them; and it comes to an end."""
    fixed = {slot for slot in range(1, 513) if course.fixed[1] >> (slot - 1) & 1}
    taken = 0
    while (step := course.next_step()) is not None:
        before = slots(course.stands[step.key].address, course.stands[step.key].footprint)
        theirs = {
            key: slots(stand.address, stand.footprint)
            for key, stand in course.stands.items()
            if key != step.key
        }
        course.took(step)
        after = slots(course.stands[step.key].address, course.stands[step.key].footprint)
        met = {key for key, held in theirs.items() if held & after and not held & before}
        assert met == set(step.meets)
        assert step.meets_others == bool(fixed & after - before)
        taken += 1
        assert taken < 40
    for key, goal in course.goals.items():
        stand = course.stands[key]
        reached = goal.address in (None, stand.address) and goal.personality in (
            None,
            stand.personality,
        )
        assert reached or key in course.left


@given(courses())
def test_one_device_meets_nobody_where_there_is_a_way(course: Course) -> None:
    """One device among others that stay: with a free place to go to, it meets somebody only where
    neither its address first, nor its mode first, nor a gap between leads there."""
    key = next(iter(course.goals))
    alone = Course(dict(course.stands), {key: course.goals[key]}, course.fixed)
    goal, stand = course.goals[key], course.stands[key]
    others = {slot for slot in range(1, 513) if course.fixed[1] >> (slot - 1) & 1}
    for other, held in course.stands.items():
        others |= slots(held.address, held.footprint) if other != key else set()
    mine = slots(stand.address, stand.footprint)
    wide = goal.footprint if goal.personality is not None else stand.footprint
    target = goal.address or stand.address
    if slots(target, wide) & others:
        return
    ways = [
        slots(stand.address, wide),  # its mode first
        slots(target, stand.footprint)
        | ({0} if target and target + stand.footprint > 513 else set()),
        *(
            slots(at, max(wide, stand.footprint))
            for at in range(1, 514 - max(wide, stand.footprint))
        ),
    ]
    met = False
    while (step := alone.next_step()) is not None:
        met = met or bool(step.meets) or step.meets_others
        alone.took(step)
    if any(not way & (others | {0}) for way in ways):
        assert not met
    assert replace(alone.stands[key], also=0) == Stand(
        1, goal.personality or stand.personality, wide, target
    ), mine
