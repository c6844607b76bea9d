"""Pieces for cable runs: how often the search finds what a constraint solver proves the best, and
how much sooner.

100 random stocks of 8 lengths and 60 cable runs each. The solver, a package of the benches only, is
asked in two ways: in plain words (how many of each length a cable run takes), as one would write it
down, with 20 s; and helped, with every choice of a cable run as a variable, which it can prove.
Both look at fewest rented, then joints, then surplus, one after the other."""

from __future__ import annotations

import random
from collections import Counter
from itertools import combinations_with_replacement
from statistics import median
from time import perf_counter
from typing import Any

from ortools.sat.python import cp_model

from fence.core.lines.pieces import make_up

STOCKS, LENGTHS, RUNS = 100, 8, 60
PLAIN = 5
"""So many stocks are asked about in plain words: the solver takes all its time for each."""
SECONDS = 20
MADE = [1, 2, 3, 5, 7.5, 10, 12.5, 15, 20, 25, 30, 40, 50]
"""Metres that cables are made in."""


def random_stock(seed: int) -> tuple[list[float], dict[float, int]]:
    """Cable runs in whole metres, and a stock of 1.3 to 4 times their length in all, the lengths
    unevenly filled."""
    chance = random.Random(seed)
    lengths = chance.sample(MADE, LENGTHS)
    spans = ((2, 12), (5, 30), (10, 70))
    runs = [float(chance.randint(*chance.choice(spans))) for _ in range(RUNS)]
    metres = chance.uniform(1.3, 4) * sum(runs)
    weights = [chance.random() + 0.1 for _ in lengths]
    stock = {
        float(m): round(metres * w / sum(weights) / m)
        for m, w in zip(lengths, weights, strict=True)
    }
    return runs, {length: count for length, count in stock.items() if count}


def solved(model: cp_model.CpModel, goals: list[Any]) -> tuple[list[int], bool]:
    """The least of each goal, those before it held; and whether all are proven."""
    values, proven = [], True
    for goal in goals:
        model.minimize(goal)
        solver = cp_model.CpSolver()
        solver.parameters.max_time_in_seconds = SECONDS / len(goals)
        proven &= solver.solve(model) == cp_model.OPTIMAL
        values.append(round(solver.objective_value))
        model.add(goal <= values[-1])
    return values, proven


def helped(runs: list[float], stock: dict[float, int]) -> tuple[list[int], bool]:
    """With every set of up to three pieces more than the fewest as a variable for each length of
    cable run."""
    model = cp_model.CpModel()
    lengths = sorted(round(length * 100) for length in stock)
    used: dict[int, list[Any]] = {length: [] for length in lengths}
    rented, joints, surplus = [], [], []
    for want, number in Counter(round(run * 100) for run in runs).items():
        takes = [model.new_int_var(0, number, "")]
        rented.append(takes[0])
        fewest = -(-want // lengths[-1])
        for size in range(fewest, fewest + 3):
            for pieces in combinations_with_replacement(lengths, size):
                if sum(pieces) >= want > sum(pieces) - pieces[0]:
                    takes.append(model.new_int_var(0, number, ""))
                    joints.append(takes[-1] * (size - 1))
                    surplus.append(takes[-1] * (sum(pieces) - want))
                    for length, times in Counter(pieces).items():
                        used[length].append(takes[-1] * times)
        model.add(sum(takes) == number)
    for length, count in stock.items():
        model.add(sum(used[round(length * 100)]) <= count)
    return solved(model, [sum(rented), sum(joints), sum(surplus)])


def plain(runs: list[float], stock: dict[float, int]) -> tuple[list[int], bool]:
    """With the number of each length that each cable run takes as variables."""
    model = cp_model.CpModel()
    takes, rented = [], []
    for run in runs:
        rented.append(model.new_bool_var(""))
        takes.append([model.new_int_var(0, count, "") for count in stock.values()])
        reach = sum(
            take * round(length * 100) for take, length in zip(takes[-1], stock, strict=True)
        )
        model.add(reach >= round(run * 100)).only_enforce_if(rented[-1].negated())
    for at, count in enumerate(stock.values()):
        model.add(sum(row[at] for row in takes) <= count)
    pieces = sum(take for row in takes for take in row)
    metres = sum(
        take * round(length * 100) for row in takes for take, length in zip(row, stock, strict=True)
    )
    return solved(model, [sum(rented), pieces, metres])


def main() -> None:
    """Print the figures."""
    equal = worse = unproven = 0
    ours, ratios, plainly = [], [], []
    for seed in range(STOCKS):
        runs, stock = random_stock(seed)
        start = perf_counter()
        found = make_up(runs, stock)
        ours.append(perf_counter() - start)
        start = perf_counter()
        best, proven = helped(runs, stock)
        ratios.append((perf_counter() - start) / ours[-1])
        mine = [found.rented, found.joints, round(found.surplus * 100)]
        equal += mine <= best
        unproven += not proven
        worse += mine[0] > best[0] or (mine[0] == best[0] and mine[1] > best[1] + 1)
        if mine > best:
            print(f"  stock {seed}: rented, joints, cm over {mine} against {best}", flush=True)
        if seed < PLAIN:
            start = perf_counter()
            plain(runs, stock)
            plainly.append((perf_counter() - start) / ours[-1])
    print(
        f"{STOCKS} stocks of {LENGTHS} lengths, {RUNS} cable runs: {equal} as good as the solver's "
        f"({unproven} not proven), "
        f"{worse} more than a joint worse; {median(ours) * 1000:.0f} ms in the median, the helped "
        "solver "
        f"{median(ratios):.1f} times that, in plain words (stopped at {SECONDS} s) "
        f"{median(plainly):.0f} times"
    )


if __name__ == "__main__":
    main()
