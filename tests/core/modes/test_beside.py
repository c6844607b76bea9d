"""Modes side by side, and a fixture left in the wrong one."""

from __future__ import annotations

import pytest

from fence.core import edits
from fence.core.checks import Severity, check
from fence.core.model.address import Address
from fence.core.model.show import Show
from fence.core.modes.beside import compare_modes
from fence.core.modes.left import LeftInMode, left_in_mode
from fence.demo import clean_show
from fence.library import shipped_profiles

PROFILES = {profile.id: profile for profile in shipped_profiles()}


def left(label: str, mode: str, show: Show | None = None) -> LeftInMode | None:
    show = show or clean_show()
    return left_in_mode(show, next(f for f in show.fixtures if f.label == label), mode)


def test_a_longer_mode_listens_to_its_neighbour() -> None:
    """Slot by slot what is mixed up, and whose channels the longer run would hear as its own."""
    found = left("Lily 1", "8 channel")
    assert found == LeftInMode(
        "8 channel",
        8,
        (
            "The channels that both modes have would work as planned.",
            "It would listen to Lily 2’s dimmer, red and green as its own shutter, own programs "
            "and program speed.",
        ),
    )


def test_a_shorter_mode_leaves_channels_unheard() -> None:
    """What the desk sends beyond the shorter run goes nowhere."""
    found = left("Lily 1", "3 channel")
    assert found is not None
    assert found.sentences == (
        "Dimmer on the desk, at 1, would move its red.",
        "Red on the desk, at 2, would move its green.",
        "Green on the desk, at 3, would move its blue.",
        "Blue and white at 4 to 5 would go unheard.",
    )


def test_ends_and_free_slots_are_told() -> None:
    """A longer run into free slots or past the end of the universe says so."""
    show = clean_show()
    wall = next(f for f in show.fixtures if f.label == "Gate A")
    alone = left("Gate A", "5 channel", show)
    assert alone is not None
    assert alone.sentences[-1] == "It would also listen to 261, where nothing is planned."
    end = edits.place(show, wall.id, Address(4, 508))
    past = left("Gate A", "8 channel", end)
    assert past is not None
    assert past.sentences[-1] == "Its run would go 3 past the end of the universe."
    assert past.sentences[0] == "Red on the desk, at 508, would move its dimmer."


@pytest.mark.parametrize(
    ("label", "mode"), [("Lily 1", "5 channel"), ("Lily 1", "gone"), ("Fork 1", "RDM only")]
)
def test_nothing_to_say(label: str, mode: str) -> None:
    """The planned mode, one that is not there, and a fixture without channels say nothing."""
    assert left(label, mode) is None


def test_modes_are_aligned_by_function() -> None:
    """Each row is a function; 16 bit and cells are marked where a mode has them."""
    found = compare_modes(clean_show(), PROFILES["tansy-pond-wash"])
    rows = {row.title: row.places for row in found.rows}
    assert rows["dimmer"] == ("", "", "1", "1", "1, 2 (16 bit)")
    assert rows["white"] == ("", "4", "5", "5", "6")
    assert (found.base.name, found.fixtures) == ("5 channel", 18)
    assert [column.for_all for column in found.columns] == [54, 72, 90, 144, 180]
    largest = found.columns[-1]
    assert largest.gains == (
        "16 bit for dimmer",
        "amber",
        "shutter/strobe",
        "program/macro",
        "function speed",
    )
    assert largest.losses == ()
    assert found.columns[1].losses == ("dimmer",)
    assert found.columns[1].remarks == (
        "No dimmer channel: brightness only through the colours; the desk must do it.",
    )
    battens = compare_modes(clean_show(), PROFILES["dibber-furrow"])
    assert {row.title: row.places[1] for row in battens.rows}["red"] == "1, 4, 7, 10 … (8 cells)"
    assert battens.base == battens.columns[1].mode
    assert battens.columns[0].losses == (
        "red in 8 cells apart",
        "green in 8 cells apart",
        "blue in 8 cells apart",
    )


@pytest.mark.parametrize(
    "profile_id", ["tansy-pond-wash", "dibber-furrow", "teasel-sway", "sedge-parchment"]
)
def test_stops_are_those_of_the_changed_show(profile_id: str) -> None:
    """The stops of a column are what the rules say when every fixture of the type is put into that
    mode."""
    show = clean_show()
    ids = [fixture.id for fixture in show.fixtures if fixture.profile == profile_id]
    for column in compare_modes(show, PROFILES[profile_id]).columns:
        changed = edits.change_mode(show, ids, column.mode.name)
        assert column.stops == sum(finding.severity is Severity.STOP for finding in check(changed))
        assert column.used == sum(
            fixture.mode == column.mode.name for fixture in show.fixtures if fixture.id in ids
        )


def test_every_shipped_chart_can_be_compared() -> None:
    """A type that the show does not use is compared as well; nothing of it is in the rig."""
    for profile in shipped_profiles():
        found = compare_modes(Show("Empty"), profile)
        assert found.fixtures == 0
        assert [column.mode for column in found.columns] == list(profile.modes)
        assert all(len(row.places) == len(profile.modes) for row in found.rows)
