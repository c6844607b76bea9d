"""Finding places where gaps are tight: a search that may also push out fixtures that were to stay.

It deepens step by step: first without moving anybody more, then with one more, and so on. A unit
may be seated in a gap, or in a window from which lighter or equal ones are pushed out and seated in
turn; one that had to move may also be put back where it was, if who took its place finds another.
So equally good choices of who stays are tried as well.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import accumulate

from fence.core.model.address import EVERY_SLOT, SLOTS, Address, Run, bits_of
from fence.core.model.profile import Setter
from fence.core.model.show import Show
from fence.core.model.space import desk_starts, first_from, gaps, last_before, reserved_bits

STEPS_MOST = 5
"""By how many further fixtures a repair may grow in the search."""
NODES = 1500
"""Places that are tried at each depth of the search before it goes deeper."""
WORK = 1_000_000
"""Fixtures looked at for windows, all depths together: about a second and a half."""
LONGEST_QUEUE = 300
"""Units that have to move up to which the search is tried at all."""
WINDOWS = 24
"""Windows that are tried for one unit, the cheapest first."""


@dataclass(slots=True, eq=False)
class Unit:
    """A part that moves as one: one fixture's, or that of all who share it. ``weight`` is what
    moving it costs."""

    members: tuple[int, ...]
    part: int
    run: Run
    setter: Setter | None
    pinned: bool
    weight: int
    home: Run


@dataclass(frozen=True, slots=True)
class Seat:
    """Where a unit is put."""

    at: Address


def seat_all(
    show: Show, keep: Sequence[Unit], move: Sequence[Unit], universes: Sequence[int], *, stay: bool
) -> dict[Unit, Seat] | None:
    """A place for every unit of ``move`` in ``universes``, pushing out as little of ``keep`` as is
    found.

    ``stay``: each in its own universe. The result also names those of ``keep`` that were pushed
    out. None where no way was found.
    """
    search = _Search(show, keep, universes, stay=stay)
    if len(move) > LONGEST_QUEUE or not search.could_hold(move):
        return None
    step = min((unit.weight for unit in keep if not unit.pinned and unit.weight > 1), default=1)
    for extra in range(STEPS_MOST + 1):
        search.nodes = NODES
        search.going_back = {unit: search.could_go_back(unit) for unit in move}
        seats = search.seat(sorted(move, key=_hardest), extra * step, {}, frozenset())
        if seats is not None:
            return seats
    return None


def _hardest(unit: Unit) -> tuple[int, int]:
    """Long runs and narrow setters first."""
    lowest, highest = unit.setter.settable if unit.setter else (1, SLOTS)
    return -unit.run.length, highest - lowest


class _Search:
    """The universes as bits, and who stands in them; seats are tried and taken back."""

    def __init__(
        self, show: Show, keep: Sequence[Unit], universes: Sequence[int], *, stay: bool
    ) -> None:
        self.show, self.universes, self.stay = show, universes, stay
        self.nodes, self.work = NODES, WORK
        self.going_back: dict[Unit, int] = {}
        self.standing: dict[int, list[Unit]] = {universe: [] for universe in universes}
        for unit in sorted(keep, key=lambda unit: unit.run.first):
            self.standing.setdefault(unit.run.universe, []).append(unit)
        self.taken = {
            universe: reserved_bits(show, universe) | _bits_of_all(units)
            for universe, units in self.standing.items()
        }

    def could_hold(self, move: Sequence[Unit]) -> bool:
        """Whether there is room in sum: else no search can help."""
        free = sum(SLOTS - self.taken[universe].bit_count() for universe in self.universes)
        return sum(unit.run.length for unit in move) <= free

    def could_go_back(self, unit: Unit) -> int:
        """What is saved if a unit finds its old place free again: its weight, or 0 where it must
        not stand there."""
        run = unit.run
        pinned = _bits_of_all(
            [other for other in self.standing.get(run.universe, ()) if other.pinned]
        )
        free = EVERY_SLOT & ~pinned & ~reserved_bits(self.show, run.universe)
        legal = run.universe in self.universes and run.last <= SLOTS
        legal = legal and bool(
            desk_starts(self.show, free, run.length, setter=unit.setter) >> (run.first - 1) & 1
        )
        return unit.weight if legal else 0

    def seat(
        self, queue: list[Unit], budget: int, seats: dict[Unit, Seat], out: frozenset[Unit]
    ) -> dict[Unit, Seat] | None:
        """Seat all of ``queue``, spending up to ``budget`` on units that are pushed ``out``.

        More may be spent on the way, as long as units of the queue that go back where they were can
        make up for it.
        """
        if not queue:
            return seats if budget >= 0 else None
        self.nodes -= 1
        if self.nodes < 0 or self.work < 0:
            return None
        unit, rest = queue[0], queue[1:]
        hoped = budget + sum(self.going_back.get(other, 0) for other in rest)
        if hoped + self.going_back.get(unit, 0) < 0:
            return None
        for address, pushed in self._places(unit, hoped, out):
            own = bits_of(address.slot, unit.run.length)
            away = _bits_of_all(pushed)
            before = self.taken[address.universe]
            self.taken[address.universe] = before & ~away | own
            refund = (
                unit.weight
                if address == Address(unit.run.universe, min(unit.run.first, SLOTS))
                else 0
            )
            cost = sum(other.weight for other in pushed) - refund
            longer = sorted([*rest, *pushed], key=_hardest)
            found = self.seat(
                longer, budget - cost, {**seats, unit: Seat(address)}, out | set(pushed)
            )
            if found is not None:
                return found
            self.taken[address.universe] = before
            if self.nodes < 0 or self.work < 0:
                return None
        return None

    def _places(
        self, unit: Unit, budget: int, out: frozenset[Unit]
    ) -> Iterator[tuple[Address, tuple[Unit, ...]]]:
        """Where a unit could go: back, if its place is free; gaps, the tightest first; windows that
        cost something."""
        home = unit.run.universe
        if self.going_back.get(unit) and not self.taken[home] & bits_of(
            unit.run.first, unit.run.length
        ):
            yield Address(home, unit.run.first), ()
        where = [universe for universe in self.universes if universe == home or not self.stay]
        tight = []
        seen = set()
        for universe in where:
            free = EVERY_SLOT & ~self.taken[universe]
            for gap in gaps(free, universe):
                if gap.length < unit.run.length:
                    continue
                inside = free & bits_of(gap.first, gap.length)
                fits = desk_starts(self.show, inside, unit.run.length, setter=unit.setter)
                alike = (gap.length, unit.setter is None or unit.setter.settable == (1, SLOTS))
                if not fits or (alike[1] and alike in seen and self.show.desk.page is None):
                    continue
                seen.add(alike)
                # its beginning, and later its end: what stands beside it may want to grow to either
                # side
                ends = (first_from(fits) or 0, last_before(fits, SLOTS + 1) or 0)
                for place, slot in enumerate(dict.fromkeys(ends)):
                    far = abs(slot - unit.run.first)
                    tight.append(
                        (place, gap.length, universe != home, far, Address(universe, slot))
                    )
        for *_, address in sorted(tight):
            yield address, ()
        windows = [
            window for universe in where for window in self._windows(unit, universe, budget, out)
        ]
        for _, _, address, pushed in sorted(windows, key=lambda window: window[:3])[:WINDOWS]:
            yield address, pushed

    def _windows(
        self, unit: Unit, universe: int, budget: int, out: frozenset[Unit]
    ) -> Iterator[tuple[int, int, Address, tuple[Unit, ...]]]:
        """Windows whose kept units may be pushed out: cost, length of the pushed, where, and
        whom."""
        length = unit.run.length
        self.work -= len(self.standing[universe])
        standing = [
            other for other in self.standing[universe] if not other.pinned and other not in out
        ]
        firsts = [other.run.first for other in standing]
        ends = [other.run.first + other.run.length for other in standing]
        sums = [0, *accumulate(other.weight for other in standing)]
        fixed = self.taken[universe] & ~_bits_of_all(standing)
        legal = desk_starts(self.show, EVERY_SLOT & ~fixed, length, setter=unit.setter)
        edges = {1, *ends, *firsts, *(first - length for first in firsts)}
        edges |= {gap.first for gap in gaps(EVERY_SLOT & ~self.taken[universe])}
        for room in gaps(EVERY_SLOT & ~fixed & bits_of(1, self.show.desk.highest)):
            edges |= {room.first, room.last + 1 - length}
        if unit.setter is not None:
            edges.update(unit.setter.settable)
        home = unit.run.first if unit not in out and unit.run.universe == universe else 0
        for slot in {*edges, home}:
            if not 1 <= slot <= SLOTS + 1 - length or not legal >> (slot - 1) & 1:
                continue
            low, high = bisect_right(ends, slot), bisect_left(firsts, slot + length)
            cost = sums[high] - sums[low] - (unit.weight if slot == home else 0)
            if low < high and cost <= budget:
                pushed = tuple(standing[low:high])
                yield (
                    cost,
                    sum(other.run.length for other in pushed),
                    Address(universe, slot),
                    pushed,
                )


def _bits_of_all(units: Sequence[Unit]) -> int:
    bits = 0
    for unit in units:
        bits |= bits_of(unit.run.first, unit.run.length)
    return bits
