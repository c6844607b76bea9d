"""Copies of fixtures and another type in their places, against plainer ways to say the same."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.charts.oneline import channels_of
from fence.core.checks import check
from fence.core.edits.difference import apply_difference, difference
from fence.core.edits.prose import describe
from fence.core.model.errors import ChartError, EditError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.demo import clean_show
from tests.rigs import bare, rig, rigs


def added(before: Show, after: Show) -> list[Fixture]:
    return [fixture for fixture in after.fixtures if fixture.id not in before.fixture_by_id]


def naive_start(show: Show, universe: int, width: int) -> tuple[int, int] | None:
    """The first gap of so many slots, slot by slot, from a universe on."""
    for number in range(universe, max(universe, *show.universe_by_number) + 1):
        held = next((u for u in show.universes if u.number == number), None)
        taken = set(held.reserved) if held else set()
        for fixture in show.fixtures:
            for entry, part in zip(fixture.patch, show.footprints_of(fixture), strict=True):
                if entry.universe == number and entry.slot is not None:
                    taken |= set(range(entry.slot, entry.slot + part))
        for slot in range(1, 513 - width + 1):
            if not taken & set(range(slot, slot + width)):
                return number, slot
    return None


@given(rigs(), st.data())
def test_copies_take_the_next_gaps(show: Show, data: st.DataObject) -> None:
    """Each takes the first gap that is left, found slot by slot; nothing new clashes; names and
    numbers are nobody else's; what was there is as it was."""
    if not show.fixtures:
        return
    ids = data.draw(
        st.lists(
            st.sampled_from([f.id for f in show.fixtures]), min_size=1, max_size=4, unique=True
        )
    )
    times = data.draw(st.integers(1, 3))
    after = edits.duplicate(show, ids, times)
    new = added(show, after)
    assert len(new) == len(ids) * times
    assert after.fixtures[: len(show.fixtures)] == show.fixtures
    step = show
    for copy, original in zip(
        new, [show.fixture(i) for _ in range(times) for i in ids], strict=True
    ):
        width = sum(show.footprints_of(original))
        wanted = naive_start(step, original.universe or 1, width) if width else None
        found = (copy.universe, copy.start) if copy.start is not None else None
        assert found == wanted, (copy, original)
        assert (copy.profile, copy.mode) == (original.profile, original.mode)
        step = replace(step, fixtures=(*step.fixtures, copy))
    labels = [fixture.label for fixture in after.fixtures]
    assert not {copy.label for copy in new} & {fixture.label for fixture in show.fixtures}
    assert len(set(labels[len(show.fixtures) :])) == len(new)
    known = {finding.key for finding in check(show)}
    fresh = {copy.id for copy in new}
    clashes = [f for f in check(after) if f.key not in known and fresh & set(f.fixtures)]
    assert all(finding.rule != "overlap" for finding in clashes)
    steps = difference(show, after)
    assert apply_difference(show, steps) == after


def test_names_count_on() -> None:
    """From the highest of the stem, with its zeros; a name alone goes on with 2."""
    show = rig(("Palm 08", 5, 1, 1), ("Palm 11", 5, 1, 11), ("Spot", 5, 1, 21), ("L2", 5, 1, 31))
    after = edits.duplicate(show, [1, 3, 4], 2)
    names = [fixture.label for fixture in added(show, after)]
    assert names == ["Palm 12", "Spot 2", "L3", "Palm 13", "Spot 3", "L4"]
    assert [fixture.number for fixture in added(show, after)] == [5, 6, 7, 8, 9, 10]


def test_a_copy_hangs_behind_its_line_and_brings_no_record() -> None:
    """On the same line it comes last, before the terminator; without, it hangs on none. What was
    set, proven, pinned, shared or noted is of the original alone."""
    show = clean_show()
    line = next(line for line in show.lines if line.name)
    hung = [stop.fixture for stop in line.stops if stop.fixture is not None]
    show = edits.pin(show, [hung[0]])
    show = edits.set_note(show, [hung[0]], "scratched lens")
    after = edits.duplicate(show, [hung[0]], 2, on_line=True)
    copies = added(show, after)
    stops = after.line(line.id).stops
    assert {copy.id for copy in copies} <= {stop.fixture for stop in stops}
    ends = [stop for stop in stops if stop.terminates]
    assert all(end.after not in {s.id for s in stops if s.terminates} for end in ends)
    for copy in copies:
        assert not copy.pinned
        assert (copy.note, copy.share, copy.serial, copy.set_to) == ("", "", "", None)
    loose = edits.duplicate(show, [hung[0]], 1)
    assert loose.lines == show.lines
    assert describe(show, after) == "Added Palm 5 and Palm 6"


def test_limits_of_copies() -> None:
    """One to two thousand in all; both sides."""
    show = rig(("A", 1, 1, 1), ("B", 1, 1, 2))
    assert len(edits.duplicate(show, [1, 2], 1000).fixtures) == 2002
    for ids, times in (([], 1), ([1], 0), ([1, 2], 1001), ([99], 1)):
        with pytest.raises(EditError):
            edits.duplicate(show, ids, times)


@given(rigs(), st.data())
def test_another_type_changes_nothing_else(show: Show, data: st.DataObject) -> None:
    """Names, numbers, positions, lines and starts stay; all of those that share go together."""
    if not show.fixtures:
        return
    picked = data.draw(st.sampled_from(show.fixtures))
    ids = [fixture.id for fixture in show.sharers_of(picked)]
    wide = bare(data.draw(st.integers(0, 90)))
    after = edits.exchange(show, ids, wide, "m")
    for before, then in zip(show.fixtures, after.fixtures, strict=True):
        chosen = before.id in ids
        kept = replace(then, profile=before.profile, mode=before.mode)
        assert kept == before
        assert (then.profile == wide.id) is (chosen or before.profile == wide.id)
    if len(ids) > 1:
        with pytest.raises(EditError, match="shares its address"):
            edits.exchange(show, ids[:1], wide, "m")
    with pytest.raises(EditError, match="has no mode"):
        edits.exchange(show, ids, wide, "nothing")


@pytest.mark.parametrize(
    ("words", "channels"),
    [
        ("R G B W", "red green blue white"),
        ("rgbw", "red green blue white"),
        ("dimmer, pan, pan fine", "dimmer pan pan"),
        ("pan fine tilt fine", "pan pan tilt tilt"),
        ("colour wheel gobo", "colour wheel|gobo"),
        ("warm white / cold white", "white white"),
        ("d+r+g+b", "dimmer red green blue"),
    ],
)
def test_functions_in_one_line(words: str, channels: str) -> None:
    """Each word, cluster or pair of words is as many channels as a technician would count."""
    wanted = channels.split("|") if "|" in channels else channels.split()
    assert [str(channel.function) for channel in channels_of(words)] == wanted


@pytest.mark.parametrize("words", ["", " , ", "blorb", "R G blorb", "R " * 513])
def test_functions_that_are_none(words: str) -> None:
    """What is not known is named, with what is accepted."""
    with pytest.raises(ChartError, match="Accepted are a number of channels"):
        channels_of(words)


def test_as_many_functions_as_a_universe_has_slots() -> None:
    """512 are the most."""
    assert len(channels_of("R " * 512)) == 512
