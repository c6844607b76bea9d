"""The address rules, against a naive second reading and by example."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations
from pathlib import Path

import pytest
from hypothesis import given

from fence.core import edits
from fence.core.checks import RULES, Severity, check, findings_of, tally
from fence.core.model.desk import Desk, Scale, TellTale
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Channel, Function, Mode, Part, Profile, Setter, SetterKind
from fence.core.model.show import Show, Universe
from fence.demo import clean_show, demo_show
from tests.rigs import rig, rigs


def slots_of(show: Show, fixture: Fixture) -> set[tuple[int, int]]:
    """The slots a fixture asks for, one by one, also those past the end."""
    patch = fixture.patch[0]
    if patch.slot is None or patch.universe is None:
        return set()
    return {(patch.universe, patch.slot + step) for step in range(show.footprints_of(fixture)[0])}


def beside(one: Fixture, other: Fixture) -> bool:
    """Whether two of one group stand in the same place."""
    return (one.share, one.patch, one.profile) == (other.share, other.patch, other.profile)


@given(rigs())
def test_equal_to_comparing_every_pair(show: Show) -> None:
    """Overlaps, past-ends and reserved slots are those that comparing all pairs slot by slot
    gives."""
    found = list(check(show))
    overlaps = set()
    for a, b in combinations(show.fixtures, 2):
        shared = slots_of(show, a) & slots_of(show, b)
        # those of a group that stand together are one
        if shared and not (a.share and a.share == b.share):
            sides = (
                f.id
                for f in show.fixtures
                for one in (a, b)
                if f is one or (f.share and beside(f, one))
            )
            overlaps.add((frozenset(sides), min(shared)[1], min(512, max(shared)[1])))
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
    assert (
        "Lily 3 ends at 15; Lily 4 starts at 14. Lily 3’s blue and white are Lily 4’s dimmer and "
        "red." in messages
    )


def test_the_demo_has_its_problems_and_the_clean_one_has_none() -> None:
    """The two demo shows are what they say."""
    assert {finding.rule for finding in findings_of(demo_show())} == {
        "overlap",
        "past-end",
        "reserved",
        "setter-range",
        "duplicate-number",
        "no-address",
        "universe-full",
        "unterminated",
        "connector-mismatch",
        "battery-day",
        "numbering",
        "subnet",
        "port-universe",
    }
    verdict = tally(findings_of(clean_show()), 64)
    assert (verdict.stops, verdict.cautions, verdict.clear) == (0, 0, 64)


EDGES = [
    ("touching is not an overlap", rig(("A", 4, 1, 1), ("B", 4, 1, 5)), []),
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


@pytest.mark.parametrize(
    ("show", "expected"), [case[1:] for case in EDGES], ids=[case[0] for case in EDGES]
)
def test_edges(show: Show, expected: list[tuple[str, str]]) -> None:
    """Each rule at the edge of where it speaks."""
    assert rules_of(show) == expected


def chart(
    *functions: Function, name: str = "p", model: str = "T", setter: Setter | None = None
) -> Profile:
    part = Part(len(functions), tuple(Channel(function) for function in functions))
    return Profile(name, "Trowel", model, (Mode("m", (part,)),), setter=setter or Setter())


F = Function
RGB = chart(F.DIMMER, F.RED, F.GREEN, F.BLUE)
IN_PARTS = Profile("p", "T", "T", (Mode("m", (Part(2), Part(3))),))


def hung(profile: Profile, *patches: tuple[Patch, ...], **extra: object) -> Show:
    fixtures = tuple(
        Fixture(n, f"F{n}", profile.id, "m", n, patch=patch) for n, patch in enumerate(patches, 1)
    )
    return Show("Hung", fixtures, (profile,), **extra)  # type: ignore[arg-type]


def one(slot: int | None, universe: int | None = 1) -> tuple[Patch, ...]:
    return (Patch(universe, slot),)


ONE = rig(("A", 4, 1, 1))
SAID = [
    (hung(RGB, one(1), one(4)), "F1 ends at 4; F2 starts at 4. F1’s blue is F2’s dimmer.", (4, 4)),
    (
        hung(RGB, one(1), one(1)),
        "F1 and F2 both start at 1. Both take the same dimmer, red, green and 1 more from the "
        "desk.",
        (1, 4),
    ),
    (
        rig(("A", 9, 1, 1), ("B", 2, 1, 8)),
        "B at 8 lies inside A, which takes 1 to 9. Slots 8 to 9 belong to both.",
        (8, 9),
    ),
    (
        rig(("A", 9, 1, 1), ("B", 1, 1, 9)),
        "B at 9 lies inside A, which takes 1 to 9. Slot 9 belongs to both.",
        (9, 9),
    ),
    (
        rig(("A", 9, 1, 1), ("B", 2, 1, 9)),
        "A ends at 9; B starts at 9. Slot 9 belongs to both.",
        (9, 9),
    ),
    (
        hung(IN_PARTS, (Patch(1, 7), Patch(1, 8))),
        "F1’s own parts meet: one takes 7 to 8, another starts at 8. Slot 8 belongs to both.",
        (8, 8),
    ),
    (
        rig(("A", 2, 1, 512), ("B", 3, 1, 511)),
        "A at 512 lies inside B, which takes 511 to 513. Slot 512 belongs to both. Both run past "
        "the end.",
        (512, 512),
    ),
    (
        hung(RGB, one(510)),
        "F1 needs 4 channels from 510, up to 513: 1 past the end of U1. Its blue would never "
        "arrive. "
        "Its last start here is 509.",
        (510, 513),
    ),
    (
        rig(("A", 4, 3, 511)),
        "A needs 4 channels from 511, up to 514: 2 past the end of U3. Its last start here is 509.",
        (511, 514),
    ),
    (
        rig(("A", 4, 9, 1), desk=Desk("Spade", 8)),
        "Spade sends universes 1 to 8; U9, with 1 fixture, is beyond it.",
        (None, None),
    ),
    (
        rig(("A", 4, 9, 1), ("B", 4, 9, 5), desk=Desk("", 8)),
        "The desk sends universes 1 to 8; U9, with 2 fixtures, is beyond it.",
        (None, None),
    ),
    (
        replace(rig(("A", 1, 1, 5)), universes=(Universe(1, reserved=(5,)),)),
        "A takes 5 and covers slot 5, which U1 keeps free.",
        (5, 5),
    ),
    (
        replace(rig(("A", 4, 1, 5)), universes=(Universe(1, reserved=(4, 5, 8, 9)),)),
        "A takes 5 to 8 and covers 2 reserved slots from 5, which U1 keeps free.",
        (5, 8),
    ),
    (
        replace(rig(("A", 4, 1, 5)), tell_tale=TellTale(6)),
        "A takes 5 to 8 and covers slot 6, which tells U1 apart (the tell-tale slot).",
        (6, 6),
    ),
    (
        replace(rig(("A", 4, 101, 1)), tell_tale=TellTale(512, Scale.PERCENT)),
        "The tell-tale slot 512 cannot say U101: in percent it reaches to 100.",
        (512, 512),
    ),
    (rig(("A", 512, 1, 1)), "U1 is 100 % full: 0 slots left.", (None, None)),
    (
        rig(("A", 461, 1, 52)),
        "U1 is 90 % full: 51 slots left, the largest gap is 51.",
        (None, None),
    ),
    (
        rig(("A", 300, 1, 2), ("B", 211, 1, 302)),
        "U1 is 99 % full: 1 slot left, the largest gap is 1.",
        (None, None),
    ),
    (rig(("A", 4, None, None)), "A has no start address yet.", (None, None)),
    (
        replace(ONE, fixtures=(replace(ONE.fixtures[0], mode="gone"),)),
        "A has no mode “gone” in the chart of Trowel T4: choose one of m.",
        (None, None),
    ),
    (
        replace(ONE, fixtures=(replace(ONE.fixtures[0], mode=""),)),
        "A has no mode yet in the chart of Trowel T4: choose one of m.",
        (None, None),
    ),
    (replace(ONE, profiles=()), "A has no mode “m”: its chart is missing.", (None, None)),
    (
        hung(chart(F.RED, setter=Setter(SetterKind.SWITCHES, switches=1)), one(2)),
        "F1 is planned at 2, but its 1 switch can be set to 1 only.",
        (2, 2),
    ),
    (
        hung(chart(F.RED, setter=Setter(SetterKind.SWITCHES, switches=5)), one(32)),
        "F1 is planned at 32, but its 5 switches can be set to 1 to 31 only.",
        (32, 32),
    ),
    (
        hung(chart(F.RED, setter=Setter(SetterKind.ROTARY, highest=99)), one(100)),
        "F1 is planned at 100, but its wheels can be set to 1 to 99 only.",
        (100, 100),
    ),
    (
        hung(chart(F.RED, setter=Setter(SetterKind.FIXED, highest=1)), one(2)),
        "F1 is planned at 2, but it listens to 1 only.",
        (2, 2),
    ),
    (
        hung(RGB, one(1), one(5), desk=Desk("", highest=7)),
        "The desk sends slots 1 to 7; F2 takes 5 to 8.",
        (5, 8),
    ),
    (
        hung(RGB, one(1), one(5), desk=Desk("", buttons=1)),
        "The desk has 1 fixture button; the rig needs 2. From F2 on there is none. "
        "Fixtures that share an address need one button together.",
        (None, None),
    ),
]


@pytest.mark.parametrize(("show", "message", "slots"), SAID, ids=[case[1][:30] for case in SAID])
def test_what_a_finding_says(
    show: Show, message: str, slots: tuple[int | None, int | None]
) -> None:
    """A finding says what is wrong in the rig's own words, and where."""
    found = {finding.message: (finding.first, finding.last) for finding in check(show)}
    assert message in found, found
    assert found[message] == slots


