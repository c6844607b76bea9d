"""How fast the rules are: against sorting the same runs, and against comparing every pair.

Every figure is a ratio taken in this one run. The rules may take four times what ``sorted`` takes
on the same (universe, start, end) tuples, plus the time to write the findings.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import combinations
from time import perf_counter

from fence.core.checks import Finding, check
from fence.core.model.show import Show
from rigs import clashing_rig


def best_of(times: int, work: Callable[[], object]) -> float:
    """The shortest of several runs, in seconds."""
    shortest = float("inf")
    for _ in range(times):
        start = perf_counter()
        work()
        shortest = min(shortest, perf_counter() - start)
    return shortest


def runs_of(show: Show) -> list[tuple[int, int, int]]:
    return [
        (placed.run.universe, placed.run.first, placed.run.last)
        for fixture in show.fixtures
        for placed in show.runs_of(fixture)
    ]


def clean(show: Show) -> Show:
    """The same show without the fixtures that clash, so that no finding is written."""
    bad = {fixture_id for finding in check(show) for fixture_id in finding.fixtures}
    return Show(
        show.name,
        tuple(f for f in show.fixtures if f.id not in bad),
        show.profiles,
        next_id=show.next_id,
    )


def pairwise(runs: list[tuple[int, int, int]]) -> list[Finding]:
    return [
        Finding("overlap", None, "", (), a[0], max(a[1], b[1]), min(a[2], b[2]))  # type: ignore[arg-type]
        for a, b in combinations(runs, 2)
        if a[0] == b[0] and a[1] <= b[2] and b[1] <= a[2]
    ]


def fresh(show: Show) -> Show:
    """The same show with nothing remembered."""
    return Show(show.name, show.fixtures, show.profiles, show.universes, next_id=show.next_id)


def main() -> None:
    show = clashing_rig(20_000, 400)
    runs = runs_of(show)
    findings = list(check(show))
    base = best_of(7, lambda: sorted(runs))
    whole = best_of(7, lambda: list(check(fresh(show))))
    without = clean(show)
    per_fixture = best_of(7, lambda: list(check(fresh(without)))) / len(without.fixtures)
    writing = max(0.0, whole - per_fixture * len(show.fixtures))
    print(f"20,000 fixtures, 400 universes, {len(findings)} findings")
    print(
        f"  sorted {base * 1000:.1f} ms, rules {whole * 1000:.1f} ms, of that writing "
        f"{writing * 1000:.1f} ms"
    )
    print(f"  ratio without writing: {(whole - writing) / base:.2f} (at most 4)")
    small = clashing_rig(2_000, 40)
    small_runs = runs_of(small)
    naive = best_of(2, lambda: pairwise(small_runs))
    swept = best_of(7, lambda: list(check(fresh(small))))
    print(
        f"2,000 fixtures: comparing every pair takes {naive / swept:.0f} times as long as the sweep"
    )


if __name__ == "__main__":
    main()
