"""Laws over rigs that have everything: several parts, groups, pins, setters, reserved slots, desks
with limits."""

from __future__ import annotations

import random
from collections import Counter
from dataclasses import replace
from itertools import combinations, product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.addressing.mends import Unpin, apply_mend, mends_for
from fence.core.addressing.moves import compact, split
from fence.core.addressing.repair import repair_rig
from fence.core.addressing.room import room_for_more
from fence.core.addressing.schools import Layout, School, lay_out
from fence.core.addressing.sheet import slot_sheet
from fence.core.addressing.trial import Trial, try_out
from fence.core.checks import Finding, Severity, check, findings_of, news
from fence.core.edits.difference import apply_difference, difference
from fence.core.edits.prose import describe
from fence.core.model.desk import Desk
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.sharing import mover_of, movers_in
from fence.core.model.show import Show, Universe
from fence.core.modes.advice import offers_of
from fence.core.modes.combine import Goal, combine
from fence.store.rows import DIFFERENCE
from tests.core.edits.test_edits import some_edit
from tests.examples import examples
from tests.rigs import rich_rigs

Slots = set[tuple[int, int]]


def parts_of(show: Show, fixture: Fixture) -> list[Slots]:
    """The slots that each part of a fixture asks for, one by one, also those past the end."""
    return [
        {(p.universe or 0, p.slot + step) for step in range(width)} if p.slot and width else set()
        for width, p in zip(show.footprints_of(fixture), fixture.patch, strict=False)
    ]


def told(show: Show, rule: str) -> list[Finding]:
    return [finding for finding in check(show) if finding.rule == rule]


def stops(show: Show) -> list[Finding]:
    return [finding for finding in findings_of(show) if finding.severity is Severity.STOP]


@given(rich_rigs())
def test_the_rules_equal_a_naive_reading(show: Show) -> None:
    """Overlaps, runs past the end, reserved slots, missing addresses, limits of setters and desk,
    slot by slot."""
    overlaps = Counter[tuple[frozenset[int], tuple[int, int], int]]()
    stands = [
        (fixture.share or f"\0{fixture.id}", part, slots, fixture.id)
        for fixture in show.fixtures
        for part, slots in enumerate(parts_of(show, fixture))
        if slots
    ]
    places: dict[tuple[str, int, frozenset[tuple[int, int]]], set[int]] = {}
    # those of a group that stand in one place are one
    for group, part, slots, fixture_id in stands:
        places.setdefault((group, part, frozenset(slots)), set()).add(fixture_id)
    for ((group, _, mine), some), ((other, _, theirs), others) in combinations(places.items(), 2):
        # of one group only own parts are meant
        ids = some & others if group == other else some | others
        if ids and (shared := mine & theirs):
            overlaps[frozenset(ids), min(shared), min(512, max(shared)[1])] += 1
    found = Counter(
        (frozenset(f.fixtures), (f.universe or 0, f.first or 0), f.last or 0)
        for f in told(show, "overlap")
    )
    assert found == overlaps
    runs = [
        (f, patch, slots)
        for f in show.fixtures
        for patch, slots in zip(f.patch, parts_of(show, f), strict=False)
    ]
    past = sorted(
        (f.id, p.universe, p.slot) for f, p, slots in runs if any(slot > 512 for _, slot in slots)
    )
    assert sorted((f.fixtures[0], f.universe, f.first) for f in told(show, "past-end")) == past
    kept = {
        (number, slot) for number in show.universe_by_number for slot in show.reserved_in(number)
    }
    assert sorted(f.fixtures[0] for f in told(show, "reserved")) == sorted(
        f.id for f, _, s in runs if s & kept
    )
    waiting = [
        f.id
        for f in show.fixtures
        if any(w and (not p.slot) for w, p in zip(show.footprints_of(f), f.patch, strict=False))
    ]
    assert sorted(f.fixtures[0] for f in told(show, "no-address")) == waiting
    unsettable = []
    for f, p, slots in runs:
        profile = show.profile_of(f)
        if (
            slots
            and profile
            and not profile.setter.settable[0] <= (p.slot or 0) <= profile.setter.settable[1]
        ):
            unsettable.append((f.id, p.slot))
    assert sorted((f.fixtures[0], f.first) for f in told(show, "setter-range")) == sorted(
        unsettable
    )
    page = show.desk.page
    off = sorted(
        (f.id, p.slot) for f, p, slots in runs if page and slots and ((p.slot or 1) - 1) % page
    )
    assert sorted((f.fixtures[0], f.first) for f in told(show, "page-grid")) == off
    large = [
        f.id for f in show.fixtures if page and any(width > page for width in show.footprints_of(f))
    ]
    assert [f.fixtures[0] for f in told(show, "page-size")] == large
    assert {f.fixtures[0] for f in told(show, "mode-missing")} == {
        f.id for f in show.fixtures if f.mode == "gone"
    }
    needing = movers_in(f for f in show.fixtures if any(show.footprints_of(f)))
    assert bool(told(show, "desk-fixtures")) == (
        show.desk.buttons is not None and len(needing) > show.desk.buttons
    )


