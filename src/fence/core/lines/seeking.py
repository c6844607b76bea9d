"""The search behind planning the cable: numbers only, no show.

Points are 0 for the source and 1 … n for the end of unit 0 … n-1. ``runs[p][i]`` is the cable from
point p to the beginning of unit i. Costs are whole numbers that compare in three steps: limits that
are broken (long cable runs, long sections), then splitters, then metres.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from math import ceil

EXACT = 8
"""Up to so many units all plans are gone through."""
BROKEN, SPLITTER = 10**12, 10**8
BESIDE = 1
"""Metres from the end of a chain to the splitter that stands there."""
CHAINS, CUTS = 4000, 250
"""Orders that are tried when there are too many units for all of them: as one chain, then cut into
sections."""

Size = tuple[float, int, int]
"""Of a unit: its unit loads, the metres inside it, the long cable runs inside it."""


@dataclass(frozen=True, slots=True)
class Branch:
    """A chain of units on one driver, and the branches of the splitter at its end."""

    units: tuple[int, ...]
    branches: tuple[Branch, ...] = ()


@dataclass(frozen=True, slots=True)
class Sought:
    """A plan: a branch for each socket, its cost, whether no other costs less, whether none has
    fewer splitters."""

    branches: tuple[Branch, ...]
    cost: int
    proven: bool
    fewest: bool


@dataclass(frozen=True, slots=True)
class Task:
    """What is planned: units, cable runs between them, unit loads on a section, outputs of a
    splitter, sockets, and how long a cable run and a section may be in metres."""

    sizes: tuple[Size, ...]
    runs: tuple[tuple[int, ...], ...]
    loads: float
    outputs: int
    sockets: int
    long_run: int
    long_line: int

    def broken(self, chain: Sequence[int], point: int, more: int = 0) -> tuple[int, int]:
        """Broken limits and metres of a chain from a point, ``more`` metres at its end with it."""
        long = metres = 0
        for unit in chain:
            run = self.runs[point][unit]
            long += self.sizes[unit][2] + (run > self.long_run)
            metres += self.sizes[unit][1] + run
            point = unit + 1
        metres += more
        return long + (metres > self.long_line), metres

    def cost(self, branch: Branch, point: int = 0) -> int | None:
        """What a branch from a point costs; None where a driver would have to feed too much."""
        load = sum(self.sizes[unit][0] for unit in branch.units) + bool(branch.branches)
        if load > self.loads or len(branch.branches) > self.outputs:
            return None
        broken, metres = self.broken(branch.units, point, BESIDE if branch.branches else 0)
        total = broken * BROKEN + metres + (SPLITTER if branch.branches else 0)
        end = branch.units[-1] + 1 if branch.units else point
        for below in branch.branches:
            cost = self.cost(below, end)
            if cost is None:
                return None
            total += cost
        return total

    @property
    def unavoidable(self) -> int:
        """Limits that any plan breaks."""
        inside = sum(size[2] for size in self.sizes)
        near = [min(row[unit] for row in self._others(unit)) for unit in range(len(self.sizes))]
        return inside + sum(run > self.long_run for run in near)

    def _others(self, unit: int) -> list[tuple[int, ...]]:
        return [row for point, row in enumerate(self.runs) if point != unit + 1]

    @property
    def least_splitters(self) -> int:
        """Splitters without which the loads find no drivers. Each takes a load itself."""
        total = sum(size[0] for size in self.sizes)
        number = 0
        while (self.sockets + number * self.outputs) * self.loads < total + number:
            number += 1
        return number


def seek(task: Task) -> Sought:
    """The best plan for up to ``EXACT`` units, else a good one."""
    if len(task.sizes) <= EXACT:
        found = _Exact(task).best()
        if found is not None:
            return found
    return _good(task)


class _Exact:
    """All plans, each part of one looked at once. Sets of units are bits."""

    def __init__(self, task: Task) -> None:
        self.task = task
        self.all = (1 << len(task.sizes)) - 1
        self.load = [0.0] * (self.all + 1)
        for units in range(1, self.all + 1):
            low = units & -units
            self.load[units] = self.load[units ^ low] + task.sizes[low.bit_length() - 1][0]
        self._chains: dict[int, dict[tuple[int, int], dict[int, tuple[int, tuple[int, ...]]]]] = {}
        self._sections: dict[tuple[int, int, int], tuple[int, Branch] | None] = {}
        self._forests: dict[tuple[int, int, int, int], tuple[int, tuple[Branch, ...]] | None] = {}

    def best(self) -> Sought | None:
        """The plan with the fewest broken limits, then splitters, then metres."""
        least, best = self.task.least_splitters, None
        for splitters in range(least, least + 3):
            found = self.forest(splitters, 0, self.all, self.task.sockets)
            if found and (best is None or found[0] < best[0]):
                best = found
            if best and best[0] // BROKEN == self.task.unavoidable:
                return Sought(best[1], best[0], proven=True, fewest=True)
        return Sought(best[1], best[0], proven=False, fewest=False) if best else None

    def chains(self, point: int) -> dict[tuple[int, int], dict[int, tuple[int, tuple[int, ...]]]]:
        """By set of units and last unit: for each number of long cable runs the shortest chain from
        a point."""
        if point in self._chains:
            return self._chains[point]
        task, count = self.task, len(self.task.sizes)
        found: dict[tuple[int, int], dict[int, tuple[int, tuple[int, ...]]]] = {}
        for unit in range(count):
            run = task.runs[point][unit]
            long = task.sizes[unit][2] + (run > task.long_run)
            found[1 << unit, unit] = {long: (run + task.sizes[unit][1], (unit,))}
        for units in range(1, self.all + 1):
            if self.load[units] > task.loads:
                continue
            for last in range(count):
                for long, (metres, order) in found.get((units, last), {}).items():
                    for unit in range(count):
                        if units >> unit & 1:
                            continue
                        run = task.runs[last + 1][unit]
                        longer = long + task.sizes[unit][2] + (run > task.long_run)
                        grown = metres + run + task.sizes[unit][1]
                        held = found.setdefault((units | 1 << unit, unit), {})
                        if longer not in held or grown < held[longer][0]:
                            held[longer] = (grown, (*order, unit))
        self._chains[point] = found
        return found

    def _ended(self, point: int, units: int, more: int) -> Iterator[tuple[int, tuple[int, ...]]]:
        """Cost and order of the best chain over a set for each last unit, ``more`` metres at its
        end with it."""
        for last in range(len(self.task.sizes)):
            held = self.chains(point).get((units, last))
            if held:
                ways = (
                    (n + (m + more > self.task.long_line), m + more, order)
                    for n, (m, order) in held.items()
                )
                broken, metres, order = min(ways)
                yield broken * BROKEN + metres, order

    def section(self, splitters: int, point: int, units: int) -> tuple[int, Branch] | None:
        """The best section from a driver at a point with so many splitters below it, over exactly
        these units."""
        key = (splitters, point, units)
        if key not in self._sections:
            self._sections[key] = self._section(*key)
        return self._sections[key]

    def _section(self, splitters: int, point: int, units: int) -> tuple[int, Branch] | None:
        best: tuple[int, Branch] | None = None
        if splitters == 0:
            if self.load[units] <= self.task.loads:
                for cost, order in self._ended(point, units, 0):
                    if best is None or cost < best[0]:
                        best = cost, Branch(order)
            return best
        chain = units
        while True:
            chain = (chain - 1) & units  # every smaller set of them, the empty one last
            if self.load[chain] + 1 <= self.task.loads:
                ends = self._ended(point, chain, BESIDE) if chain else iter([(BESIDE, ())])
                for cost, order in ends:
                    end = order[-1] + 1 if order else point
                    below = self.forest(splitters - 1, end, units ^ chain, self.task.outputs)
                    if below and (best is None or cost + SPLITTER + below[0] < best[0]):
                        best = cost + SPLITTER + below[0], Branch(order, below[1])
            if chain == 0:
                return best

    def forest(
        self, splitters: int, point: int, units: int, outputs: int
    ) -> tuple[int, tuple[Branch, ...]] | None:
        """The best sections side by side on up to so many outputs at a point."""
        if not units:
            return (0, ()) if splitters == 0 else None
        if not outputs:
            return None
        key = (splitters, point, units, min(outputs, units.bit_count()))
        if key in self._forests:
            return self._forests[key]
        best: tuple[int, tuple[Branch, ...]] | None = None
        low = units & -units
        rest = units ^ low
        some = rest
        while True:
            for here in range(splitters + 1):
                first = self.section(here, point, some | low)
                if first is not None and (best is None or first[0] < best[0]):
                    others = self.forest(splitters - here, point, rest ^ some, outputs - 1)
                    if others is not None and (best is None or first[0] + others[0] < best[0]):
                        best = first[0] + others[0], (first[1], *others[1])
            if some == 0:
                break
            some = (some - 1) & rest
        self._forests[key] = best
        return best


def _good(task: Task) -> Sought:
    """A good plan: the nearest unit next, cut where a driver has enough, then bettered by moving
    units about."""

    def as_chain(order: Sequence[int]) -> int:
        return sum(
            task.runs[point][unit]
            for point, unit in zip((0, *(u + 1 for u in order)), order, strict=False)
        )

    order = _bettered(_nearest(task), as_chain, CHAINS)
    order = _bettered(order, lambda other: _cut(task, other)[0], CUTS)
    best, plan = _cut(task, order)
    return Sought(
        plan, best, proven=False, fewest=best % BROKEN // SPLITTER == task.least_splitters
    )


def _bettered(order: list[int], cost_of: Callable[[list[int]], int], tries: int) -> list[int]:
    """The order after every small move that costs less, until none does or so many were tried."""
    best, moves = cost_of(order), _moved(order)
    for _ in range(tries):
        other = next(moves, None)
        if other is None:
            break
        cost = cost_of(other)
        if cost < best:
            best, order, moves = cost, other, _moved(other)
    return order


def _nearest(task: Task) -> list[int]:
    left, point, order = set(range(len(task.sizes))), 0, list[int]()
    while left:
        unit = min(left, key=lambda unit: (task.runs[point][unit], unit))
        left.remove(unit)
        order.append(unit)
        point = unit + 1
    return order


def _moved(order: list[int]) -> Iterator[list[int]]:
    """Orders beside one: a stretch turned round, or one to three units put elsewhere."""
    count = len(order)
    for begin in range(count):
        for end in range(begin + 2, count + 1):
            yield order[:begin] + order[begin:end][::-1] + order[end:]
    for length in (1, 2, 3):
        for begin in range(count - length + 1):
            piece, rest = order[begin : begin + length], order[:begin] + order[begin + length :]
            for at in range(len(rest) + 1):
                if at != begin:
                    yield rest[:at] + piece + rest[at:]


def _cut(task: Task, order: Sequence[int]) -> tuple[int, tuple[Branch, ...]]:
    """An order of units as a plan: cut into sections, those beyond the sockets on splitters."""
    best: tuple[int, tuple[Branch, ...]] | None = None
    for room in (task.loads, task.loads - 1):
        pieces: list[list[int]] = [[]]
        load, metres, point = 0.0, 0, 0
        for unit in order:
            more = task.runs[point][unit] + task.sizes[unit][1]
            if pieces[-1] and (load + task.sizes[unit][0] > room or metres + more > task.long_line):
                pieces.append([])
                load, metres = 0.0, 0
            pieces[-1].append(unit)
            load, metres, point = load + task.sizes[unit][0], metres + more, unit + 1
        for plan in (
            _hung(pieces, task.sockets, task.outputs),
            _fanned(pieces, task.sockets, task.outputs),
        ):
            costs = [task.cost(branch) for branch in plan]
            if None not in costs:
                total = sum(cost or 0 for cost in costs)
                if best is None or total < best[0]:
                    best = total, plan
    assert best is not None, "with a load to spare on each section the splitters always find room"
    return best


def _hung(pieces: Sequence[Sequence[int]], sockets: int, outputs: int) -> tuple[Branch, ...]:
    """The first pieces on the sockets; the others on splitters at the ends of those before them."""
    below: dict[int, list[int]] = {}
    for at in range(sockets, len(pieces)):
        below.setdefault((at - sockets) // outputs, []).append(at)

    def branch(at: int) -> Branch:
        return Branch(tuple(pieces[at]), tuple(branch(child) for child in below.get(at, ())))

    return tuple(branch(at) for at in range(min(sockets, len(pieces))))


def _fanned(pieces: Sequence[Sequence[int]], sockets: int, outputs: int) -> tuple[Branch, ...]:
    """All beyond the other sockets fan out from splitters at the source."""
    alone = [Branch(tuple(piece)) for piece in pieces[: sockets - 1]]
    rest = [Branch(tuple(piece)) for piece in pieces[sockets - 1 :]]
    while len(rest) > 1:
        groups = ceil(len(rest) / outputs)
        if groups == 1:
            rest = [Branch((), tuple(rest))]
        else:
            rest = [
                Branch((), tuple(rest[at : at + outputs])) for at in range(0, len(rest), outputs)
            ]
    return (*alone, *rest)
