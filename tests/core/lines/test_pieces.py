"""Pieces for cable runs against a brute force that gives every cable run every set of pieces."""

from __future__ import annotations

from collections import Counter
from itertools import product

from hypothesis import given
from hypothesis import strategies as st

from fence.core.lines.pieces import make_up
from tests.examples import examples


def brute(runs: list[int], stock: dict[int, int]) -> tuple[int, int, int]:
    """The least (rented, joints, surplus) over all ways to hand out the store."""
    lengths = list(stock)
    ways = {}
    for run in set(runs):
        ways[run] = [
            taken
            for taken in product(*(range(count + 1) for count in stock.values()))
            if sum(taken) <= 8
            and sum(n * length for n, length in zip(taken, lengths, strict=True)) >= run
        ]
    best: dict[tuple[int, ...], tuple[int, int, int]] = {tuple(stock.values()): (0, 0, 0)}
    for run in runs:
        grown: dict[tuple[int, ...], tuple[int, int, int]] = {}
        for left, (rented, joints, surplus) in best.items():
            found = [(left, (rented + 1, joints, surplus))]
            for taken in ways[run]:
                rest = tuple(k - n for k, n in zip(left, taken, strict=True))
                if min(rest) >= 0:
                    over = sum(n * length for n, length in zip(taken, lengths, strict=True)) - run
                    found.append((rest, (rented, joints + sum(taken) - 1, surplus + over)))
            for rest, cost in found:
                if rest not in grown or cost < grown[rest]:
                    grown[rest] = cost
        best = grown
    return min(best.values())


@examples(150)
@given(
    st.lists(st.integers(1, 24), min_size=1, max_size=6),
    st.dictionaries(st.integers(1, 12), st.integers(0, 3), min_size=1, max_size=4),
)
def test_small_stores_are_handed_out_in_the_best_way(
    runs: list[int], stock: dict[int, int]
) -> None:
    """Few cable runs, few lengths: as few rented, joints and metres over as in the best of all
    ways; no piece twice."""
    found = make_up(
        [float(run) for run in runs], {float(length): count for length, count in stock.items()}
    )
    used = Counter(piece for run in found.runs if not run.rented for piece in run.pieces)
    assert all(used[float(length)] <= count for length, count in stock.items())
    for run, made in zip(runs, found.runs, strict=True):
        assert sum(made.pieces) >= run
        assert made.surplus == (0 if made.rented else sum(made.pieces) - run)
    best = brute(runs, stock)
    assert (found.rented, found.joints, found.surplus) >= best
    if found.proven:
        assert (found.rented, found.joints, found.surplus) == best


def test_what_the_store_has_is_not_rented() -> None:
    """Long cable runs out of one long piece and many short ones."""
    for run, stock, pieces in (
        (75, {25: 1, 10: 10}, (25, 10, 10, 10, 10, 10)),
        (95, {50: 1, 10: 10}, (50, 10, 10, 10, 10, 10)),
        (150, {50: 1, 20: 10}, (50, 20, 20, 20, 20, 20)),
        (100, {100: 0, 20: 3, 10: 8}, (20, 20, 20, 10, 10, 10, 10)),
    ):
        found = make_up([run], stock)
        assert (found.rented, found.runs[0].pieces, found.proven) == (0, pieces, True)
    most = make_up([80], {10: 9})
    assert (most.rented, len(most.runs[0].pieces), most.proven) == (0, 8, True)
    assert make_up([81], {10: 9}).rented == 1  # nine pieces are more than are joined


def test_a_store_with_enough_is_proven() -> None:
    """Each cable run takes what is nearest above it; what no piece reaches is joined; half metres
    count."""
    found = make_up([9, 4.5, 32], {5: 4, 10: 4, 25: 2, 7.5: 1})
    assert [made.pieces for made in found.runs] == [(10,), (5,), (25, 7.5)]
    assert (found.rented, found.joints, found.surplus, found.proven) == (0, 1, 2.0, True)
    empty = make_up([3], {})
    assert (empty.runs[0].rented, empty.runs[0].pieces) == (True, (3.0,))
    assert make_up([0], {5: 1}).runs[0].pieces == ()