@given(rich_rigs(), st.integers(1, 6))
def test_the_worst_are_kept(show: Show, most: int) -> None:
    """However few findings are kept, no stop is dropped for a caution, nor a caution for a note."""
    every, kept = list(check(show)), findings_of(show, most=most)
    assert len(kept) == min(most, len(every))
    worst = sorted(finding.severity.rank for finding in every)[:most]
    assert [finding.severity.rank for finding in kept] == worst


@examples(120)
@given(rich_rigs())
def test_a_mend_never_fails_and_never_clashes(show: Show) -> None:
    """Each mend that is offered can be taken, makes no stop that was not there, and ends what it is
    offered for."""
    for finding in list(check(show))[:12]:
        for mend in mends_for(show, finding):
            after = apply_mend(show, mend)
            assert after != show, mend.text
            if isinstance(mend.action, Unpin):  # the way is free then: it only takes the pin out
                assert all(f.patch == show.fixture(f.id).patch for f in after.fixtures)
                continue
            assert finding.key not in {f.key for f in check(after)}, mend.text
            changes = difference(show, after).fixtures
            if any(c.before and c.after and c.before.mode != c.after.mode for c in changes):
                continue  # another mode may be longer: its clashes are told by its own preview
            new = [f.message for f in news(stops(show), stops(after))]
            assert not new, (mend.text, new)
            moved = {c.after.id for c in changes if c.after}
            named = set(finding.fixtures)
            for fixture in show.fixtures:
                if fixture.id in moved - named:  # whoever moves along is named in the text
                    assert "sharing with it" in mend.text, mend.text


@given(
    rich_rigs(), st.sampled_from([s for s in School if s is not School.SHARED]), st.integers(1, 64)
)
def test_a_layout_brings_no_stop_upon_those_it_places(
    show: Show, school: School, step: int
) -> None:
    """What a layout places clashes with nobody and keeps to setters and reserved slots; what it
    cannot is named."""
    layout = Layout(school, page=step, round=step, spare=step % 7)
    result = lay_out(show, layout)
    placed = {owner for owner, _, _ in result.placed} - set(result.unplaced)
    for fixture in show.fixtures:
        after = result.show.fixture(fixture.id)
        if fixture.pinned or show.mode_of(fixture) is None:
            assert after == fixture
    groups = {mover_of(f) for f in show.fixtures if f.share}
    free = {i for i in placed if mover_of(show.fixture(i)) not in groups}
    for finding in stops(result.show):
        if finding.rule in ("overlap", "past-end", "reserved", "setter-range"):
            assert not free & set(finding.fixtures), finding.message
    assert {f.id for f in show.fixtures if show.mode_of(f) is None and not f.pinned} <= set(
        result.unplaced
    )


