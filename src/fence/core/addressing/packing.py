"""Do these runs fit into these gaps? Packing of lengths into bins, with an honest answer about
being sure.

First a quick try, longest first into the tightest gap that holds it; then each gap filled as fully
as sums allow; then a search through all ways, up to a budget. ``None`` that is certain is a proof
that no way exists.
"""

from __future__ import annotations

from bisect import bisect_left, insort
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

SEARCH_BUDGET = 20_000
"""Steps that the search may take before it gives up unsure, for up to 40 lengths; the more lengths,
the fewer."""

DEEPEST = 900
"""Lengths from which on nothing is searched: the search is as deep as there are lengths."""


@dataclass(frozen=True, slots=True)
class Packing:
    """``bins[i]`` is the bin of length ``i``; None where no packing was found. ``certain`` when
    that is proven."""

    bins: tuple[int, ...] | None
    certain: bool = True


def pack(
    lengths: Sequence[int], capacities: Sequence[int], *, budget: int = SEARCH_BUDGET
) -> Packing:
    """Put every length (1 or more) into a bin whose capacity holds all that is put into it."""
    order = sorted(range(len(lengths)), key=lambda place: -lengths[place])
    if sum(lengths) > sum(capacities) or (order and lengths[order[0]] > max(capacities, default=0)):
        return Packing(None)
    wanted = [lengths[place] for place in order]
    found = _tightest_first(wanted, capacities) or _fullest_first(wanted, capacities)
    certain = True
    if found is None:
        found, certain = _search(wanted, capacities, budget * 40 // max(40, len(wanted)))
    if found is None:
        return Packing(None, certain)
    bins = [0] * len(lengths)
    for place, chosen in zip(order, found, strict=True):
        bins[place] = chosen
    return Packing(tuple(bins))


def packs_quickly(lengths: Counter[int], capacities: Sequence[int]) -> bool:
    """Whether a quick try packs so many of each length. A no is no proof, but it comes fast for
    tens of thousands."""
    if lengths.total() and max(lengths) > max(capacities, default=0):
        return False
    if sum(length * count for length, count in lengths.items()) > sum(capacities):
        return False
    return (
        _tightest_counts(lengths, capacities) is not None
        or _filled(lengths, capacities) is not None
    )


def _tightest_first(lengths: Sequence[int], capacities: Sequence[int]) -> list[int] | None:
    """Longest first, each into the bin with the least room that still holds it. ``lengths`` come
    longest first."""
    counts = _tightest_counts(Counter(lengths), capacities)
    if counts is None:
        return None
    return [place for placed in counts for place, times in placed for _ in range(times)]


def _tightest_counts(
    lengths: Counter[int], capacities: Sequence[int]
) -> list[list[tuple[int, int]]] | None:
    """For each length, longest first, the bins that take it and how many each; None where they do
    not all fit.

    Of equal lengths the first goes into the bin with the least room; what is left of that is the
    tightest again, so such a bin is filled at once.
    """
    room = sorted((capacity, place) for place, capacity in enumerate(capacities))
    chosen = []
    for length in sorted(lengths, reverse=True):
        placed, left_over = [], lengths[length]
        while left_over:
            at = bisect_left(room, (length, -1))
            if at == len(room):
                return None
            left, place = room.pop(at)
            times = min(left_over, left // length)
            left_over -= times
            placed.append((place, times))
            insort(room, (left - times * length, place))
        chosen.append(placed)
    return chosen


def _fullest_first(lengths: Sequence[int], capacities: Sequence[int]) -> list[int] | None:
    """Bin by bin, the smallest first: the set of remaining lengths that fills it most, by sums as
    bits."""
    filled = _filled(Counter(lengths), capacities)
    return None if filled is None else [filled[length].pop() for length in lengths]


def _filled(lengths: Counter[int], capacities: Sequence[int]) -> dict[int, list[int]] | None:
    """The bins that take each length, one entry a run; None where they do not all fit."""
    remaining = Counter(lengths)
    filled: dict[int, list[int]] = {}
    for place in sorted(range(len(capacities)), key=lambda place: capacities[place]):
        picked = _best_sum(remaining, capacities[place])
        for length in picked:
            remaining[length] -= 1
            if not remaining[length]:
                del remaining[length]
        for length in picked:
            filled.setdefault(length, []).append(place)
    return None if remaining else filled


def _best_sum(lengths: Counter[int], capacity: int) -> list[int]:
    """A choice of lengths with the largest sum up to ``capacity``; long ones are preferred."""
    mask = (1 << (capacity + 1)) - 1
    layers = [1]
    items = [
        length
        for length in sorted(lengths)
        for _ in range(min(lengths[length], capacity // length))
    ]
    for length in items:
        layers.append(layers[-1] | layers[-1] << length & mask)
    total, picked = layers[-1].bit_length() - 1, []
    for place in range(len(items), 0, -1):
        length = items[place - 1]
        if total >= length and layers[place - 1] >> (total - length) & 1:
            picked.append(length)
            total -= length
    return picked


def _search(
    lengths: Sequence[int], capacities: Sequence[int], budget: int
) -> tuple[list[int] | None, bool]:
    """Try all ways, longest first; bins of equal room are tried once, equal lengths in one
    order."""
    room = list(capacities)
    chosen: list[int] = []
    spare = sum(capacities) - sum(lengths)
    steps = 0

    def put(place: int) -> bool | None:
        """True when packed, False when impossible from here, None when the budget is gone."""
        nonlocal steps
        if place == len(lengths):
            return True
        steps += 1
        if steps > budget:
            return None
        length, shortest = lengths[place], lengths[-1]
        if sum(left for left in room if left < shortest) > spare:
            return False
        first = chosen[-1] if place and lengths[place - 1] == length else 0
        tried = set()
        for at in range(first, len(room)):
            left = room[at]
            if left < length or left in tried:
                continue
            tried.add(left)
            room[at] = left - length
            chosen.append(at)
            found = put(place + 1)
            if found is not False:
                return found
            chosen.pop()
            room[at] = left
        return False

    found = put(0) if len(lengths) < DEEPEST else None
    return (chosen if found else None), found is not None
