"""Mends really mend, and the repair of a rig keeps as many as can be kept."""

from __future__ import annotations

import random
from dataclasses import replace
from itertools import combinations, product

from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.addressing.mends import Move, Share, apply_mend, mends_for
from fence.core.addressing.repair import Repair, RepairOptions, repair_rig
from fence.core.addressing.seating import Unit
from fence.core.addressing.staying import heaviest_without_overlap
from fence.core.checks import Severity, check, findings_of, news
from fence.core.model.address import Address, Run
from fence.core.model.desk import Desk
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show
from fence.demo import demo_show
from tests.examples import examples
from tests.rigs import rig, rigs


@given(rigs())
def test_every_offered_move_lands_clear(show: Show) -> None:
    """A mend that moves a fixture leaves it without any stop about where it stands."""
    for finding in check(show):
        for mend in mends_for(show, finding):
            after = apply_mend(show, mend)
            if isinstance(mend.action, Move):
                at_fault = {f.rule for f in check(after) if mend.action.fixture in f.fixtures}
                assert not at_fault & {
                    "overlap",
                    "past-end",
                    "reserved",
                    "setter-range",
                    "universe-limit",
                }
            if isinstance(mend.action, Share) and finding.rule == "overlap":
                assert finding.key not in {f.key for f in check(after)}


def test_the_mends_of_an_overlap() -> None:
    """Nearest gap, next gap after, next universe, the other fixture instead, and sharing where it
    is legal."""
    show = rig(("A", 5, 1, 10), ("B", 5, 1, 13), ("C", 400, 1, 20), ("D", 5, 2, 1))
    overlap = next(finding for finding in check(show) if finding.rule == "overlap")
    assert [mend.text for mend in mends_for(show, overlap)] == [
        "Move B to 15",
        "Move B to U2 006",
        "Move A to 8",
        "Move A to 420",
        "Move A to U2 006",
        "Declare A and B as shared at U1 010",
    ]


def test_a_clash_with_a_group_is_one_finding() -> None:
    """Nine that share and one that lies on them: one finding, with the one moving, the group
    moving, and sharing."""
    show = rig(*[(f"Par {n}", 5, 1, 10) for n in range(1, 10)], ("New", 5, 1, 13))
    show = edits.share(show, range(1, 10))
    (overlap,) = [finding for finding in check(show) if finding.rule == "overlap"]
    assert overlap.fixtures == tuple(range(1, 11))
    assert overlap.message.startswith(
        "Par 1 (with 8 sharing its address) ends at 14; New starts at 13."
    )
    ways = [mend.text for mend in mends_for(show, overlap)]
    assert ways[0] == "Move New to 15"
    assert "Move Par 1 and 8 sharing with it to 8" in ways
    assert ways[-1] == "Let New share U1 010 with 9 fixtures of Par 1 group"
    joined = apply_mend(show, mends_for(show, overlap)[-1])
    assert not [finding for finding in check(joined) if finding.rule == "overlap"]
    assert {fixture.share for fixture in joined.fixtures} == {"Par 1 group"}


def test_a_clash_is_not_new_when_it_is_told_once_for_a_group() -> None:
    """Three at one slot meet in pairs. Two of them sharing leaves what was there; a fourth is
    news."""
    show = rig(("A", 3, 1, 1), ("B", 3, 1, 1), ("C", 3, 1, 1))
    shared = edits.share(show, (1, 2))
    (left,) = check(shared)
    assert left.fixtures == (1, 2, 3)
    assert not news(check(show), [left])
    longer = rig(("A", 3, 1, 1), ("B", 3, 1, 1), ("C", 3, 1, 1), ("D", 3, 1, 1))
    assert [
        f.fixtures
        for f in news(check(show), check(edits.share(longer, (1, 2))))
        if 4 not in f.fixtures
    ] == []
    assert news(check(show), check(edits.share(longer, (1, 2, 4))))
    parted = rig(("A", 3, 1, 1), ("B", 3, 1, 1), ("C", 3, 1, 3))
    assert news(check(parted), [left]), "they met in the last slot only"


def test_demo_stops_all_have_a_way_out() -> None:
    """Each stop of the demo show offers at least one mend, and taking the first of each ends them
    all."""
    show = demo_show()
    for _ in range(10):
        stops = [f for f in findings_of(show) if f.severity is Severity.STOP]
        if not stops:
            break
        show = apply_mend(show, mends_for(show, stops[0])[0])
    assert not [f for f in check(show) if f.severity is Severity.STOP]


