"""Planning the cable against a brute force that writes every plan down and adds it up."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import combinations, permutations
from math import ceil

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.checks import check
from fence.core.lines.measure import measure
from fence.core.lines.plan import Wanted, plan_cable
from fence.core.lines.seeking import EXACT
from fence.core.model.address import Address
from fence.core.model.errors import EditError
from fence.core.model.ground import DESK, Distance, Ground
from fence.core.model.line import Cable, Device
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from tests.examples import examples

LAMP = Profile(
    "lamp",
    "Trowel",
    "Lamp",
    (Mode("m", (Part(1),)),),
    connectors_in="5-pin",
    connectors_out="5-pin",
)
HEAVY = replace(LAMP, id="heavy", unit_load=3, connectors_in="3-pin", connectors_out="3-pin")
AIRY = replace(LAMP, id="airy", wireless=True, connectors_in="wireless", connectors_out="")


def rig(
    places: Sequence[tuple[str, Profile, int]],
    ground: Ground,
    spacing: float = 2,
    universe: int = 1,
) -> Show:
    """A show with so many fixtures of a type at each place, all on one universe."""
    show = Show("S")
    start = 1
    for name, profile, count in places:
        run = edits.AddRun(
            profile, "m", count, f"{name} 1", None, name, universe, Address(universe, start)
        )
        show = edits.add_fixtures(show, run)
        start += count
    return edits.set_ground(show, ground, {name: spacing for name, _, _ in places})


def splits(items: tuple[int, ...], most: int) -> Iterator[list[tuple[int, ...]]]:
    """Every way to divide items into up to so many groups."""
    if not items:
        yield []
    elif most:
        first, rest = items[0], items[1:]
        for size in range(len(rest) + 1):
            for others in combinations(rest, size):
                left = tuple(item for item in rest if item not in others)
                for groups in splits(left, most - 1):
                    yield [(first, *others), *groups]


class Naive:
    """All plans of a few fixtures, each at a place of its own."""

    def __init__(
        self, loads: Sequence[float], far: Sequence[Sequence[int]], limit: float, outputs: int
    ) -> None:
        self.loads, self.far, self.limit, self.outputs = loads, far, limit, outputs

    def best(
        self, items: tuple[int, ...], at: int, drivers: int, depth: int = 0
    ) -> tuple[int, int, int]:
        """The least (limits broken, splitters, metres) for items from a point with so many outputs.
        Of splitters one behind the other three are enough for so few fixtures."""
        worst = (10**6, 10**6, 10**6)
        found = [worst]
        for groups in splits(items, drivers):
            sums = [self.section(group, at, depth) for group in groups]
            found.append(
                (sum(s[0] for s in sums), sum(s[1] for s in sums), sum(s[2] for s in sums))
            )
        return min(found)

    def section(self, items: tuple[int, ...], at: int, depth: int) -> tuple[int, int, int]:
        """The least for one driver: a chain of some, a splitter behind it for the others."""
        found = [(10**6, 10**6, 10**6)]
        for size in range(0 if depth < 3 else len(items), len(items) + 1):
            for order in permutations(items, size):
                rest = tuple(item for item in items if item not in order)
                if sum(self.loads[item] for item in order) + bool(rest) > self.limit:
                    continue
                here, metres, long = at, 0, 0
                for item in order:
                    run = self.far[here][item + 1]
                    metres, long, here = metres + run, long + (run > 100), item + 1
                if not rest:
                    found.append((long + (metres > 300), 0, metres))
                else:
                    below = self.best(rest, here, self.outputs, depth + 1)
                    found.append(
                        (long + (metres + 1 > 300) + below[0], 1 + below[1], metres + 1 + below[2])
                    )
        return min(found)


@st.composite
def few_places(draw: st.DrawFn) -> tuple[list[list[float]], list[bool], int, int, int]:
    """Distances between a desk and up to four places, which of them are heavy, the limits, the
    sockets."""
    count = draw(st.integers(1, 4))
    # distances as a rope lies: on a grid, so that no detour is shorter than the way itself
    spots = [(draw(st.integers(0, 130)), draw(st.integers(0, 90))) for _ in range(count + 1)]
    far = [[float(abs(a[0] - b[0]) + abs(a[1] - b[1])) for b in spots] for a in spots]
    heavy = [draw(st.booleans()) for _ in range(count)]
    return far, heavy, draw(st.integers(4, 9)), draw(st.integers(2, 3)), draw(st.integers(1, 2))


@examples(50)
@given(few_places())
def test_small_plans_are_the_best_there_are(
    drawn: tuple[list[list[float]], list[bool], int, int, int],
) -> None:
    """Broken limits, splitters and metres equal those of the best of all plans, and it says that it
    is proven."""
    far, heavy, limit, outputs, sockets = drawn
    names = [DESK, *(f"P{n}" for n in range(len(heavy)))]
    ways = tuple(
        Distance(names[a], names[b], far[a][b]) for a, b in combinations(range(len(names)), 2)
    )
    profiles = [
        replace(HEAVY, connectors_in="5-pin", connectors_out="5-pin") if h else LAMP for h in heavy
    ]
    show = rig(
        [(name, p, 1) for name, p in zip(names[1:], profiles, strict=True)],
        Ground(ways, 10, sockets),
    )
    plan = plan_cable(show, Wanted(limit, outputs))
    metres = [[max(1, ceil(round(length * 1.1, 6))) for length in row] for row in far]
    naive = Naive([p.unit_load for p in profiles], metres, limit, outputs)
    broken, splitters, least = naive.best(tuple(range(len(heavy))), 0, sockets)
    assert (plan.splitters, plan.metres) == (splitters, least)
    found = [f for f in check(plan.show) if f.rule in ("hop-length", "line-length")]
    assert len(found) == broken
    if broken == 0:
        assert plan.proven


@st.composite
def rich_places(draw: st.DrawFn) -> tuple[Show, Wanted]:
    """Many fixtures of three types at many places, distances partly unknown."""
    count = draw(st.integers(1, 14))
    names = [f"P{n}" for n in range(count)]
    places = [
        (n, draw(st.sampled_from([LAMP, LAMP, HEAVY, AIRY])), draw(st.integers(1, 14)))
        for n in names
    ]
    known = [w for w in combinations([DESK, *names], 2) if draw(st.integers(0, 9))]
    ways = tuple(Distance(a, b, draw(st.integers(1, 90))) for a, b in known)
    wanted = Wanted(draw(st.integers(6, 32)), draw(st.sampled_from([2, 4, 8])))
    return rig(
        places,
        Ground(ways, 0, draw(st.sampled_from([None, 1, 3]))),
        universe=draw(st.integers(1, 3)),
    ), wanted


@examples(16)
@given(rich_places())
def test_a_plan_keeps_what_can_be_kept(drawn: tuple[Show, Wanted]) -> None:
    """Every fixture hangs on one line of its universe; no driver feeds too much; ends are closed,
    plugs meet."""
    show, wanted = drawn
    plan = plan_cable(show, wanted)
    hung = [stop.fixture for line in plan.show.lines for stop in line.stops if stop.fixture]
    assert sorted(hung) == [fixture.id for fixture in show.fixtures]
    assert {f.rule for f in check(plan.show) if f.line} <= {
        "hop-length",
        "line-length",
        "line-load",
    }
    assert not [f for f in check(plan.show) if f.rule == "line-load" and f.severity == "stop"]
    assert plan.metres == sum(s.length or 0 for line in plan.show.lines for s in line.stops)
    for line in plan.show.lines:
        for stop in line.stops:
            if stop.fixture and show.profile_of(show.fixture(stop.fixture)) is AIRY:
                assert stop.cable is Cable.WIRELESS
    places = len({f.position for f in show.fixtures if show.profile_of(f) is not AIRY})
    assert not plan.proven or places <= EXACT
    with pytest.raises(EditError, match="hangs on a line already"):
        plan_cable(plan.show, wanted)
    assert plan_cable(plan.show, replace(wanted, anew=True)).metres <= plan.metres


def test_a_plan_says_what_it_lacks() -> None:
    """Unknown lengths and too few sockets are said; limits that leave no room are refused."""
    show = rig([("P0", LAMP, 3), ("P1", LAMP, 3)], Ground())
    plan = plan_cable(show, Wanted())
    assert not plan.proven
    assert "2 cable runs are of unknown length" in plan.remarks[0]
    two = edits.add_fixtures(show, edits.AddRun(LAMP, "m", 2, "Q 1", None, "P1", 2, Address(2, 1)))
    assert (
        "2 universes need a socket each"
        in plan_cable(edits.set_ground(two, Ground(sockets=1)), Wanted()).remarks[-1]
    )
    for bad in (Wanted(loads=1), Wanted(loads=33), Wanted(outputs=1)):
        with pytest.raises(EditError):
            plan_cable(show, bad)
    with pytest.raises(EditError, match="P0 1 alone puts 3 unit loads"):
        plan_cable(rig([("P0", HEAVY, 2)], Ground()), Wanted(loads=2))
    heavy = [
        stop.device
        for stop in plan_cable(rig([("P0", HEAVY, 30)], Ground()), Wanted()).show.lines[0].stops
    ]
    assert heavy.count(Device.SPLITTER) == 1


def test_lengths_come_from_the_tape() -> None:
    """Distances over other places, spacing times the places between, slack rounded up; what is
    typed stays."""
    ways = (Distance(DESK, "P0", 20), Distance("P0", "P1", 10))
    show = rig([("P0", LAMP, 3), ("P1", LAMP, 2)], Ground(ways, 10), spacing=2.5)
    show = edits.chain(edits.add_line(show, "L", 1), 1, [1, 3, 2, 4])
    show = edits.set_cable_runs(edits.terminate(show, 1), 1, {2: 40})
    assert [stop.length for stop in measure(show).line(1).stops] == [22, 40, 3, 11, 0]
    assert [stop.length for stop in measure(show, only_unknown=False).line(1).stops] == [
        22,
        6,
        3,
        11,
        0,
    ]
    assert next(s.length for s in measure(edits.take_off(show, 1, [1, 2, 3])).line(1).stops) == 33
    with pytest.raises(EditError, match="No length could be calculated"):
        measure(edits.set_ground(show, Ground(), {"P0": None}), only_unknown=True)