def alike(name: str, function: Function) -> Profile:
    return Profile(
        name, "Trowel", name, (Mode("a", (Part(1, (Channel(function),)),)), Mode("b", (Part(1),)))
    )


@pytest.mark.parametrize(
    ("profile", "mode", "slot", "severity", "reason"),
    [
        ("x", "a", 1, None, ""),
        ("x", "b", 1, "stop", "One is in mode a, Two in b"),
        ("x", "a", 2, "stop", "One is at U1 001, Two at U1 002"),
        ("y", "a", 1, "caution", "Two is of another type than One, though its channels are alike"),
        ("z", "a", 1, "stop", "Two is of another type than One and reads the slots in another way"),
        ("y", "b", 1, "stop", "Two is of another type than One and reads the slots in another way"),
    ],
    ids=[
        "itself",
        "mode",
        "start",
        "type, same functions",
        "type and functions",
        "type without a chart",
    ],
)
def test_declared_sharing(
    profile: str, mode: str, slot: int, severity: str | None, reason: str
) -> None:
    """Sharing is fine when declared and alike; what differs decides how bad it is, and it is no
    overlap."""
    show = Show(
        "Shared",
        (
            Fixture(1, "One", "x", "a", 1, patch=(Patch(1, 1),), share="pair"),
            Fixture(2, "Two", profile, mode, 2, patch=(Patch(1, slot),), share="pair"),
        ),
        (alike("x", Function.RED), alike("y", Function.RED), alike("z", Function.BLUE)),
    )
    assert rules_of(show) == ([("share-mismatch", severity)] if severity else [])
    assert [(finding.message, finding.first, finding.last) for finding in check(show)] == (
        [(f"pair shares one address, but {reason}.", slot, slot)] if severity else []
    )
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
    assert rules_of(replace(show, fixtures=(replace(show.fixtures[0], mode="gone"),))) == [
        ("mode-missing", "stop")
    ]
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
    """It is reserved in every universe; its level shows the number on every display; beyond its
    scale that is told."""
    show = replace(rig(("A", 5, 1, 508), ("B", 5, 101, 1)), tell_tale=TellTale(512, Scale.PERCENT))
    found = {(f.rule, f.universe, f.first) for f in check(show)}
    assert found == {("reserved", 1, 512), ("tell-tale", 101, 512)}
    for number in range(1, 101):
        level = TellTale(512, Scale.PERCENT).level(number)
        assert level is not None
        assert 100 * level // 255 == number == round(100 * level / 255)
    assert [TellTale(1, Scale.RAW).level(n) for n in (1, 255, 256)] == [1, 255, None]