def most_that_can_stay(show: Show) -> int:
    """How many fixtures of one universe can stay, by trying all sets; for rigs without shares."""
    kept = {slot for universe in show.universes for slot in universe.reserved}

    def slots(fixture: Fixture) -> set[tuple[int, int]]:
        run = show.runs_of(fixture)[0].run
        return {(run.universe, slot) for slot in range(run.first, run.last + 1)}

    placed = [fixture for fixture in show.fixtures if show.runs_of(fixture)]
    pinned = [fixture for fixture in placed if fixture.pinned]
    wall = set().union(*(slots(fixture) for fixture in pinned)) | {
        (u.number, s) for u in show.universes for s in kept
    }
    loose = [
        fixture
        for fixture in placed
        if not fixture.pinned
        and not slots(fixture) & wall
        and max(slot for _, slot in slots(fixture)) <= 512
    ]
    for size in range(len(loose), 0, -1):
        for some in combinations(loose, size):
            if sum(len(slots(f)) for f in some) == len(set().union(*(slots(f) for f in some))):
                return len(pinned) + size
    return len(pinned)


def without_shares(show: Show) -> Show:
    fixtures = tuple(
        Fixture(f.id, f.label, f.profile, f.mode, f.number, "", f.patch, f.pinned)
        for f in show.fixtures
    )
    return Show(show.name, fixtures, show.profiles, show.universes, next_id=show.next_id)


@examples(60)
@given(rigs(most=9, universes=2).map(without_shares))
def test_a_repair_keeps_as_many_as_brute_force(show: Show) -> None:
    """The number of fixtures left where they are is the largest possible; nothing pinned moves."""
    repair = repair_rig(show)
    addressed = [fixture for fixture in show.fixtures if show.runs_of(fixture)]
    assert (
        len(addressed) - len({m.fixture for m in repair.moves}) - len(repair.unplaced)
        == repair.kept
    )
    assert repair.kept == most_that_can_stay(show)
    assert not {m.fixture for m in repair.moves} & {f.id for f in show.fixtures if f.pinned}


@given(rigs(most=14))
def test_a_repair_leaves_no_clash_among_what_it_may_move(show: Show) -> None:
    """After a repair only pinned fixtures (with their sharers) and those without a place can still
    clash."""
    repair = repair_rig(show)
    pinned = [fixture for fixture in show.fixtures if fixture.pinned]
    stuck = {sharer.id for fixture in pinned for sharer in show.sharers_of(fixture)} | set(
        repair.unplaced
    )
    for finding in check(repair.show):
        if finding.rule in ("overlap", "past-end", "reserved"):
            assert set(finding.fixtures) & stuck
    if not stuck:
        assert repair_rig(repair.show).moves == ()


def test_a_gap_for_a_fixture_with_settable_limits() -> None:
    """A scanner whose switches hold 1 to 255 is mended to a place that can be set."""
    show = demo_show()
    finding = next(f for f in check(show) if f.rule == "setter-range")
    mend = mends_for(show, finding)[0]
    assert isinstance(mend.action, Move)
    assert mend.action.to == Address(4, 252)


# ---- weights, options, and how sure a repair is

SMALL = 10
"""Slots that the desk of the small rigs sends, so that every placement can be tried."""

small_rows = st.lists(
    st.tuples(st.integers(1, 5), st.integers(1, SMALL), st.booleans()), min_size=1, max_size=4
)


def small_rig(rows: list[tuple[int, int, bool]]) -> Show:
    """Fixtures on one universe of ten slots; the first may be pinned."""
    show = rig(*((f"F{place}", length, 1, slot) for place, (length, slot, _) in enumerate(rows)))
    pinned = replace(show.fixtures[0], pinned=rows[0][2] and rows[0][0] + rows[0][1] - 1 <= SMALL)
    return replace(
        show, fixtures=(pinned, *show.fixtures[1:]), desk=Desk(highest=SMALL, universes=1)
    )


def fewest_moves(show: Show) -> int | None:
    """The least number of moves over all placements of all fixtures; None where they do not fit."""
    best = None
    fixtures = [(f.start or 1, show.footprints_of(f)[0], f.pinned) for f in show.fixtures]
    for starts in product(
        *([start] if pinned else range(1, SMALL + 2 - n) for start, n, pinned in fixtures)
    ):
        slots = [
            slot
            for at, (_, n, _) in zip(starts, fixtures, strict=True)
            for slot in range(at, at + n)
        ]
        if len(set(slots)) == len(slots):
            moves = sum(at != start for at, (start, _, _) in zip(starts, fixtures, strict=True))
            best = moves if best is None else min(best, moves)
    return best


@examples(120)
@given(small_rows)
def test_a_repair_never_claims_too_much(rows: list[tuple[int, int, bool]]) -> None:
    """In one tight universe no repair beats trying everything, and one that is called proven equals
    it."""
    show = small_rig(rows)
    best = fewest_moves(show)
    repair = repair_rig(show)
    if best is None:
        assert not repair.proven
    elif not repair.unplaced:
        assert len(repair.moves) >= best
        assert len(repair.moves) == best or not repair.proven
        assert not [f for f in check(repair.show) if f.severity is Severity.STOP]


