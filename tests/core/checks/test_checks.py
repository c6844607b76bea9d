"""The address rules, against a naive second reading and by example."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations
from pathlib import Path

import pytest
from hypothesis import given

from fence.core.changes import edits
from fence.core.checks import RULES, Severity, check, findings_of, tally
from fence.core.words.desk import Desk, Scale, TellTale
from fence.core.words.fixture import Fixture, Patch
from fence.core.words.profile import Channel, Function, Mode, Part, Profile, Setter, SetterKind
from fence.core.words.show import Show
from fence.demo import clean_show, demo_show
from tests.rigs import rig, rigs


def slots_of(show: Show, fixture: Fixture) -> set[tuple[int, int]]:
    """The slots a fixture asks for, one by one, also those past the end."""
    patch = fixture.patch[0]
    if patch.slot is None or patch.universe is None:
        return set()
    return {(patch.universe, patch.slot + step) for step in range(show.footprints_of(fixture)[0])}


@given(rigs())
def test_equal_to_comparing_every_pair(show: Show) -> None:
    """Overlaps, past-ends and reserved slots are those that comparing all pairs slot by slot gives."""
    found = list(check(show))
    overlaps = set()
    for a, b in combinations(show.fixtures, 2):
        shared = slots_of(show, a) & slots_of(show, b)
        if shared and not (a.share and a.share == b.share):
            overlaps.add((frozenset((a.id, b.id)), min(shared)[1], min(512, max(shared)[1])))
    told = [(frozenset(f.fixtures), f.first, f.last) for f in found if f.rule == "overlap"]
    assert len(told) == len(set(told))
    assert set(told) == overlaps
    past = {f.id for f in show.fixtures if any(slot > 512 for _, slot in slots_of(show, f))}
    assert {f.fixtures[0] for f in found if f.rule == "past-end"} == past
    kept = {(u.number, slot) for u in show.universes for slot in u.reserved}
    reserved = {f.id for f in show.fixtures if slots_of(show, f) & kept}
    assert {f.fixtures[0] for f in found if f.rule == "reserved"} == reserved
    unplaced = {f.id for f in show.fixtures if f.start is None and show.footprints_of(f)[0]}
    assert {f.fixtures[0] for f in found if f.rule == "no-address"} == unplaced


def rules_of(show: Show) -> list[tuple[str, str]]:
    return [(finding.rule, str(finding.severity)) for finding in check(show)]


def test_words_of_an_overlap() -> None:
    """An overlap is told in the rig's own words, with what the slots mean to both."""
    messages = [finding.message for finding in findings_of(demo_show())]
    assert "Lily 3 ends at 15; Lily 4 starts at 14. Lily 3’s blue and white are Lily 4’s dimmer and red." in messages


def test_the_demo_has_its_problems_and_the_clean_one_has_none() -> None:
    """The two demo shows are what they say."""
    assert {finding.rule for finding in findings_of(demo_show())} == {
        "overlap", "past-end", "reserved", "setter-range", "duplicate-number", "no-address", "universe-full",
    }  # fmt: skip
    verdict = tally(findings_of(clean_show()), 64)
    assert (verdict.stops, verdict.cautions, verdict.clear) == (0, 0, 64)


EDGES = [
    ("touching is no overlap", rig(("A", 4, 1, 1), ("B", 4, 1, 5)), []),
    ("last slot is inside", rig(("A", 4, 1, 509)), []),
    ("one past the end", rig(("A", 4, 1, 510)), [("past-end", "stop")]),
    ("footprint 0 never overlaps", rig(("A", 0, 1, 1), ("B", 4, 1, 1)), []),
    ("footprint 0 needs no address", rig(("A", 0, None, None)), []),
    ("universe without a start", rig(("A", 4, 2, None)), [("no-address", "caution")]),
    ("other universe", rig(("A", 4, 1, 1), ("B", 4, 2, 1)), []),
    ("beyond the desk", rig(("A", 4, 9, 1), desk=Desk("D", 8)), [("universe-limit", "stop")]),
    ("same label", rig(("A", 4, 1, 1), ("A", 4, 1, 5)), [("duplicate-label", "caution")]),
    ("nearly full", rig(("A", 470, 1, 1)), [("universe-full", "note")]),
    ("not yet nearly full", rig(("A", 460, 1, 1)), []),
]


@pytest.mark.parametrize(("show", "expected"), [case[1:] for case in EDGES], ids=[case[0] for case in EDGES])
def test_edges(show: Show, expected: list[tuple[str, str]]) -> None:
    """Each rule at the edge of where it speaks."""
    assert rules_of(show) == expected


def alike(name: str, function: Function) -> Profile:
    return Profile(name, "Trowel", name, (Mode("a", (Part(1, (Channel(function),)),)), Mode("b", (Part(1),))))


