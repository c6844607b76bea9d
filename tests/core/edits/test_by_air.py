"""Lines by wireless and by cable, and back."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.line import Cable, Device
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.core.model.wiring import wireless_only, wiring_of


def kind(name: str, plug: str, wireless: bool) -> Profile:
    modes = (Mode("4 channel", (Part(4),)),)
    return Profile(name, "Any", name, modes, connectors_in=plug, wireless=wireless)


KINDS = {
    "wired": kind("wired", "5-pin", False),
    "both": kind("both", "5-pin", True),
    "air": kind("air", "", True),
}


def rig(kinds: list[str]) -> Show:
    show = Show("Air")
    for at, name in enumerate(kinds, 1):
        profile = KINDS[name]
        show = edits.add_fixtures(
            show, edits.AddRun(profile, profile.modes[0].name, 1, f"{name} {at}")
        )
    return edits.add_line(show, "A", 1)


def hung(show: Show) -> list[int | None]:
    return [stop.fixture for stop in show.lines[0].stops if stop.fixture is not None]


def holds(show: Show) -> None:
    """By wireless is only who can receive, from a transmitter; by cable only who takes one; nothing
    hangs on what hands nothing on; no end is open; nobody is lost."""
    line = show.lines[0]
    wiring = wiring_of(line)
    for stop in line.stops:
        before = wiring.by_id[stop.after] if stop.after is not None else None
        profile = show.profile_of(show.fixture(stop.fixture)) if stop.fixture else None
        if stop.cable is Cable.WIRELESS:
            assert profile is not None
            assert profile.wireless
            assert before is not None
            assert before.device is Device.TRANSMITTER
        elif profile is not None:
            assert not wireless_only(profile)
        if before is not None and before.fixture and before.cable is Cable.WIRELESS:
            handed = show.profile_of(show.fixture(before.fixture))
            assert handed is not None
            assert not wireless_only(handed)
    for section in wiring.sections:
        assert all(stop.terminates for stop in wiring.ends(section))
    assert sorted(hung(show), key=str) == sorted((f.id for f in show.fixtures), key=str)


@given(st.lists(st.sampled_from(sorted(KINDS)), min_size=1, max_size=9))
def test_any_line_there_and_back(kinds: list[str]) -> None:
    """Chained, made wireless, made cabled: each time all hang as they can."""
    show = edits.lines_by_universe(replace(rig(kinds), lines=()))
    holds(show)
    order = [name for name in kinds if name != "air"]
    if "both" in order:
        aired = edits.make_wireless(show, show.lines[0].id)
        holds(aired)
        wireless = {s.fixture for s in aired.lines[0].stops if s.cable is Cable.WIRELESS}
        assert wireless == {f.id for f in show.fixtures if not f.label.startswith("wired")}
        back = edits.make_cabled(aired, show.lines[0].id)
        holds(back)
        wireless = {s.fixture for s in back.lines[0].stops if s.cable is Cable.WIRELESS}
        assert wireless == {f.id for f in show.fixtures if f.label.startswith("air")}
        with pytest.raises(EditError, match="that takes a cable is wireless"):
            edits.make_cabled(back, show.lines[0].id)
    else:
        with pytest.raises(EditError, match=r"by wireless|wireless already"):
            edits.make_wireless(show, show.lines[0].id)


def test_behind_a_receiver_the_cable_goes_on_at_the_transmitter() -> None:
    """What receives by wireless alone hands nothing on: the next by cable hangs on the one before
    it."""
    show = rig(["air", "wired"])
    show = edits.chain(show, 1, [1])
    show = edits.chain(show, 1, [2])
    sender, receiver, wired = show.lines[0].stops
    assert sender.device is Device.TRANSMITTER
    assert (receiver.after, wired.after) == (sender.id, sender.id)
