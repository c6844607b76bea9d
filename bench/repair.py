"""How good and how fast the repair is: against a constraint solver that finds the true least number
of moves.

200 random rigs of 40 to 120 fixtures in 1 to 4 universes. Half of them may open a universe, half
must make do with what they have, some of those nearly full. The solver proves its optimum; rigs
that it cannot settle in time are left out and counted. It needs the packages of
requirements-bench.lock.
"""

from __future__ import annotations

import random
import sys
from dataclasses import dataclass
from statistics import median
from time import perf_counter

from ortools.sat.python import cp_model

from fence.core.addressing.repair import RepairOptions, repair_rig
from fence.core.model.address import SLOTS
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show, Universe
from rigs import clashing_rig

RIGS = 200
SECONDS = 20.0
WIDTHS = (1, 3, 4, 5, 6, 8, 10, 12, 16, 20, 26, 36)


@dataclass(frozen=True)
class Case:
    """A rig and whether a further universe may be opened."""

    show: Show
    open_more: bool


def case(seed: int) -> Case:
    """A rig that was once clean: fixtures with gaps between them, some of which grew or were
    moved."""
    chance = random.Random(seed)
    universes, count = chance.randint(1, 4), chance.randint(40, 120)
    open_more = seed % 2 == 0
    fill = chance.choice([0.5, 0.7, 0.85, 0.93, 0.98])
    widths = chance.sample(WIDTHS, 5)
    rows: list[tuple[int, int, int]] = []
    for universe in range(1, universes + 1):
        slot, room = 1, int(SLOTS * fill)
        while len(rows) < count * universe // universes:
            width = chance.choice(widths)
            if room < width or slot + width > SLOTS + 1:
                break
            rows.append((universe, slot, width))
            room -= width
            slot += width + (chance.randint(0, 8) if chance.random() < (1 - fill) * 2 else 0)
    free = universes * SLOTS - sum(width for _, _, width in rows)
    fixtures, profiles = [], {}
    for place, (universe, slot, width) in enumerate(rows, 1):
        luck = chance.random()
        start, size = slot, width
        if luck < 0.04:
            start = chance.randint(1, SLOTS)
        elif luck < 0.08 and open_more:
            size = chance.choice(widths)
        elif luck < 0.12:
            longer = width + chance.randint(1, 6)
            if free >= longer - width:
                free -= longer - width
                size = longer
        profiles[size] = Profile(f"p{size}", "Trowel", f"T{size}", (Mode("m", (Part(size),)),))
        pinned = start == slot and size == width and chance.random() < 0.03
        fixtures.append(
            Fixture(
                place, f"F{place}", f"p{size}", "m", patch=(Patch(universe, start),), pinned=pinned
            )
        )
    numbers = tuple(Universe(number) for number in range(1, universes + 1))
    return Case(
        Show(
            "Bench", tuple(fixtures), tuple(profiles.values()), numbers, next_id=len(fixtures) + 1
        ),
        open_more,
    )


def solve(found: Case) -> tuple[int | None, str, float]:
    """The least number of moves by the solver; None where there is no repair or the time was up."""
    show = found.show
    begin = perf_counter()
    universes = len(show.universes) + found.open_more
    model = cp_model.CpModel()
    intervals, kept = [], []
    for fixture in show.fixtures:
        length = show.footprints_of(fixture)[0]
        home = (fixture.universe - 1) * SLOTS + fixture.start - 1
        starts = cp_model.Domain.from_intervals(
            [(u * SLOTS, u * SLOTS + SLOTS - length) for u in range(universes)]
        )
        start = model.new_int_var_from_domain(starts, f"s{fixture.id}")
        intervals.append(model.new_fixed_size_interval_var(start, length, f"i{fixture.id}"))
        if fixture.pinned:
            model.add(start == home)
            continue
        stays = model.new_bool_var(f"k{fixture.id}")
        if fixture.start + length - 1 <= SLOTS:
            model.add(start == home).only_enforce_if(stays)
        else:
            model.add(stays == 0)
        kept.append(stays)
    model.add_no_overlap(intervals)
    model.maximize(sum(kept))
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = SECONDS
    solver.parameters.num_workers = 2
    status = solver.solve(model)
    spent = perf_counter() - begin
    if status == cp_model.OPTIMAL:
        return len(kept) - round(solver.objective_value), "optimal", spent
    return None, "impossible" if status == cp_model.INFEASIBLE else "time was up", spent


def main() -> int:
    """Print the four figures; exit 1 where one of them is missed."""
    wanted = int(sys.argv[1]) if len(sys.argv) > 1 else RIGS
    same = worse = compared = proven = wrongly = lost = 0
    ratios, left_out, beaten = [], [], []
    for seed in range(wanted):
        found = case(seed)
        begin = perf_counter()
        repair = repair_rig(found.show, RepairOptions(new_universes=found.open_more))
        spent = perf_counter() - begin
        best, status, solver_spent = solve(found)
        if best is None:
            left_out.append(status)
            wrongly += repair.proven and status == "impossible"
            continue
        compared += 1
        ratios.append(solver_spent / spent)
        proven += repair.proven
        moves = len(repair.moves) + len(repair.unplaced)
        lost += bool(repair.unplaced)
        same += moves == best and not repair.unplaced
        if moves != best or repair.unplaced:
            beaten.append((seed, best, len(repair.moves), len(repair.unplaced), round(spent, 2)))
        worse += moves > best + 1 or bool(repair.unplaced)
        wrongly += repair.proven and moves != best
    print(
        f"{compared} rigs compared, {len(left_out)} left out "
        f"({', '.join(sorted(set(left_out))) or 'none'})"
    )
    print(f"same number of moves: {same} of {compared}, {100 * same / compared:.1f} % (99 wanted)")
    print(f"more than one worse, or a fixture without a place: {worse} (0 wanted)")
    print(f"proven: {proven}, wrongly: {wrongly} (0 wanted)")
    print(f"faster than the solver: {median(ratios):.0f} times in the median (50 wanted)")
    for entry in beaten:
        print(
            "  not the same: rig {}, solver {}, here {} moves and {} without a place, {} s".format(
                *entry
            )
        )
    large = clashing_rig(5000, 120, share=0.06)
    begin = perf_counter()
    repair = repair_rig(large)
    print(
        f"5,000 fixtures, 120 universes, {len(repair.moves)} moves: {perf_counter() - begin:.2f} "
        "s (1 allowed)"
    )
    return (
        0 if same >= 0.99 * compared and not worse and not wrongly and median(ratios) >= 50 else 1
    )


if __name__ == "__main__":
    sys.exit(main())
