"""Challenges: a heap of fixtures addressed by hand, and a cable planned by hand, each beside what
Fence would do."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from random import Random

from fence.core.addressing.repair import repair_rig
from fence.core.addressing.schools import Layout, School, lay_out
from fence.core.checks.lines import LONG_LINE, LONG_RUN, MOST_LOADS
from fence.core.lines.seeking import BESIDE, BROKEN, SPLITTER, Branch, Task, seek
from fence.core.model.address import SLOTS, Address, parse_address
from fence.core.model.errors import EditError, FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.show import Show
from fence.core.practising.drills.addresses import modes_in

HEAPS = {1: (6, 2), 2: (10, 3), 3: (16, 5)}
"""Fixtures and types of a heap, by level."""
NAMES = ("Ladder", "Bridge", "Floor", "Wall", "Gallery", "Pit", "Tower", "Roof")
POSITIONS = {1: 4, 2: 5, 3: 7}
OUTPUTS = 4
"""Of a splitter in this challenge."""
AT_THE_DESK = "the desk"


@dataclass(frozen=True, slots=True)
class Judged:
    """How a heap stands: the universes used, the slots left between first and last, and how many
    fixtures would have to be touched to mend it."""

    universes: int
    gaps: int
    touched: int


def heap_of(rig: Show, chance: Random, level: int) -> Show:
    """Fixtures of a rig's types without addresses, shuffled as they come out of the cases."""
    known = modes_in(rig)
    if not known:
        raise EditError("This rig has no type with a chart: add one first.")
    count, types = HEAPS[level]
    picked = [chance.choice(known) for _ in range(types)]
    fixtures = []
    for number in range(1, count + 1):
        profile, mode = chance.choice(picked)
        fixtures.append(
            Fixture(number, f"{number}", profile.id, mode.name, patch=(Patch(),), number=number)
        )
    profiles = {profile.id: profile for profile, _ in picked}
    return Show("Heap", profiles=tuple(profiles.values()), fixtures=tuple(fixtures))


def addressed(heap: Show, typed: Mapping[int, str]) -> Show:
    """The heap with the addresses that were typed, ``2.117`` or ``117``; ``EditError`` names the
    fixture whose address cannot be read."""
    placed = {}
    for fixture in heap.fixtures:
        try:
            at = parse_address(typed.get(fixture.id, ""), absolute=False)
        except FenceError as error:
            raise EditError(f"Fixture {fixture.label}: {error}") from None
        placed[fixture.id] = at
    return _placed(heap, placed)


def _placed(heap: Show, at: Mapping[int, Address]) -> Show:
    fixtures = tuple(
        Fixture(
            one.id,
            one.label,
            one.profile,
            one.mode,
            patch=(Patch(at[one.id].universe, at[one.id].slot),) if one.id in at else one.patch,
            number=one.number,
        )
        for one in heap.fixtures
    )
    return Show("Heap", profiles=heap.profiles, fixtures=fixtures)


def judged(show: Show) -> Judged:
    """How a heap stands that is addressed."""
    spans: dict[int, list[tuple[int, int]]] = {}
    for fixture in show.fixtures:
        mode = show.mode_of(fixture)
        if fixture.start is None or fixture.universe is None or mode is None:
            continue
        last = min(SLOTS, fixture.start + mode.footprint - 1)
        spans.setdefault(fixture.universe, []).append((fixture.start, last))
    gaps = 0
    for held in spans.values():
        taken = {slot for first, last in held for slot in range(first, last + 1)}
        gaps += max(taken) - min(taken) + 1 - len(taken)
    mended = repair_rig(show)
    touched = {move.fixture for move in mended.moves} | set(mended.unplaced)
    return Judged(len(spans), gaps, len(touched))


def by_fence(heap: Show) -> Show:
    """The heap as Fence lays it out: back to back, in its order."""
    return lay_out(heap, Layout(School.BACK_TO_BACK)).show


@dataclass(frozen=True, slots=True)
class Spot:
    """A position of the cable challenge: what hangs there, and where it is, in metres from the
    desk across and away."""

    name: str
    load: int
    across: int
    away: int


@dataclass(frozen=True, slots=True)
class Cable:
    """Positions to be cabled, and the task that they are."""

    spots: tuple[Spot, ...]
    task: Task

    def metres(self, point: int, unit: int) -> int:
        """Metres of cable from a point (0 the desk, else the position before it) to a position."""
        return self.task.runs[point][unit]


