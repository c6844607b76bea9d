"""Hidden faults: what is hidden can be noticed, is named by its own claim and by no other, and a
search is gone through as Troubleshoot would."""

from __future__ import annotations

from random import Random

import pytest

from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.practising.hidden import (
    FAULTS_OF_A_MORNING,
    KINDS,
    MORNING,
    Claim,
    Hidden,
    check_place,
    claim_of,
    draw,
    fits,
    minutes_to_mend,
    search_for,
)
from fence.core.simulation.faults import COUNTED_WRONG, OF_A_RUN, Fault, Trouble
from fence.core.troubleshooting.causes import causes_of
from fence.core.troubleshooting.evidence import Answer, Check, Kind
from fence.demo import back_room, demo_show


@pytest.mark.parametrize("level", KINDS)
@pytest.mark.parametrize("seed", range(12))
def test_what_is_drawn_is_noticed_and_mended(level: int, seed: int) -> None:
    """Of the kinds of its level, one or as many as there should be; each claim mends one, and with
    all of them mended nothing is noticed any more."""
    show = back_room()
    faults = draw(show, Random(seed), level)
    assert {fault.trouble for fault in faults} <= KINDS[level]
    assert len(faults) == FAULTS_OF_A_MORNING if level == MORNING else len(faults) <= level
    hidden: Hidden | None = Hidden(show, faults)
    for fault in faults:
        assert hidden is not None
        assert hidden.complaint() is not None
        assert minutes_to_mend(show, claim_of(fault)) > 0
        hidden = hidden.without(claim_of(fault))
    assert hidden is not None
    assert hidden.faults == ()
    assert hidden.complaint() is None


def mended_alike(one: Trouble, other: Trouble) -> bool:
    """Whether the same is done about both."""
    return one is other or {one, other} <= OF_A_RUN or {one, other} <= COUNTED_WRONG


def test_a_claim_names_its_own_fault_and_what_is_mended_alike() -> None:
    """Every cause beside every other: kind and place both count."""
    show = back_room()
    faults = [one for one in causes_of(show).faults if one.trouble is not Trouble.NOTHING]
    for fault in faults:
        claim = claim_of(fault)
        assert fits(show, claim, fault)
        for other in faults:
            if not fits(show, claim, other):
                continue
            assert mended_alike(fault.trouble, other.trouble)
            here = (fault.fixture, fault.line, fault.stop, fault.box)
            there = (other.fixture, other.line, other.stop, other.box)
            assert here == there
            assert None in (fault.port, other.port) or fault.port == other.port


def test_a_cable_run_is_named_by_its_fixture_too() -> None:
    """By the device on the line, or by the fixture that it leads to; not by another one."""
    show = back_room()
    line = show.line(1)
    first, second = [stop for stop in line.stops if stop.fixture is not None][:2]
    fault = Fault(Trouble.PLUG_OUT, second.fixture, line.name, stop=second.id)
    assert fits(show, Claim(Trouble.SWAPPED_PAIR, second.fixture), fault)
    assert fits(show, Claim(Trouble.PLUG_OUT, None, line.name, second.id), fault)
    assert not fits(show, Claim(Trouble.PLUG_OUT, first.fixture), fault)
    assert not fits(show, Claim(Trouble.NO_POWER, second.fixture), fault)


@pytest.mark.parametrize("seed", range(8))
def test_a_search_is_gone_through(seed: int) -> None:
    """Each of its steps is a check that can be made there, with what is found and its minutes."""
    show = back_room()
    faults = draw(show, Random(seed), 1)
    hidden = Hidden(show, faults)
    begun = hidden.complaint()
    assert begun is not None
    steps = search_for(show, faults, begun)
    for step in steps:
        check_place(show, step.check)
        assert step.minutes > 0
        assert step.found == hidden.found(step.check)
    assert begun.check not in [step.check for step in steps]


def test_a_flawed_plan_is_not_what_is_noticed() -> None:
    """Where the plan itself makes fixtures flicker, that is nobody's hidden fault."""
    show = demo_show()
    assert Hidden(show, ()).complaint() is None
    seen = Hidden(show, (Fault(Trouble.NO_POWER, 1),)).complaint()
    assert seen is not None
    assert (seen.check.fixture, seen.answer) == (1, Answer.DARK)


@pytest.mark.parametrize(
    "check",
    [
        Check(Kind.LOOK, 999),
        Check(Kind.NODE, box="Dock", port=99),
        Check(Kind.NODE, box="None", port=1),
        Check(Kind.TESTER, line="Line 1", stop=999),
        Check(Kind.SWAP, line="Line 9", stop=1),
    ],
)
def test_what_is_not_there_is_not_looked_at(check: Check) -> None:
    """It is said so."""
    with pytest.raises(EditError, match="from the list"):
        Hidden(back_room(), ()).found(check)


def test_an_empty_rig_hides_nothing() -> None:
    """It is said what is needed first."""
    with pytest.raises(EditError, match="addresses"):
        draw(Show("Empty"), Random(1), 1)
