"""The repair of a whole rig: keep the largest weight of fixtures where they are, find places for the others.

In each universe the runs that can stay are a set of intervals without overlap; the heaviest such set is weighted
interval scheduling and is found exactly. Its weight is a bound: no repair keeps more. Pinned fixtures and reserved
slots are not up for choice. Where the gaps that are left do not take the others, ``seating`` searches further.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import chain

from fence.core.addressing.seating import Seat, Unit, seat_all
from fence.core.changes.edits import rehang, with_places
from fence.core.words.address import EVERY_SLOT, SLOTS, Address, Run, bits_of
from fence.core.words.fixture import Fixture
from fence.core.words.patch import Patch
from fence.core.words.sharing import Alike, alike
from fence.core.words.show import Show
from fence.core.words.space import desk_starts, first_from, nearest, reserved_bits
from fence.core.words.standing import as_planned
from fence.core.words.text import from_to

PLANNED, SET, HARD, WILLING = 100, 400, 3, 1
"""What it costs to move a fixture: one that is merely planned; one that was set as the plan says; how many times more
at a position that is hard to reach; one of which a person said that it may move."""


@dataclass(frozen=True, slots=True)
class RepairOptions:
    """How far a repair may go.

    ``stay``: nothing leaves its universe. ``new_universes``: universes that the show does not have may be opened.
    ``willing``: ids of fixtures that may move before any other.
    """

    stay: bool = False
    new_universes: bool = True
    willing: frozenset[int] = frozenset()


AS_USUAL = RepairOptions()


@dataclass(frozen=True, slots=True)
class RepairMove:
    """One fixture's part, where it goes, and why."""

    fixture: int
    part: int
    before: Address
    after: Address
    why: str


@dataclass(frozen=True, slots=True)
class Repair:
    """The mended show, what moved, how many addressed fixtures stayed, and the ids that found no place.

    ``proven``: all found a place, and no repair moves less weight.
    """

    show: Show
    moves: tuple[RepairMove, ...]
    kept: int
    unplaced: tuple[int, ...]
    proven: bool


@dataclass(slots=True)
class _Plan:
    """Who stays and who must move, and why; strays rejoin the rest of their sharing group."""

    keep: list[Unit] = field(default_factory=list)
    move: list[Unit] = field(default_factory=list)
    strays: list[Unit] = field(default_factory=list)
    why: dict[Unit, str] = field(default_factory=dict)


def repair_rig(show: Show, options: RepairOptions = AS_USUAL) -> Repair:
    """Move as little as possible so that no run overlaps, passes the end, or stands where it must not.

    Fixtures without an address are left alone. A fixture for which no place is found keeps its address and is named.
    """
    units = _units(show, options)
    plan = _plan(show, units)
    seats = _seats(show, plan, options)
    return _repair(show, units, plan, seats)


# ---- what moves as one


def _units(show: Show, options: RepairOptions) -> list[Unit]:
    groups: dict[tuple[object, ...], Unit] = {}
    units: list[Unit] = []
    homes = _homes(show)
    setters = {profile.id: profile.setter for profile in show.profiles}
    footprints = {key: tuple(part.footprint for part in mode.parts) for key, mode in show.modes.items()}
    for fixture in show.fixtures:
        weight = _weight(show, fixture, options)
        parts = footprints.get((fixture.profile, fixture.mode), ())
        for part, (footprint, patch) in enumerate(zip(parts, fixture.patch, strict=False)):
            if not footprint or patch.slot is None or patch.universe is None:
                continue
            run = Run(patch.universe, patch.slot, footprint)
            unit = Unit((fixture.id,), part, run, setters.get(fixture.profile), fixture.pinned, weight, run)
            if fixture.share:
                kin = (alike(fixture), part)
                if (held := groups.get((*kin, run))) is not None:
                    held.members += unit.members
                    held.pinned |= unit.pinned
                    held.weight += unit.weight
                    continue
                groups[(*kin, run)] = unit
                unit.home = homes.get(kin, run)
            units.append(unit)
    return units


def _weight(show: Show, fixture: Fixture, options: RepairOptions) -> int:
    """What it costs to move a fixture."""
    if fixture.id in options.willing:
        return WILLING
    weight = SET if as_planned(show, fixture) else PLANNED
    return weight * HARD if fixture.position in show.hard_positions else weight


def _homes(show: Show) -> dict[tuple[Alike, int], Run]:
    """Where most of each sharing group stand; a pinned member decides."""
    votes: dict[tuple[Alike, int], dict[Run, int]] = {}
    for fixture in show.fixtures:
        if fixture.share:
            for placed in show.runs_of(fixture):
                group = votes.setdefault((alike(fixture), placed.part), {})
                group[placed.run] = group.get(placed.run, 0) + (10_000 if fixture.pinned else 1)
    return {key: max(runs, key=lambda run: runs[run]) for key, runs in votes.items()}


# ---- who may stay


