"""The repair of a whole rig: keep the largest number of fixtures where they are, place the others into gaps.

In each universe the runs that can stay are a set of intervals without overlap; the largest such set is weighted
interval scheduling and is found exactly. Pinned fixtures and reserved slots are not up for choice.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass, replace

from fence.core.address import EVERY_SLOT, MAX_UNIVERSE, SLOTS, Address, Run
from fence.core.edits import with_places
from fence.core.profile import Setter
from fence.core.show import Fixture, Patch, Show
from fence.core.space import bits_of, desk_starts, first_from, nearest, reserved_bits


@dataclass(frozen=True, slots=True)
class RepairMove:
    """One fixture's part and where it goes."""

    fixture: int
    part: int
    before: Address
    after: Address


@dataclass(frozen=True, slots=True)
class Repair:
    """The mended show, what moved, how many addressed fixtures stayed, and the ids that found no place."""

    show: Show
    moves: tuple[RepairMove, ...]
    kept: int
    unplaced: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class _Unit:
    """A part that moves as one: one fixture's, or that of all who share it."""

    members: tuple[int, ...]
    part: int
    run: Run
    setter: Setter | None
    pinned: bool
    weight: int
    home: Run


def mend_show(show: Show) -> Repair:
    """Move as few fixtures as possible so that no run overlaps, passes the end, or stands where it must not.

    Fixtures without an address are left alone. A fixture for which no gap is left keeps its address and is named.
    """
    units = _units(show)
    taken: dict[int, int] = {}
    moving: list[_Unit] = []
    by_universe: dict[int, list[_Unit]] = {}
    for unit in units:
        by_universe.setdefault(unit.run.universe, []).append(unit)
    for universe, here in sorted(by_universe.items()):
        keep, move = _choose(show, universe, here)
        moving += move
        taken[universe] = _bits(keep) | reserved_bits(show, universe)
    placed, unplaced = _place_all(show, moving, taken)
    return _repair(show, units, placed, unplaced)


def _units(show: Show) -> list[_Unit]:
    grouped: dict[tuple[object, ...], list[tuple[Fixture, int, Run]]] = {}
    homes = _homes(show)
    for fixture in show.fixtures:
        for placed in show.runs_of(fixture):
            key: tuple[object, ...] = (fixture.id, placed.part)
            if fixture.share:
                key = (fixture.share, fixture.profile, fixture.mode, placed.part, placed.run)
            grouped.setdefault(key, []).append((fixture, placed.part, placed.run))
    units = []
    for members in grouped.values():
        fixture, part, run = members[0]
        profile = show.profile_of(fixture)
        units.append(
            _Unit(
                tuple(member.id for member, _, _ in members),
                part,
                run,
                profile.setter if profile else None,
                any(member.pinned for member, _, _ in members),
                len(members),
                homes.get((fixture.share, fixture.profile, fixture.mode, part), run) if fixture.share else run,
            )
        )
    return units


def _homes(show: Show) -> dict[tuple[str, str, str, int], Run]:
    """Where most of each sharing group stand; a pinned member decides."""
    votes: dict[tuple[str, str, str, int], dict[Run, int]] = {}
    for fixture in show.fixtures:
        if fixture.share:
            for placed in show.runs_of(fixture):
                group = votes.setdefault((fixture.share, fixture.profile, fixture.mode, placed.part), {})
                group[placed.run] = group.get(placed.run, 0) + (10_000 if fixture.pinned else 1)
    return {key: max(runs, key=lambda run: runs[run]) for key, runs in votes.items()}


def _choose(show: Show, universe: int, units: list[_Unit]) -> tuple[list[_Unit], list[_Unit]]:
    """Who may stay in a universe: the pinned, and the heaviest set without overlap among the rest."""
    pinned = [unit for unit in units if unit.pinned]
    wall = _bits(pinned) | reserved_bits(show, universe)
    limit = show.desk.universes
    lost: list[_Unit] = []
    candidates: list[_Unit] = []
    for unit in units:
        if unit.pinned:
            continue
        lowest, highest = unit.setter.settable if unit.setter else (1, SLOTS)
        legal = unit.run.last <= SLOTS and lowest <= unit.run.first <= highest and unit.run == unit.home
        legal = legal and (limit is None or universe <= limit)
        legal = legal and bool(desk_starts(show, EVERY_SLOT, unit.run.length) >> (unit.run.first - 1) & 1)
        legal = legal and not bits_of(unit.run.first, unit.run.length) & wall
        (candidates if legal else lost).append(unit)
    keep, drop = heaviest_without_overlap(candidates)
    return [*pinned, *keep], [*lost, *drop]


