"""The knapsack: one option for each unit, with the largest worth that a capacity holds, and whether
that is proven."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

NARROW = 60
"""States that the narrow pass of the knapsack keeps."""


MOST_STATES = 150_000
"""States after which the full pass gives up; what was found by then is not called proven."""


@dataclass(frozen=True, slots=True)
class Option:
    """A mode as the knapsack sees it: what it costs in all and part by part, and what it is
    worth."""

    name: str
    cost: int
    parts: tuple[int, ...]
    worth: int
    channels: int


@dataclass(frozen=True, slots=True)
class Unit:
    """Fixtures that take one mode together: one, or all alike of a sharing group.

    Options by rising cost, which on a desk with pages is not the order of their channels;
    ``fullest`` has the most.
    """

    members: tuple[int, ...]
    options: tuple[Option, ...]
    fullest: Option


@dataclass(frozen=True, slots=True)
class Best:
    """A choice of options, its worth, and whether none is worth more."""

    chosen: list[Option]
    worth: int
    proven: bool


def best_choice(units: Sequence[Unit], capacity: int) -> Best | None:
    """One option for each unit with the largest worth whose costs sum to ``capacity`` or less; None
    where none does.

    Dynamic programming over the cost in sum. A state is dropped when even the Lagrangian bound of
    what is left (with the multiplier at which the linear relaxation breaks) does not lead beyond
    the best solution known. A narrow pass that keeps only the most promising states comes first:
    what it finds makes the full one short, or needless.
    """
    if sum(unit.options[0].cost for unit in units) > capacity:
        return None
    relaxed = _relaxed(units, capacity)
    best = Best(relaxed.chosen, sum(option.worth for option in relaxed.chosen), proven=False)
    for width, most in ((NARROW, None), (None, MOST_STATES)):
        best = _pass(units, capacity, relaxed, best, width=width, most=most)
        if best.proven:
            break
    return best


_Way = tuple["Option", "_Way | None"]


def _pass(
    units: Sequence[Unit],
    capacity: int,
    relaxed: _Relaxed,
    best: Best,
    *,
    width: int | None,
    most: int | None,
) -> Best:
    """One sweep over the units, unit by unit. Proven unless states were cut off by ``width`` or
    ``most``."""
    up, down = relaxed.worth_per, relaxed.cost_per
    rest, least = _still_to_come(units, up, down)
    states: list[tuple[int, int, _Way | None]] = [(0, 0, None)]
    cut, seen = False, 0
    for place, unit in enumerate(units):
        grown: dict[int, tuple[int, _Way]] = {}
        room, ahead = capacity - least[place + 1], rest[place + 1]
        for cost, worth, way in states:
            for option in unit.options:
                total, value = cost + option.cost, worth + option.worth
                if (
                    total > room
                    or (value * down + ahead + (capacity - total) * up) // down <= best.worth
                ):
                    continue
                held = grown.get(total)
                if held is None or value > held[0]:
                    grown[total] = (value, (option, way))
        states, top = [], -1
        for total in sorted(grown):
            value, path = grown[total]
            if value > top:
                states.append((total, value, path))
                top = value
        seen += len(states)
        if most is not None and seen > most:
            return best
        if width is not None and len(states) > width:
            cut = True
            states.sort(key=lambda state: state[0] * up - state[1] * down)
            states = sorted(states[:width], key=lambda state: state[0])
    _, worth, way = max(states, key=lambda state: state[1], default=(0, 0, None))
    if worth <= best.worth:
        return replace(best, proven=not cut)
    chosen: list[Option] = []
    while way is not None:
        option, way = way
        chosen.append(option)
    reached = worth >= (rest[0] + capacity * up) // down
    return Best(chosen[::-1], worth, proven=reached or not cut)


def _still_to_come(units: Sequence[Unit], up: int, down: int) -> tuple[list[int], list[int]]:
    """From each unit on: the most that the rest can add to the bound, and the least that it can
    cost."""
    rest, least = [0] * (len(units) + 1), [0] * (len(units) + 1)
    for place in range(len(units) - 1, -1, -1):
        options = units[place].options
        rest[place] = rest[place + 1] + max(
            option.worth * down - option.cost * up for option in options
        )
        least[place] = least[place + 1] + min(option.cost for option in options)
    return rest, least


@dataclass(frozen=True, slots=True)
class _Relaxed:
    """A good choice, and worth over cost at the point where the linear relaxation runs out of
    room."""

    chosen: list[Option]
    worth_per: int
    cost_per: int


def _relaxed(units: Sequence[Unit], capacity: int) -> _Relaxed:
    """Take the steps up in order of worth per cost; the first that does not fit gives the
    multiplier."""
    steps = []
    for place, unit in enumerate(units):
        hull = _hull(unit.options)
        for low, high in itertools.pairwise(hull):
            steps.append(
                ((high.worth - low.worth) / max(high.cost - low.cost, 0.5), place, low, high)
            )
    steps.sort(key=lambda step: -step[0])
    at = [_hull(unit.options)[0] for unit in units]
    left = capacity - sum(option.cost for option in at)
    multiplier: tuple[int, int] | None = None
    for _, place, low, high in steps:
        if at[place] is not low:
            continue
        if high.cost - low.cost <= left:
            at[place] = high
            left -= high.cost - low.cost
        elif multiplier is None:
            multiplier = (high.worth - low.worth, high.cost - low.cost)
    up, down = multiplier or (0, 1)
    return _Relaxed(at, up, down)


def _hull(options: Sequence[Option]) -> list[Option]:
    """The options that the linear relaxation can stop at: cheapest first, each step of less worth
    per cost."""
    ordered = sorted(options, key=lambda option: (option.cost, -option.worth))
    hull: list[Option] = []
    for option in ordered:
        if hull and option.worth <= hull[-1].worth:
            continue
        while len(hull) > 1:
            a, b = hull[-2], hull[-1]
            if (b.worth - a.worth) * (option.cost - b.cost) <= (option.worth - b.worth) * (
                b.cost - a.cost
            ):
                hull.pop()
            else:
                break
        hull.append(option)
    return hull