@pytest.mark.parametrize(
    ("profile", "mode", "slot", "severity"),
    [
        ("x", "a", 1, None),
        ("x", "b", 1, "stop"),
        ("x", "a", 2, "stop"),
        ("y", "a", 1, "caution"),
        ("z", "a", 1, "stop"),
    ],
    ids=["itself", "other mode", "other start", "other type, same functions", "other type and functions"],
)
def test_declared_sharing(profile: str, mode: str, slot: int, severity: str | None) -> None:
    """Sharing is fine when declared and alike; what differs decides how bad it is, and it is no overlap."""
    show = Show(
        "Shared",
        (
            Fixture(1, "One", "x", "a", 1, patch=(Patch(1, 1),), share="pair"),
            Fixture(2, "Two", profile, mode, 2, patch=(Patch(1, slot),), share="pair"),
        ),
        (alike("x", Function.RED), alike("y", Function.RED), alike("z", Function.BLUE)),
    )
    assert rules_of(show) == ([("share-mismatch", severity)] if severity else [])
    apart = replace(show, fixtures=tuple(replace(f, share="") for f in show.fixtures))
    assert ("overlap" in dict(rules_of(apart))) == (slot == 1)


@pytest.mark.parametrize(
    ("setter", "slot", "fine"),
    [
        (Setter(SetterKind.SWITCHES), 511, True),
        (Setter(SetterKind.SWITCHES), 512, False),
        (Setter(SetterKind.SWITCHES, zero_based=True), 512, True),
        (Setter(SetterKind.ROTARY, highest=99), 100, False),
        (Setter(SetterKind.FIXED, highest=7), 7, True),
        (Setter(SetterKind.FIXED, highest=7), 8, False),
    ],
)
def test_setter_range(setter: Setter, slot: int, fine: bool) -> None:
    """An address that cannot be set at the fixture is a stop."""
    show = rig(("A", 1, 1, slot))
    show = replace(show, profiles=(replace(show.profiles[0], setter=setter),))
    assert rules_of(show) == ([] if fine else [("setter-range", "stop")])


def test_missing_mode_and_parts_apart() -> None:
    """A mode that the chart lacks is a stop; each part of a fixture is checked at its own start."""
    show = rig(("A", 4, 1, 1))
    assert rules_of(replace(show, fixtures=(replace(show.fixtures[0], mode="gone"),))) == [("mode-missing", "stop")]
    parts = Profile("p", "T", "T", (Mode("m", (Part(2), Part(3))),))
    two = Fixture(1, "Two", "p", "m", 1, patch=(Patch(1, 1), Patch(2, 511)))
    found = list(check(Show("Parts", (two,), (parts,))))
    assert [(f.rule, f.universe, f.first, f.last) for f in found] == [("past-end", 2, 511, 513)]
    half = replace(two, patch=(Patch(1, 1), Patch()))
    assert [f.rule for f in check(Show("Parts", (half,), (parts,)))] == ["no-address"]


def test_every_rule_is_registered() -> None:
    """Whatever a finding says, its rule has a title and a reason."""
    shows = [case[1] for case in EDGES] + [demo_show()]
    assert {finding.rule for show in shows for finding in check(show)} <= RULES.keys()
    assert all(rule.title and rule.why for rule in RULES.values())


def test_very_many_clashes_are_cut_off() -> None:
    """A rig with all fixtures at one address does not fill the memory of a page."""
    show = rig(*((f"F{n}", 5, 1, 1) for n in range(400)))
    assert len(findings_of(show, most=100)) == 100
    assert findings_of(show, most=100)[0].severity is Severity.STOP
    assert edits.next_number(show) == 401


def test_every_rule_has_its_line_in_the_docs() -> None:
    """The page of rules speaks of each rule."""
    page = (Path(__file__).parents[3] / "docs" / "rules.md").read_text()
    assert [rule for rule in RULES if f"| `{rule}` |" not in page] == []


def test_the_tell_tale_slot() -> None:
    """It is reserved in every universe; its level shows the number on every display; beyond its scale that is told."""
    show = replace(rig(("A", 5, 1, 508), ("B", 5, 101, 1)), tell_tale=TellTale(512, Scale.PERCENT))
    found = {(f.rule, f.universe, f.first) for f in check(show)}
    assert found == {("reserved", 1, 512), ("tell-tale", 101, 512)}
    for number in range(1, 101):
        level = TellTale(512, Scale.PERCENT).level(number)
        assert level is not None
        assert 100 * level // 255 == number == round(100 * level / 255)
    assert [TellTale(1, Scale.RAW).level(n) for n in (1, 255, 256)] == [1, 255, None]