def heaviest_without_overlap(units: list[_Unit]) -> tuple[list[_Unit], list[_Unit]]:
    """Split into the heaviest set of runs without overlap, and the rest (weighted interval scheduling)."""
    ordered = sorted(units, key=lambda unit: (unit.run.last, unit.run.first))
    ends = [unit.run.last for unit in ordered]
    best = [0] * (len(ordered) + 1)
    before = []
    for place, unit in enumerate(ordered):
        before.append(bisect_right(ends, unit.run.first - 1, hi=place))
        best[place + 1] = max(best[place], best[before[place]] + unit.weight)
    keep, drop = [], []
    place = len(ordered)
    while place:
        unit = ordered[place - 1]
        if best[place] > best[place - 1]:
            keep.append(unit)
            drop += ordered[before[place - 1] : place - 1]
            place = before[place - 1]
        else:
            drop.append(unit)
            place -= 1
    return keep, drop


def _bits(units: Iterable[_Unit]) -> int:
    bits = 0
    for unit in units:
        bits |= bits_of(unit.run.first, unit.run.length)
    return bits


def _place_all(
    show: Show, moving: list[_Unit], taken: dict[int, int]
) -> tuple[list[tuple[_Unit, Address]], list[_Unit]]:
    """Find a gap for every unit: those far from home rejoin it, then the longest first."""
    placed: list[tuple[_Unit, Address]] = []
    unplaced: list[_Unit] = []
    homes: dict[tuple[Run, int], Address] = {}
    strays = [unit for unit in moving if unit.run != unit.home]
    for unit in sorted((u for u in moving if u.run == u.home), key=lambda u: (-u.run.length, u.run)):
        target = _gap_for(show, unit, taken)
        if target is None:
            unplaced.append(unit)
            continue
        placed.append((unit, target))
        homes[(unit.run, unit.part)] = target
        taken[target.universe] = taken.get(target.universe, 0) | bits_of(target.slot, unit.run.length)
    for unit in strays:
        home = Address(unit.home.universe, unit.home.first)
        placed.append((unit, homes.get((unit.home, unit.part), home)))
    return placed, unplaced


def _gap_for(show: Show, unit: _Unit, taken: dict[int, int]) -> Address | None:
    length, home = unit.run.length, unit.run.universe
    limit = show.desk.universes or MAX_UNIVERSE
    known = sorted(show.universe_by_number.keys() | taken.keys())
    others = [number for number in known if number != home]
    if (fresh := max(known, default=0) + 1) <= limit:
        others.append(fresh)
    if home <= limit:
        fits = desk_starts(show, _free(show, home, taken), length, setter=unit.setter)
        if (slot := nearest(fits, min(unit.run.first, SLOTS))) is not None:
            return Address(home, slot)
    for number in sorted(others, key=lambda number: (number < home, number)):
        if number <= limit:
            fits = desk_starts(show, _free(show, number, taken), length, setter=unit.setter)
            if (slot := first_from(fits)) is not None:
                return Address(number, slot)
    return None


def _free(show: Show, universe: int, taken: dict[int, int]) -> int:
    return EVERY_SLOT & ~taken.setdefault(universe, reserved_bits(show, universe))


def _repair(show: Show, units: list[_Unit], placed: list[tuple[_Unit, Address]], unplaced: list[_Unit]) -> Repair:
    targets: dict[int, dict[int, Address]] = {}
    moves = []
    for unit, target in placed:
        before = Address(unit.run.universe, unit.run.first)
        for member in unit.members:
            if before != target:
                targets.setdefault(member, {})[unit.part] = target
                moves.append(RepairMove(member, unit.part, before, target))
    fixtures = tuple(_moved(fixture, targets.get(fixture.id)) for fixture in show.fixtures)
    lost = tuple(member for unit in unplaced for member in unit.members)
    addressed = {member for unit in units for member in unit.members}
    order = {fixture.id: place for place, fixture in enumerate(show.fixtures)}
    moves.sort(key=lambda move: (order[move.fixture], move.part))
    kept = len(addressed - targets.keys() - set(lost))
    return Repair(with_places(replace(show, fixtures=fixtures)), tuple(moves), kept, lost)


def _moved(fixture: Fixture, targets: dict[int, Address] | None) -> Fixture:
    if not targets:
        return fixture
    patch = list(fixture.patch)
    for part, address in targets.items():
        patch[part] = Patch(address.universe, address.slot)
    return replace(fixture, patch=tuple(patch))