@given(rich_rigs(), st.sampled_from(["add", "mode", "desk"]), st.integers(1, 3))
def test_a_trial_fits_just_when_the_rules_agree(show: Show, what: str, count: int) -> None:
    """ "Fits" is said where all have a place and the rules find no stop that was not there before,
    and only there."""
    profile = show.profiles[0]
    trial = {
        "add": Trial(add=edits.AddRun(profile, profile.modes[0].name, count, "New 1", 900)),
        "mode": Trial(
            modes={f.id: profile.modes[-1].name for f in show.fixtures if f.profile == profile.id}
        ),
        "desk": Trial(universes=count),
    }[what]
    try:
        result = try_out(show, trial)
    except EditError:
        return
    new = [finding.message for finding in news(stops(show), stops(result.show))]
    assert result.fits == (not result.without and not new)
    assert sorted(result.stops) == sorted(new)
    pins = [(f.id, f.patch) for f in show.fixtures if f.pinned and f.id not in trial.modes]
    assert pins == [(i, result.show.fixture(i).patch) for i, _ in pins]


@given(rich_rigs())
def test_a_repair_leaves_pins_and_ends_what_it_moves(show: Show) -> None:
    """No pinned fixture moves; whoever is moved stands clear of what the repair is for; who has no
    place is named."""
    result = repair_rig(show)
    moved = {move.fixture for move in result.moves}
    assert not [f.label for f in show.fixtures if f.pinned and f.id in moved]
    lost = set(result.unplaced)
    groups = {f.share for f in show.fixtures if f.share}
    for finding in stops(result.show):
        names = set(finding.fixtures)
        if finding.rule in ("past-end", "reserved", "setter-range") and names & moved:
            assert names & lost or any(result.show.fixture(i).share in groups for i in names), (
                finding.message
            )


def wide_rig(chance: random.Random) -> Show:
    """A few wide fixtures with modes in one or two parts, with or without pages: they need a
    universe or two."""
    profiles = tuple(
        Profile(
            f"p{place}",
            "Trowel",
            f"P{place}",
            tuple(
                Mode(
                    f"m{n}",
                    tuple(
                        Part(chance.choice([8, 60, 120, 200, 256]))
                        for _ in range(chance.randint(1, 2))
                    ),
                )
                for n in range(chance.randint(1, 2))
            ),
        )
        for place in range(2)
    )
    fixtures = []
    for number in range(1, chance.randint(3, 6)):
        profile = chance.choice(profiles)
        mode = profile.modes[0]
        fixtures.append(
            Fixture(number, f"F{number}", profile.id, mode.name, patch=(Patch(),) * len(mode.parts))
        )
    reserved = tuple(sorted(chance.sample(range(1, 513), chance.choice([0, 0, 2]))))
    desk = Desk(page=chance.choice([None, None, 128, 256]), highest=chance.choice([512, 512, 400]))
    universes = tuple(Universe(number, reserved=reserved) for number in range(1, 5))
    return Show("Wide", tuple(fixtures), profiles, universes, desk=desk)


def rooms_in(show: Show, universe: int) -> list[int]:
    """The lengths that an empty universe offers, slot by slot: its gaps, or its pages from their
    first slot on."""
    free = [
        slot not in show.reserved_in(universe) and slot <= show.desk.highest
        for slot in range(1, 513)
    ]
    if show.desk.page is None:
        return [len(run) for run in "".join("x" if slot else " " for slot in free).split()]
    pages = [free[first : first + show.desk.page] for first in range(0, 512, show.desk.page)]
    return [(page.index(False) if False in page else len(page)) for page in pages]


def fit(lengths: list[int], rooms: list[int], one_each: bool) -> bool:
    """Whether the lengths go into the rooms, by trying every room for each."""
    if not lengths:
        return True
    for place, room in enumerate(rooms):
        if room >= lengths[0] and room not in rooms[:place]:
            left = 0 if one_each else room - lengths[0]
            if fit(lengths[1:], [*rooms[:place], left, *rooms[place + 1 :]], one_each):
                return True
    return False


