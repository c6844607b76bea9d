"""A frame for 20,000 fixtures of the practice rig (100 ms allowed), all of its levels random and
new each time.

The yardstick in the same run is the reckoning fixture by fixture, for a hundredth of them. The
collector of garbage runs as seldom as in the process that does this: nothing here makes circles.
"""

from __future__ import annotations

import gc
from dataclasses import replace
from random import Random
from statistics import median
from time import perf_counter

from fence.core.model.show import Show
from fence.core.simulation.practice import PracticeRig, seen_of
from fence.demo import clean_show
from fence.standins.rig import SELDOM

FIXTURES, TIMES, SHARE = 20_000, 12, 100


def large() -> Show:
    """The demo rig, so often."""
    show = clean_show()
    fixtures = []
    for number in range(FIXTURES):
        one, copy = show.fixtures[number % len(show.fixtures)], number // len(show.fixtures)
        patch = tuple(
            replace(e, universe=e.universe + 10 * copy) if e.universe else e for e in one.patch
        )
        fixtures.append(replace(one, id=number + 1, label=f"F {number}", patch=patch))
    return replace(show, fixtures=tuple(fixtures), lines=(), boxes=(), next_id=FIXTURES + 1)


def main() -> None:
    """Print the figures."""
    gc.set_threshold(*SELDOM)
    show, random = large(), Random(1)
    rig = PracticeRig(show)
    universes = sorted({f.universe for f in show.fixtures if f.universe})
    spent = []
    for turn in range(TIMES + 1):
        frames = {u: random.randbytes(512) for u in universes}
        begin = perf_counter()
        rig.seen(frames)
        if turn:
            spent.append(1000 * (perf_counter() - begin))
    begin = perf_counter()
    for fixture in show.fixtures[::SHARE]:
        mode = show.mode_of(fixture)
        if mode is not None and fixture.start and fixture.universe:
            seen_of(
                mode,
                frames[fixture.universe][fixture.start - 1 :][: mode.footprint].ljust(
                    mode.footprint, b"\0"
                ),
            )
    singly = 1000 * (perf_counter() - begin) * SHARE
    print(
        f"a frame for {FIXTURES:,} fixtures: median {median(spent):.0f} ms, worst "
        f"{max(spent):.0f} ms (100 allowed)"
    )
    print(
        f"fixture by fixture it would be {singly:.0f} ms, {singly / median(spent):.0f} times as "
        "long"
    )


if __name__ == "__main__":
    main()
