"""Read back *right* means that it stands as planned: nothing that was seen speaks against it."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile, Setter, SetterKind
from fence.core.model.setter import switches_on
from fence.core.model.show import Show
from fence.core.setting.readback import (
    Doubt,
    Kind,
    Reading,
    causes_of,
    doubt_of,
    is_right,
    reading_of_switches,
    stands_really,
)

TURNED = {"0": "0", "1": "1", "2": "2", "5": "5", "6": "9", "8": "8", "9": "6"}
"""What a digit of seven segments looks like upside down; the others are no digits then."""


def over(number: int) -> int | None:
    """A number of three digits upside down."""
    seen = [TURNED.get(digit) for digit in reversed(f"{number:03d}")]
    return None if None in seen else int("".join(filter(None, seen)))


def planned_at(slot: int, setter: Setter | None = None, **hangs: bool) -> Show:
    """One par, planned at a slot."""
    modes = (Mode("m", (Part(1),)), Mode("n", (Part(1),)))
    par = Profile("p", "Trowel", "Par", modes, setter=setter or Setter())
    return Show(
        "S",
        (Fixture(1, "Par 1", "p", "m", 1, patch=(Patch(1, slot),), **hangs),),
        (par,),
        next_id=2,
    )


PAIRS = [
    (slot, other)
    for slot in range(1, 513)
    if (other := over(slot)) is not None and 0 < other != slot
]


@pytest.mark.parametrize("hangs", ["upright", "upside down", "nobody knows"])
def test_what_is_noted_of_how_it_hangs_counts(hangs: str) -> None:
    """Every address that is another number upside down: read so, it is right where it is noted as
    hanging so, wrong where it is noted as hanging upright, and asked where nobody knows."""
    noted = {"upright": {"upright": True}, "upside down": {"turned": True}, "nobody knows": {}}[
        hangs
    ]
    assert len(PAIRS) > 100
    for slot, seen in PAIRS:
        show = planned_at(slot, **noted)
        fixture, reading = show.fixtures[0], Reading(seen)
        first = causes_of(show, fixture, reading)[0]
        assert is_right(show, fixture, reading) == (hangs == "upside down"), (slot, seen)
        assert doubt_of(show, fixture, reading) == (
            Doubt.HOW_IT_HANGS if hangs == "nobody knows" else None
        )
        assert (first.kind is Kind.UPSIDE_DOWN) == (hangs != "upright")
        assert stands_really(show, fixture, reading) == (slot if hangs == "upside down" else seen)


def test_the_planned_number_on_one_that_hangs_upside_down_is_asked() -> None:
    """As it hangs it is another one; with the head turned, or on a display that was flipped, it is
    right."""
    for slot, other in PAIRS:
        show = planned_at(slot, turned=True)
        fixture = show.fixtures[0]
        assert doubt_of(show, fixture, Reading(slot)) is Doubt.HOW_IT_WAS_READ
        assert not is_right(show, fixture, Reading(slot))
        assert causes_of(show, fixture, Reading(slot))[0].kind is not Kind.RIGHT
        assert is_right(show, fixture, Reading(slot, upright=True))
        as_it_hangs = Reading(slot, upright=False)
        assert not is_right(show, fixture, as_it_hangs)
        if other <= 512:
            assert stands_really(show, fixture, as_it_hangs) == other


@given(
    st.integers(1, 511),
    st.sets(st.integers(1, 11)),
    st.sampled_from([((10,), ()), ((10,), (11,)), ((), (10, 11)), ((10, 11), ())]),
    st.booleans(),
)
def test_every_switch_must_stand_as_it_must(
    slot: int, flipped: set[int], fixed: tuple[tuple[int, ...], tuple[int, ...]], turned: bool
) -> None:
    """Any switches flipped: it is right just when none is, the ones that carry no address among
    them."""
    setter = Setter(SetterKind.SWITCHES, fixed_on=fixed[0], fixed_off=fixed[1])
    show = planned_at(slot, setter, turned=turned)
    known = {*range(1, 10), *fixed[0], *fixed[1]}
    on = set(switches_on(slot, setter)) ^ (flipped & known)
    reading = reading_of_switches(setter, on)
    causes = causes_of(show, show.fixtures[0], reading)
    assert is_right(show, show.fixtures[0], reading) == (not flipped & known)
    assert (causes[0].kind is Kind.RIGHT) == (not flipped & known)
    assert all(cause.kind is not Kind.RIGHT for cause in causes) or not flipped & known


@given(
    st.integers(1, 512),
    st.integers(0, 2000),
    st.sampled_from(["", "m", "n"]),
    st.sampled_from([None, True, False]),
)
def test_never_right_with_another_number_or_mode(
    slot: int, says: int, mode: str, hangs: bool | None
) -> None:
    """A number or a mode that is not the planned one is never right, but for those that are noted
    to look otherwise."""
    show = planned_at(slot, turned=hangs is False, upright=hangs is True)
    fixture = replace(show.fixtures[0])
    right = is_right(show, fixture, Reading(says, mode=mode))
    if mode == "n" or says not in (slot, over(slot)):
        assert not right
    if says == slot and mode != "n" and hangs is not False:
        assert right