def test_proven_combinations_equal_trying_everything() -> None:
    """Fewest universes, where proven, is what trying all modes in all rooms gives; never fewer.
    Often enough two."""
    reached = {1: 0, 2: 0, 3: 0}
    for seed in range(400):
        show = wide_rig(random.Random(seed))
        choices = [[o.mode for o in offers_of(show, f)] for f in show.fixtures]
        if not all(choices):
            continue
        found = combine(show, Goal.FEWEST)
        wanted = next(
            count
            for count in range(1, 9)
            if any(
                fit(
                    sorted((p.footprint for mode in modes for p in mode.parts), reverse=True),
                    [room for number in range(1, count + 1) for room in rooms_in(show, number)],
                    show.desk.page is not None,
                )
                for modes in product(*choices)
            )
        )
        assert found.universes >= wanted, seed
        if found.proven:
            assert found.universes == wanted, seed
            reached[min(wanted, 3)] += 1
    assert min(reached[1], reached[2]) >= 60, reached


@given(st.data(), rich_rigs())
def test_edits_lead_there_and_back(data: st.DataObject, show: Show) -> None:
    """Any edits of such rigs give a difference that is written, read, applied and reversed, and has
    words."""
    after = show
    for _ in range(data.draw(st.integers(1, 3))):
        after = some_edit(data.draw, after)
    found = DIFFERENCE.validate_json(DIFFERENCE.dump_json(difference(show, after)))
    assert apply_difference(show, found) == after
    assert apply_difference(after, found.reversed()) == replace(show, next_id=after.next_id)
    assert bool(describe(show, after)) == (show != after)


@given(rich_rigs())
def test_the_sheet_equals_a_naive_reading(show: Show) -> None:
    """Each slot names who listens, and says "clash" just where the rules would."""
    clashing = {
        (finding.universe, slot)
        for finding in check(show)
        if finding.rule == "overlap"
        for slot in range(finding.first or 1, (finding.last or 0) + 1)
    }
    for number in show.universe_by_number:
        for row in slot_sheet(show, number):
            there = [
                f.label
                for f in show.fixtures
                for part in parts_of(show, f)
                if (number, row.slot) in part
            ]
            assert sorted(row.fixtures) == sorted(there)
            kept = row.slot in show.reserved_in(number) and bool(there)
            assert row.clash == ((number, row.slot) in clashing or kept)


@given(rich_rigs(), st.data())
def test_splitting_and_closing_hold_to_pins(show: Show, data: st.DataObject) -> None:
    """A group that is split, and a universe that is closed up, leave the pinned, and parts without
    channels, alone."""
    for edit in (
        lambda: compact(show, 1),
        lambda: split(show, [f.id for f in show.fixtures if f.share]),
    ):
        try:
            after = edit()
        except FenceError:
            continue
        for fixture in show.fixtures:
            assert after.fixture(fixture.id).patch == fixture.patch or not fixture.pinned
            for old, new, width in zip(
                fixture.patch,
                after.fixture(fixture.id).patch,
                show.footprints_of(fixture),
                strict=False,
            ):
                assert width or old == new, "a part without channels stays as it is"


@given(rich_rigs())
def test_room_is_never_less_with_moves(show: Show) -> None:
    """How many more fit as it is can be added one by one without a new stop; with moves there are
    no fewer."""
    for room in room_for_more(show)[:2]:
        assert room.as_it_is <= room.with_moves


@pytest.mark.parametrize("patch", [Patch(), Patch(1)])
def test_a_group_is_never_taken_for_a_fixture(patch: Patch) -> None:
    """A group called "2" and the fixture with id 2 are two."""
    group, alone = (
        Fixture(1, "A", "p", "m", share="2", patch=(patch,)),
        Fixture(2, "B", "p", "m", patch=(patch,)),
    )
    assert mover_of(group) != mover_of(alone)
    assert len(movers_in([group, alone])) == 2
