"""The sheet of a universe against a reading slot by slot."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing.sheet import slot_sheet
from fence.core.checks import check
from fence.core.model.desk import Scale, TellTale
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Channel, Function, Mode, Part, Profile
from fence.core.model.show import Show
from tests.rigs import rig, rigs


@given(rigs(most=10, universes=2), st.sampled_from([None, 1, 60, 512]))
def test_the_sheet_names_all_who_listen(show: Show, tell_tale: int | None) -> None:
    """Each slot names just the fixtures whose run covers it; a slot is contested where the rules
    find a clash."""
    show = replace(show, tell_tale=TellTale(tell_tale, Scale.RAW) if tell_tale else None)
    rows = slot_sheet(show, 1)
    assert [row.slot for row in rows] == list(range(1, 513))
    for row in rows:
        covering = [p for p in show.runs_in(1) if p.run.first <= row.slot <= p.run.last]
        assert sorted(row.fixtures) == sorted(p.fixture.label for p in covering)
        assert row.opens == any(p.run.first == row.slot for p in covering)
        assert bool(row.kept) == (row.slot in show.reserved_in(1))
    stops = [
        f
        for f in check(show)
        if f.rule in ("overlap", "reserved") and f.universe == 1 and f.first and f.last
    ]
    for finding in stops:
        reserved = set(show.reserved_in(1)) if finding.rule == "reserved" else None
        for slot in range(finding.first or 1, min(finding.last or 0, 512) + 1):
            if reserved is None or slot in reserved:
                assert rows[slot - 1].clash
    clashing = {row.slot for row in rows if row.clash}
    named = {s for f in stops for s in range(f.first or 1, min(f.last or 0, 512) + 1)}
    assert clashing <= named


def test_functions_and_defaults_come_from_the_chart() -> None:
    """A slot says what it does and its default; one whose chart is not known says which channel it
    is."""
    channels = (Channel(Function.DIMMER), Channel(Function.PAN, default=128))
    known = Profile("k", "Hoe", "H", (Mode("m", (Part(2, channels),)),))
    show = rig(("Bare", 2, 1, 10))
    show = replace(
        show,
        fixtures=(*show.fixtures, Fixture(9, "Known", "k", "m", 7, patch=(Patch(1, 1),))),
        profiles=(*show.profiles, known),
    )
    rows = slot_sheet(show, 1)
    assert [(r.fixtures, r.numbers, r.function, r.default) for r in rows[:3]] == [
        (("Known",), (7,), "dimmer", 0),
        (("Known",), (7,), "pan", 128),
        ((), (), "", None),
    ]
    assert [(r.function, r.default) for r in rows[9:11]] == [
        ("channel 1", None),
        ("channel 2", None),
    ]


@pytest.mark.parametrize(
    ("universe", "scale", "kept", "level"),
    [
        (1, Scale.PERCENT, "tell-tale, percent", 3),
        (100, Scale.PERCENT, "tell-tale, percent", 255),
        (101, Scale.PERCENT, "tell-tale, percent: beyond the scale", None),
        (200, Scale.RAW, "tell-tale, raw", 200),
    ],
)
def test_the_tell_tale_level_is_on_the_sheet(
    universe: int, scale: Scale, kept: str, level: int | None
) -> None:
    """The tell-tale slot shows the level that says the universe, or that its scale does not reach
    so far."""
    show = replace(rig(("A", 1, universe, 1)), tell_tale=TellTale(512, scale))
    last = slot_sheet(show, universe)[-1]
    assert (last.kept, last.default) == (kept, level)