def test_a_repair_moves_as_few_as_trying_everything() -> None:
    """In 400 tight rigs, always the same ones, all find a place whenever there is one, with the
    fewest moves."""
    chance = random.Random(512)
    tight = [
        [(1, 2, False), (1, 7, False), (2, 2, False), (4, 8, False)],
        [(4, 5, False), (3, 5, False), (3, 3, False)],
        [(4, 3, False), (3, 10, False), (3, 5, False)],
    ]
    for _ in range(400):
        count = chance.randint(1, 4)
        tight.append(
            [
                (chance.randint(1, 5), chance.randint(1, SMALL), chance.random() < 0.2)
                for _ in range(count)
            ]
        )
    solvable = [
        (rows, best) for rows in tight if (best := fewest_moves(small_rig(rows))) is not None
    ]
    assert len(solvable) > 200
    for rows, best in solvable:
        repair = repair_rig(small_rig(rows))
        assert (len(repair.moves), repair.unplaced) == (best, ()), rows


def called(repair: Repair) -> list[str]:
    return [repair.show.fixture(move.fixture).label for move in repair.moves]


def test_what_was_set_and_what_is_hard_to_reach_moves_last() -> None:
    """Of two that clash the merely planned one moves; one that was set stays, one at a hard place
    before a planned."""
    show = rig(("A", 5, 1, 1), ("B", 5, 1, 3))
    assert len(called(repair_rig(show))) == 1
    for stays, moves in ((1, "B"), (2, "A")):
        assert called(repair_rig(edits.mark_set(show, [stays]))) == [moves]
        hung = edits.set_position(show, [stays], "Roof")
        assert called(repair_rig(edits.set_hard(hung, "Roof", hard=True))) == [moves]


def test_those_that_may_move_go_first() -> None:
    """A fixture that a person lets move goes before one that was not named, even one of two against
    one."""
    show = rig(("A", 10, 1, 1), ("B", 5, 1, 1), ("C", 5, 1, 6))
    assert called(repair_rig(show)) == ["A"]
    assert sorted(called(repair_rig(show, RepairOptions(willing=frozenset({2, 3}))))) == ["B", "C"]


def test_staying_in_the_universe_and_opening_none() -> None:
    """With no room at home a fixture goes elsewhere; told to stay, or to open nothing, it is named
    instead."""
    show = rig(("A", 400, 1, 1), ("B", 200, 1, 100))
    assert str(repair_rig(show).moves[0].after) == "U2 001"
    assert repair_rig(show, RepairOptions(new_universes=False)).unplaced == (2,)
    two = edits.add_universe(show, 2)
    assert str(repair_rig(two, RepairOptions(new_universes=False)).moves[0].after) == "U2 001"
    assert repair_rig(two, RepairOptions(stay=True)).unplaced == (2,)


def test_reasons_name_what_is_in_the_way() -> None:
    """Each move says what keeps it from its place and which gap was taken."""
    show = rig(("A", 10, 1, 1), ("B", 5, 1, 8), ("C", 5, 1, 510), ("D", 4, 1, 100))
    why = {move.fixture: move.why for move in repair_rig(show).moves}
    assert why == {
        2: "A keeps 1 to 10. A gap of 5 nearby is U1 011.",
        3: "It ran 2 past the end. A gap of 5 nearby is U1 508.",
    }


def test_room_is_made_where_gaps_are_too_small() -> None:
    """Where no gap takes a run, one more fixture moves, and it is said for whom; that is not called
    proven."""
    show = rig(("A", 4, 1, 1), ("B", 2, 1, 6), ("C", 4, 1, 20), desk=Desk(highest=10, universes=1))
    repair = repair_rig(show)
    assert [(move.fixture, move.after.slot) for move in repair.moves] == [(2, 9), (3, 5)]
    assert "It makes room for C." in next(move.why for move in repair.moves if move.fixture == 2)
    assert repair.unplaced == ()
    assert not repair.proven


@given(st.lists(st.tuples(st.integers(1, 40), st.integers(1, 12), st.integers(1, 9)), max_size=9))
def test_the_heaviest_set_equals_trying_all(rows: list[tuple[int, int, int]]) -> None:
    """The set that is kept has no overlap and the largest weight of all such sets."""
    units = [
        Unit((n,), 0, Run(1, first, length), None, False, weight, Run(1, first, length))
        for n, (first, length, weight) in enumerate(rows)
    ]

    def apart(some: tuple[Unit, ...]) -> bool:
        slots = [slot for unit in some for slot in range(unit.run.first, unit.run.last + 1)]
        return len(slots) == len(set(slots))

    keep, drop = heaviest_without_overlap(units)
    assert apart(tuple(keep))
    assert sorted(unit.members for unit in [*keep, *drop]) == sorted(unit.members for unit in units)
    sets = (some for size in range(len(units) + 1) for some in combinations(units, size))
    assert sum(u.weight for u in keep) == max(
        sum(u.weight for u in some) for some in sets if apart(some)
    )
