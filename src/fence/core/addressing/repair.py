"""The repair of a whole rig: keep the largest weight of fixtures where they are, find places for
the others.

In each universe the runs that can stay are a set of intervals without overlap; the heaviest such
set is weighted interval scheduling and is found exactly. Its weight is a bound: no repair keeps
more. Pinned fixtures and reserved slots are not up for choice. Where the gaps that are left do not
take the others, ``seating`` searches further.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import chain

from fence.core.addressing.seating import LONGEST_QUEUE, Seat, Unit, seat_all
from fence.core.addressing.staying import Plan, Units, called, plan_of
from fence.core.edits import rehang, with_places
from fence.core.model.address import EVERY_SLOT, SLOTS, Address, bits_of
from fence.core.model.fixture import Fixture
from fence.core.model.once import once_a_show
from fence.core.model.patch import Patch
from fence.core.model.show import Show
from fence.core.model.space import desk_starts, first_from, nearest, reserved_bits


@dataclass(frozen=True, slots=True)
class RepairOptions:
    """How far a repair may go.

    ``stay``: nothing leaves its universe. ``new_universes``: universes that the show does not have
    may be opened. ``willing``: ids of fixtures that may move before any other. ``edited``: those
    that were just changed or added: they move rather than others, where as many have to.
    ``held``: those that are not moved, as if they were pinned.
    """

    stay: bool = False
    new_universes: bool = True
    willing: frozenset[int] = frozenset()
    edited: frozenset[int] = frozenset()
    held: frozenset[int] = frozenset()


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
    """The mended show, what moved, how many addressed fixtures stayed, and the ids that found no
    place.

    ``proven``: all found a place, nobody is pinned where it cannot stand, and no repair moves less
    weight.
    """

    show: Show
    moves: tuple[RepairMove, ...]
    kept: int
    unplaced: tuple[int, ...]
    proven: bool


@once_a_show
def repair_rig(show: Show, options: RepairOptions = AS_USUAL) -> Repair:
    """Move as little as possible so that no run overlaps, passes the end, or stands where it must
    not.

    Fixtures without an address are left alone. A fixture for which no place is found keeps its
    address and is named.
    """
    units = Units(show, options.willing, options.edited, options.held)
    plan = plan_of(show, units)
    seats = _seats(show, plan, options, units)
    return _repair(show, plan, seats)


def _seats(show: Show, plan: Plan, options: RepairOptions, units: Units) -> Mapping[Unit, Seat]:
    """A place for each unit that must move: the nearest gap if that works out, else what a search
    finds."""
    taken = {
        universe: bits | reserved_bits(show, universe) for universe, bits in plan.stays.items()
    }
    seats: dict[Unit, Seat] = {}
    filled = dict(taken)
    vacancies = _Vacancies(show, filled, options)
    for unit in sorted(plan.move, key=lambda unit: (-unit.run.length, unit.run)):
        target = vacancies.gap_for(unit)
        if target is None:
            continue
        seats[unit] = Seat(target)
        filled[target.universe] = _held(show, target.universe, filled) | bits_of(
            target.slot, unit.run.length
        )
    allowed = _allowed(show, taken, options)
    # what may not leave a universe that the desk does not send finds no place, and keeps nobody
    # else from one
    able = [unit for unit in plan.move if not options.stay or unit.run.universe in allowed]
    if len(seats) == len(able):
        return seats
    if len(able) > LONGEST_QUEUE:
        return seats
    others = (units.made_of(universe, spans) for universe, spans in plan.untouched.items())
    keep = [*plan.keep, *chain.from_iterable(others)]
    searched = seat_all(show, keep, able, allowed, stay=options.stay)
    return seats if searched is None else searched


class _Vacancies:
    """Finds gaps while universes only fill up: what had no gap for a run has none later for one as
    long or longer."""

    def __init__(self, show: Show, taken: dict[int, int], options: RepairOptions) -> None:
        self.show, self.taken, self.options = show, taken, options
        self.limit = show.desk.last_universe
        self.allowed = _allowed(show, taken, options)
        self.closed: dict[tuple[int, int], dict[int, int]] = {}

    def gap_for(self, unit: Unit) -> Address | None:
        """The nearest gap in the unit's own universe, else the first gap of the next that has
        one."""
        length, home = unit.run.length, unit.run.universe
        slot = (
            nearest(self._fits(unit, home), min(unit.run.first, SLOTS))
            if home <= self.limit
            else None
        )
        if slot is not None:
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
    """The universes that may be used: those of the show, and one more where new ones may be
    opened."""
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


def _repair(show: Show, plan: Plan, seats: Mapping[Unit, Seat]) -> Repair:
    settled = {(unit.home, unit.part, _group(show, unit)): seat.at for unit, seat in seats.items()}
    strays = set(plan.strays)
    targets: dict[int, dict[int, Address]] = {}
    moves = []
    for unit in (*seats, *plan.strays):
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
    moves.sort(key=lambda move: (show.index_by_id[move.fixture], move.part))
    kept = len(show.occupancy.placed) - len(targets.keys() | set(lost))
    bound = sum(unit.weight for unit in plan.move)
    moved = sum(unit.weight for unit, seat in seats.items() if seat.at != _start(unit))
    proven = not lost and not plan.strays and not plan.stuck and moved <= bound
    mended = show.with_patches({i: _patch(show.fixture(i), at) for i, at in targets.items()})
    if any(move.after.universe not in show.universe_by_number for move in moves):
        mended = with_places(mended)
    mended = rehang(mended, {move.fixture for move in moves})
    return Repair(mended, tuple(moves), kept, lost, proven)


def _group(show: Show, unit: Unit) -> str:
    return show.fixture_by_id[unit.members[0]].share


def _start(unit: Unit) -> Address:
    return Address(unit.run.universe, unit.run.first)


def _why(show: Show, unit: Unit, plan: Plan, seat: Seat, seats: Mapping[Unit, Seat]) -> str:
    """Why a unit moves and why to there, in two short sentences."""
    reason = plan.why.get(unit, "")
    if not reason:
        guest = next(
            (
                other
                for other, held in seats.items()
                if other is not unit and _lands_on(held, other, unit)
            ),
            None,
        )
        reason = f"It makes room for {called(show, guest)}." if guest else "It makes room."
    if unit in plan.strays:
        return reason
    same = seat.at.universe == unit.run.universe
    return f"{reason} A gap of {unit.run.length} {'nearby' if same else 'free'} is {seat.at}."


def _lands_on(seat: Seat, guest: Unit, host: Unit) -> bool:
    first, last = seat.at.slot, seat.at.slot + guest.run.length - 1
    return (
        seat.at.universe == host.run.universe and first <= host.run.last and host.run.first <= last
    )


def _patch(fixture: Fixture, targets: dict[int, Address]) -> tuple[Patch, ...]:
    """The patch of a fixture of which some parts go elsewhere."""
    patch = list(fixture.patch)
    for part, address in targets.items():
        patch[part] = Patch(address.universe, address.slot)
    return tuple(patch)