@dataclass(frozen=True, slots=True)
class Run:
    """What a position hangs on: the desk (None) or another position, and whether on a splitter that
    stands there."""

    behind: int | None
    splitter: bool


@dataclass(frozen=True, slots=True)
class Laid:
    """A cable as it was planned: its splitters and metres, and what breaks a limit, in words."""

    splitters: int
    metres: int
    broken: tuple[str, ...]


def cable_of(chance: Random, level: int) -> Cable:
    """Positions with more unit loads than one driver feeds."""
    count = POSITIONS[level]
    spots = tuple(
        Spot(name, chance.randint(6, 16), chance.randint(-20, 20), chance.randint(4, 40))
        for name in NAMES[:count]
    )
    points = [(0, 0), *((spot.across, spot.away) for spot in spots)]
    runs = tuple(
        tuple(abs(x - spot.across) + abs(y - spot.away) + 3 for spot in spots) for x, y in points
    )
    sizes = tuple((float(spot.load), spot.load, 0) for spot in spots)
    return Cable(spots, Task(sizes, runs, MOST_LOADS, OUTPUTS, 1, LONG_RUN, LONG_LINE))


def laid(cable: Cable, runs: Sequence[Run]) -> Laid:
    """A plan by hand, reckoned as Fence reckons its own. ``EditError`` where it is no plan: a ring,
    or a second cable out of a position without a splitter."""
    _check_whole(cable, runs)
    branch = _branch(cable, runs, None)
    broken = []
    splitters = {run.behind for run in runs if run.splitter}
    for chain in _chains(runs, branch):
        load = sum(cable.spots[unit].load for unit in chain)
        load += chain[-1] in splitters if chain else 0
        if load > MOST_LOADS:
            names = " → ".join(cable.spots[unit].name for unit in chain)
            broken.append(f"{names}: {load} unit loads on one driver, which feeds {MOST_LOADS}")
    for where in sorted(splitters, key=lambda one: -1 if one is None else one):
        outputs = sum(1 for run in runs if run.splitter and run.behind == where)
        if outputs > OUTPUTS:
            place = AT_THE_DESK if where is None else cable.spots[where].name
            broken.append(f"The splitter at {place} has {OUTPUTS} outputs, not {outputs}")
    metres = sum(
        cable.metres(0 if run.behind is None else run.behind + 1, unit) + cable.spots[unit].load
        for unit, run in enumerate(runs)
    )
    return Laid(len(splitters), metres + BESIDE * len(splitters), tuple(broken))


def _check_whole(cable: Cable, runs: Sequence[Run]) -> None:
    plain = [run.behind for run in runs if not run.splitter]
    for where in set(plain):
        both = any(run.splitter and run.behind == where for run in runs)
        if plain.count(where) > 1 or (both and where in plain):
            name = AT_THE_DESK if where is None else cable.spots[where].name
            raise EditError(
                f"Two cables begin at {name}: one goes on, or all of them go out of a "
                "splitter there."
            )
    for unit in range(len(runs)):
        seen, at = set[int](), unit
        while (before := runs[at].behind) is not None:
            if before in seen or before == unit:
                raise EditError(f"{cable.spots[unit].name} hangs on itself: begin at the desk.")
            seen.add(before)
            at = before


def _branch(cable: Cable, runs: Sequence[Run], point: int | None) -> Branch:
    """The chain from a point on, with the branches of the splitter at its end."""
    chain: list[int] = []
    here = point
    while True:
        following = [at for at, run in enumerate(runs) if run.behind == here and not run.splitter]
        if not following:
            break
        (here,) = following
        chain.append(here)
    below = [at for at, run in enumerate(runs) if run.behind == here and run.splitter]
    return Branch(tuple(chain), tuple(_from(cable, runs, unit) for unit in below))


def _from(cable: Cable, runs: Sequence[Run], unit: int) -> Branch:
    """The branch that begins with a position on an output of a splitter."""
    rest = _branch(cable, runs, unit)
    return Branch((unit, *rest.units), rest.branches)


def _chains(runs: Sequence[Run], branch: Branch) -> list[tuple[int, ...]]:
    found = [branch.units] if branch.units else []
    for below in branch.branches:
        found += _chains(runs, below)
    return found


def best_of(cable: Cable) -> Laid:
    """What Fence plans: the fewest splitters and then the least cable."""
    cost = seek(cable.task).cost % BROKEN
    return Laid(cost // SPLITTER, cost % SPLITTER, ())