def _plan(show: Show, units: Sequence[Unit]) -> _Plan:
    plan = _Plan()
    by_universe: dict[int, list[Unit]] = {}
    for unit in units:
        by_universe.setdefault(unit.run.universe, []).append(unit)
    for universe, here in sorted(by_universe.items()):
        _choose(show, universe, here, plan)
    return plan


def _choose(show: Show, universe: int, units: Sequence[Unit], plan: _Plan) -> None:
    """Who may stay in a universe: the pinned, and the heaviest set without overlap among the rest."""
    pinned = [unit for unit in units if unit.pinned]
    walls = _Walls(show, universe, _bits(pinned), reserved_bits(show, universe))
    candidates: list[Unit] = []
    for unit in units:
        if unit.pinned:
            continue
        if unit.run != unit.home:
            plan.strays.append(unit)
            plan.why[unit] = "It joins the rest of its sharing group."
        elif reason := walls.forbid(unit):
            plan.move.append(unit)
            plan.why[unit] = reason
        else:
            candidates.append(unit)
    keep, drop = heaviest_without_overlap(candidates)
    plan.keep += [*pinned, *keep]
    plan.move += drop
    if not drop:
        return
    ordered = sorted([*pinned, *keep], key=lambda unit: unit.run.first)
    firsts = [unit.run.first for unit in ordered]
    for unit in drop:
        other = ordered[bisect_right(firsts, unit.run.last) - 1]
        plan.why[unit] = f"{_called(show, other)} keeps {_span(other.run)}."


@dataclass(frozen=True, slots=True)
class _Walls:
    """What forbids a place in a universe, whatever other fixtures that may move do."""

    show: Show
    universe: int
    pinned: int
    reserved: int

    def forbid(self, unit: Unit) -> str:
        """Why a unit cannot stay, as a sentence; empty where it can."""
        run, desk = unit.run, self.show.desk
        limit, page = desk.universes, desk.page
        last = run.first + run.length - 1
        lowest, highest = unit.setter.settable if unit.setter else (1, SLOTS)
        if last > SLOTS:
            return f"It ran {run.past_end} past the end."
        if not lowest <= run.first <= highest:
            return f"It cannot be set to {run.first}."
        if limit is not None and self.universe > limit:
            return f"The desk sends universes 1 to {limit}."
        if self.pinned or self.reserved:
            own = bits_of(run.first, run.length)
            if own & self.pinned:
                return "A pinned fixture holds its place."
            if own & self.reserved:
                return "It covers reserved slots."
        if last > desk.highest or (page is not None and ((run.first - 1) % page or run.length > page)):
            return "The desk cannot reach it there."
        return ""


def heaviest_without_overlap(units: Sequence[Unit]) -> tuple[list[Unit], list[Unit]]:
    """Split into the heaviest set of runs without overlap, and the rest (weighted interval scheduling).

    Of equally heavy sets one with longer runs is kept: what has to move is then easier to place.
    """
    ordered = sorted(units, key=lambda unit: (unit.run.first + unit.run.length, unit.run.first))
    ends = [unit.run.first + unit.run.length for unit in ordered]
    best: list[tuple[int, int]] = [(0, 0)]
    before = []
    for place, unit in enumerate(ordered):
        run = unit.run
        free_until = bisect_right(ends, run.first, hi=place)
        before.append(free_until)
        weight, length = best[free_until]
        with_it = (weight + unit.weight, length + run.length)
        best.append(with_it if with_it > best[place] else best[place])
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


def _bits(units: Iterable[Unit]) -> int:
    bits = 0
    for unit in units:
        bits |= bits_of(unit.run.first, unit.run.length)
    return bits


# ---- where the others go


def _seats(show: Show, plan: _Plan, options: RepairOptions) -> Mapping[Unit, Seat]:
    """A place for each unit that must move: the nearest gap if that works out, else what a search finds."""
    taken: dict[int, int] = {}
    for unit in plan.keep:
        run = unit.run
        taken[run.universe] = _held(show, run.universe, taken) | bits_of(run.first, run.length)
    seats: dict[Unit, Seat] = {}
    filled = dict(taken)
    vacancies = _Vacancies(show, filled, options)
    for unit in sorted(plan.move, key=lambda unit: (-unit.run.length, unit.run)):
        target = vacancies.gap_for(unit)
        if target is None:
            continue
        seats[unit] = Seat(target)
        filled[target.universe] = _held(show, target.universe, filled) | bits_of(target.slot, unit.run.length)
    if len(seats) == len(plan.move):
        return seats
    searched = seat_all(show, plan.keep, plan.move, _allowed(show, taken, options), stay=options.stay)
    return seats if searched is None else searched


