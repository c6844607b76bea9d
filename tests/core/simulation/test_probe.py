"""The sheet for a fixture without a manual: it ends, it asks sensibly, and it understands what it
is told."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.model.errors import ChartError
from fence.core.model.profile import Byte, Function
from fence.core.simulation.charted import Found
from fence.core.simulation.probe import AS_FULL, BETWEEN, HAIR, NOTHING, Ask, Kind, probe


def told(*answers: str) -> Found:
    """The result after these answers, with nothing seen for whatever is still asked."""
    given_so_far = list(answers)
    while isinstance(ask := probe(given_so_far), Ask):
        given_so_far.append(
            BETWEEN if ask.kind is Kind.MIDDLE else NOTHING if ask.kind is Kind.CHANGE else "steady"
        )
    return ask


def test_nothing_answers() -> None:
    """A dead fixture gives an empty chart and the usual reasons."""
    found = told()
    assert found.channels == ()
    assert "listening to DMX" in found.doubts[-1]


def test_first_asks_for_the_first_slot_alone() -> None:
    """The sheet begins with slot 1 raised and nothing else on the line."""
    ask = probe([])
    assert isinstance(ask, Ask)
    assert (ask.kind, ask.slot, ask.level, ask.frame) == (Kind.CHANGE, 1, 255, {1: 255})


def test_three_colours_and_a_fine_byte() -> None:
    """Colours that light up, a turn and a hair of a turn become colours and a coarse and fine
    pair."""
    found = told("red", "green", "blue", "pan", f"{HAIR}pan")
    assert [(c.function, c.byte) for c in found.channels] == [
        (Function.RED, Byte.WHOLE),
        (Function.GREEN, Byte.WHOLE),
        (Function.BLUE, Byte.WHOLE),
        (Function.PAN, Byte.COARSE),
        (Function.PAN, Byte.FINE),
    ]


def test_steps_are_found_to_the_level() -> None:
    """Where the words change is found by halving, exactly."""
    answers = ["dimmer", "program/macro"]
    while isinstance(ask := probe(answers), Ask):
        if ask.kind is Kind.STEP:
            answers.append("none" if ask.level < 38 else "slow" if ask.level < 201 else "wild")
        else:
            answers.append(BETWEEN if ask.kind is Kind.MIDDLE else NOTHING)
    assert [(r.first, r.last, r.meaning) for r in ask.channels[1].ranges] == [
        (0, 37, "none"),
        (38, 200, "slow"),
        (201, 255, "wild"),
    ]


def test_a_dimmer_that_is_full_in_the_middle_is_a_shutter() -> None:
    """What brings all the light but does not dim is taken for a shutter, and its steps are asked
    for."""
    answers = ["dimmer"]
    while isinstance(ask := probe(answers), Ask):
        answers.append(
            AS_FULL if ask.kind is Kind.MIDDLE else NOTHING if ask.kind is Kind.CHANGE else "open"
        )
    assert ask.channels[0].function is Function.SHUTTER


def test_an_answer_that_was_not_offered_is_refused() -> None:
    """A button that is not on the sheet is refused with those that are."""
    with pytest.raises(ChartError, match="Accepted: nothing, dimmer"):
        probe(["purple rain"])


@given(st.lists(st.integers(0, 40), max_size=60))
def test_any_answers_lead_on(choices: list[int]) -> None:
    """Whatever is answered, the next thing asked moves one slot, keeps to legal levels, and the
    sheet can end."""
    answers: list[str] = []
    for choice in choices:
        ask = probe(answers)
        if isinstance(ask, Found):
            break
        assert 1 <= ask.slot <= 512
        assert 0 <= ask.level <= 255
        assert all(0 < level <= 255 and other != ask.slot for other, level in ask.held)
        answers.append(
            f"word {choice % 3}"
            if ask.kind is Kind.STEP
            else ask.choices[choice % len(ask.choices)]
        )
    assert len(told(*answers).channels) <= 512
