"""Setting whole rigs: all as wished or said which not, and never two at one slot who were not
before."""

from __future__ import annotations

from itertools import combinations
from random import Random

import pytest

from fence.core.rdm.controller import Controller
from fence.core.rdm.course import Course, Goal, Stand
from fence.core.rdm.packet import Identity
from fence.core.rdm.responder import Responder
from fence.core.rdm.setting import Result, Wish, carry_out
from tests.core.rdm.lines import all_said, rig


def slots(device: Responder) -> set[int]:
    """The slots that a device really listens to."""
    return set(range(device.address, min(513, device.address + device.footprint)))


def meeting(made: list[Responder]) -> set[frozenset[Identity]]:
    """Pairs that listen to a slot together, counted one by one."""
    return {
        frozenset((a.identity, b.identity)) for a, b in combinations(made, 2) if slots(a) & slots(b)
    }


def wished(made: list[Responder], chance: Random, spare: int = 0) -> dict[str, Wish]:
    """A random order of all of them, back to back, each in a random mode."""
    at, found = 1, {}
    for one in chance.sample(made, len(made)):
        number = chance.randint(1, 3)
        footprint = one.personalities[number - 1].footprint
        if at + footprint > 513:
            break
        found[str(one.identity)] = Wish(
            (Goal(one.identity, 0, number, footprint, at),), label=f"Bud {at}"
        )
        at += footprint + spare
    return found


@pytest.mark.parametrize("seed", range(40))
def test_a_whole_rig_is_set_with_answers_lost(seed: int) -> None:
    """5 % of answers lost: all stand as wished, or it is said who does not; on the way nobody meets
    anybody new."""
    chance = Random(seed)
    made, line = rig(chance, chance.choice([2, 3, 8, 30]), loss=0.025, heap=seed % 4 == 0)
    wishes, talk = wished(made, chance, chance.choice([0, 0, 2])), Controller(line.exchange)
    before, result = meeting(made), Result()
    for _ in carry_out(wishes, all_said(made, line), lambda said: talk, result):
        now = meeting(made)
        assert now <= before, "two came to listen to one slot"
        before = now
    assert not result.met
    by_name = {str(one.identity): one for one in made}
    for name, wish in wishes.items():
        goal, device = wish.goals[0], by_name[name]
        if name not in result.failed:
            assert (device.personality, device.address, device.label) == (
                goal.personality,
                goal.address,
                wish.label,
            )
            back = result.said[name]
            assert (back.personality, back.address) == (goal.personality, goal.address)
    assert len(result.failed) <= 1


def test_two_change_places_by_way_of_a_gap() -> None:
    """In a circle one is parked; where the line is full they meet, and that is said."""
    one, other = Identity(0x7FF0, 1), Identity(0x7FF0, 2)
    goals = {
        (one, 0): Goal(one, address=11, footprint=10),
        (other, 0): Goal(other, address=1, footprint=10),
    }
    stands = {(one, 0): Stand(1, 1, 10, 1), (other, 0): Stand(1, 1, 10, 11)}

    def steps(fixed: int) -> list[tuple[bool, bool]]:
        course, found = Course(dict(stands), dict(goals), {1: fixed}), []
        while (step := course.next_step()) is not None:
            course.took(step)
            found.append((step.parks, bool(step.meets)))
        assert [course.stands[key].address for key in goals] == [11, 1]
        return found

    assert steps(0) == [(True, False), (False, False), (False, False)]
    full = ((1 << 512) - 1) & ~((1 << 20) - 1)
    assert steps(full) == [(False, True), (False, False)]


def test_who_does_not_answer_keeps_what_it_may_hold() -> None:
    """One that goes silent in the middle may hold its old place or its new one: nobody is sent to
    either."""
    chance = Random(3)
    made, line = rig(chance, 4)
    for number, one in enumerate(made):
        one.personality, one.address = 1, 1 + 20 * number
    said, footprint = all_said(made, line), made[0].footprint
    made[0].silent = True
    targets = [61, 1, 41, 21]
    wishes = {
        str(one.identity): Wish((Goal(one.identity, 0, 1, footprint, at),))
        for one, at in zip(made, targets, strict=True)
    }
    result, talk = Result(), Controller(line.exchange)
    list(carry_out(wishes, said, lambda one: talk, result))
    assert str(made[0].identity) in result.failed
    assert "held by 7FF0:00000001" in result.failed[str(made[1].identity)]
    assert made[2].address == 41


def test_a_stop_in_the_middle_is_clean() -> None:
    """Nothing more is set; those that were on their way are heard, and nobody meets anybody."""
    chance = Random(5)
    made, line = rig(chance, 20, heap=True)
    wishes, result, talk = wished(made, chance), Result(), Controller(line.exchange)
    steps: list[object] = []
    for step in carry_out(
        wishes, all_said(made, line), lambda one: talk, result, stop=lambda: len(steps) > 8
    ):
        steps.append(step)
    assert result.stopped
    assert len(steps) == 9
    by_name = {str(one.identity): one for one in made}
    assert result.said
    assert all(said.address == by_name[name].address for name, said in result.said.items())


def test_fixtures_that_cannot_be_asked_hold_their_slots() -> None:
    """A place that a fixture without RDM takes is not given to anybody, and it is said why."""
    chance = Random(6)
    made, line = rig(chance, 1)
    goal = Goal(made[0].identity, 0, 1, made[0].personalities[0].footprint, 100)
    result = Result()
    list(
        carry_out(
            {str(made[0].identity): Wish((goal,))},
            all_said(made, line),
            lambda one: Controller(line.exchange),
            result,
            fixed={1: 1 << 99},
        )
    )
    assert "cannot be asked" in result.failed[str(made[0].identity)]
    assert made[0].address != 100