class _Vacancies:
    """Finds gaps while universes only fill up: what had no gap for a run has none later for one as long or longer."""

    def __init__(self, show: Show, taken: dict[int, int], options: RepairOptions) -> None:
        self.show, self.taken, self.options = show, taken, options
        self.limit = show.desk.last_universe
        self.allowed = _allowed(show, taken, options)
        self.closed: dict[tuple[int, int], dict[int, int]] = {}

    def gap_for(self, unit: Unit) -> Address | None:
        """The nearest gap in the unit's own universe, else the first gap of the next that has one."""
        length, home = unit.run.length, unit.run.universe
        if home <= self.limit:
            if (slot := nearest(self._fits(unit, home), min(unit.run.first, SLOTS))) is not None:
                return Address(home, slot)
            if self.options.stay:
                return None
        closed = self.closed.setdefault(unit.setter.settable if unit.setter else (1, SLOTS), {})
        here = bisect_left(self.allowed, home)
        for number in chain(self.allowed[here:], self.allowed[:here]):
            if number == home or length >= closed.get(number, SLOTS + 1):
                continue
            if (slot := first_from(self._fits(unit, number))) is not None:
                if number not in self.taken:  # opened now, so there may be one more behind it
                    _held(self.show, number, self.taken)
                    self.allowed = _allowed(self.show, self.taken, self.options)
                return Address(number, slot)
            closed[number] = length
        return None

    def _fits(self, unit: Unit, universe: int) -> int:
        free = EVERY_SLOT & ~(self.taken.get(universe) or reserved_bits(self.show, universe))
        return desk_starts(self.show, free, unit.run.length, setter=unit.setter)


def _allowed(show: Show, taken: Mapping[int, int], options: RepairOptions) -> list[int]:
    """The universes that may be used: those of the show, and one more where new ones may be opened."""
    limit = show.desk.last_universe
    known = sorted(show.universe_by_number.keys() | taken.keys())
    if options.new_universes:
        known.append(max(known, default=0) + 1)
    return [number for number in known if number <= limit]


def _held(show: Show, universe: int, taken: dict[int, int]) -> int:
    held = taken.get(universe)
    if held is None:
        held = taken[universe] = reserved_bits(show, universe)
    return held


# ---- the result


def _repair(show: Show, units: Sequence[Unit], plan: _Plan, seats: Mapping[Unit, Seat]) -> Repair:
    settled = {(unit.home, unit.part, _group(show, unit)): seat.at for unit, seat in seats.items()}
    strays = set(plan.strays)
    targets: dict[int, dict[int, Address]] = {}
    moves = []
    for unit in units:
        seat = seats.get(unit)
        if unit in strays:
            home = Address(unit.home.universe, unit.home.first)
            seat = Seat(settled.get((unit.home, unit.part, _group(show, unit)), home))
        if seat is None or seat.at == (before := _start(unit)):
            continue
        why = _why(show, unit, plan, seat, seats)
        for member in unit.members:
            targets.setdefault(member, {})[unit.part] = seat.at
            moves.append(RepairMove(member, unit.part, before, seat.at, why))
    lost = tuple(member for unit in plan.move if unit not in seats for member in unit.members)
    fixtures = tuple(_moved(f, targets[f.id]) if f.id in targets else f for f in show.fixtures)
    order = {fixture.id: place for place, fixture in enumerate(show.fixtures)}
    moves.sort(key=lambda move: (order[move.fixture], move.part))
    addressed = set().union(*(unit.members for unit in units))
    kept = len(addressed - targets.keys() - set(lost))
    bound = sum(unit.weight for unit in plan.move)
    moved = sum(unit.weight for unit, seat in seats.items() if seat.at != _start(unit))
    proven = not lost and not plan.strays and moved <= bound
    mended = replace(show, fixtures=fixtures)
    if any(move.after.universe not in show.universe_by_number for move in moves):
        mended = with_places(mended)
    mended = rehang(mended, {move.fixture for move in moves})
    return Repair(mended, tuple(moves), kept, lost, proven)


def _group(show: Show, unit: Unit) -> str:
    return show.fixture_by_id[unit.members[0]].share


def _start(unit: Unit) -> Address:
    return Address(unit.run.universe, unit.run.first)


def _why(show: Show, unit: Unit, plan: _Plan, seat: Seat, seats: Mapping[Unit, Seat]) -> str:
    """Why a unit moves and why to there, in two short sentences."""
    reason = plan.why.get(unit, "")
    if not reason:
        guest = next(
            (other for other, held in seats.items() if other is not unit and _lands_on(held, other, unit)), None
        )
        reason = f"It makes room for {_called(show, guest)}." if guest else "It makes room."
    if unit in plan.strays:
        return reason
    same = seat.at.universe == unit.run.universe
    return f"{reason} A gap of {unit.run.length} {'nearby' if same else 'free'} is {seat.at}."


def _lands_on(seat: Seat, guest: Unit, host: Unit) -> bool:
    first, last = seat.at.slot, seat.at.slot + guest.run.length - 1
    return seat.at.universe == host.run.universe and first <= host.run.last and host.run.first <= last


def _called(show: Show, unit: Unit) -> str:
    return " and ".join(show.fixture_by_id[member].label for member in unit.members[:2])


def _span(run: Run) -> str:
    return from_to(run.first, run.last)


def _moved(fixture: Fixture, targets: dict[int, Address]) -> Fixture:
    patch = list(fixture.patch)
    for part, address in targets.items():
        patch[part] = Patch(address.universe, address.slot)
    return replace(fixture, patch=tuple(patch))
